# SPDX-License-Identifier: GPL-3.0-or-later
"""The cover: Wren large before the great kite, in a brush line that lifts and often does not close."""

import math

from drip_pot.demo.cast import bram_back, chimney, cloud, house, kite, kite_tail, wren_face
from drip_pot.demo.folk import cat, ivy
from drip_pot.demo.pen import Frame, Pen


def draw_cover(pen: Pen) -> None:
    """Draw the cover; lifts of the brush are recorded as gaps."""
    edge = [(24, 24), (976, 24), (976, 1494), (24, 1494)]
    pen.begin_panel(edge, "Air")
    pen.frame = Frame()
    for k in range(14):
        angle = math.pi * (0.5 + k) / 14
        a = (500 + 1300 * math.cos(angle), 900 - 1300 * math.sin(angle))
        b = (500 + 1300 * math.cos(angle + 0.1), 900 - 1300 * math.sin(angle + 0.1))
        pen.use("Sun")
        pen.shape([(500, 900), a, b], 1.4, smooth=False)
    pen.use("Hill")
    pen.shape([(0, 812), (250, 770), (520, 806), (780, 764), (1000, 800), (1000, 1520), (0, 1520)], 2.0)
    pen.use("Leaf")
    pen.shape([(0, 1010), (200, 968), (460, 1004), (720, 962), (1000, 990), (1000, 1520), (0, 1520)], 2.0)
    for k in range(11):
        eave = 1040 + 14 * math.sin(2.3 * k)
        house(pen, 10 + 92 * k, eave, 84, 260, 44, depth=0.85, windows=2)
        for row, place in ((0, 0.3), (1, 0.62), (2, 0.3)):  # lower windows, not the same in every house
            if (k + row) % 3:
                _window(pen, 10 + 92 * k + 84 * place, eave + 92 + 38 * row, 13)
    pen.weight = 1.55
    pen.brush = 5
    for x, y, s in ((180, 250, 1.5), (820, 420, 1.4), (150, 640, 1.2), (860, 760, 1.0)):
        cloud(pen, Frame(x, y, s), 2.2)
    pen.brush = 0
    pen.frame = Frame()
    pen.stroke([(822, 962), (756, 800), (650, 600), (560, 470)], 2.6, taper=(1, 0.6), sheet="contour")  # behind the kite
    pen.brush = 6
    kite(pen, Frame(520, 420, 7.4, -14))
    pen.brush = 0
    kite_tail(pen, [(610, 778), (672, 826), (640, 892), (712, 950), (676, 1016), (730, 1076)], 5)
    for k, (x, wide) in enumerate(((20, 150), (160, 130), (760, 140), (880, 120))):
        house(pen, x, 1250 + 18 * (k % 2), wide, 300, 80, depth=0.5, windows=2)
    pen.brush = 4
    pen.frame = Frame()
    pen.use("Tile")
    pen.shape([(0, 1520), (120, 1392), (880, 1392), (1000, 1520)], 4.4, smooth=False)
    pen.use("Brick", 5)
    pen.shape([(96, 1372), (904, 1372), (910, 1396), (90, 1396)], 3.6, smooth=False)
    for row in range(4):
        for k in range(15):
            x, y = 110 + 56 * k - 14 * row + (26 if row % 2 else 0), 1416 + 26 * row
            pen.stroke([(x, y - 8), (x + 4, y + 6), (x + 26, y + 10), (x + 46, y + 3)], 2.0)
    chimney(pen, 780, 1376, 80, 130)
    pen.frame = Frame()
    # the arm that holds the string, across the corner
    pen.use("Coat", 26)
    pen.shape([(540, 1520, 1), (640, 1330), (720, 1160), (770, 1050, 1), (838, 1078, 1), (836, 1190), (800, 1360), (740, 1520, 1)], 5.0)
    pen.use("Cuff", 8)
    pen.shape([(760, 1060, 1), (776, 1020, 1), (856, 1052, 1), (844, 1092, 1)], 4.2)
    pen.brush = 3
    _fist(pen, 812, 1010, 0.8)
    pen.brush = 5
    wren_face(pen, Frame(196, 840, 1.72))
    pen.frame = Frame()
    pen.brush = 0
    bram_back(pen, Frame(120, 1376, 1.35))
    cat(pen, Frame(212, 1374, 1.3))
    ivy(pen, [(960, 1500), (930, 1400), (966, 1300), (940, 1210)], 14, 60, 3)
    pen.end_panel(5.6)


def _window(pen: Pen, x: float, y: float, wide: float) -> None:
    """Draw a small window far away."""
    pen.frame = Frame()
    pen.use("Window", 0)
    pen.shape([(x, y), (x + wide, y), (x + wide, y + 1.35 * wide), (x, y + 1.35 * wide)], 1.2, smooth=False)


def _fist(pen: Pen, x: float, y: float, scale: float) -> None:
    """Draw a fist round the string, seen from the side of the fingers; the wrist is at x, y."""
    pen.frame = Frame(x, y, scale)
    pen.use("Skin", 14)
    pen.shape([(-34, 22, 1), (-44, -26), (-26, -72), (14, -86), (52, -70), (62, -22), (40, 34, 1)], 5.2)
    for k in range(3):
        pen.stroke([(-10 + 21 * k, -68 + 7 * k), (4 + 20 * k, -34 + 6 * k), (-6 + 20 * k, -8 + 5 * k)], 3.4)
    pen.shape([(-28, -2, 1), (-50, -30), (-42, -56), (-18, -52), (2, -14, 1)], 4.2)
    pen.frame = Frame()
