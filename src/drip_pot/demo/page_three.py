# SPDX-License-Identifier: GPL-3.0-or-later
"""Page three: market day. The dense page: bricks, ivy, cobbles, awnings, crates, rope, hair and hatching."""

import math
from itertools import pairwise

import numpy as np

from drip_pot.demo.cast import cloud, house, kite, wren_face, wren_standing
from drip_pot.demo.folk import bricks, cat, cobbles, ivy, pim_small, ring, townsman
from drip_pot.demo.pen import Frame, Pen


def draw_page_three(pen: Pen) -> None:
    """Draw the three panels."""
    _market(pen)
    _hair(pen)
    _rope(pen)


def _market(pen: Pen) -> None:
    """Panel 1: the square, from the arch to the far roofs, everybody out."""
    pen.begin_panel([(40, 40), (960, 40), (960, 1010), (40, 1010)], "Air")
    cloud(pen, Frame(420, 130, 1.0), 1.6)
    cloud(pen, Frame(640, 220, 0.6), 1.4)
    rng = np.random.default_rng(21)
    for depth, base, size in ((0.9, 330.0, 60.0), (0.6, 400, 92)):
        x = 96.0
        while x < 880:
            wide = size * float(rng.uniform(0.9, 1.4))
            house(pen, x, base + float(rng.uniform(-16, 12)), wide, 260, size * float(rng.uniform(0.45, 0.7)), depth=depth, windows=2)
            x += wide * 1.02
    # town hall
    pen.frame = Frame()
    pen.use("Stone", 14)
    pen.shape([(430, 300), (570, 300), (570, 640), (430, 640)], 2.4, smooth=False)
    pen.use("Slate", 14)
    pen.shape([(416, 304), (500, 180), (584, 304)], 2.4, smooth=False)
    pen.use("Plaster", 2)
    pen.shape(ring(500, 350, 26, 26, 17), 2.2)
    pen.stroke([(500, 350), (500, 332)], 2.0, taper=(1, 1), wobble=0)
    pen.stroke([(500, 350), (512, 356)], 2.0, taper=(1, 1), wobble=0)
    for y in (410, 480):
        for x in (450, 486, 522):
            pen.use("Window", 3)
            pen.shape([(x, y + 44, 1), (x, y + 12), (x + 14, y), (x + 28, y + 12), (x + 28, y + 44, 1)], 1.8)
            pen.stroke([(x + 14, y), (x + 14, y + 44)], 1.2, taper=(1, 1), wobble=0)
    pen.frame = Frame()
    pen.use("Cobble dark")
    pen.shape([(30, 636), (970, 636), (970, 1020), (30, 1020)], 2.0, smooth=False)
    cobbles(pen, 30, 640, 950, 14, 15, 4)
    _bunting(pen, (120, 300), (880, 330), 60, 24)
    _bunting(pen, (96, 420), (500, 292), 40, 13)
    # crowd behind the stalls
    _crowd(pen, rng, 13, 690, 30, (0.96, 1.12), 100)
    _stall(pen, 190, 560, 210, 170, ("Ember", "Straw"), 1)
    _stall(pen, 600, 550, 220, 180, ("Cobalt", "Straw"), 2)
    _crowd(pen, rng, 9, 812, 70, (1.34, 1.62), 300)
    wren_standing(pen, Frame(500, 886, 1.9))
    pen.frame = Frame()
    _crates(pen)
    # the arch in front: brick piers with ivy
    for x, wide in ((20, 112), (870, 112)):
        pen.frame = Frame()
        pen.use("Brick", 20)
        pen.shape([(x, 20), (x + wide, 20), (x + wide, 1030), (x, 1030)], 3.6, smooth=False)
        bricks(pen, x, 30, wide, 990, (28, 13), "Brick", int(x), every=True)
    ivy(pen, [(60, 1000), (80, 800), (50, 600), (104, 420), (70, 240), (130, 90)], 17, 190, 31)
    ivy(pen, [(930, 1000), (900, 820), (940, 620), (884, 430), (930, 250), (880, 60)], 15, 170, 32)
    ivy(pen, [(60, 60), (300, 52), (520, 70), (760, 50), (930, 64)], 10, 120, 33)
    pim_small(pen, Frame(724, 984, 2.3))
    cat(pen, Frame(800, 992, 1.3))
    pen.end_panel()


def _crowd(pen: Pen, rng: np.random.Generator, count: int, back: float, deep: float, scales: tuple[float, float], seed: int) -> None:
    """Draw people scattered in a band, those further back smaller and behind."""
    spots = [(170 + 660 * (k + float(rng.uniform(0.1, 0.9))) / count, float(rng.uniform(0, 1))) for k in range(count)]
    for k, (x, near) in enumerate(sorted(spots, key=lambda spot: spot[1])):
        scale = scales[0] + (scales[1] - scales[0]) * near
        townsman(pen, Frame(x, back + deep * near, scale, (37 * k % 11 - 5) * 1.0, bool(k % 2)), seed + k)


def _bunting(pen: Pen, a: tuple[float, float], b: tuple[float, float], sag: float, flags: int) -> None:
    """Draw a rope of flags from a to b."""
    pen.frame = Frame()
    part = np.linspace(0, 1, flags + 1)
    line = [(a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t + sag * 4 * t * (1 - t)) for t in part]
    pen.stroke(line, 1.8, taper=(1, 1), sheet="contour")
    for k, (p, q) in enumerate(pairwise(line)):
        pen.use(("Ember", "Straw", "Cobalt", "Saffron")[k % 4], 3)
        tip = ((p[0] + q[0]) / 2, (p[1] + q[1]) / 2 + 0.9 * math.hypot(q[0] - p[0], q[1] - p[1]))
        pen.shape([(p[0] + 2, p[1], 1), (q[0] - 2, q[1], 1), (*tip, 1)], 1.5)


def _stall(pen: Pen, x: float, y: float, wide: float, high: float, cloth: tuple[str, str], seed: int) -> None:
    """Draw a stall with a striped awning and fruit on the counter."""
    rng = np.random.default_rng(seed)
    pen.frame = Frame()
    pen.use("Wood", 3)
    for post in (x + 6, x + wide - 14):
        pen.shape([(post, y), (post + 8, y), (post + 8, y + high), (post, y + high)], 2.2, smooth=False)
    pen.use("Wood", 6)
    pen.shape([(x - 6, y + 0.58 * high), (x + wide + 6, y + 0.58 * high), (x + wide, y + high), (x, y + high)], 2.8, smooth=False)
    for k in range(1, 7):
        pen.stroke([(x + wide * k / 7, y + 0.6 * high), (x + wide * k / 7, y + high - 2)], 1.4, taper=(1, 1))
    for row in range(3):
        for k in range(13 - row):
            at = x + 10 + wide * (k + 0.5 * row) / 13
            pen.use(("Ember", "Saffron", "Leaf", "Cuff")[int(rng.integers(4))], 2)
            pen.shape(ring(at, y + 0.55 * high - 9 * row, 8, 7.4, 9), 1.5)
    stripes = 9
    for k in range(stripes):
        pen.use(cloth[k % 2], 3)
        a, b = x - 16 + (wide + 32) * k / stripes, x - 16 + (wide + 32) * (k + 1) / stripes
        c, d = x + 12 + (wide - 24) * k / stripes, x + 12 + (wide - 24) * (k + 1) / stripes
        pen.shape([(c, y - 58, 1), (d, y - 58, 1), (b, y, 1), (b, y + 10), ((a + b) / 2, y + 20), (a, y + 10), (a, y, 1)], 2.2)


def _crates(pen: Pen) -> None:
    """Draw crates and a basket in the foreground."""
    for x, y in ((170, 900), (262, 926)):
        pen.use("Wood", 5)
        pen.shape([(x, y), (x + 84, y), (x + 84, y + 60), (x, y + 60)], 2.8, smooth=False)
        for k in range(2):
            pen.stroke([(x + 2, y + 20 + 20 * k), (x + 82, y + 20 + 20 * k)], 1.8, taper=(1, 1))
        for row in range(2):
            for k in range(6 - row):
                pen.use("Ember" if (k + row) % 3 else "Leaf", 2)
                pen.shape(ring(x + 9 + 13.5 * k + 6 * row, y - 4 - 10 * row, 8, 7.6, 9), 1.7)
    pen.use("Cuff", 6)
    pen.shape([(600, 930, 1), (700, 930, 1), (688, 992), (650, 1000), (612, 992)], 2.8)
    for row in range(5):
        for k in range(8 - row // 2):
            x, y = 606 + 12 * k + 2 * row, 938 + 11 * row
            pen.stroke([(x, y), (x + 5, y + 4), (x + 10, y)], 1.6, taper=(0.6, 0.6))
    for k in range(9):
        pen.use("Saffron", 2)
        pen.shape(ring(612 + 10 * k, 926 - 5 * (k % 2), 8, 6.5, 9), 1.6)


def _hair(pen: Pen) -> None:
    """Panel 2: Wren in the wind, hair in strands."""
    pen.begin_panel([(40, 1034), (470, 1034), (470, 1478), (40, 1478)], "Band")
    pen.frame = Frame()
    for k in range(46):
        x = 46 + 9.4 * k
        pen.stroke([(x, 1040 + 10 * math.sin(k)), (x - 26, 1096 + 24 * math.sin(k * 1.9))], 1.3)
    rng = np.random.default_rng(8)
    for k in range(64):
        root = (float(rng.uniform(200, 250)), float(rng.uniform(1190, 1330)))
        sweep = float(rng.uniform(110, 200))
        end = (root[0] - sweep, root[1] + float(rng.uniform(-60, 110)))
        middle = (root[0] - 0.5 * sweep, root[1] - 20 + 0.3 * (end[1] - root[1]))
        pen.frame = Frame()
        if k % 3:
            pen.use("Hair", 1)
            pen.shape([(root[0], root[1] - 5, 1), (middle[0], middle[1] - 7), (*end, 1), (middle[0] + 4, middle[1] + 7)], 1.5)
        else:
            pen.stroke([root, middle, end], 1.6, taper=(0.7, 0.05))
    wren_face(pen, Frame(110, 1084, 1.16))
    pen.end_panel()


def _rope(pen: Pen) -> None:
    """Panel 3: hands coil the string; a rope, a spool, hatching in the shadow."""
    pen.begin_panel([(494, 1034), (960, 1034), (960, 1478), (494, 1478)], "Flash")
    pen.frame = Frame()
    for k in range(60):
        x = 500 + 8 * k
        pen.stroke([(x, 1040), (x - 60, 1130 + 20 * math.sin(k * 0.7))], 1.5, taper=(1, 0.05))
    kite(pen, Frame(860, 1160, 1.3, 16))
    for turn in range(7):
        _twist(pen, ring(680, 1330, 150 - 17 * turn, 92 - 10 * turn, 31, 0.4 * turn), 9.0)
    pen.frame = Frame(830, 1420, 1.0)
    pen.use("Coat", 14)
    pen.shape([(150, 60, 1), (70, -40), (20, -70, 1), (-14, -30, 1), (30, 30), (70, 90, 1)], 3.4)
    pen.use("Cuff", 5)
    pen.shape([(30, -74, 1), (8, -86, 1), (-32, -40, 1), (-14, -22, 1)], 2.8)
    pen.use("Skin", 8)
    pen.shape([(2, -84, 1), (-24, -112), (-62, -112), (-82, -92), (-78, -64), (-50, -44), (-30, -38, 1)], 3.2)
    for k in range(3):
        pen.stroke([(-40 - 8 * k, -108 + 14 * k), (-72 - 2 * k, -104 + 14 * k), (-80, -92 + 12 * k)], 2.0)
    pen.shape([(-30, -50, 1), (-56, -40), (-66, -52), (-56, -66), (-34, -68, 1)], 2.6)
    pen.frame = Frame()
    pen.use("Straw", 8)
    pen.shape([(540, 1400, 1), (540, 1450), (572, 1460), (604, 1450), (604, 1400, 1)], 2.8)
    pen.use("Wood", 3)
    pen.shape(ring(572, 1400, 40, 12), 2.6)
    for k in range(4):
        pen.stroke([(541, 1412 + 10 * k), (572, 1421 + 10 * k), (603, 1412 + 10 * k)], 1.6, taper=(1, 1))
    pen.end_panel()


def _twist(pen: Pen, path: list[tuple[float, float]], width: float) -> None:
    """Draw a twisted rope along a closed path: every strand is a shape."""
    line = np.array([*path, path[0]])
    lengths = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    count = int(lengths[-1] / (1.3 * width))
    pen.frame = Frame()
    for k in range(count):
        at = [np.array([np.interp(lengths[-1] * (k + d) / count, lengths, line[:, i]) for i in (0, 1)]) for d in (0, 1.0)]
        step = at[1] - at[0]
        normal = np.array([-step[1], step[0]]) / max(float(np.hypot(*step)), 1e-6) * width / 2
        a, b = at[0] - normal, at[1] - normal
        c, d = at[1] + normal + 0.5 * step, at[0] + normal + 0.5 * step
        pen.use("Rope", 1.2)
        pen.shape([(*a, 1), (*b, 1), (*c, 1), (*d, 1)], 1.5)
