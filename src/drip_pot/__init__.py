"""Drip Pot: flats, duotone shade, colour holds and trapped plates for comic colourists."""

__version__ = "0.1.0"
