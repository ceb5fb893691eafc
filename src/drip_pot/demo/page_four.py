# SPDX-License-Identifier: GPL-3.0-or-later
"""Page four: the storm. Solid blacks, glows, rain and effect lines; lettering on a sheet of its own."""

import math

import numpy as np

from drip_pot.demo.cast import chimney, cloud, house, kite, kite_tail, wren_face, wren_standing
from drip_pot.demo.folk import Aside, bram_bust, cat, lamp_post, ring
from drip_pot.demo.pen import Frame, Pen

NIGHT = {
    "Tile": "Wet tile", "Slate": "Wet slate", "Brick": "Wet tile", "Plaster": "Night wall", "Stone": "Night stone",
    "Far wall": "Far night", "Far roof": "Far night", "Window": "Glow", "Cobble": "Night stone", "Cobble dark": "Night stone",
}  # fmt: skip


def draw_page_four(pen: Pen) -> None:
    """Draw the five panels, then the lettering over all."""
    pen.swap = NIGHT
    _roof(pen)
    _shout(pen)
    _strike(pen)
    _grip(pen)
    _home(pen)
    pen.balloon(250, 120, ["THE SPAR IS CRACKING!"], 25, (300, 236))
    pen.balloon(176, 706, ["LET IT GO,", "WREN!"], 27, (176, 872))
    pen.balloon(800, 1120, ["THERE. DRY,", "AND IN ONE PIECE."], 25, (700, 1226))
    pen.write(724, 690, "KRAKK", 96, 9)


def rain(
    pen: Pen, box: tuple[float, float, float, float], drops: int, seed: int, length: float = 46,
    face: tuple[float, float, float] | None = None,
) -> None:  # fmt: skip
    """Draw slanting rain over a rectangle (left, top, right, bottom), on the effect sheet; none over a face (a disc)."""
    rng = np.random.default_rng(seed)
    pen.frame = Frame()
    for _ in range(drops):
        x, y = float(rng.uniform(box[0], box[2] + 40)), float(rng.uniform(box[1] - 30, box[3]))
        long = length * float(rng.uniform(0.6, 1.3))
        if face is not None and any(
            math.hypot(x - 0.32 * long * t - face[0], y + long * t - face[1]) < face[2] for t in (0.0, 0.25, 0.5, 0.75, 1.0)
        ):
            continue
        pen.stroke([(x, y), (x - 0.32 * long, y + long)], 1.7, taper=(0.2, 0.6), wobble=0.2, sheet="effect")


def bolt(pen: Pen, x: float, y: float, high: float, lean: float, seed: int) -> None:
    """Draw a bolt of lightning from (x, y) downwards."""
    rng = np.random.default_rng(seed)
    pen.frame = Frame()
    pen.use("Lightning")
    steps = 6
    spine = [(x + lean * k / steps + float(rng.uniform(-24, 24)) * (0 < k < steps), y + high * k / steps) for k in range(steps + 1)]
    left = [(px - 11 * (1 - k / steps), py, 1.0) for k, (px, py) in enumerate(spine)]
    right = [(px + 13 * (1 - k / steps), py + 9, 1.0) for k, (px, py) in enumerate(spine[:-1])]
    pen.shape([*left, *reversed(right)], 2.6)


def _storm_sky(pen: Pen) -> None:
    """Draw heavy clouds along the top, blackest beneath."""
    pen.frame = Frame()
    pen.black([(20, 20), (980, 20), (980, 150), (860, 128), (700, 152), (520, 122), (330, 150), (160, 124), (20, 150)])
    for x, y, s in ((60, 150, 1.25), (300, 158, 1.45), (560, 146, 1.3), (790, 160, 1.4), (960, 146, 1.2)):
        cloud(pen, Frame(x, y, s), 2.2, "Storm dark")
    for x, y, s in ((180, 100, 1.2), (430, 96, 1.3), (680, 104, 1.25), (900, 92, 1.2), (20, 86, 1.0)):
        cloud(pen, Frame(x, y, s), 2.2, "Storm cloud")


def _roof(pen: Pen) -> None:
    """Panel 1: Wren on the ridge, the town below black but for its windows."""
    pen.begin_panel([(40, 40), (960, 40), (960, 620), (40, 620)], "Night")
    pen.frame = Frame()
    pen.use("Night glow")
    pen.shape(ring(722, 260, 250, 190, 29), 1.8)
    bolt(pen, 860, 90, 330, -70, 3)
    bolt(pen, 150, 100, 250, 40, 4)
    _storm_sky(pen)
    rng = np.random.default_rng(12)
    for depth, base, size in ((0.9, 430.0, 60.0), (0.62, 478, 96)):
        x = 20.0
        while x < 990:
            wide = size * float(rng.uniform(0.8, 1.3))
            level = base + float(rng.uniform(-14, 14))
            house(pen, x, level, wide, 240, size * float(rng.uniform(0.42, 0.62)), depth=depth, windows=2)
            if rng.random() < 0.55:
                pen.frame = Frame()
                pen.black([(x + 0.62 * wide, level + 4), (x + wide, level + 4), (x + wide, level + 240), (x + 0.62 * wide, level + 240)], smooth=False)
            x += wide
    pen.frame = Frame()
    pen.use("Slate")
    pen.shape([(10, 680), (70, 570), (110, 536), (520, 536), (560, 570), (640, 680)], 3.8, smooth=False)
    pen.black([(10, 680), (40, 620), (560, 604), (640, 680)], smooth=False)
    pen.use("Brick", 4)
    pen.shape([(102, 524), (530, 524), (534, 540), (98, 540)], 3.0, smooth=False)
    for k in range(10):
        pen.stroke([(138 + 41 * k, 525), (135 + 41 * k, 539)], 1.8, taper=(1, 1), wobble=0)
    for row in range(3):
        for k in range(10):
            x = 116 + 44 * k + (20 if row else 0) - 10 * row
            y = 556 + 18 * row
            pen.stroke([(x, y - 5), (x + 4, y + 4), (x + 20, y + 7), (x + 36, y + 2)], 1.7)
    chimney(pen, 450, 530, 54, 86)
    pen.frame = Frame()
    pen.black([(484, 444), (504, 444), (504, 530), (484, 530)], smooth=False)
    wren_standing(pen, Frame(300, 524, 2.5))
    pen.frame = Frame()
    pen.stroke([(360, 296), (450, 262), (560, 250), (690, 266)], 1.6, taper=(1, 1), wobble=0.4, sheet="contour")
    kite(pen, Frame(740, 262, 2.2, -38), torn=True)
    kite_tail(pen, [(806, 356), (840, 384), (826, 426), (862, 452), (850, 492)], 4)
    rain(pen, (40, 40, 960, 620), 190, 5, face=(300, 306, 44))
    pen.end_panel()


def _shout(pen: Pen) -> None:
    """Panel 2: Bram calls from the window."""
    pen.begin_panel([(40, 644), (420, 644), (420, 1040), (40, 1040)], "Night")
    pen.frame = Frame()
    pen.use("Glow")
    pen.shape([(96, 700), (420, 700), (420, 1050), (96, 1050)], 3.0, smooth=False)
    pen.black([(30, 640), (96, 640), (96, 1050), (30, 1050)], smooth=False)
    for y in (676, 724, 772, 820, 868, 916, 964, 1012):
        pen.white([(44, y), (84, y), (84, y + 3), (44, y + 3)], smooth=False)
    pen.use("Wood", 4)
    pen.shape([(84, 690), (108, 690), (108, 1050), (84, 1050)], 3.0, smooth=False)
    bram_bust(pen, Aside(150, 760, 0.84, across=22, down=-8))
    rain(pen, (40, 644, 190, 1040), 34, 6)
    pen.end_panel()


def _strike(pen: Pen) -> None:
    """Panel 3: the bolt finds the kite."""
    pen.begin_panel([(444, 644), (960, 644), (960, 1040), (444, 1040)], "Night")
    cx, cy = 706, 866
    for radius, pot in ((230, "Night glow"), (170, "Halo"), (120, "Lightning")):
        pen.frame = Frame()
        pen.use(pot)
        pen.shape([(cx + (radius + 12 * math.sin(5 * a)) * math.cos(a), cy + 0.82 * radius * math.sin(a)) for a in np.linspace(0, 6.283, 33)[:-1]], 1.8)
    for k in range(54):
        angle = 2 * math.pi * (k + 0.3 * math.sin(k * 2.3)) / 54
        near = 226 + 44 * math.sin(k * 4.7)
        a = (cx + near * math.cos(angle), cy + 0.82 * near * math.sin(angle))
        b = (cx + 470 * math.cos(angle), cy + 0.82 * 470 * math.sin(angle))
        pen.frame = Frame()
        pen.stroke([b, a], 5.6, taper=(1, 0.02), wobble=0.2, sheet="effect")
    bolt(pen, 770, 630, 200, -50, 9)
    kite(pen, Frame(cx, cy + 10, 2.1, 18), torn=True)
    for x, y, s, t in ((580, 960, 1.0, 12), (830, 980, 0.8, 50), (860, 800, 0.7, -30)):
        pen.frame = Frame(x, y, s, t)
        pen.use("Ember" if t > 20 else "Cobalt", 3)
        pen.shape([(-20, -8, 1), (-4, -14), (18, -10, 1), (12, 0, 1), (20, 8, 1), (0, 10), (-16, 14, 1), (-12, 2, 1)], 2.4)
    pen.end_panel()


def _grip(pen: Pen) -> None:
    """Panel 4: Wren does not let go."""
    pen.begin_panel([(40, 1064), (470, 1064), (470, 1478), (40, 1478)], "Storm dark")
    pen.frame = Frame()
    for k in range(26):
        y = 1074 + 15.6 * k
        pen.stroke([(500, y + 8 * math.sin(k)), (330 + 60 * math.sin(k * 2.7), y + 30)], 4.0, taper=(1, 0.02), wobble=0.2, sheet="effect")
    wren_face(pen, Frame(92, 1106, 1.04))
    pen.frame = Frame()
    pen.black([(40, 1440), (110, 1424), (160, 1446), (150, 1478), (40, 1478)])
    rain(pen, (40, 1064, 470, 1478), 100, 7, 60, face=(256, 1300, 132))
    pen.end_panel()


def _home(pen: Pen) -> None:
    """Panel 5: the infirmary's window, light in the night."""
    pen.begin_panel([(494, 1064), (960, 1064), (960, 1478), (494, 1478)], "Night")
    pen.frame = Frame()
    pen.use("Night glow")
    pen.shape(ring(690, 1300, 200, 160, 25), 1.6)
    pen.use("Storm cloud")
    pen.shape([(480, 1400), (620, 1376), (800, 1392), (980, 1370), (980, 1500), (480, 1500)], 1.8)
    pen.use("Night wall", 0)
    pen.shape([(580, 1210), (800, 1210), (800, 1440), (580, 1440)], 3.0, smooth=False)
    pen.black([(752, 1212), (800, 1212), (800, 1440), (752, 1440)], smooth=False)
    pen.use("Slate", 12)
    pen.shape([(556, 1220), (616, 1130), (764, 1130), (824, 1220)], 3.2, smooth=False)
    pen.use("Glow")
    pen.shape([(612, 1254), (720, 1254), (720, 1360), (612, 1360)], 3.0, smooth=False)
    pen.use("Wood", 2)
    for box in ((662, 1254, 670, 1360), (612, 1304, 720, 1311)):
        pen.shape([(box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3])], 2.0, smooth=False)
    kite(pen, Frame(642, 1282, 0.34, 12))
    pen.frame = Frame()
    pen.use("Glow")
    pen.shape([(560, 1440, 1), (612, 1392), (720, 1392), (790, 1440, 1)], 1.8)
    pen.use("Cobble dark")
    pen.shape([(480, 1440), (980, 1440), (980, 1500), (480, 1500)], 2.6, smooth=False)
    for k in range(12):
        x, y = 500 + 40 * k, 1456 + 8 * math.sin(k * 2.1)
        pen.stroke([(x, y), (x + 14, y + 3), (x + 28, y)], 1.6)
    lamp_post(pen, 888, 1452, 240)
    cat(pen, Frame(540, 1446, 1.1))
    rain(pen, (494, 1064, 960, 1478), 110, 8)
    pen.end_panel()
