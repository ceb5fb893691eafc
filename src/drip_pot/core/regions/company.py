# SPDX-License-Identifier: GPL-3.0-or-later
"""What other bridges a bridge has about it and on its page. Knows bridges only.

Loose brush marks and hatching leave many ends that enclose nothing: what is likely of one bridge depends on the rest.
"""

import cv2
import numpy as np

from drip_pot.core.arrays import F64
from drip_pot.core.regions.gaps import Bridges

COMPANY = 8
_CELL_LINES = 8.0


def company(bridges: Bridges, line_px: float, atoms: int) -> F64:
    """Describe the company of every bridge.

    Parameters
    ----------
    bridges : Bridges
        As `local_judge` judged them.
    line_px : float
        Usual line width.
    atoms : int
        How many there are on the page.

    Returns
    -------
    (B, COMPANY) ndarray of float64
        Of the bridges within some twelve line widths, and of those among them that come from free ends: the logarithm
        of their number and how likely they are in the mean. Of all on the page: the logarithm of their number to that
        of the atoms, how likely they are in the mean, the share that is likelier than not, the share from free ends.
    """
    count = len(bridges)
    if count == 0:
        return np.zeros((0, COMPANY))
    likely, is_end = bridges.confidence, bridges.evidence[:, 1] == 0
    cell = ((bridges.feet[:, :2] + bridges.feet[:, 2:]) / 2 / (_CELL_LINES * max(line_px, 1.0))).astype(np.int64)
    columns = []
    for use in (np.ones(count, bool), is_end):
        plane = np.zeros((*(cell.max(axis=0) + 1), 2))
        np.add.at(plane, (cell[use, 0], cell[use, 1]), np.stack([np.ones(count), likely], axis=1)[use])
        plane = cv2.boxFilter(plane, -1, (3, 3), normalize=False, borderType=cv2.BORDER_CONSTANT)
        number, total = np.maximum(plane[cell[:, 0], cell[:, 1]].T, 0)
        columns += [np.log1p(number), total / np.maximum(number, 1)]
    page = [np.log(count / max(atoms, 1)), likely.mean(), (likely > 0.5).mean(), is_end.mean()]
    return np.stack([*columns, *(np.full(count, value) for value in page)], axis=1)
