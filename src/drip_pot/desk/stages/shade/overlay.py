# SPDX-License-Identifier: GPL-3.0-or-later
"""What Shade draws over the page: quietly, where the pass in hand applies and what is picked. Knows no other stage."""

import numpy as np
from PyQt6.QtGui import QPainter, QPainterPath

from drip_pot.book.scope import Ground, scope_atoms
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.outline import PickOutline, outline
from drip_pot.desk.view.overlay import Overlay
from drip_pot.desk.view.placed import PlacedMark
from drip_pot.desk.view.seen import Seen


class ShadeOverlay(Overlay):
    """Marks of Shade."""

    def __init__(self, easel: Easel, seen: Seen) -> None:
        super().__init__(easel, seen)
        self._scope = PickOutline()

    def page_marks(self, painter: QPainter, view: PageView, canvas: PlacedMark) -> None:
        super().page_marks(painter, view, canvas)
        flat, ready, held = view.flat, self.easel.ready(), self.easel.own(Shading).in_hand()
        if flat is None or ready is None or held is None:
            return
        level, scope = view.level(canvas.zoom), held[1].scope
        if not scope.is_everywhere:
            key = (scope, id(flat.divided), id(flat.panels), flat.tables.is_poured.tobytes(), level)

            def within() -> QPainterPath:
                atoms = scope_atoms(*ready, scope, flat.atoms.count, Ground(flat.labels[0], lambda: flat.panels))
                return outline(flat, () if atoms is None else np.flatnonzero(atoms).tolist(), max(level, 1))

            self._scope.show(painter, key, within, 1.0)
