# SPDX-License-Identifier: GPL-3.0-or-later
"""Press conditions: paper, solids and tone values of a kind of printing. Knows numbers only.

Each is fitted to published measurements: colours of paper, four inks and all their overprints as they were measured,
and for tone values the exponents and gains that come closest over the whole chart.
"""

import threading
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from types import MappingProxyType

import numpy as np

from drip_pot.core.arrays import F64

D50 = np.array([0.96422, 1.0, 0.82521])
TO_LINEAR = np.array([
    [3.1338561, -1.6168667, -0.4906146], [-0.9787684, 1.9161415, 0.0334540], [0.0719453, -0.2289914, 1.4052427],
])  # fmt: skip
"""From CIE XYZ under D50 to linear sRGB, by Bradford's adaptation."""


@dataclass(frozen=True)
class Condition:
    """A press condition.

    Attributes
    ----------
    title, source : str
        What people call it, and whose measurements it is fitted to.
    solids : tuple of 16 (L*, a*, b*)
        Against the paper as white; bit 0 of the place is cyan, 1 magenta, 2 yellow, 3 black.
    paper : (L*, a*, b*)
        Of the bare sheet.
    spread : float
        How far light spreads under the dots (Yule and Nielsen), 1 and up.
    gains, powers : tuple of float
        Of each ink: a dot of area a prints as a ** power + 4 · gain · a · (1 - a).
    ruling_lpi : float
        The usual screen ruling.
    ink_limit : int
        The usual ink limit in per cent.
    icc : bytes
        The profile that it was read from, as a file has it; empty for those built in.
    """

    title: str
    source: str
    solids: tuple[tuple[float, float, float], ...]
    paper: tuple[float, float, float]
    spread: float
    gains: tuple[float, float, float, float]
    powers: tuple[float, float, float, float]
    ruling_lpi: float
    ink_limit: int
    icc: bytes = b""

    @cached_property
    def _roots(self) -> F64:
        return np.asarray(np.maximum(lab_to_xyz(np.array(self.solids)), 1e-6) ** (1 / self.spread))

    def light(self, inks: F64) -> F64:
        """Return the light that (N, 4) ink areas 0..1 send back, (N, 3) linear sRGB against the paper, unclipped.

        Notes
        -----
        Neugebauer's equations over the sixteen overprints, with the exponent of Yule and Nielsen. See H. E. J.
        Neugebauer, "Die theoretischen Grundlagen des Mehrfarbenbuchdrucks", 1937; J. A. C. Yule and W. J. Nielsen, "The
        penetration of light into paper and its effect on halftone reproduction", 1951.
        """
        area = np.clip(inks, 0, 1)
        printed = np.clip(area ** np.array(self.powers) + 4 * np.array(self.gains) * area * (1 - area), 0, 1)
        weight = np.ones((len(inks), 1))
        for plate in range(4):
            part = printed[:, plate : plate + 1]
            weight = np.hstack([weight * (1 - part), weight * part])
        return np.asarray((weight @ self._roots) ** self.spread @ TO_LINEAR.T)

    def on_paper(self, linear: F64) -> F64:
        """Return (N, 3) linear sRGB as it looks on the colour of the sheet."""
        sheet = lab_to_xyz(np.array([self.paper]))[0] @ TO_LINEAR.T
        return np.asarray(linear * sheet)


def lab_to_xyz(lab: F64) -> F64:
    """Convert (N, 3) float64 CIELAB under D50 to XYZ, white being 1."""
    fy = (lab[:, 0] + 16) / 116
    f = np.stack([fy + lab[:, 1] / 500, fy, fy - lab[:, 2] / 200], axis=1)
    return np.asarray(np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29)) * D50)


_KNOWN: dict[str, Condition] = {
    "coated": Condition(
        "Coated", "ANSI/CGATS TR 003, characterization data for coated paper",
        ((100, 0, 0), (62.0, -39.8, -48.1), (52.3, 77.1, -3.3), (29.8, 19.4, -47.4), (95.2, -5.4, 94.2),
         (56.8, -69.2, 26.6), (51.2, 70.8, 48.2), (27.6, 0.2, -0.6), (20.4, 0.0, -0.1), (14.4, -8.8, -10.2),
         (11.7, 15.4, -0.4), (8.3, 7.1, -9.1), (18.6, -3.2, 12.8), (14.3, -14.5, 4.2), (12.5, 11.0, 6.5),
         (9.6, -0.4, 0.3)),
        (92.5, 0.0, 0.0), 1.554, (0.073, 0.216, 0.173, 0.082), (0.916, 1.428, 1.339, 1.02), 150, 300,
    ),
    "uncoated": Condition(
        "Uncoated", "FOGRA29, characterization data for uncoated white paper",
        ((100, 0, 0), (61.9, -28.1, -42.3), (57.8, 61.3, -2.6), (40.6, 8.0, -31.9), (92.9, -2.3, 83.4),
         (54.9, -44.8, 20.4), (55.1, 57.1, 32.3), (37.0, -3.6, 0.6), (33.7, 1.9, 3.1), (29.8, 0.0, -2.4),
         (31.0, 6.1, 4.3), (28.0, 3.6, 0.6), (31.9, -1.7, 5.2), (29.0, -3.7, 2.1), (29.9, 1.8, 5.1), (27.8, -0.1, 3.1)),
        (95.7, 0.6, -2.3), 3.261, (0.069, 0.182, 0.099, 0.09), (0.947, 1.414, 1.159, 1.172), 120, 280,
    ),
    "newsprint": Condition(
        "Newsprint", "ANSI/CGATS/SNAP TR 002, characterization data for coldset printing on newsprint",
        ((100, 0, 0), (72.0, -28.1, -35.4), (66.8, 53.5, -4.3), (51.5, 7.9, -29.8), (95.7, -5.0, 62.9),
         (67.5, -41.9, 15.9), (64.8, 49.3, 24.2), (50.1, -0.6, -3.5), (47.6, 2.0, 2.8), (43.3, -5.8, -6.3),
         (43.0, 15.1, -0.1), (40.1, 3.7, -8.0), (50.3, -0.6, 15.1), (45.0, -11.4, 4.0), (44.6, 15.6, 7.0),
         (40.6, 0.6, -1.8)),
        (80.1, 0.0, 3.5), 3.635, (0.093, 0.185, 0.103, 0.077), (0.783, 1.067, 0.917, 0.879), 85, 240,
    ),
}  # fmt: skip
_LOCK = threading.Lock()
CONDITIONS: Mapping[str, Condition] = MappingProxyType(_KNOWN)
"""Press conditions by name: those built in, and those read from profiles. A name never changes its meaning."""
BUILT_IN = tuple(CONDITIONS)


def learn(name: str, condition: Condition) -> bool:
    """Let settings name a condition from now on; return whether that name means this condition.

    Notes
    -----
    Names of profiles are made from their content, so that two books that name one mean the same; what another content
    claims under a known name is not taken.
    """
    with _LOCK:
        return _KNOWN.setdefault(name, condition) == condition
