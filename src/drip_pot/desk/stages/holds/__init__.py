"""Holds: coloured lines. Knows no other stage."""
