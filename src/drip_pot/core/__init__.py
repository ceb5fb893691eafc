# SPDX-License-Identifier: GPL-3.0-or-later
"""Arrays in, arrays out: everything Drip Pot computes. No Qt, no files, no globals, no clock."""
