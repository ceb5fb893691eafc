"""The shelf at the bottom: pots, cards, what is in hand. Knows the session and parts; no stage."""
