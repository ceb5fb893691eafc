# SPDX-License-Identifier: GPL-3.0-or-later
"""Page one of the Kite Infirmary: a kite tears in the wind, is caught, mended and flown again. Knows the cast."""

import math

import numpy as np

from drip_pot.demo.cast import bram_back, chimney, cloud, house, kite, kite_tail, wren_back, wren_face, wren_standing
from drip_pot.demo.pen import Frame, Pen

_FIGURE = 1.35
"""How much heavier a figure's line is than that of what it stands before."""


def draw_page_one(pen: Pen) -> None:
    """Draw the five panels."""
    _roofs(pen)
    _face(pen)
    _tear(pen)
    _bench(pen)
    _evening(pen)


def _roofs(pen: Pen) -> None:
    """Panel 1: Wren on the ridge, the town below, the great kite pulling away."""
    pen.begin_panel([(40, 40), (960, 40), (960, 640), (40, 640)], "Air")
    cloud(pen, Frame(210, 190, 1.15), 1.7)
    cloud(pen, Frame(560, 120, 0.7), 1.5)
    cloud(pen, Frame(900, 330, 0.95), 1.6)
    for x, y, s in ((446.0, 176.0, 1.0), (482, 160, 0.8), (512, 186, 0.7)):
        pen.frame = Frame(x, y, s)
        pen.stroke([(-14, -5), (-6, -8), (0, 0), (7, -9), (15, -6)], 2.2)
    pen.frame = Frame()
    pen.use("Hill")
    pen.shape([(0, 430), (120, 396), (300, 420), (480, 388), (700, 410), (860, 384), (1000, 410), (1000, 700), (0, 700)], 1.2)
    rng = np.random.default_rng(3)
    for depth, base, size in ((0.95, 440.0, 54.0), (0.7, 482, 84)):
        x = 20.0
        while x < 990:
            wide = size * float(rng.uniform(0.8, 1.4))
            level = base + float(rng.uniform(-14, 14))
            house(pen, x, level, wide, 220, size * float(rng.uniform(0.4, 0.62)), depth=depth, windows=1 if wide < 70 else 2)
            x += wide * float(rng.uniform(0.92, 1.12))
    # church tower with a weathercock
    pen.frame = Frame()
    pen.use("Stone", 12)
    pen.shape([(716, 410), (762, 410), (762, 640), (716, 640)], 2.0, smooth=False)
    pen.use("Slate", 12)
    pen.shape([(708, 412), (739, 314), (770, 412)], 2.0, smooth=False, gap=(0.15, 9))
    pen.use("Plaster")
    pen.shape([(739 + 13 * math.cos(a), 444 + 13 * math.sin(a)) for a in np.linspace(0, 6.283, 11)[:-1]], 1.6)
    pen.stroke([(739, 444), (739, 436)], 1.4, taper=(1, 1))
    pen.stroke([(739, 444), (745, 447)], 1.4, taper=(1, 1))
    pen.stroke([(739, 314), (739, 292)], 2.0, taper=(1, 1))
    pen.black([(729, 292), (736, 286), (744, 284), (750, 276), (752, 286), (746, 293), (738, 295)])
    _near_roofs(pen)
    pen.end_panel()


def _near_roofs(pen: Pen) -> None:
    """Draw the ridge that Wren stands on, smoke, Wren, the string and the kite."""
    # near roofs
    house(pen, 560, 580, 250, 150, 92, depth=0.15, windows=3)
    chimney(pen, 610, 520, 46, 62, gap=True)
    pen.frame = Frame()
    # the ridge Wren stands on
    pen.use("Tile")
    pen.shape([(10, 700), (60, 596), (100, 560), (470, 560), (520, 600), (590, 700)], 3.6, smooth=False, gap=(0.45, 16))
    pen.use("Brick", 4)
    pen.shape([(92, 548), (480, 548), (484, 564), (88, 564)], 3.0, smooth=False)
    for k in range(10):
        pen.stroke([(122 + 38 * k, 549), (119 + 38 * k, 563)], 1.8, taper=(1, 1), wobble=0)
    for row in range(4):
        y = 586 + 19 * row
        for k in range(11):
            x = 92 + 44 * k + (22 if row % 2 else 0) - 8 * row
            if not 104 - 0.8 * (y - 560) < x < 442 + 0.8 * (y - 560):
                continue
            pen.stroke([(x, y - 6), (x + 3, y + 5), (x + 20, y + 8), (x + 37, y + 4)], 1.6)
    chimney(pen, 118, 562, 66, 104)
    # smoke
    pen.frame = Frame()
    pen.use("Smoke", 8)
    pen.shape([(136, 424, 1), (128, 400), (108, 388), (104, 366), (82, 360), (66, 340), (44, 338), (20, 318, 1), (30, 352), (56, 368),
               (70, 386), (90, 396), (104, 416), (116, 426, 1)], 2.0)  # fmt: skip
    pen.weight = _FIGURE
    wren_standing(pen, Frame(330, 548, 2.75))
    pen.weight = 1.0
    # string and kite
    pen.frame = Frame()
    pen.stroke([(398, 292), (470, 262), (590, 246), (724, 226)], 1.6, taper=(1, 1), wobble=0.4)
    pen.stroke([(424, 372), (410, 330), (398, 296)], 1.4, taper=(1, 1), wobble=0.4)
    pen.weight = _FIGURE
    kite(pen, Frame(768, 196, 2.5, -32))
    pen.weight = 1.0
    kite_tail(pen, [(845, 305), (872, 350), (848, 398), (880, 440), (862, 492), (884, 530)], 4)
    for a, b in (((90, 84), (176, 104)), ((590, 176), (636, 180)), ((858, 78), (936, 102)), ((300, 96), (352, 104))):
        pen.frame = Frame()
        pen.stroke([a, ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2 + 6), b], 1.8)


def _face(pen: Pen) -> None:
    """Panel 2: Wren sees it tear."""
    pen.begin_panel([(40, 664), (390, 664), (372, 1040), (40, 1040)], "Air")
    cloud(pen, Frame(90, 770, 0.9), 1.8)
    cloud(pen, Frame(340, 730, 0.7), 1.6)
    pen.weight = _FIGURE
    wren_face(pen, Frame(62, 704, 0.98))
    pen.weight = 1.0
    pen.end_panel()


def _tear(pen: Pen) -> None:
    """Panel 3: the cloth rips, the spar cracks, the string snaps."""
    pen.begin_panel([(414, 664), (960, 664), (960, 1040), (396, 1040)], "Flash")
    pen.frame = Frame()
    for k in range(30):
        angle = 2 * math.pi * (k + 0.35 * math.sin(k * 2.3)) / 30
        near = 215 + 40 * math.sin(k * 5.1)
        cx, cy = 690, 845
        a = (cx + near * math.cos(angle), cy + 0.8 * near * math.sin(angle))
        b = (cx + 460 * math.cos(angle), cy + 0.8 * 460 * math.sin(angle))
        pen.stroke([b, a], 4.4, taper=(1, 0.02), wobble=0.2)
    kite(pen, Frame(690, 838, 3.1, 24), torn=True)
    # rags flying off
    for x, y, s, t in ((560, 960, 1.0, 10), (610, 1000, 0.7, 60), (830, 960, 0.9, -30), (860, 740, 0.7, 80)):
        pen.frame = Frame(x, y, s, t)
        pen.use("Ember" if t > 0 else "Cobalt", 4)
        pen.shape([(-20, -8, 1), (-4, -14), (18, -10, 1), (12, 0, 1), (20, 8, 1), (0, 10), (-16, 14, 1), (-12, 2, 1)], 2.4)
        pen.stroke([(-8, -4), (2, 0), (10, -2)], 1.4)
    # snapped string
    pen.frame = Frame()
    pen.stroke([(700, 800), (640, 760), (600, 770), (560, 720), (530, 740), (520, 706)], 2.2, taper=(1, 0.2))
    pen.stroke([(430, 1010), (470, 970), (462, 940), (494, 926), (500, 900)], 2.2, taper=(1, 0.2))
    pen.end_panel()


def _bench(pen: Pen) -> None:
    """Panel 4: the mending bench."""
    pen.begin_panel([(40, 1064), (420, 1064), (420, 1478), (40, 1478)], "Room")
    pen.frame = Frame()
    # window with a view, shelf
    pen.use("Wood", 4)
    pen.shape([(70, 1084), (230, 1084), (230, 1232), (70, 1232)], 3.0, smooth=False)
    pen.use("Air")
    pen.shape([(82, 1096), (144, 1096), (144, 1220), (82, 1220)], 2.0, smooth=False, gap=(0.55, 8))
    pen.shape([(156, 1096), (218, 1096), (218, 1220), (156, 1220)], 2.0, smooth=False)
    pen.stroke([(82, 1180), (100, 1164), (122, 1178), (144, 1168)], 1.4, taper=(1, 1))
    pen.stroke([(156, 1170), (186, 1158), (218, 1176)], 1.4, taper=(1, 1))
    pen.use("Wood", 4)
    pen.shape([(60, 1232), (240, 1232), (240, 1244), (60, 1244)], 2.6, smooth=False)
    pen.shape([(262, 1176), (430, 1176), (430, 1188), (262, 1188)], 2.6, smooth=False)
    for x, w, h in ((276, 26, 52), (308, 34, 40), (350, 22, 66), (380, 30, 46)):
        pen.use("Glass", 6)
        pen.shape([(x, 1176 - h, 1), (x + w, 1176 - h, 1), (x + w, 1176, 1), (x, 1176, 1)], 2.2)
        pen.use("Brass", 2)
        pen.shape([(x - 2, 1170 - h), (x + w + 2, 1170 - h), (x + w + 2, 1178 - h), (x - 2, 1178 - h)], 2.0, smooth=False)
        pen.use("Straw", 0)
        pen.shape([(x + 4, 1176 - 0.62 * h), (x + w - 4, 1176 - 0.62 * h), (x + w - 4, 1176 - 0.28 * h), (x + 4, 1176 - 0.28 * h)], 1.5, smooth=False)
    # bench top
    pen.use("Wood", 0)
    pen.shape([(20, 1330), (440, 1306), (440, 1500), (20, 1500)], 3.4, smooth=False)
    pen.stroke([(30, 1440), (200, 1428), (430, 1420)], 1.6)
    pen.stroke([(60, 1466), (240, 1456), (400, 1452)], 1.4)
    # the kite's cloth laid out, with the new patch
    pen.use("Ember", 10)
    pen.shape([(70, 1392, 1), (188, 1296), (240, 1276, 1), (330, 1330), (398, 1390, 1), (300, 1420), (214, 1462, 1), (130, 1420)], 3.2,
              gap=(0.3, 15))  # fmt: skip
    pen.stroke([(240, 1278), (226, 1370), (214, 1460)], 2.4, taper=(1, 1))
    pen.stroke([(72, 1392), (226, 1370), (396, 1390)], 2.4, taper=(1, 1))
    pen.use("Straw", 6)
    pen.shape([(242, 1328, 1), (316, 1340, 1), (308, 1408, 1), (236, 1402, 1)], 2.6)
    for k in range(6):
        pen.stroke([(246 + 12 * k, 1323 + 2 * k), (245 + 12 * k, 1337 + 2 * k)], 1.6, taper=(1, 1), wobble=0)
        pen.stroke([(236 - k * 0.8, 1340 + 11 * k), (249 - k * 0.8, 1340 + 11 * k)], 1.6, taper=(1, 1), wobble=0)
    _needle(pen)
    pen.end_panel()


def _needle(pen: Pen) -> None:
    """Draw the hand at work, the spool, the scissors."""
    # hand with needle, coming in from the right
    pen.use("Coat", 14)
    pen.shape([(440, 1270, 1), (392, 1284), (372, 1296, 1), (384, 1340, 1), (440, 1352, 1)], 3.2)
    pen.stroke([(388, 1296), (396, 1316), (398, 1338)], 2.0, taper=(0.8, 0.8))
    pen.use("Skin", 9)
    pen.shape([(378, 1298, 1), (352, 1292), (330, 1304), (322, 1318), (330, 1330), (350, 1344), (386, 1338, 1)], 3.0)
    pen.shape([(350, 1312, 1), (328, 1316), (304, 1330), (300, 1338), (308, 1342), (332, 1332), (352, 1330, 1)], 2.6, gap=(0.75, 6))
    pen.shape([(352, 1330, 1), (334, 1334), (314, 1346), (314, 1354), (322, 1355), (340, 1348), (358, 1344, 1)], 2.4)
    pen.shape([(346, 1298, 1), (326, 1306), (310, 1322), (306, 1332), (312, 1334), (328, 1324), (346, 1316)], 2.4)
    pen.stroke([(312, 1332), (290, 1352), (270, 1372)], 2.6, taper=(1, 0.3), wobble=0)
    pen.stroke([(310, 1334), (330, 1376), (300, 1392), (276, 1380), (262, 1400)], 1.3, taper=(1, 1))
    # spool, scissors
    pen.use("Straw", 8)
    pen.shape([(92, 1420, 1), (92, 1450), (112, 1458), (132, 1450), (132, 1420, 1)], 2.4)
    pen.use("Wood", 4)
    pen.shape([(86, 1416), (112, 1408), (138, 1416), (112, 1426)], 2.4)
    for k in range(3):
        pen.stroke([(93, 1430 + 8 * k), (112, 1437 + 8 * k), (131, 1430 + 8 * k)], 1.3, taper=(1, 1))
    pen.use("Brass", 4)
    pen.shape([(356, 1446), (372, 1436), (386, 1446), (378, 1462), (360, 1462)], 2.8)
    pen.shape([(384, 1422), (400, 1414), (412, 1424), (404, 1438), (388, 1438)], 2.8)
    pen.shape([(364, 1446), (376, 1440), (380, 1448), (372, 1456)], 1.6)
    pen.shape([(390, 1424), (400, 1420), (405, 1426), (398, 1432)], 1.6)
    pen.use("Glass", 3)
    pen.shape([(362, 1448, 1), (318, 1432), (292, 1430, 1), (322, 1440)], 2.0)
    pen.shape([(388, 1430, 1), (330, 1440), (300, 1450, 1), (338, 1450)], 2.0)


def _evening(pen: Pen) -> None:
    """Panel 5: the two of them on the ridge, the mended kite before the low sun."""
    pen.begin_panel([(444, 1064), (960, 1064), (960, 1478), (444, 1478)], "Dusk")
    pen.frame = Frame()
    pen.use("Sun")
    pen.shape([(770 + 96 * math.cos(a), 1276 + 96 * math.sin(a)) for a in np.linspace(0, 6.283, 25)[:-1]], 2.4, gap=(0.7, 13))
    for k in range(4):
        y = 1262 + 22 * k
        pen.use("Band")
        pen.shape([(430, y + 6, 1), (560, y - 6), (700, y + 4), (860, y - 5), (980, y + 3, 1), (980, y + 9, 1), (860, y + 4), (700, y + 11), (560, y + 2)], 1.4)
    pen.use("Hill")
    pen.shape([(420, 1340), (560, 1318), (700, 1336), (860, 1310), (990, 1330), (990, 1500), (420, 1500)], 1.4)
    rng = np.random.default_rng(9)
    for depth, base, size in ((0.9, 1350.0, 40.0), (0.6, 1378, 62)):
        x = 430.0
        while x < 980:
            wide = size * float(rng.uniform(0.8, 1.4))
            house(pen, x, base + float(rng.uniform(-10, 10)), wide, 140, size * float(rng.uniform(0.4, 0.6)), depth=depth, windows=1)
            x += wide * float(rng.uniform(0.95, 1.15))
    pen.frame = Frame()
    pen.use("Tile")
    pen.shape([(424, 1500), (470, 1436), (930, 1430), (990, 1500)], 3.8, smooth=False)
    pen.use("Brick", 4)
    pen.shape([(462, 1424), (940, 1418), (942, 1434), (460, 1440)], 3.0, smooth=False)
    for k in range(12):
        pen.stroke([(494 + 38 * k, 1424), (492 + 38 * k, 1438)], 1.8, taper=(1, 1), wobble=0)
    for k in range(10):
        x = 486 + 46 * k
        pen.stroke([(x, 1450), (x + 4, 1460), (x + 22, 1463), (x + 40, 1459)], 1.6)
    pen.weight = _FIGURE
    bram_back(pen, Frame(640, 1424, 2.35))
    wren_back(pen, Frame(766, 1422, 2.15))
    pen.weight = 1.0
    kite(pen, Frame(860, 1138, 1.15, -14))
    kite_tail(pen, [(874, 1194), (892, 1222), (874, 1250), (894, 1276)], 3)
    pen.frame = Frame()
    pen.stroke([(848, 1276), (838, 1214), (856, 1150)], 1.3, taper=(1, 1), wobble=0.3)
    for x, y, s in ((520, 1130, 1), (556, 1112, 0.8), (590, 1142, 0.7)):
        pen.frame = Frame(x, y, s)
        pen.stroke([(-14, -5), (-6, -8), (0, 0), (7, -9), (15, -6)], 2.2)
    cloud(pen, Frame(560, 1226, 0.72), 1.5)
    pen.end_panel()
