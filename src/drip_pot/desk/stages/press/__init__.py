"""Press: plates, traps and the register. Knows no other stage."""
