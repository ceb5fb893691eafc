"""The page seen: a snapshot of what is shown, its tiles, the canvas. Knows the session; no single stage."""
