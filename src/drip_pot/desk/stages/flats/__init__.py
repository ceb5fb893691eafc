"""Flats: regions and what is poured into them. Knows no other stage."""
