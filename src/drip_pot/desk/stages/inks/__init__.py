"""Inks: the line made from the drawing. Knows no other stage."""
