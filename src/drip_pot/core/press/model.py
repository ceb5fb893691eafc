# SPDX-License-Identifier: GPL-3.0-or-later
"""Which inks make a colour on a press, and how inks look there. Knows press conditions and colour spaces only."""

import msgspec
import numpy as np

from drip_pot.core.arrays import F64, I64, U8
from drip_pot.core.color import linear_to_oklab, linear_to_srgb, oklab_to_linear, srgb8_to_oklab, srgb_to_linear
from drip_pot.core.errors import BadInput
from drip_pot.core.press.conditions import CONDITIONS, Condition
from drip_pot.core.press.screens import SCREENS, SPOT_SCREEN, Screen, Screens

_WEIGHT = np.array([0.4, 1.0, 1.0])
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
_ROUNDS, _STEPS, _UNDER, _PALER = 4, 30, 0.7, 1.5
_SPRING, _DAMPING = np.array([0.1, 0.1, 0.1, 0.15]), 1e-7 * np.eye(4)
_SPOT = 0.6  # of the light, that a solid spot ink takes away
_COLORFUL, _MOST_BLACK = 0.12, 0.95
_STILL = 1e-6  # of a solid


class PressSettings(msgspec.Struct, frozen=True):
    """How a page goes to press.

    Parameters
    ----------
    ink_limit : int
        Most ink on one spot, the sum of all plates in per cent (200..400).
    black : float
        Black generation: how much of the grey in a colour black ink takes over (0..1).
    trap_mm : float
        How far the lighter colour spreads into the darker one (0..1 mm); 0 traps nothing.
    tolerance_mm : float
        How far two plates may stray from each other, for the register test (0..0.5 mm).
    condition : str
        One of `CONDITIONS`.
    black_from : float
        How dark a grey is, as a share of solid, where black ink begins (0..0.9).
    enrich : bool
        Whether large blacks are enriched by one mixture of inks.
    screens : tuple of Screen
        Ruling, angle and dot of cyan, magenta, yellow and black.
    spot_screens : tuple of (str, Screen)
        Those of inks beside the four, by name; one that is not told has the usual screen.
    """

    ink_limit: int = 300
    black: float = 0.6
    trap_mm: float = 0.12
    tolerance_mm: float = 0.1
    condition: str = "coated"
    black_from: float = 0.15
    enrich: bool = True
    screens: Screens = SCREENS
    spot_screens: tuple[tuple[str, Screen], ...] = ()

    def __post_init__(self) -> None:
        if not 200 <= self.ink_limit <= 400:
            raise BadInput("The ink limit goes from 200 to 400 %, not {0}.", self.ink_limit)
        if not 0 <= self.black <= 1:
            raise BadInput("Black generation goes from 0 to 100 %, not {0:g}.", self.black * 100)
        if not 0 <= self.trap_mm <= 1:
            raise BadInput("Trap width goes from 0 to 1 mm, not {0:g}.", self.trap_mm)
        if not 0 <= self.tolerance_mm <= 0.5:
            raise BadInput("Register tolerance goes from 0 to 0.5 mm, not {0:g}.", self.tolerance_mm)
        if not 0 <= self.black_from <= 0.9:
            raise BadInput("Black ink begins at 0 to 90 %, not {0:g}.", self.black_from * 100)
        if self.condition not in CONDITIONS:
            raise BadInput("There is no press condition '{0}'. Choose from {1}.", self.condition, ", ".join(CONDITIONS))

    @property
    def press(self) -> Condition:
        """The press condition."""
        return CONDITIONS[self.condition]

    def screens_of(self, spots: tuple[str, ...]) -> tuple[Screen, ...]:
        """Return the screens of the four plates and of inks beside them, by name."""
        own = dict(self.spot_screens)
        return (*self.screens, *(own.get(name, SPOT_SCREEN) for name in spots))

    def with_screen(self, plate: int, screen: Screen, spots: tuple[str, ...] = ()) -> "PressSettings":
        """Return settings with another screen of a plate, 0..3, or, from 4 on, of one of `spots`."""
        if plate < len(SCREENS):
            every = (*self.screens[:plate], screen, *self.screens[plate + 1 :])
            return msgspec.structs.replace(self, screens=every)
        own = dict(self.spot_screens) | {spots[plate - len(SCREENS)]: screen}
        return msgspec.structs.replace(self, spot_screens=tuple(own.items()))


def appearance(cmyk: U8, condition: str = "coated", *, paper: bool = False) -> U8:
    """Show how inks look on the sheet.

    Parameters
    ----------
    cmyk : (…, 4) ndarray of uint8
        Plate values, 0 no ink, 255 solid.
    condition : str
        One of `CONDITIONS`.
    paper : bool
        Whether the sheet has its own colour; else it is white.

    Returns
    -------
    (…, 3) ndarray of uint8
        sRGB; what lies outside is cut off.
    """
    press = CONDITIONS[condition]
    flat = np.ascontiguousarray(cmyk).reshape(-1, 4)
    different, where = np.unique(flat.view(np.uint32)[:, 0], return_inverse=True)  # four bytes at once
    linear = press.light(different.view(np.uint8).reshape(-1, 4).astype(np.float64) / 255)
    linear = press.on_paper(linear) if paper else linear
    rgb = np.rint(linear_to_srgb(np.clip(linear, 0, 1)) * 255).astype(np.uint8)
    return np.asarray(rgb[where].reshape(*cmyk.shape[:-1], 3))


def lightness_of(inks: U8, condition: str = "coated", solids: F64 | None = None) -> F64:
    """Return CIE L* (0..100, paper is 100), (N,) float64, of (N, P) uint8 inks on a press.

    `solids` (P - 4, 3) float64 are the linear light, 0..1, that solids of further plates leave; None is the usual.
    """
    linear = CONDITIONS[condition].light(inks[:, :4] / 255.0)
    y = np.clip(linear @ LUMINANCE, 1e-4, 1)
    for plate in range(4, inks.shape[1]):
        taken = _SPOT if solids is None else 1 - float(solids[plate - 4] @ LUMINANCE)
        y = y * (1 - taken * inks[:, plate] / 255.0)
    return np.asarray(np.where(y > (6 / 29) ** 3, 116 * np.cbrt(y) - 16, y * (29 / 3) ** 3))


def with_spot(rgb: U8, cover: U8, solid: U8) -> U8:
    """Print a spot ink over what is seen: (…, 3) uint8 sRGB, (…) uint8 coverage, (3,) uint8 of a solid of it.

    It is taken as transparent: a solid takes as much of every light as it does on white.
    """
    if not cover.any():
        return rgb
    keep = 1 - (cover[..., None] / 255) * (1 - srgb_to_linear(solid / 255))
    out = rgb.copy()
    where = cover > 0
    out[where] = np.rint(linear_to_srgb(srgb_to_linear(rgb[where] / 255) * keep[where]) * 255)
    return out


def separate_colors(rgb: U8, settings: PressSettings) -> tuple[U8, F64]:
    """Find the inks for colours.

    Parameters
    ----------
    rgb : (N, 3) ndarray of uint8
        sRGB colours.
    settings : PressSettings
        Condition, ink limit and black are used.

    Returns
    -------
    cmyk : (N, 4) ndarray of uint8
        Plate values, never above the ink limit (rounded to 1/255).
    miss : (N,) ndarray of float64
        OKLab distance × 100 between the colour wanted and the colour printed.

    Notes
    -----
    Below what the press can print, lightness bends to the darkest it can, and chroma with it. Black follows a curve of
    darkness; the other inks begin at what they take of the light, less what black does. From there all four are
    adjusted in OKLab by Gauss-Newton steps with the areas kept within 0..1, lightness weighing 0.4, so that a colour no
    press can reach keeps its hue. Every ink is held where it began by a spring, which lets go in a few rounds
    (iterated Tikhonov regularisation: Engl, Hanke and Neubauer, "Regularization of Inverse Problems", 1996): inks that
    hardly show, as under black, stay where they are, and a change of 1/255 in a colour moves no plate by more than 3 %.
    """
    rgb = np.asarray(rgb, np.uint8).reshape(-1, 3)
    if len(rgb) == 0:
        return np.zeros((0, 4), np.uint8), np.zeros(0)
    return separate_lab(srgb8_to_oklab(rgb), settings)


def separate_lab(oklab: F64, settings: PressSettings) -> tuple[U8, F64]:
    """Find the inks for colours as `separate_colors`, of (N, 3) float64 OKLab, whatever screens can show of it."""
    press, limit = settings.press, settings.ink_limit / 100
    wanted = np.array(oklab, np.float64)
    darkest = _darkest(press, limit)
    lightness = _within_reach(wanted[:, 0], darkest)
    share = np.clip(wanted[:, 0] / np.maximum(lightness, 1e-9), 0, 1)
    wanted = np.column_stack([lightness, wanted[:, 1:] * share[:, None] ** _PALER])
    black = _black_of(wanted, darkest, settings)[:, None]
    three = np.clip(np.clip(1 - oklab_to_linear(wanted), 0, 1) - _UNDER * black, 0, 1)
    room = (limit - black) / np.maximum(three.sum(axis=1, keepdims=True), 1e-9)
    inks = np.concatenate([three * np.minimum(room, 1), black], axis=1)
    for _ in range(_ROUNDS):
        inks = _nearer(press, wanted, inks, limit)
    over = inks.sum(axis=1) > limit
    room = (limit - inks[over, 3:]) / np.maximum(inks[over, :3].sum(axis=1, keepdims=True), 1e-9)
    inks[over, :3] *= room
    cmyk = np.floor(inks * 255 + np.where(over[:, None], 0.0, 0.5)).astype(np.uint8)
    miss = np.linalg.norm(linear_to_oklab(press.light(cmyk / 255.0)) - wanted, axis=1) * 100
    return cmyk, miss


def rich_black(settings: PressSettings) -> U8:
    """Return the one mixture under large blacks, (4,) uint8: 60 / 40 / 40 / 100, less where the limit asks for it."""
    under = np.array([60, 40, 40]) * min(1.0, (settings.ink_limit - 100) / 140)
    return np.array([*np.floor(np.floor(under) * 2.55), 255], np.uint8)


def _darkest(press: Condition, limit: float) -> float:
    """Return the OKLab lightness of the darkest black within the limit."""
    under = min(0.6, (limit - 1) / 3)
    return float(linear_to_oklab(press.light(np.array([[under, under, under, 1.0]])))[0, 0])


def _black_of(wanted: F64, darkest: float, settings: PressSettings) -> F64:
    """Return how much black ink a colour is given: by how dark it is, less the more colourful it is."""
    dark = np.clip((1 - wanted[:, 0]) / (1 - darkest), 0, 1)
    share = np.clip((dark - settings.black_from) / (1 - settings.black_from), 0, 1)
    grey = 1 / (1 + (np.hypot(wanted[:, 1], wanted[:, 2]) / _COLORFUL) ** 2)
    return np.asarray(_MOST_BLACK * share ** (3 - 2.2 * settings.black) * grey)


def _within_reach(lightness: F64, darkest: float) -> F64:
    """Bend lightness to the darkest the press can print: what is well above it stays as it is."""
    knee = darkest / 2
    above = lightness - darkest
    return np.where(above > knee, lightness, darkest + np.maximum(above + knee, 0) ** 2 / (4 * knee))


def _nearer(press: Condition, wanted: F64, inks: F64, limit: float) -> F64:
    """Adjust (N, 4) `inks` until they look as (N, 3) OKLab `wanted`, as far as a spring and the limit let them."""
    inks, held, rows = inks.copy(), inks.copy(), np.arange(len(inks))
    plates = np.arange(4)

    def residual(tried: F64, of: I64) -> F64:
        error = (linear_to_oklab(press.light(tried)) - wanted[of]) * _WEIGHT
        over = np.maximum(tried.sum(axis=1) - limit, 0)
        return np.column_stack([error, (tried - held[of]) * _SPRING, over])

    for _ in range(_STEPS):
        now = inks[rows]
        step = np.where(now > 0.5, -0.01, 0.01)
        tried = np.repeat(now[None], 5, axis=0)  # as they are, and each ink moved by itself
        tried[plates + 1, :, plates] += step.T
        found = residual(tried.reshape(-1, 4), np.tile(rows, 5)).reshape(5, len(rows), -1)
        slope = np.moveaxis((found[1:] - found[0]) / step.T[..., None], 0, -1)
        inks[rows] = np.clip(now - _step(slope, found[0], now), 0, 1)
        rows = rows[np.abs(inks[rows] - now).max(axis=1) > _STILL]  # those that no longer move are left alone
        if not len(rows):
            break
    return inks


def _step(slope: F64, error: F64, inks: F64) -> F64:
    """Return a Gauss-Newton step for areas, (N, P), none of which leaves 0..1, at most a quarter at once."""
    pull = np.einsum("nij,ni->nj", slope, error)
    held = ((inks <= 0) & (pull > 0)) | ((inks >= 1) & (pull < 0))
    slope = np.where(held[:, None, :], 0.0, slope)
    normal = np.einsum("nij,nik->njk", slope, slope) + _DAMPING
    change = np.linalg.solve(normal, np.einsum("nij,ni->nj", slope, error)[..., None])[..., 0]
    return np.clip(change, -0.25, 0.25)
