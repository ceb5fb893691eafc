# SPDX-License-Identifier: GPL-3.0-or-later
"""The sequence: twelve frames of a kite turning in the wind, its markings staying where they are on the cloth."""

import math
from collections.abc import Callable

from drip_pot.demo.cast import cloud, kite, kite_tail
from drip_pot.demo.pen import Frame, Pen

FRAMES = 12
SIDE = 640.0


def draw_frame(number: int) -> Callable[[Pen], None]:
    """Return what draws frame `number` (0..11)."""

    def draw(pen: Pen) -> None:
        round_ = 2 * math.pi * number / FRAMES
        turn = -4 + 26 * math.sin(round_)
        squash = 0.8 + 0.2 * math.cos(2 * round_ + 0.5)
        pen.weight = 1.3
        pen.begin_panel([(24, 24), (SIDE - 24, 24), (SIDE - 24, SIDE - 24), (24, SIDE - 24)], "Air")
        cloud(pen, Frame(190 - 7 * number, 150, 0.9), 1.7)
        cloud(pen, Frame(540 - 7 * number, 470, 0.8), 1.7)
        middle = (320 + 14 * math.sin(round_ + 1), 262 - 14 * math.cos(round_))
        kite(pen, Frame(*middle, 4.0, turn, False, squash))
        angle = math.radians(turn)
        foot = (middle[0] - 200 * math.sin(angle), middle[1] + 200 * math.cos(angle))
        sway = 22 * math.sin(2 * round_)
        kite_tail(pen, [foot, (foot[0] + 24 + sway, foot[1] + 40), (foot[0] - 16 - sway, foot[1] + 76),
                        (foot[0] + 20 + sway, foot[1] + 112)], 3)  # fmt: skip
        pen.frame = Frame()
        pen.stroke([middle, (240, 470), (60, 616)], 1.8, taper=(1, 1), wobble=0.3, sheet="contour")
        pen.end_panel()

    return draw
