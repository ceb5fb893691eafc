# SPDX-License-Identifier: GPL-3.0-or-later
"""More of the cast: Bram from the front, Pim, the cat Spool, townsfolk, and things of the street. Knows the pen.

Busts are drawn in a 300 × 340 frame, figures in frames where feet stand at (0, 0) and y goes down.
"""

import math
from dataclasses import dataclass

import numpy as np

from drip_pot.core.arrays import F64
from drip_pot.demo.pen import Frame, Pen


def ring(x: float, y: float, across: float, down: float, count: int = 13, turn: float = 0.0) -> list[tuple[float, float]]:
    """Points round an oval."""
    angles = np.linspace(0, 2 * math.pi, count)[:-1] + turn
    return [(x + across * math.cos(a), y + down * math.sin(a)) for a in angles]


@dataclass(frozen=True)
class Aside(Frame):
    """A frame for a face of 300 units that looks aside: its middle moves by `across` and `down`, its rim stays."""

    across: float = 0.0
    down: float = 0.0

    def place(self, points: F64) -> F64:
        """Move (K, 2) local x, y to the page."""
        away = ((points[:, 0] - 150) / 125) ** 2 + ((points[:, 1] - 175) / 130) ** 2
        share = np.clip(1 - away, 0, None)[:, None]
        return super().place(points + share * [self.across, self.down])


def bram_bust(pen: Pen, frame: Frame, *, smile: bool = True) -> None:
    """Old Bram near: flat hat, round spectacles, a beard like a cloud, an apron with a pocket."""
    pen.frame = frame
    pen.use("Bram coat", 26)
    pen.shape([(-50, 400, 1), (-18, 318), (60, 286), (240, 286), (318, 318), (350, 400, 1)], 4.6)
    pen.use("Cuff", 10)
    pen.shape([(86, 300, 1), (214, 300, 1), (236, 400, 1), (64, 400, 1)], 3.6)
    pen.stroke([(96, 302), (70, 288)], 3.4, taper=(1, 1))
    pen.stroke([(204, 302), (230, 288)], 3.4, taper=(1, 1))
    # ears, face
    pen.use("Skin", 6)
    pen.shape([(66, 150), (50, 140), (44, 160), (52, 186), (70, 184)], 3.2)
    pen.shape([(234, 150), (250, 140), (256, 160), (248, 186), (230, 184)], 3.2)
    pen.use("Skin", 18)
    pen.shape([(66, 112), (64, 170), (84, 232), (150, 258), (216, 232), (236, 170), (234, 112), (150, 92)], 4.2, gap=(0.2, 9))
    # beard
    pen.use("Beard", 18)
    pen.shape([(62, 172, 1), (48, 214), (34, 232), (50, 262), (44, 292), (80, 308), (96, 336), (132, 330), (158, 346), (184, 328),
               (214, 334), (226, 304), (258, 288), (250, 258), (266, 228), (250, 208), (238, 172, 1), (222, 204), (196, 214),
               (150, 208), (104, 214), (78, 204)], 4.4, gap=(0.4, 16))  # fmt: skip
    for lock in (((84, 240), (92, 270), (86, 296)), ((120, 262), (128, 292), (122, 316)), ((176, 262), (172, 294), (180, 318)),
                 ((214, 240), (208, 270), (216, 292)), ((150, 270), (152, 300))):  # fmt: skip
        pen.stroke(lock, 2.2)
    # moustache and mouth
    pen.shape([(150, 206, 1), (122, 198), (94, 212), (80, 232, 1), (112, 232), (150, 220, 1), (188, 232), (220, 232, 1), (206, 212),
               (178, 198)], 3.4)  # fmt: skip
    if smile:
        pen.black([(128, 234), (150, 240), (172, 234), (162, 248), (138, 248)])
    # nose
    pen.use("Skin", 8)
    pen.shape([(140, 152), (128, 184), (134, 204), (150, 210), (166, 204), (172, 184), (160, 152)], 3.4)
    pen.white([(143, 146), (157, 146), (157, 158), (143, 158)], smooth=False)
    # spectacles and eyes
    for x in (104, 196):
        pen.use("Glass", 5)
        pen.shape(ring(x, 156, 33, 31), 3.8)
        pen.stroke([(x - 18, 152), (x - 4, 143), (x + 14, 148)], 2.6, taper=(0.5, 0.5))
        pen.black(ring(x + 1, 160, 6.5, 8.5, 9))
        pen.white(ring(x + 3, 157, 2.2, 2.4, 9))
        pen.stroke([(x - 18, 176), (x, 181), (x + 16, 175)], 1.8)
    pen.stroke([(137, 152), (150, 146), (163, 152)], 3.4, taper=(1, 1))
    pen.use("Beard", 4)
    pen.shape([(70, 122, 1), (92, 106), (132, 114, 1), (124, 126), (92, 120)], 3.0)
    pen.shape([(230, 122, 1), (208, 106), (168, 114, 1), (176, 126), (208, 120)], 3.0)
    # hat
    pen.use("Hat", 12)
    pen.shape([(70, 92, 1), (76, 34), (110, 14), (190, 12), (224, 34), (232, 92, 1), (150, 104)], 4.4, gap=(0.12, 12))
    pen.black([(70, 76, 1), (150, 88), (231, 76, 1), (232, 94, 1), (150, 106), (69, 94, 1)])
    pen.shape([(20, 96, 1), (60, 84), (70, 96), (150, 106), (232, 96), (242, 84), (282, 96, 1), (226, 116), (150, 122), (74, 116)], 4.2)


def pim_face(pen: Pen, frame: Frame, *, glad: bool = False) -> None:
    """Pim near: a round face, ears like handles, a striped cap too large for him; tears, or a grin."""
    pen.frame = frame
    pen.use("Jersey", 20)
    pen.shape([(20, 400, 1), (50, 330), (104, 306), (196, 306), (250, 330), (280, 400, 1)], 4.4)
    pen.use("Stripe", 8)
    pen.shape([(96, 304, 1), (150, 322), (204, 304, 1), (212, 324, 1), (150, 344), (88, 324, 1)], 3.6)
    pen.use("Skin", 8)
    for side in (-1, 1):
        pen.shape([(150 + side * 104, 176), (150 + side * 134, 156), (150 + side * 146, 186), (150 + side * 132, 218),
                   (150 + side * 104, 220)], 3.6)  # fmt: skip
        pen.stroke([(150 + side * 116, 184), (150 + side * 130, 188), (150 + side * 122, 206)], 2.0)
    pen.use("Skin", 22)
    pen.shape([(44, 150), (44, 214), (78, 270), (150, 294), (222, 270), (256, 214), (256, 150), (200, 98), (100, 98)], 4.6, gap=(0.6, 11))
    for x in (104, 196):
        lift = 0 if glad else 4
        pen.use("Eye")
        pen.shape(ring(x, 186, 22, 26), 2.6)
        pen.black(ring(x + 3, 184 + lift, 12, 15))
        pen.white(ring(x + 8, 178 + lift, 4.4, 5))
        pen.white(ring(x - 2, 190 + lift, 2.2, 2.4, 9))
        brow = [(x - 26, 150), (x, 138), (x + 24, 148)] if glad else [(x - 26, 148 + (12 if x < 150 else 0)), (x, 140), (x + 24, 148 + (0 if x < 150 else 12))]
        pen.stroke(brow, 4.6, taper=(0.4, 0.4))
        if not glad:
            pen.use("Tear", 3)
            pen.shape([(x + 14, 210, 1), (x + 26, 236), (x + 16, 250), (x + 5, 238)], 2.6)
    pen.stroke([(142, 214), (150, 222), (160, 214)], 2.8, taper=(0.3, 0.3))
    if glad:
        pen.use("Mouth")
        pen.shape([(112, 238, 1), (150, 246), (188, 236, 1), (176, 264), (150, 272), (124, 264)], 3.4)
        pen.use("Eye")
        pen.shape([(118, 240, 1), (150, 246), (182, 238, 1), (176, 250), (150, 255), (124, 252)], 2.0)
    else:
        pen.use("Mouth")
        pen.shape([(124, 262, 1), (138, 246), (164, 246), (178, 262, 1), (150, 254)], 3.2)
    for x, y in ((76, 226), (86, 234), (212, 232), (222, 224), (94, 222), (206, 222)):
        pen.dot(x, y, 1.8)
    pen.use("Hair", 5)
    pen.shape([(42, 164, 1), (52, 120), (90, 108, 1), (96, 132, 1), (112, 108, 1), (128, 130, 1), (150, 108, 1), (170, 130, 1),
               (186, 108, 1), (204, 132, 1), (212, 108, 1), (248, 120), (258, 164, 1), (270, 110), (150, 70), (30, 110)], 3.6)  # fmt: skip
    pen.use("Jersey", 10)
    pen.shape([(24, 116, 1), (34, 50), (90, 8), (150, 0), (210, 8), (266, 50), (276, 116, 1), (150, 92)], 4.4, gap=(0.3, 8))
    pen.use("Stripe", 6)
    pen.shape([(28, 92, 1), (150, 66), (272, 92, 1), (274, 116, 1), (150, 92), (25, 116, 1)], 3.2)
    pen.shape([(40, 44, 1), (150, 18), (260, 44, 1), (268, 66, 1), (150, 40), (32, 66, 1)], 3.0)
    pen.shape(ring(150, -6, 15, 13), 3.2)


def pim_small(pen: Pen, frame: Frame, *, kite_in_arms: bool = False, running: bool = False) -> None:
    """Pim whole, 66 units high."""
    pen.frame = frame
    pen.use("Skin", 2)
    if running:
        pen.shape([(-4, -26, 1), (-16, -18), (-26, -20, 1), (-27, -15, 1), (-15, -12), (2, -22, 1)], 2.2)
        pen.shape([(4, -26, 1), (16, -18), (20, -6, 1), (15, -4, 1), (9, -14), (-2, -20, 1)], 2.2)
        pen.use("Boots", 2)
        pen.shape([(-25, -22, 1), (-34, -24), (-36, -16), (-28, -13, 1)], 2.2)
        pen.shape([(14, -5, 1), (21, -8, 1), (29, -2), (26, 2, 1), (14, 2, 1)], 2.2)
    else:
        pen.shape([(-8, -24, 1), (-9, -4, 1), (-4, -4, 1), (-2, -24, 1)], 2.0)
        pen.shape([(3, -24, 1), (4, -4, 1), (9, -4, 1), (9, -24, 1)], 2.0)
        pen.use("Boots", 2)
        pen.shape([(-10, -6, 1), (-3, -6, 1), (-3, 1, 1), (-14, 1, 1)], 2.2)
        pen.shape([(3, -6, 1), (10, -6, 1), (15, 1, 1), (3, 1, 1)], 2.2)
    pen.use("Trousers", 3)
    pen.shape([(-12, -32, 1), (12, -32, 1), (13, -19, 1), (1, -18, 1), (0, -24, 1), (-2, -18, 1), (-13, -19, 1)], 2.4)
    pen.use("Jersey", 4)
    pen.shape([(-11, -48, 1), (9, -49, 1), (13, -40), (13, -29, 1), (0, -28), (-13, -29, 1), (-14, -40)], 2.4)
    for y in (-43, -36):
        pen.stroke([(-13, y), (0, y + 1.6), (13, y)], 2.0, taper=(1, 1))
    if running:
        pen.shape([(7, -47, 1), (20, -52), (30, -62, 1), (34, -59, 1), (24, -46), (10, -39, 1)], 2.2)
        pen.use("Skin", 1)
        pen.shape([(30, -62), (32, -67), (37, -66), (37, -60), (33, -58)], 1.8)
        pen.use("Jersey", 3)
        pen.shape([(-10, -47, 1), (-22, -42), (-30, -46, 1), (-32, -41, 1), (-22, -36), (-9, -38, 1)], 2.2)
        pen.use("Skin", 1)
        pen.shape([(-30, -46), (-35, -47), (-37, -43), (-33, -40)], 1.8)
    pen.use("Skin", 3)
    pen.shape([(-11, -58), (-9, -51), (0, -47.5), (9, -51), (12, -58), (7, -64), (-6, -64)], 2.2)
    pen.shape([(-11, -59), (-15, -60), (-15, -55), (-10, -54)], 1.6)
    pen.stroke([(3, -57.6), (3.2, -55.4)], 2.0, taper=(0.8, 0.8), wobble=0)
    pen.stroke([(8.2, -57.8), (8.3, -55.6)], 2.0, taper=(0.8, 0.8), wobble=0)
    pen.stroke([(3, -51.8), (6, -51), (8.4, -52.2)], 1.2)
    pen.use("Jersey", 3)
    pen.shape([(-13, -59, 1), (-11, -68), (0, -72), (11, -69), (15, -60, 1), (0, -62.6)], 2.4)
    pen.use("Stripe", 1)
    pen.shape([(-13, -62, 1), (0, -66), (14, -63, 1), (15, -59, 1), (0, -62), (-13.4, -58.6, 1)], 1.8)
    pen.shape(ring(0, -73, 3, 2.6, 9), 1.6)
    if kite_in_arms:
        where = frame.place(np.array([[4.0, -34.0]]))[0]
        broken_kite(pen, Frame(float(where[0]), float(where[1]), frame.scale * 0.5, 24))
        pen.frame = frame
        pen.use("Jersey", 2)
        pen.shape([(-12, -45, 1), (-17, -36), (-9, -29), (4, -30, 1), (5, -35, 1), (-7, -35), (-6, -43, 1)], 2.2)
        pen.use("Skin", 1)
        pen.shape([(4, -30), (4, -35), (9, -35), (9, -30)], 1.8)


def broken_kite(pen: Pen, frame: Frame) -> None:
    """Draw a kite bent in the middle, its cloth torn and one spar sticking out."""
    pen.frame = frame
    pen.use("Ember", 5)
    pen.shape([(0, -46, 1), (30, -14, 1), (14, -2, 1), (18, 6, 1), (6, 4, 1), (-6, -6, 1), (-32, -16, 1)], 2.4)
    pen.use("Straw", 4)
    pen.shape([(-30, -2, 1), (-8, 4, 1), (2, 14, 1), (12, 12, 1), (34, 10, 1), (12, 46, 1), (-12, 26)], 2.4)
    pen.use("Wood", 1)
    pen.shape([(-3, -40, 1), (2, -40, 1), (5, 0, 1), (22, 26, 1), (18, 28, 1), (1, 2, 1)], 1.8)
    pen.stroke([(-30, -14), (0, -8), (30, -13)], 1.8, taper=(1, 1))
    pen.use("Saffron", 1)
    pen.shape([(-14, -26, 1), (-4, -30, 1), (-2, -20, 1), (-11, -17, 1)], 1.6, smooth=False)


def cat(pen: Pen, frame: Frame) -> None:
    """Spool, the infirmary's cat, sitting: nearly all black."""
    pen.frame = frame
    pen.black([(-12, 0, 1), (-13, -14), (-8, -26), (-10, -34), (-9, -44, 1), (-4, -38), (3, -38), (8, -44, 1), (9, -34), (7, -26),
               (13, -14), (13, 0, 1)])  # fmt: skip
    pen.stroke([(12, -3), (24, -2), (28, -12), (22, -20)], 6.0, taper=(1, 0.4), sheet="contour")
    pen.use("Eye")
    for x in (-4.6, 2.8):
        pen.white(ring(x, -33, 2.4, 1.8, 9))
        pen.dot(x + 0.3, -33, 0.8)
    pen.white([(-3, -12), (3, -12), (2, -2), (-2, -2)])


def lamp_post(pen: Pen, x: float, y: float, high: float) -> None:
    """Draw a street lamp standing on (x, y)."""
    pen.frame = Frame(x, y, high / 100)
    pen.use("Iron", 1.5)
    pen.shape([(-5, 0, 1), (-3, -8), (-2, -76, 1), (2, -76, 1), (3, -8), (5, 0, 1)], 2.4)
    pen.use("Glow")
    pen.shape([(-7, -78, 1), (7, -78, 1), (10, -95, 1), (-10, -95, 1)], 2.4)
    pen.stroke([(0, -78), (0, -95)], 1.6, taper=(1, 1), wobble=0)
    pen.use("Iron", 1)
    pen.shape([(-12, -95, 1), (12, -95, 1), (5, -102), (0, -106, 1), (-5, -102)], 2.4)


def townsman(pen: Pen, frame: Frame, seed: int) -> None:
    """Somebody in a crowd, 100 units high, seen from the waist up or whole as things before allow; seeded."""
    rng = np.random.default_rng(seed)
    pen.frame = frame
    coat = ("Crowd a", "Crowd b", "Crowd c", "Crowd d")[int(rng.integers(4))]
    wide = float(rng.uniform(13, 19))
    skirt = rng.random() < 0.4
    pen.use("Trousers", 3)
    if not skirt:
        pen.shape([(-9, -46, 1), (-10, 0, 1), (-2, 0, 1), (0, -40, 1)], 2.0)
        pen.shape([(0, -40, 1), (3, 0, 1), (11, 0, 1), (10, -46, 1)], 2.0)
    pen.use(coat, 5)
    hem = 0.0 if skirt else -34.0
    pen.shape([(-wide * 0.62, -80, 1), (wide * 0.62, -80, 1), (wide * 0.9, -56), (wide * (1.3 if skirt else 0.9), hem, 1),
               (-wide * (1.3 if skirt else 0.9), hem, 1), (-wide * 0.9, -56)], 2.4)  # fmt: skip
    pen.stroke([(0, -78), (1, -56), (0, hem - 2)], 1.4)
    if skirt:
        for k in (-0.6, 0.6):
            pen.stroke([(wide * k * 0.7, -44), (wide * k, hem - 3)], 1.3)
        pen.use("Cuff", 2)
        pen.shape([(-wide * 0.5, -56, 1), (wide * 0.5, -56, 1), (wide * 0.7, -10, 1), (-wide * 0.7, -10, 1)], 1.8)
    pen.use(coat, 2)
    for side in (-1, 1):
        out = wide * float(rng.uniform(0.9, 1.25))
        arm, hand = _arm(("down", "up", "down", "hip", "out", "hip", "down")[(3 * seed + 2 * side) % 7], out, wide)
        pen.shape([(side * x, y, *corner) for x, y, *corner in arm], 2.0)
        pen.use("Skin", 0.8)
        pen.shape(ring(side * hand[0], hand[1], 3.2, 3.4, 8), 1.5)
        pen.use(coat, 2)
    face = float(rng.uniform(-3, 3))
    pen.use("Skin", 2.6)
    pen.shape([(-8, -92), (-7, -84), (0, -79), (7, -84), (8, -92), (5, -99), (-5, -99)], 2.2)
    pen.stroke([(face - 2.4, -91), (face - 2.3, -89)], 1.8, taper=(0.8, 0.8), wobble=0)
    pen.stroke([(face + 2.4, -91), (face + 2.5, -89)], 1.8, taper=(0.8, 0.8), wobble=0)
    pen.stroke([(face, -89), (face + 1, -87), (face - 0.4, -86.4)], 1.0)
    pen.stroke([(face - 2, -84), (face + 2, -83.6)], 1.1)
    kind = int(rng.integers(4))
    if kind == 0:
        pen.use("Hat", 2)
        pen.shape([(-12, -95, 1), (12, -95, 1), (8, -98), (7, -108), (-7, -108), (-8, -98)], 2.2)
    elif kind == 1:
        pen.use("Stripe", 2)
        pen.shape([(-9, -92, 1), (-11, -104), (0, -110), (11, -104), (9, -92, 1), (6, -99), (-6, -99)], 2.2)
        pen.shape([(-8, -84, 1), (-12, -78), (0, -75), (12, -78), (8, -84, 1), (0, -79.6)], 1.8)
    elif kind == 2:
        pen.use("Hair", 2)
        pen.shape([(-9, -88, 1), (-10, -102), (0, -107), (10, -102), (9, -88, 1), (6, -97), (0, -99), (-6, -96)], 2.2)
        pen.shape(ring(0, -109, 5, 4, 9), 1.8)
    else:
        pen.use("Beard", 2)
        pen.shape([(-8, -88, 1), (-7, -78), (0, -71), (7, -78), (8, -88, 1), (4, -84), (-4, -84)], 2.0)
        pen.use("Hair", 2)
        pen.shape([(-9, -92, 1), (-9, -102), (0, -105), (9, -102), (9, -92, 1), (4, -99), (-4, -99)], 2.0)


def _arm(how: str, out: float, wide: float) -> tuple[list[tuple[float, ...]], tuple[float, float]]:
    """Return the outline of somebody's right arm and where its hand is: hanging, raised, on the hip or held out."""
    top, under = (0.55 * wide, -78.0, 1), (0.55 * wide, -63.0, 1)
    if how == "up":
        return [top, (out + 4, -85), (out + 8, -104, 1), (out + 2.5, -105, 1), (out - 2, -88), under], (out + 5, -107.5)
    if how == "hip":
        return [top, (out + 7, -64, 1), (0.85 * wide, -51, 1), (0.8 * wide, -57, 1), (out, -64), under], (0.8 * wide, -52)
    if how == "out":
        return [top, (out + 12, -75, 1), (out + 12, -69, 1), under], (out + 14, -71.5)
    return [top, (out, -66), (out, -48, 1), (out - 5, -46, 1), (0.55 * wide, -62, 1)], (out - 2.4, -44)


def bricks(pen: Pen, x: float, y: float, wide: float, high: float, brick: tuple[float, float], pot: str, seed: int, *, every: bool) -> None:
    """Draw a wall of bricks laid in bond; with `every` each brick is a shape of its own, else a few are hinted at."""
    rng = np.random.default_rng(seed)
    pen.frame = Frame()
    rows = int(high / brick[1])
    for row in range(rows):
        top = y + row * brick[1]
        at = x - (brick[0] / 2 if row % 2 else 0)
        while at < x + wide - 2:
            left, right = max(at, x), min(at + brick[0], x + wide)
            if every and right - left > 4:
                pen.use(pot if rng.random() < 0.75 else "Brick dark")
                inset = 0.9
                pen.shape([(left + inset, top + inset), (right - inset, top + inset), (right - inset, top + brick[1] - inset),
                           (left + inset, top + brick[1] - inset)], 1.3, smooth=False)  # fmt: skip
            elif not every and rng.random() < 0.3:
                pen.stroke([(left + 2, top), (left + 2 + 0.6 * brick[0], top)], 1.2, taper=(0.7, 0.7))
            at += brick[0]


def ivy(pen: Pen, path: list[tuple[float, float]], spread: float, leaves: int, seed: int) -> None:
    """Draw leaves growing along a path, the later over the earlier, each a shape."""
    rng = np.random.default_rng(seed)
    pen.frame = Frame()
    line = np.array(path)
    pen.stroke(path, 2.4, taper=(1, 0.3), sheet="contour")
    for _ in range(leaves):
        part = float(rng.uniform(0, len(line) - 1.001))
        k = int(part)
        at = line[k] + (line[k + 1] - line[k]) * (part - k) + rng.normal(0, spread, 2)
        size = float(rng.uniform(8, 14))
        pen.frame = Frame(float(at[0]), float(at[1]), size / 10, float(rng.uniform(-70, 70)))
        pen.use("Leaf" if rng.random() < 0.7 else "Leaf dark", 1.6)
        pen.shape([(0, 9, 1), (-7, 4, 1), (-10, -3), (-5, -3, 1), (-4, -9), (0, -11, 1), (4, -9), (5, -3, 1), (10, -3), (7, 4, 1)], 1.5)
        pen.stroke([(0, 8), (0, -6)], 1.0)


def cobbles(pen: Pen, x: float, y: float, wide: float, rows: int, first: float, seed: int) -> None:
    """Draw cobbles in rows that grow towards the front, each a shape."""
    rng = np.random.default_rng(seed)
    pen.frame = Frame()
    top, size = y, first
    for row in range(rows):
        at = x - float(rng.uniform(0, size))
        while at < x + wide:
            across = size * float(rng.uniform(1.2, 1.9))
            pen.use("Cobble" if rng.random() < 0.7 else "Cobble dark", 0.14 * size)
            jit = rng.uniform(-0.1, 0.1, (6, 2)) * size
            corners = [(0.1, 0.5), (0.3, 0.1), (0.75, 0.1), (0.95, 0.5), (0.75, 0.9), (0.25, 0.9)]
            pen.shape([(at + c * across + jit[i][0], top + r * size + jit[i][1]) for i, (c, r) in enumerate(corners)], 1.1 + 0.03 * size)
            at += across
        top += size * 0.92
        size *= 1.12 if row < rows else 1.0
