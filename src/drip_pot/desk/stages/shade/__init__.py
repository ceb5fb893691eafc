"""Shade: light and shadow over the flats. Knows no other stage."""
