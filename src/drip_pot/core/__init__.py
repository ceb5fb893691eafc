"""Arrays in, arrays out: everything Drip Pot computes. No Qt, no files, no globals, no clock."""
