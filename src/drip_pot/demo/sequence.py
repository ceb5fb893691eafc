"""The sequence: four frames of a kite turning in the wind, its markings staying where they are on the cloth."""

import math
from collections.abc import Callable

from drip_pot.demo.cast import cloud, kite, kite_tail
from drip_pot.demo.pen import Frame, Pen

FRAMES = 4
SIDE = 640.0


def draw_frame(number: int) -> Callable[[Pen], None]:
    """Return what draws frame `number` (0..3)."""

    def draw(pen: Pen) -> None:
        turn = -26 + 17 * number
        squash = (1.0, 0.82, 0.58, 0.86)[number]
        pen.weight = 1.3
        pen.begin_panel([(24, 24), (SIDE - 24, 24), (SIDE - 24, SIDE - 24), (24, SIDE - 24)], "Air")
        cloud(pen, Frame(150 - 16 * number, 150, 0.9), 1.7)
        cloud(pen, Frame(520 - 16 * number, 470, 0.8), 1.7)
        middle = (320 + 12 * math.sin(number), 270 - 8 * number)
        kite(pen, Frame(*middle, 4.0, turn, False, squash))
        angle = math.radians(turn)
        foot = (middle[0] - 200 * math.sin(angle), middle[1] + 200 * math.cos(angle))
        sway = 26 * math.sin(1.4 * number)
        kite_tail(pen, [foot, (foot[0] + 24 + sway, foot[1] + 40), (foot[0] - 16 - sway, foot[1] + 76),
                        (foot[0] + 20 + sway, foot[1] + 112)], 3)  # fmt: skip
        pen.frame = Frame()
        pen.stroke([middle, (240, 470), (60, 616)], 1.8, taper=(1, 1), wobble=0.3, sheet="contour")
        pen.end_panel()

    return draw
