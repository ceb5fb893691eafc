# SPDX-License-Identifier: GPL-3.0-or-later
"""Holds to begin with, by name. Knows the model only."""

from drip_pot.book.values import Hold, HoldColor

PRESETS: dict[str, Hold] = {
    "A darker line": Hold("Darker line"),
    "A warm line, for skin": Hold("Warm line", amount=0.48, chroma=1.5),
    "A lighter line, for distance": Hold(
        "Distance", amount=0.3, chroma=0.8, kinds=("outline", "inner", "stroke", "detail", "string")
    ),
    "One colour": Hold("One colour", how="fixed"),
    "No line, round a glow": Hold("Glow", how="beneath"),
    "Letters and effects": Hold("Letters", how="fixed", color="#7a1f2b", kinds=("letters", "effect")),
    "Strokes picked by hand": Hold("Strokes", kinds=()),
    "Strokes knocked out by hand": Hold("Knocked out", how="beneath", kinds=()),
    "Strokes brushed by hand": Hold("Brushed", brushed=True, how="fixed"),
}
"""By what a person would ask for."""
HOLD_NAMES: dict[HoldColor, str] = {
    "darker": "Darker line",
    "fixed": "One colour",
    "ramp": "Ramp",
    "beneath": "Knocked out",
    "paper": "Knocked out to paper",
}
"""What a hold that nobody named is called, by where its colour comes from."""
FOLLOWING = ("Warm line", "Glow", *HOLD_NAMES.values())
"""Names of holds that follow what they became; others say which strokes they hold."""
