"""What Shade draws over the page: quietly, where the pass in hand applies and what is picked. Knows no other stage."""

import numpy as np
from PyQt6.QtGui import QPainter, QPainterPath

from drip_pot.book.scope import Ground, scope_atoms
from drip_pot.desk.session.page_view import PageView
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.view.outline import draw_outline, outline
from drip_pot.desk.view.overlay import Overlay
from drip_pot.desk.view.placed import Placed


class ShadeOverlay(Overlay):
    """Marks of Shade."""

    _scope: tuple[object, QPainterPath] = (None, QPainterPath())
    _picked: tuple[object, QPainterPath] = (None, QPainterPath())

    def page_marks(self, painter: QPainter, view: PageView, canvas: Placed) -> None:
        flat, ready, held = view.flat, self.easel.ready(), self.easel.own(Shading).in_hand()
        if flat is None or ready is None or held is None:
            return
        level, scope = view.level(canvas.zoom), held[1].scope
        if not scope.is_everywhere:
            key = (scope, id(flat.divided), id(flat.panels), flat.tables.is_poured.tobytes(), level)
            if self._scope[0] != key:
                ground = Ground(flat.labels[0], lambda: flat.panels)
                atoms = scope_atoms(*ready, scope, flat.atoms.count, ground)
                found = () if atoms is None else np.flatnonzero(atoms).tolist()
                self._scope = key, outline(flat, found, max(level, 1))
            draw_outline(painter, self._scope[1], 1.0)
        if self.easel.picked:
            chosen = (self.easel.picked, id(flat.divided), level)
            if self._picked[0] != chosen:
                self._picked = chosen, outline(flat, self.easel.picked, level)
            draw_outline(painter, self._picked[1], 2.0)

    def escape(self) -> None:
        if self.easel.picked:
            self.easel.pick(set())
