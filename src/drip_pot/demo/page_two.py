# SPDX-License-Identifier: GPL-3.0-or-later
"""Page two: Pim brings a kite to the infirmary. Drawn with its construction lines, for the scan that keeps them."""

import math

from drip_pot.demo.cast import chimney, cloud, house, kite, kite_tail, wren_standing
from drip_pot.demo.folk import Aside, bram_bust, bricks, broken_kite, cat, lamp_post, pim_face, pim_small, ring
from drip_pot.demo.pen import Frame, Pen


def draw_page_two(pen: Pen) -> None:
    """Draw the six panels."""
    _street(pen)
    _tears(pen)
    _hands(pen)
    _workshop(pen)
    _promise(pen)
    _run(pen)


def construction(pen: Pen) -> list[tuple[list[tuple[float, float]], bool]]:
    """Return the blue pencil lines under the drawing: points and whether closed."""
    heads = [(724, 196, 116, 128), (608, 768, 60, 76), (234, 1206, 118, 132), (330, 770, 26, 30)]
    lines: list[tuple[list[tuple[float, float]], bool]] = [(ring(x, y, a, b, 25), True) for x, y, a, b in heads]
    for x, y, a, b in heads:
        lines += [([(x - 1.3 * a, y), (x + 1.3 * a, y)], False), ([(x, y - 1.3 * b), (x, y + 1.3 * b)], False)]
    lines += [([(60, 1000), (500, 560), (940, 1000)], False), ([(40, 700), (960, 690)], False)]
    lines += [([(700, 1440), (790, 1250), (760, 1100)], False), ([(90, 520), (260, 300), (440, 500)], False)]
    return lines


def _street(pen: Pen) -> None:
    """Panel 1: the infirmary from the street, Pim on the way in."""
    pen.begin_panel([(40, 40), (470, 40), (470, 560), (40, 560)], "Dusk")
    cloud(pen, Frame(120, 120, 0.8), 1.6)
    pen.use("Hill")
    pen.shape([(0, 330), (160, 300), (320, 330), (500, 300), (500, 600), (0, 600)], 1.2)
    house(pen, 30, 340, 90, 200, 54, depth=0.9, windows=1)
    house(pen, 400, 330, 110, 240, 60, depth=0.85, windows=1)
    pen.frame = Frame()
    pen.use("Plaster", 16)
    pen.shape([(126, 224), (400, 224), (400, 530), (126, 530)], 3.0, smooth=False, gap=(0.62, 20))
    pen.use("Tile", 14)
    pen.shape([(98, 236), (176, 120), (352, 120), (428, 236)], 3.2, smooth=False, gap=(0.1, 14))
    for row in range(4):
        y = 148 + 24 * row
        for k in range(6):
            x = 182 - 16 * row + (36 + 3 * row) * k + (14 if row % 2 else 0)
            if x < 320 + 17 * row:
                pen.stroke([(x, y - 5), (x + 3, y + 5), (x + 17, y + 8), (x + 30, y + 4)], 1.6)
    chimney(pen, 318, 150, 36, 50)
    bricks(pen, 130, 420, 90, 108, (22, 11), "Brick", 5, every=False)
    pen.frame = Frame()
    for x in (152, 318):
        pen.use("Wood", 2)
        pen.shape([(x, 268), (x + 58, 268), (x + 58, 344), (x, 344)], 2.6, smooth=False)
        pen.use("Glow")
        pen.shape([(x + 6, 274), (x + 26, 274), (x + 26, 338), (x + 6, 338)], 1.8, smooth=False)
        pen.shape([(x + 32, 274), (x + 52, 274), (x + 52, 338), (x + 32, 338)], 1.8, smooth=False)
    pen.use("Wood", 5)
    pen.shape([(234, 530, 1), (234, 400, 1), (264, 372), (294, 400, 1), (294, 530, 1)], 3.0, gap=(0.3, 9))
    pen.stroke([(264, 374), (264, 528)], 1.8, taper=(1, 1))
    pen.use("Brass", 1)
    pen.shape(ring(284, 462, 4, 4, 9), 1.8)
    pen.use("Iron", 1)
    pen.shape([(236, 306), (292, 306), (292, 312), (236, 312)], 2.0, smooth=False)
    kite(pen, Frame(264, 338, 0.62))
    pen.frame = Frame()
    pen.use("Cobble", 3)
    pen.shape([(20, 530), (480, 530), (480, 580), (20, 580)], 2.6, smooth=False)
    pen.use("Stone", 3)
    pen.shape([(222, 520), (306, 520), (312, 536), (216, 536)], 2.6, smooth=False)
    for x, y in ((60, 546), (110, 552), (350, 548), (430, 552), (190, 550)):
        pen.stroke([(x, y), (x + 16, y + 3), (x + 30, y)], 1.5)
    cat(pen, Frame(320, 534, 1.0))
    lamp_post(pen, 92, 548, 190)
    pim_small(pen, Frame(186, 550, 1.75), kite_in_arms=True)
    pen.end_panel()


def _tears(pen: Pen) -> None:
    """Panel 2: Pim's face."""
    pen.begin_panel([(494, 40), (960, 40), (960, 300), (494, 300)], "Band")
    pen.frame = Frame()
    for k in range(9):
        pen.use("Dusk" if k % 2 else "Band")
        pen.shape([(500 + 56 * k, 30), (528 + 56 * k, 30), (498 + 56 * k, 310), (470 + 56 * k, 310)], 1.4, smooth=False)
    pim_face(pen, Aside(574, 54, 0.88, -6, across=-14, down=12))
    pen.end_panel()


def _hands(pen: Pen) -> None:
    """Panel 3: the broken kite held out."""
    pen.begin_panel([(494, 324), (960, 324), (960, 560), (494, 560)], "Flash")
    for k in range(22):
        angle = 2 * math.pi * (k + 0.3 * math.sin(k * 2.1)) / 22
        a = (727 + 190 * math.cos(angle), 440 + 120 * math.sin(angle))
        b = (727 + 340 * math.cos(angle), 440 + 230 * math.sin(angle))
        pen.frame = Frame()
        pen.stroke([b, a], 4.0, taper=(1, 0.02), wobble=0.2, sheet="effect")
    broken_kite(pen, Frame(727, 448, 2.35, -8))
    for side, flip in ((622, False), (832, True)):
        pen.frame = Frame(side, 500, 1.0, 0, flip)
        pen.use("Jersey", 8)
        pen.shape([(-70, 80, 1), (-40, 30), (-16, 10, 1), (14, 36, 1), (-6, 60), (-24, 90, 1)], 3.4)
        pen.use("Stripe", 3)
        pen.shape([(-24, 12, 1), (-10, -2, 1), (24, 30, 1), (12, 44, 1)], 2.8)
        pen.use("Skin", 6)
        pen.shape([(-8, 0, 1), (6, -26), (30, -36), (56, -30), (62, -12), (54, 14), (24, 30, 1)], 3.2)
        for k in range(3):
            pen.stroke([(36 + 6 * k, -30 + 13 * k), (54 + 3 * k, -24 + 13 * k), (60, -16 + 13 * k)], 2.0)
        pen.shape([(14, -22, 1), (34, -44), (46, -42), (40, -24), (24, -8, 1)], 2.6)
    pen.end_panel()


def _workshop(pen: Pen) -> None:
    """Panel 4: inside: kites under the ceiling, Wren up to reach one, Bram behind the bench, Pim before it."""
    pen.begin_panel([(40, 584), (960, 584), (960, 1040), (40, 1040)], "Room")
    pen.frame = Frame()
    for k in range(6):
        pen.use("Wood", 4)
        pen.shape([(30 + 170 * k, 574), (62 + 170 * k, 574), (56 + 165 * k, 616), (28 + 165 * k, 616)], 2.2, smooth=False)
    pen.use("Wood", 4)
    pen.shape([(30, 614), (970, 614), (970, 632), (30, 632)], 2.8, smooth=False, gap=(0.22, 12))
    # window with the town
    pen.shape([(60, 668), (226, 668), (226, 862), (60, 862)], 3.0, smooth=False)
    for x in (70, 148):
        pen.use("Air")
        pen.shape([(x, 678), (x + 68, 678), (x + 68, 852), (x, 852)], 2.0, smooth=False)
        pen.use("Far roof")
        pen.shape([(x + 2, 800), (x + 20, 780), (x + 44, 780), (x + 66, 804), (x + 66, 850), (x + 2, 850)], 1.3, smooth=False)
    # shelves
    for y in (700, 770):
        pen.use("Wood", 3)
        pen.shape([(742, y), (950, y), (950, y + 11), (742, y + 11)], 2.4, smooth=False)
        for k, (w, h) in enumerate(((22, 40), (30, 30), (18, 48), (26, 34), (22, 44), (30, 26))):
            x = 752 + 32 * k
            pen.use("Glass" if (k + y) % 3 else "Saffron", 4)
            pen.shape([(x, y - h, 1), (x + w, y - h, 1), (x + w, y, 1), (x, y, 1)], 2.0)
            pen.use("Brass", 1)
            pen.shape([(x - 1, y - h - 6), (x + w + 1, y - h - 6), (x + w + 1, y - h + 1), (x - 1, y - h + 1)], 1.8, smooth=False)
    # floor
    pen.use("Floor")
    pen.shape([(30, 944), (970, 944), (970, 1050), (30, 1050)], 2.4, smooth=False)
    for k in range(9):
        pen.stroke([(60 + 110 * k, 946), (20 + 118 * k, 1046)], 1.4, taper=(0.8, 1))
    # hanging kites
    for x, y, s, t in ((300, 700, 1.1, 8), (480, 684, 0.9, -14), (668, 700, 1.15, 16)):
        pen.frame = Frame()
        pen.stroke([(x, 632), (x + 1, y - 50 * s)], 1.4, taper=(1, 1))
        kite(pen, Frame(x, y, s, t))
    kite_tail(pen, [(300, 752), (286, 776), (304, 800), (290, 822)], 2)
    _at_the_bench(pen)
    pen.end_panel()


def _at_the_bench(pen: Pen) -> None:
    """Draw the people of the workshop, and the bench with what stands on it."""
    # ladder, Wren
    pen.frame = Frame()
    pen.use("Wood", 2)
    for x in (318, 390):
        pen.shape([(x, 780), (x + 9, 780), (x + 19, 1030), (x + 9, 1030)], 2.2, smooth=False)
    for k in range(5):
        y = 812 + 44 * k
        pen.shape([(322 + 2 * k, y), (400 + 2 * k, y), (400 + 2 * k, y + 8), (322 + 2 * k, y + 8)], 2.0, smooth=False)
    wren_standing(pen, Frame(352, 902, 1.55))
    bram_bust(pen, Aside(531, 676, 0.62, 8, across=-24, down=10))
    # bench before Bram
    pen.frame = Frame()
    pen.use("Wood", 6)
    pen.shape([(430, 884), (970, 884), (970, 916), (430, 916)], 3.4, smooth=False, gap=(0.55, 18))
    pen.shape([(446, 916), (960, 916), (960, 1060), (446, 1060)], 3.0, smooth=False)
    pen.black([(448, 918), (960, 918), (960, 930), (448, 926)], smooth=False)
    for x in (560, 690, 820):
        pen.stroke([(x, 918), (x - 2, 1040)], 1.6, taper=(1, 1))
    pen.use("Straw", 5)
    pen.shape([(740, 884, 1), (740, 858), (764, 850), (788, 858), (788, 884, 1)], 2.4)
    pen.use("Wood", 1)
    pen.shape(ring(764, 852, 28, 8), 2.4)
    pen.use("Brass", 3)
    pen.shape([(850, 884, 1), (842, 836, 1), (900, 836, 1), (892, 884, 1)], 2.4)
    for k in range(4):
        pen.use("Wood" if k % 2 else "Ember", 0.6)
        pen.shape([(850 + 12 * k, 838, 1), (840 + 15 * k, 782, 1), (845 + 15 * k, 780, 1), (856 + 12 * k, 838, 1)], 1.6)
    pen.stroke([(470, 880), (520, 872), (560, 880)], 2.2, taper=(1, 1))
    pim_small(pen, Frame(250, 1034, 2.0), kite_in_arms=True)
    cat(pen, Frame(120, 1036, 1.35))


def _promise(pen: Pen) -> None:
    """Panel 5: Bram looks over his spectacles."""
    pen.begin_panel([(40, 1064), (430, 1064), (430, 1478), (40, 1478)], "Room")
    pen.frame = Frame()
    pen.use("Wood", 4)
    pen.shape([(30, 1170), (440, 1170), (440, 1184), (30, 1184)], 2.4, smooth=False)
    for k, (w, h) in enumerate(((34, 56), (26, 80), (40, 48), (24, 66), (36, 52), (28, 74), (38, 60), (30, 84))):
        x = 48 + 48 * k
        pen.use("Glass" if k % 3 else "Saffron", 5)
        pen.shape([(x, 1170 - h, 1), (x + w, 1170 - h, 1), (x + w, 1170, 1), (x, 1170, 1)], 2.2)
    kite(pen, Frame(372, 1270, 1.1, 16))
    bram_bust(pen, Aside(52, 1104, 1.02, -7, across=26, down=-6))
    pen.end_panel()


def _run(pen: Pen) -> None:
    """Panel 6: the kite flies, Pim runs under it."""
    pen.begin_panel([(454, 1064), (960, 1064), (960, 1478), (454, 1478)], "Air")
    cloud(pen, Frame(560, 1190, 0.9), 1.7)
    cloud(pen, Frame(900, 1290, 0.7), 1.5)
    pen.frame = Frame()
    pen.use("Hill")
    pen.shape([(440, 1370), (600, 1334), (760, 1360), (980, 1320), (980, 1500), (440, 1500)], 1.6)
    house(pen, 820, 1352, 60, 60, 26, depth=0.9, windows=1)
    house(pen, 884, 1346, 70, 60, 30, depth=0.9, windows=1)
    pen.frame = Frame()
    pen.use("Leaf", 5)
    pen.shape([(440, 1450), (560, 1406), (720, 1418), (860, 1448), (980, 1436), (980, 1500), (440, 1500)], 3.0, gap=(0.12, 22))
    for k in range(16):
        x = 470 + 31 * k
        y = 1456 + 9 * math.sin(k * 1.7)
        pen.stroke([(x, y), (x + 3, y - 12), (x + 8, y - 18)], 1.8)
    pim_small(pen, Frame(640, 1424, 2.2), running=True)
    kite(pen, Frame(844, 1160, 1.5, 24))
    kite_tail(pen, [(812, 1226), (826, 1256), (804, 1280), (822, 1304)], 3)
    pen.frame = Frame()
    pen.stroke([(720, 1280), (770, 1240), (838, 1168)], 1.5, taper=(1, 1), wobble=0.3, sheet="contour")
    for x, y in ((480, 1100), (520, 1120), (700, 1096)):
        pen.stroke([(x, y), (x + 34, y + 6), (x + 70, y)], 1.8)
    pen.end_panel()
