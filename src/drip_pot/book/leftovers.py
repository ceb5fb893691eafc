# SPDX-License-Identifier: GPL-3.0-or-later
"""What nobody poured: the one answer for the count, the list, the picture and the command line. Knows atoms only."""

import numpy as np

from drip_pot.core.arrays import I64, Bool
from drip_pot.core.regions import Panels


def leftovers(areas: I64, empty: Bool, panels: Panels | None) -> Bool:
    """Return which atoms are left over.

    Parameters
    ----------
    areas : (A + 1,) ndarray of int64
        Pixels of every atom; one of no pixels is not there.
    empty : (A + 1,) ndarray of bool
        Atoms that have no pot and are not kept as paper for lettering.
    panels : Panels or None
        Of the page; None while they are not known. The gutter of a page of panels is paper, and no leftover.

    Returns
    -------
    (A + 1,) ndarray of bool
        Atoms without a pot; 0 is none.
    """
    left = (areas > 0) & empty[: len(areas)]
    left[0] = False
    if panels is not None and panels.framed:
        known = min(len(left), len(panels.panel))
        left[:known] &= panels.panel[:known] != 0
    return np.asarray(left)


def regions_left(region: I64, left: Bool) -> I64:
    """Return the regions, by their root atoms, ascending, of which a part at least is left over."""
    return np.unique(region[: len(left)][left])
