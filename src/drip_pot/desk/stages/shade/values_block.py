# SPDX-License-Identifier: GPL-3.0-or-later
"""The inspector's block of values: light and dark in every panel, beside a plan that was kept. Knows what is shown."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from drip_pot.book import verbs
from drip_pot.book.value_plan import PanelValues, values_of
from drip_pot.book.values import PLAN
from drip_pot.core.arrays import F64
from drip_pot.desk.parts import theme
from drip_pot.desk.parts.widgets import Block, button
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.session.page_view import Flatted, PageView, ready_of
from drip_pot.desk.session.work import Work
from drip_pot.words import tr

_HIGH, _MOST_PX = 26, 400_000
Found = tuple[F64, list[PanelValues]]


def seen_values(view: PageView, flat: Flatted) -> Found:
    """Return the values of every panel of a page as it is seen, made small, without its line."""
    level = next((k for k, plane in enumerate(flat.labels) if plane.size <= _MOST_PX), len(flat.labels) - 1)
    assert flat.panels is not None
    ready = ready_of(view, flat, level)
    return values_of(ready.screen(lines=False), ready.shown.labels, flat.panels.panel)


class _Chart(QWidget):
    """A row a panel: how much of it is how light, from black to white; the plan as hard marks."""

    def __init__(self) -> None:
        super().__init__()
        self.found: Found | None = None
        self.plan: tuple[PanelValues, ...] = ()
        self.setAccessibleName(tr("Values of every panel"))

    def show_values(self, found: Found | None, plan: tuple[PanelValues, ...]) -> None:
        """Show values, and a plan, by panel."""
        self.found, self.plan = found, plan
        count = 0 if found is None else len(found[1])
        self.setFixedHeight(max(1, count) * _HIGH)
        told = (
            []
            if found is None
            else [tr("panel {0}: {1:.0f} to {2:.0f}", k, v.dark, v.light) for k, v in enumerate(found[1], 1)]
        )
        self.setAccessibleDescription("; ".join(told))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.found is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        shares, values = self.found
        left, wide = 26.0, self.width() - 30.0
        for row, (share, one) in enumerate(zip(shares, values, strict=True)):
            box = QRectF(left, row * _HIGH + 2, wide, _HIGH - 6)
            painter.setPen(theme.color("muted"))
            painter.setFont(theme.font(13, 500, theme.FIGURES))
            painter.drawText(QRectF(0, box.top(), left - 6, box.height()), Qt.AlignmentFlag.AlignVCenter, str(row + 1))
            painter.fillRect(box, theme.color("card"))
            step, top = wide / len(share), max(float(share.max()), 1e-6)
            for place, part in enumerate(share.tolist()):
                high = (part / top) ** 0.5 * (box.height() - 3)
                bar = QRectF(left + place * step, box.bottom() - high, max(step - 1, 1), high)
                painter.fillRect(bar, theme.color("muted"))
            self._mark(painter, box, one, "text", box.bottom())
            if row < len(self.plan):
                self._mark(painter, box, self.plan[row], "mark", box.top() + 2)

    @staticmethod
    def _mark(painter: QPainter, box: QRectF, one: PanelValues, color: str, at: float) -> None:
        """Draw from where to where values go as a line, with a stroke in their middle."""
        painter.setPen(QPen(theme.color(color), 2))
        x = [box.left() + box.width() * v / 100 for v in (one.dark, one.middle, one.light)]
        painter.drawLine(int(x[0]), int(at), int(x[2]), int(at))
        painter.drawLine(int(x[1]), int(at) - 4, int(x[1]), int(at) + 4)


class ValuesBlock(Block):
    """Values by panel, worked out in the background."""

    def __init__(self, easel: Easel) -> None:
        super().__init__("Values by panel")
        self.easel, self.work = easel, Work(self, patience=12)
        self.chart = _Chart()
        self.add(self.chart)
        self.keep = button("Keep as plan", self._keep, "Keep these values, to compare later ones with (in vermilion)")
        self.drop = button("Forget plan", lambda: self._put(()), "Compare with no plan")
        self.row(self.keep, self.drop)
        self._for: object = None
        self._found: Found | None = None

    def _keep(self) -> None:
        if self._found is not None:
            self._put(tuple(self._found[1]))

    def _put(self, plan: tuple[PanelValues, ...]) -> None:
        self.easel.do(lambda book, page: verbs.keep_plan(book, page, plan))

    def refresh(self) -> None:
        """Work the values out where they are others than those shown."""
        view, sources = self.easel.view, self.easel.sources()
        flat = None if view is None else view.flat
        plan = () if sources is None else sources[PLAN]
        self.drop.setVisible(bool(plan))
        self.keep.setEnabled(self._found is not None)
        self.chart.show_values(self._found, plan)
        if view is None or flat is None or flat.panels is None or not self.isVisible():
            return
        wanted = (id(flat.tables), id(flat.panels), tuple((id(c), c.version) for c in view.covers))
        if wanted != self._for:
            self._for = wanted
            self.work.start("values", lambda _: seen_values(view, flat), self._came, lambda _: None)

    def _came(self, found: Found) -> None:
        self._found = found
        sources = self.easel.sources()
        self.keep.setEnabled(True)
        self.chart.show_values(found, () if sources is None else sources[PLAN])
