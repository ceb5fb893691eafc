# SPDX-License-Identifier: GPL-3.0-or-later
"""Who and what appears in the Kite Infirmary: Wren, old Bram, kites, roofs, clouds. Knows the pen only.

Figures are drawn in their own frame: one unit is a hundredth of Wren's height, feet at (0, 0), y down.
"""

import math

import numpy as np

from drip_pot.demo.pen import Frame, Pen


def wren_standing(pen: Pen, frame: Frame) -> None:
    """Wren braced on a roof, leaning back against the pull of a string that goes up to the right."""
    pen.frame = frame
    pen.use("Scarf", 3)
    # scarf tails behind
    pen.shape([(-8, -80, 1), (-20, -86), (-34, -80), (-48, -88), (-62, -82, 1), (-58, -77), (-64, -70, 1), (-47, -77),
               (-33, -70), (-19, -76), (-7, -74, 1)], 2.4, gap=(0.36, 11))  # fmt: skip
    pen.shape([(-8, -77, 1), (-18, -74), (-28, -64), (-42, -62), (-52, -54, 1), (-47, -51), (-48, -45, 1), (-36, -54),
               (-25, -56), (-15, -66), (-6, -71, 1)], 2.4)  # fmt: skip
    pen.stroke([(-14, -81), (-28, -78), (-42, -83)], 1.2)
    pen.use("Trousers", 4)
    # back leg
    pen.shape([(-2, -38, 1), (-9, -38), (-15, -24), (-22, -8, 1), (-15, -5, 1), (-8, -20), (0, -32, 1)], 2.4)
    pen.use("Boots", 3)
    pen.shape([(-23, -10, 1), (-14, -7, 1), (-14, -1), (-16, 1, 1), (-32, 0, 1), (-31, -4), (-25, -5)], 2.6)
    pen.stroke([(-23, -6), (-15, -4)], 1.4)
    pen.use("Trousers", 4)
    # front leg
    pen.shape([(1, -40, 1), (13, -38, 1), (17, -24), (19, -8, 1), (10, -7, 1), (8, -22), (4, -32)], 2.4)
    pen.use("Boots", 3)
    pen.shape([(10, -10, 1), (20, -10, 1), (21, -4), (30, -2), (31, 2, 1), (10, 2, 1)], 2.6)
    pen.stroke([(10, -5), (20, -5)], 1.4)
    pen.stroke([(9, -24), (13, -22), (17, -24)], 1.2)
    pen.use("Coat", 3)
    # back arm, out to the right, low hand on the string
    pen.shape([(6, -68, 1), (18, -64), (30, -66), (33, -61, 1), (19, -56), (6, -58, 1)], 2.4)
    _fist(pen, 34, -64)
    pen.use("Coat", 6)
    # coat
    pen.shape([(-9, -75, 1), (6, -76, 1), (11, -70), (11, -58), (15, -44), (22, -30, 1), (13, -29), (6, -33), (-3, -29),
               (-12, -33), (-25, -30, 1), (-19, -44), (-12, -58), (-13, -70)], 2.8, gap=(0.3, 8))  # fmt: skip
    pen.stroke([(0, -74), (2, -60), (1, -46), (4, -33)], 1.8, taper=(1, 0.5))
    pen.stroke([(-11, -56), (0, -54), (12, -56)], 2.0, taper=(0.9, 0.9))
    pen.stroke([(-11.5, -52), (0, -50), (13, -52)], 2.0, taper=(0.9, 0.9))
    pen.stroke([(-14, -45), (-16, -38), (-18, -33)], 1.2)
    pen.stroke([(12, -46), (14, -39), (17, -34)], 1.2)
    pen.use("Cuff", 1)
    # a patch on the skirt, with stitches
    pen.shape([(-10, -45, 1), (-3, -46, 1), (-3, -38, 1), (-11, -38, 1)], 1.5, smooth=False)
    for x, y in ((-10, -43), (-10.5, -40), (-3, -43), (-3, -40)):
        pen.stroke([(x - 1.4, y), (x + 1.4, y)], 0.9, taper=(1, 1), wobble=0)
    pen.use("Coat", 4)
    # front arm raised
    pen.shape([(-11, -72, 1), (-2, -73, 1), (6, -80), (17, -90), (23, -87, 1), (16, -76), (4, -63), (-8, -62)], 2.6)
    pen.stroke([(0, -68), (5, -72)], 1.2)
    pen.use("Cuff", 1.5)
    pen.shape([(15, -92, 1), (20, -84, 1), (24, -87, 1), (19, -95, 1)], 1.8, smooth=False)
    _fist(pen, 23, -92)
    pen.use("Scarf", 3)
    # neck scarf
    pen.shape([(-10, -79, 1), (0, -82), (10, -79), (12, -74), (4, -70), (-7, -70), (-13, -74)], 2.6)
    pen.stroke([(-9, -75), (0, -73), (9, -76)], 1.3)
    _small_head(pen)


def _fist(pen: Pen, x: float, y: float) -> None:
    pen.use("Skin", 1.4)
    pen.shape([(x - 3, y - 2), (x, y - 4), (x + 3.4, y - 2.6), (x + 4, y + 1.4), (x + 0.5, y + 3.6), (x - 3, y + 2)], 2.0)
    pen.stroke([(x + 0.4, y - 2.4), (x + 3.6, y - 1.4)], 0.9)
    pen.stroke([(x, y - 0.4), (x + 3.8, y + 0.4)], 0.9)


def _small_head(pen: Pen) -> None:
    """Wren's head at a distance, turned up to the right."""
    pen.use("Hair", 2)
    pen.shape([(-11, -96), (-14, -88), (-20, -83, 1), (-12, -83), (-9, -80), (-2, -82), (4, -100), (-3, -101)], 2.2)
    pen.use("Skin", 3)
    pen.shape([(-6, -92), (-5, -83), (0, -79), (6, -80), (9.5, -85), (10, -91), (8.5, -96), (0, -100)], 2.4)
    pen.shape([(-7.5, -90), (-5.4, -92), (-4, -89.5), (-5, -86.5), (-7, -87)], 1.6)
    pen.stroke([(3.6, -91.4), (3.9, -88.8)], 2.0, taper=(0.8, 0.6), wobble=0)
    pen.stroke([(7.8, -91.6), (7.9, -89.2)], 1.8, taper=(0.8, 0.6), wobble=0)
    pen.stroke([(7.4, -88), (8.8, -86.6), (7.2, -86)], 1.1)
    pen.stroke([(3.6, -83.6), (5.6, -83), (7.6, -84)], 1.3)
    pen.stroke([(2, -93.6), (4.2, -94.4)], 1.3)
    pen.stroke([(6.8, -94.4), (8.6, -94)], 1.2)
    pen.use("Hair", 2.4)
    pen.shape([(-8, -88, 1), (-9, -96), (-4, -103), (4, -104), (10, -100), (11, -94, 1), (6, -97), (4, -95, 1), (1, -98),
               (-2, -94, 1), (-4, -96), (-5, -90, 1)], 2.6)  # fmt: skip
    pen.stroke([(-5, -99), (0, -101), (5, -101)], 1.1)
    pen.stroke([(-6, -96), (-3, -99)], 1.1)
    pen.use("Brass", 1)
    # goggles pushed up
    pen.shape([(-3, -101.5), (0.5, -103), (3.2, -101), (2.6, -98), (-1, -97.4), (-3.4, -99)], 1.6)
    pen.shape([(4.2, -101), (7, -102), (9.4, -100), (8.8, -97.6), (6, -97), (4, -98.4)], 1.6)


def wren_face(pen: Pen, frame: Frame) -> None:
    """Wren near, in three-quarter view, looking up to the right; drawn in a 300 × 340 frame."""
    pen.frame = frame
    pen.use("Hair", 14)
    # hair behind, blown to the left
    pen.shape([(70, 112), (34, 150), (28, 196), (-6, 216, 1), (26, 226), (8, 262, 1), (48, 248), (40, 284, 1), (84, 262),
               (112, 270, 1), (190, 150), (120, 80)], 4.2, gap=(0.14, 14))  # fmt: skip
    pen.use("Coat", 26)
    # coat shoulders
    pen.shape([(-40, 400, 1), (10, 330), (78, 306), (190, 302), (262, 326), (330, 400, 1)], 4.6)
    pen.stroke([(30, 338), (52, 366), (60, 398)], 2.6)
    pen.stroke([(240, 334), (226, 364), (228, 398)], 2.6)
    pen.use("Skin", 10)
    # neck, scarf
    pen.shape([(108, 236, 1), (112, 300), (196, 300), (188, 240, 1)], 3.4)
    # the chin's shadow, hatched
    for k in range(6):
        side, low = 122 + 12 * k, 256 + 5 * k - 0.7 * k * k
        pen.stroke([(side, low), (side - 5, low + 18 - 2 * k + 0.2 * k * k), (side - 13, 290)], 2.6, taper=(0.9, 0.1))
    pen.use("Scarf", 14)
    pen.shape([(64, 306), (96, 286), (140, 298), (184, 284), (226, 296), (244, 322), (214, 348), (150, 354), (84, 344)], 4.4,
              gap=(0.62, 9))  # fmt: skip
    pen.stroke([(84, 318), (134, 330), (196, 312), (230, 314)], 2.6)
    pen.stroke([(104, 338), (150, 344), (204, 332)], 2.2)
    pen.use("Skin", 20)
    # face
    pen.shape([(92, 150), (92, 196), (104, 232), (134, 262), (166, 272), (196, 258), (216, 224), (222, 182), (216, 130),
               (170, 86), (116, 100)], 4.4, gap=(0.36, 7))  # fmt: skip
    pen.use("Skin", 6)
    # ear
    pen.shape([(98, 176), (84, 164), (74, 176), (80, 200), (94, 212), (102, 204)], 3.4)
    pen.stroke([(94, 178), (84, 180), (90, 196)], 1.8)
    pen.use("Eye")
    # eyes
    for x, y, w, look in ((138.0, 176, 1.0, 6.0), (196, 170, 0.82, -0.5)):
        pen.shape([(x - 21 * w, y + 2, 1), (x - 8 * w, y - 15), (x + 9 * w, y - 16), (x + 20 * w, y - 1, 1), (x + 8 * w, y + 13),
                   (x - 9 * w, y + 14)], 2.0)  # fmt: skip
        pen.stroke([(x - 24 * w, y + 4), (x - 9 * w, y - 16), (x + 9 * w, y - 17), (x + 23 * w, y - 3)], 5.0, taper=(0.3, 0.4))
        pen.use("Coat")
        pen.shape([(x + look + 11 * w * math.cos(a), y - 3 + 12.5 * math.sin(a)) for a in np.linspace(0, 2 * np.pi, 9)[:-1]], 2.2)
        pen.use("Eye")
        pen.black([(x + look + 1 + 6 * w * math.cos(a), y - 4 + 7 * math.sin(a)) for a in np.linspace(0, 2 * np.pi, 9)[:-1]])
        pen.white([(x + look + 4 + 2.6 * w * math.cos(a), y - 8 + 2.8 * math.sin(a)) for a in np.linspace(0, 2 * np.pi, 9)[:-1]])
    pen.stroke([(112, 146), (130, 132), (154, 136)], 4.6, taper=(0.3, 0.5))
    pen.stroke([(186, 134), (200, 128), (214, 138)], 4.2, taper=(0.5, 0.3))
    # nose, mouth, freckles
    pen.stroke([(176, 172), (188, 200), (192, 208), (180, 214), (170, 210)], 2.8, taper=(0.15, 0.5))
    pen.stroke([(144, 236), (160, 242), (178, 238), (188, 230)], 3.2, taper=(0.3, 0.5))
    pen.stroke([(156, 250), (168, 251)], 2.0)
    for x, y in ((118, 204), (127, 210), (134, 202), (202, 200), (209, 206)):
        pen.dot(x, y, 1.5)
    pen.use("Hair", 12)
    _wren_hair(pen)


def _wren_hair(pen: Pen) -> None:
    """Draw what blows before the face: locks, goggles, loose strands."""
    # hair in front: a cap of big locks
    pen.shape([(96, 196, 1), (82, 168), (64, 180, 1), (70, 132), (88, 92), (128, 58), (180, 56), (222, 84), (240, 128),
               (228, 152, 1), (218, 124), (206, 110, 1), (196, 128), (178, 138, 1), (180, 118), (172, 104, 1), (152, 126),
               (128, 136, 1), (134, 118), (130, 106, 1), (108, 138)], 4.6, gap=(0.8, 5))  # fmt: skip
    for lock in (((84, 140), (104, 104), (136, 82)), ((100, 150), (116, 116), (132, 102)), ((160, 72), (196, 80), (220, 104)),
                 ((150, 86), (184, 92), (204, 108)), ((80, 158), (84, 130), (98, 108))):  # fmt: skip
        pen.stroke(lock, 2.2)
    pen.use("Boots", 3)
    # goggles on the hair
    pen.shape([(74, 118), (92, 96), (132, 74), (180, 68), (222, 82), (238, 100), (234, 112), (216, 96), (178, 84), (134, 90),
               (98, 112), (80, 130)], 3.0)  # fmt: skip
    for x, y, r in ((136, 76, 26), (196, 74, 23)):
        for size, weight in ((r, 3.8), (r - 8, 2.4)):
            pen.use("Brass" if size == r else "Glass", 5)
            pen.shape([(x + size * math.cos(a), y + 0.86 * size * math.sin(a)) for a in np.linspace(0, 2 * np.pi, 13)[:-1]], weight)
        pen.stroke([(x - 8, y + 6), (x + 4, y - 8)], 2.0)
    # loose strands
    pen.stroke([(72, 128), (40, 128), (8, 150)], 2.6, taper=(0.8, 0.05))
    pen.stroke([(68, 148), (42, 156), (16, 184)], 2.4, taper=(0.8, 0.05))


def bram_back(pen: Pen, frame: Frame) -> None:
    """Old Bram sitting on a ridge, seen from behind: broad coat, flat hat, beard to one side."""
    pen.frame = frame
    pen.use("Bram coat", 8)
    pen.shape([(-26, 2, 1), (-29, -22), (-24, -44), (-10, -54), (10, -54), (24, -44), (29, -22), (27, 2, 1)], 3.0, gap=(0.2, 10))
    pen.stroke([(-15, -30), (-18, -14), (-17, 0)], 1.8)
    pen.stroke([(15, -30), (18, -14), (17, 0)], 1.8)
    pen.stroke([(0, -50), (1, -26), (0, 0)], 1.6, taper=(0.6, 0.6))
    pen.shape([(-26, -34, 1), (-33, -20), (-36, -2, 1), (-27, 2, 1), (-22, -16)], 2.6)
    pen.shape([(26, -34, 1), (33, -20), (36, -2, 1), (27, 2, 1), (22, -16)], 2.6)
    pen.use("Bram coat", 3)
    pen.shape([(-14, -52, 1), (-6, -58), (8, -58), (15, -51, 1), (10, -47), (-9, -47)], 2.4)
    pen.use("Beard", 3)
    pen.shape([(-9, -58), (-11, -68), (-6, -76), (6, -76), (11, -68), (9, -58), (0, -55)], 2.6)
    pen.use("Skin", 1.4)
    pen.shape([(8, -66), (13, -67), (13.5, -61), (9, -60)], 1.8)
    pen.use("Beard", 2)
    pen.shape([(9, -58, 1), (14, -60), (20, -54), (18, -47), (11, -49)], 2.0)
    pen.stroke([(13, -56), (16, -51)], 1.2)
    pen.use("Hat", 3)
    pen.shape([(-20, -70, 1), (-10, -73), (10, -73), (20, -70, 1), (12, -66), (-12, -66)], 2.6)
    pen.shape([(-11, -72, 1), (-10, -82), (0, -85), (11, -82), (12, -72, 1), (0, -70)], 2.6)
    pen.black([(-11, -74.5, 1), (0, -72.4), (12, -74.5, 1), (12, -71.6, 1), (0, -69.8), (-11, -71.6, 1)])


def wren_back(pen: Pen, frame: Frame) -> None:
    """Wren sitting on a ridge, seen from behind, scarf flying to the left, one arm pointing up."""
    pen.frame = frame
    pen.use("Scarf", 2.4)
    pen.shape([(-8, -42, 1), (-24, -48), (-38, -40), (-54, -46), (-66, -38, 1), (-60, -36), (-62, -30, 1), (-52, -38), (-37, -32),
               (-22, -38), (-7, -35, 1)], 2.4)  # fmt: skip
    pen.use("Coat", 4)
    pen.shape([(10, -38, 1), (22, -46), (30, -60), (36, -57, 1), (30, -42), (16, -28, 1)], 2.4)
    pen.use("Skin", 2)
    pen.shape([(31, -60), (33, -67), (36, -70), (39, -64), (37, -58)], 1.8)
    pen.use("Coat", 6)
    pen.shape([(-19, 2, 1), (-17, -20), (-14, -36), (-6, -41), (8, -41), (14, -36), (17, -20), (20, 2, 1)], 2.8)
    pen.stroke([(0, -38), (1, -18), (0, 0)], 1.5, taper=(0.6, 0.6))
    pen.stroke([(-17, -12), (0, -10), (18, -12)], 1.8, taper=(0.9, 0.9))
    pen.shape([(-15, -30, 1), (-22, -16), (-22, -2, 1), (-14, 0, 1), (-12, -14)], 2.4)
    pen.use("Scarf", 3)
    pen.shape([(-11, -42), (0, -45), (11, -42), (12, -37), (0, -34), (-12, -37)], 2.4)
    pen.use("Hair", 4)
    pen.shape([(-13, -44, 1), (-14, -54), (-8, -64), (3, -66), (12, -60), (14, -50), (12, -43, 1), (6, -45), (3, -41, 1), (-2, -45),
               (-6, -42, 1), (-9, -46)], 2.6)  # fmt: skip
    pen.stroke([(-6, -60), (-9, -52), (-8, -47)], 1.2)
    pen.stroke([(2, -62), (1, -54), (3, -46)], 1.2)
    pen.stroke([(8, -59), (10, -52), (8, -46)], 1.2)
    pen.stroke([(-13.6, -55), (0, -58), (13.6, -54)], 2.4, taper=(1, 1))


def kite(pen: Pen, frame: Frame, *, torn: bool = False) -> None:
    """Draw a diamond kite, point up, 100 high, with a cross of spars, patches and a face of stitches."""
    pen.frame = frame
    top, right, bottom, left, mid = (0, -50), (33, -12), (0, 50), (-33, -12), (0, -12)
    pen.use("Ember", 5)
    pen.shape([(*top, 1), (17, -30), (*right, 1), (*mid, 1)], 2.4, gap=(0.2, 12))
    pen.use("Straw", 4)
    pen.shape([(*top, 1), (*mid, 1), (*left, 1), (-17, -30)], 2.4)
    if torn:
        pen.use("Ember", 5)
        pen.shape([(*left, 1), (*mid, 1), (0, 10, 1), (-6, 16, 1), (-1, 22, 1), (-8, 27, 1), (-3, 33, 1), (*bottom, 1), (-17, 20)], 2.4)
        pen.use("Cobalt", 5)
        pen.shape([(*mid, 1), (*right, 1), (18, 20), (*bottom, 1), (7, 33, 1), (10, 25, 1), (4, 20, 1), (9, 14, 1), (4, 8, 1)], 2.4)
    else:
        pen.use("Ember", 5)
        pen.shape([(*left, 1), (*mid, 1), (*bottom, 1), (-17, 20)], 2.4)
        pen.use("Cobalt", 5)
        pen.shape([(*mid, 1), (*right, 1), (17, 20), (*bottom, 1)], 2.4, gap=(0.5, 6))
    pen.use("Straw", 1.4)
    pen.shape([(8, -8, 1), (20, -9, 1), (18, 3, 1), (9, 5, 1)], 1.7, smooth=False)
    for x, y in ((8.2, -4.0), (8.6, 1), (19.6, -5), (18.6, 0)):
        pen.stroke([(x - 2, y), (x + 2, y + 0.6)], 1.1, taper=(1, 1), wobble=0)
    for x, y in ((12.0, -8.6), (16, -8.8), (12, 4.6), (15, 3.8)):
        pen.stroke([(x, y - 2), (x + 0.4, y + 2)], 1.1, taper=(1, 1), wobble=0)
    pen.use("Saffron", 1.4)
    pen.shape([(-17, -29, 1), (-8, -33, 1), (-5, -23, 1), (-14, -20, 1)], 1.7, smooth=False)
    for x, y in ((-15.4, -25), (-6.6, -28), (-12.5, -31), (-9.5, -21.4)):
        pen.stroke([(x - 1.8, y - 0.6), (x + 1.8, y + 0.6)], 1.1, taper=(1, 1), wobble=0)
    pen.stroke([(-12, 4), (-8, 1), (-5, 4)], 1.5)
    pen.stroke([(-20, 3), (-17, 0), (-14, 3)], 1.5)


def kite_tail(pen: Pen, points: list[tuple[float, float]], bows: int) -> None:
    """Draw a tail through page points with `bows` bows on it."""
    pen.frame = Frame()
    pen.stroke(points, 1.8, taper=(1, 0.7))
    path = np.array(points, float)
    for i in range(bows):
        part = (i + 0.7) / bows * (len(path) - 1)
        k = min(int(part), len(path) - 2)
        at = path[k] + (path[k + 1] - path[k]) * (part - k)
        step = path[k + 1] - path[k]
        size = float(np.linalg.norm(step)) or 1.0
        turn = math.degrees(math.atan2(step[1], step[0])) - 90
        pen.frame = Frame(float(at[0]), float(at[1]), min(1.0, 0.55 + size / 300), -turn)
        pen.use("Saffron" if i % 2 else "Ember", 3)
        pen.shape([(0, 0, 1), (-15, -9), (-19, 0), (-15, 8)], 1.8)
        pen.shape([(0, 0, 1), (15, -8), (19, 1), (15, 9)], 1.8)
        pen.shape([(-3, -3), (3, -3), (3, 3), (-3, 3)], 1.5)


def cloud(pen: Pen, frame: Frame, weight: float = 1.8, pot: str = "Cloud") -> None:
    """Draw a heaped cloud with a flat underside, 200 wide, and curls inside."""
    pen.frame = frame
    pen.use(pot, 14)
    pen.shape([(-100, 0, 1), (-108, -16), (-92, -30), (-76, -26), (-72, -50), (-46, -60), (-26, -46), (-10, -70), (24, -74),
               (42, -50), (60, -58), (84, -44), (82, -26), (102, -20), (104, -4), (92, 2, 1), (40, 6), (-40, 4)], weight)  # fmt: skip
    pen.stroke([(-66, -22), (-54, -34), (-40, -28)], weight * 0.7)
    pen.stroke([(-4, -40), (12, -52), (28, -44)], weight * 0.7)
    pen.stroke([(46, -22), (60, -32), (72, -24)], weight * 0.7)


def house(pen: Pen, x: float, y: float, wide: float, high: float, roof: float, *, depth: float, windows: int = 2) -> None:
    """Draw a gabled house: x, y is its left eave; `depth` 0 (near) to 1 (far) thins the line."""
    pen.frame = Frame()
    w = 2.6 - 1.5 * depth
    far = depth > 0.8
    pen.use("Far wall" if far else "Plaster" if int(x) % 3 else "Stone", 0 if far else 6)
    pen.shape([(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)], w, smooth=False)
    over = 0.05 * wide
    pen.use("Far roof" if far else "Tile" if int(x * 1.7) % 3 else "Slate", 0 if far else 9)
    pen.shape([(x - over, y + 5), (x + 0.16 * wide, y - roof), (x + 0.84 * wide, y - roof), (x + wide + over, y + 5)], w, smooth=False)
    if depth < 0.75:
        for row in range(1, max(2, int(roof / 16))):
            level = y + 5 - (roof + 5) * row / max(2, int(roof / 16))
            inset = (0.21 * wide) * row / max(2, int(roof / 16))
            for k in range(3):
                a = x - over + inset + (wide + 2 * over - 2 * inset) * (0.08 + 0.31 * k + 0.09 * (row % 2))
                pen.stroke([(a, level), (a + 0.13 * wide, level)], w * 0.6, taper=(0.6, 0.3))
    for k in range(windows):
        a = x + wide * (k + 0.5) / windows - 0.09 * wide
        b = y + 0.2 * high
        pen.use("Window", 0 if far else 2)
        pen.shape([(a, b), (a + 0.18 * wide, b), (a + 0.18 * wide, b + 0.24 * wide), (a, b + 0.24 * wide)], w * 0.8, smooth=False)
        if depth < 0.8:
            pen.stroke([(a + 0.09 * wide, b), (a + 0.09 * wide, b + 0.24 * wide)], w * 0.6, taper=(1, 1), wobble=0)
            pen.stroke([(a, b + 0.12 * wide), (a + 0.18 * wide, b + 0.12 * wide)], w * 0.6, taper=(1, 1), wobble=0)


def chimney(pen: Pen, x: float, y: float, wide: float, high: float, *, bricks: bool = True, gap: bool = False) -> None:
    """Draw a brick chimney standing on (x, y), its pots on top."""
    pen.frame = Frame()
    pen.use("Brick", 16)
    pen.shape([(x, y - high), (x + wide, y - high), (x + wide, y), (x, y)], 2.6, smooth=False, gap=(0.4, 18) if gap else None)
    pen.use("Stone", 8)
    pen.shape([(x - 4, y - high - 10), (x + wide + 4, y - high - 10), (x + wide + 4, y - high), (x - 4, y - high)], 2.4, smooth=False)
    for k in range(2):
        a = x + wide * (0.08 + 0.5 * k)
        pen.use("Tile", 4)
        pen.shape([(a, y - high - 30, 1), (a + 0.34 * wide, y - high - 30, 1), (a + 0.3 * wide, y - high - 10, 1), (a + 0.04 * wide, y - high - 10, 1)], 2.0)
    if bricks:
        for row in range(1, int(high / 11)):
            level = y - high + 11 * row
            for k in range(int(wide / 18) + 1):
                a = x + 18 * k + (9 if row % 2 else 0)
                if a + 9 < x + wide and (row * 7 + k * 5) % 4 < 2:
                    pen.stroke([(a + 2, level), (a + 11, level)], 1.2, taper=(0.7, 0.7))
