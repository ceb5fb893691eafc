"""The built-in press: how four inks look together, and which inks make a colour. Knows colour spaces only."""

import msgspec
import numpy as np

from drip_pot.core.arrays import F64, U8
from drip_pot.core.color import linear_to_oklab, linear_to_srgb, srgb8_to_oklab, srgb_to_linear
from drip_pot.core.errors import BadInput

# sRGB of paper, cyan, magenta, cyan + magenta, yellow, … : bit 0 cyan, 1 magenta, 2 yellow, 3 black.
_PRIMARIES = np.array(
    [
        [255, 255, 255], [0, 157, 224], [228, 0, 124], [46, 42, 132],
        [255, 236, 0], [0, 148, 66], [226, 20, 28], [52, 46, 44],
        [34, 32, 32], [10, 24, 34], [34, 12, 22], [16, 12, 24],
        [34, 30, 14], [10, 22, 14], [32, 12, 10], [12, 10, 10],
    ]
)  # fmt: skip
_LINEAR = srgb_to_linear(_PRIMARIES / 255.0)
_GAIN = 0.16
_WEIGHT = np.array([0.4, 1.0, 1.0])


class PressSettings(msgspec.Struct, frozen=True):
    """How a page goes to press.

    Parameters
    ----------
    ink_limit : int
        Most ink on one spot, the sum of the four plates in per cent (200..400).
    black : float
        Black generation: how much of the grey in a colour black ink takes over (0..1).
    trap_mm : float
        How far the lighter colour spreads into the darker one (0..1 mm); 0 traps nothing.
    tolerance_mm : float
        How far a plate may stray on press, for the register test (0..0.5 mm).
    """

    ink_limit: int = 300
    black: float = 0.6
    trap_mm: float = 0.12
    tolerance_mm: float = 0.1

    def __post_init__(self) -> None:
        if not 200 <= self.ink_limit <= 400:
            raise BadInput(f"The ink limit goes from 200 to 400 %, not {self.ink_limit}.")
        if not 0 <= self.black <= 1:
            raise BadInput(f"Black generation goes from 0 to 100 %, not {self.black * 100:g}.")
        if not 0 <= self.trap_mm <= 1:
            raise BadInput(f"Trap width goes from 0 to 1 mm, not {self.trap_mm:g}.")
        if not 0 <= self.tolerance_mm <= 0.5:
            raise BadInput(f"Register tolerance goes from 0 to 0.5 mm, not {self.tolerance_mm:g}.")


def _linear(inks: F64) -> F64:
    """Linear light, (N, 3), of (N, 4) ink areas 0..1."""
    printed = inks + 4 * _GAIN * inks * (1 - inks)
    weight = np.ones((len(inks), 1))
    for plate in range(4):
        area = printed[:, plate : plate + 1]
        weight = np.hstack([weight * (1 - area), weight * area])
    return np.asarray(weight @ _LINEAR)


def appearance(cmyk: U8) -> U8:
    """Show how inks look on the sheet.

    Parameters
    ----------
    cmyk : (…, 4) ndarray of uint8
        Plate values, 0 no ink, 255 solid.

    Returns
    -------
    (…, 3) ndarray of uint8
        sRGB, bare paper white.

    Notes
    -----
    Neugebauer's equations in linear light over sixteen overprints of a generic coated sheet, dot areas grown by
    a parabola of 16 % at the middle tone (Murray and Davies). See H. E. J. Neugebauer, "Die theoretischen
    Grundlagen des Mehrfarbenbuchdrucks", Zeitschrift für wissenschaftliche Photographie 36, 1937.
    """
    flat = np.ascontiguousarray(cmyk).reshape(-1, 4)
    different, where = np.unique(flat.view(np.uint32)[:, 0], return_inverse=True)  # four bytes at once
    inks = different.view(np.uint8).reshape(-1, 4).astype(np.float64) / 255
    rgb = np.rint(linear_to_srgb(np.clip(_linear(inks), 0, 1)) * 255).astype(np.uint8)
    return np.asarray(rgb[where].reshape(*cmyk.shape[:-1], 3))


def separate_colors(rgb: U8, settings: PressSettings) -> tuple[U8, F64]:
    """Find the inks for colours.

    Parameters
    ----------
    rgb : (N, 3) ndarray of uint8
        sRGB colours.
    settings : PressSettings
        Ink limit and black generation are used.

    Returns
    -------
    cmyk : (N, 4) ndarray of uint8
        Plate values, never above the ink limit (rounded to 1/255).
    miss : (N,) ndarray of float64
        OKLab distance × 100 between the colour wanted and the colour printed.

    Notes
    -----
    The press model is inverted in OKLab by damped Gauss-Newton steps with the areas kept within 0..1: lightness
    weighing 0.4, so that a colour no press can reach keeps its hue: first without black, then with `black` times
    the grey component on the black plate, and with more black wherever the sum exceeds the limit or the colour is
    too dark for three inks.
    """
    rgb = np.asarray(rgb, np.uint8).reshape(-1, 3)
    if len(rgb) == 0:
        return np.zeros((0, 4), np.uint8), np.zeros(0)
    wanted = srgb8_to_oklab(rgb)
    inks = np.column_stack([1 - srgb_to_linear(rgb / 255.0), np.zeros(len(rgb))])
    inks = _solve(wanted, inks)
    grey = inks[:, :3].min(axis=1)
    inks[:, 3] = settings.black * grey
    inks[:, :3] -= 0.7 * inks[:, 3:]
    inks = _solve(wanted, np.clip(inks, 0, 1))
    limit = settings.ink_limit / 100
    for _ in range(20):
        printed = linear_to_oklab(_linear(inks))
        short = (inks.sum(axis=1) > limit) | (printed[:, 0] - wanted[:, 0] > 0.01)
        short &= inks[:, 3] < 1
        if not short.any():
            break
        inks[short, 3] = np.minimum(inks[short, 3] + 0.06, 1)
        inks[short] = _solve(wanted[short], inks[short])
    over = inks.sum(axis=1) > limit
    room = (limit - inks[over, 3:]) / np.maximum(inks[over, :3].sum(axis=1, keepdims=True), 1e-9)
    inks[over, :3] *= room
    cmyk = np.floor(inks * 255 + np.where(over[:, None], 0.0, 0.5)).astype(np.uint8)
    miss = np.linalg.norm(linear_to_oklab(_linear(cmyk / 255.0)) - wanted, axis=1) * 100
    return cmyk, miss


def _solve(wanted: F64, inks: F64) -> F64:
    """Adjust cyan, magenta and yellow of (N, 4) `inks`, black kept, until they look as (N, 3) OKLab `wanted`."""
    inks = inks.copy()
    damping = 1e-3 * np.eye(3)
    for _ in range(14):
        error = (linear_to_oklab(_linear(inks)) - wanted) * _WEIGHT
        slope = np.empty((len(inks), 3, 3))
        for plate in range(3):
            step = np.where(inks[:, plate] > 0.5, -0.01, 0.01)
            moved = inks.copy()
            moved[:, plate] += step
            slope[:, :, plate] = ((linear_to_oklab(_linear(moved)) - wanted) * _WEIGHT - error) / step[:, None]
        held = ((inks[:, :3] <= 0) & (np.einsum("nij,ni->nj", slope, error) > 0)) | (
            (inks[:, :3] >= 1) & (np.einsum("nij,ni->nj", slope, error) < 0)
        )
        slope = np.where(held[:, None, :], 0.0, slope)
        normal = np.einsum("nij,nik->njk", slope, slope) + damping
        change = np.linalg.solve(normal, np.einsum("nij,ni->nj", slope, error)[..., None])[..., 0]
        inks[:, :3] = np.clip(inks[:, :3] - np.clip(change, -0.25, 0.25), 0, 1)
    return inks
