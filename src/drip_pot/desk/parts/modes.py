# SPDX-License-Identifier: GPL-3.0-or-later
"""Blend modes as people read and choose them: the names of the standard, in British spelling. Knows widgets."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox

from drip_pot.core.render import MODES
from drip_pot.words import tr

_BRITISH = {"color-dodge": "colour dodge", "color-burn": "colour burn", "color": "colour", "hard-light": "hard light",
            "soft-light": "soft light", "plus-lighter": "plus lighter", "plus-darker": "plus darker",
            "linear-light": "linear light"}  # fmt: skip
_CHARACTERS, _WIDE = 12, 300
_PLAIN = {
    "normal": "covers", "multiply": "darkens, as ink on ink", "screen": "lightens, as light on light",
    "overlay": "more contrast", "darken": "the darker of both", "lighten": "the lighter of both",
    "color-dodge": "burns out, a glow", "color-burn": "deepens", "hard-light": "hard contrast",
    "soft-light": "soft contrast", "difference": "what they differ by", "exclusion": "what they differ by, softly",
    "plus-lighter": "adds light", "plus-darker": "takes light away", "linear-light": "adds or takes light",
    "hue": "its hue alone", "saturation": "its strength of colour alone", "color": "its hue and strength of colour",
    "luminosity": "its lightness alone",
}  # fmt: skip


def mode_word(mode: str) -> str:
    """Return what a blend mode is called."""
    return tr(_BRITISH.get(mode, mode))


class ModeBox(QComboBox):
    """A choice of blend modes by name; while it is open each has a plain word for what it does.

    Signals
    -------
    picked(str)
        The standard's name of the one that was chosen.
    """

    picked = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Blend mode"))
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(_CHARACTERS)
        self.addItems([mode_word(mode) for mode in MODES])
        view = self.view()
        if view is not None:
            view.setMinimumWidth(_WIDE)
        self.activated.connect(lambda place: self.picked.emit(MODES[place]))

    def showPopup(self) -> None:
        for place, mode in enumerate(MODES):
            self.setItemText(place, tr("{0}: {1}", mode_word(mode), tr(_PLAIN[mode])))
        super().showPopup()

    def hidePopup(self) -> None:
        super().hidePopup()
        for place, mode in enumerate(MODES):
            self.setItemText(place, mode_word(mode))

    def show_mode(self, mode: str) -> None:
        """Show a mode."""
        self.setCurrentIndex(MODES.index(mode) if mode in MODES else 0)
