# SPDX-License-Identifier: GPL-3.0-or-later
"""Everything is reached with the keys, is seen to have the focus, says what it is, and stands out from the bench."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QWidget

from drip_pot.book.findings import STAGES
from drip_pot.desk.parts import theme
from tests.desk.conftest import Driver


def luminance(color: str) -> float:
    """Relative luminance as the Web Content Accessibility Guidelines define it."""
    parts = [int(color[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    r, g, b = (p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(one: str, other: str) -> float:
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


@pytest.mark.parametrize("bench", [theme.LIGHT, theme.DIM], ids=lambda b: b.name)
def test_words_and_edges_stand_out_on_both_benches(bench: theme.Bench) -> None:
    for ground in (bench.chrome, bench.card, bench.well):
        assert contrast(bench.text, ground) >= 4.5
        assert contrast(bench.muted, ground) >= 4.5
        assert contrast(bench.edge, ground) >= 3 or ground == bench.well
    assert contrast(bench.on_ink, bench.ink) >= 4.5
    assert contrast(bench.on_mark, bench.mark) >= 4.5
    assert min(contrast(c, bench.chrome) for c in (bench.ink, bench.mark)) >= 3
    for grey in (bench.chrome, bench.card, bench.well, bench.line, bench.edge, bench.surround, bench.text, bench.muted):
        assert len({grey[1:3], grey[3:5], grey[5:7]}) == 1, "the only colour on the screen is the art"


def test_tab_goes_through_the_whole_window_and_everything_says_what_it_is(demo: Driver) -> None:
    for stage in STAGES:
        demo.easel.choose_stage(stage)
        demo.settle()
        walk(demo)


def walk(demo: Driver) -> None:
    """Go through the window with Tab; check what was met."""
    window = demo.window
    window.activateWindow()
    window.canvas.setFocus()
    met: list[QWidget] = []
    while (now := QApplication.focusWidget()) is not None and now not in met:
        met.append(now)
        QTest.keyClick(now, Qt.Key.Key_Tab)
    wanted = [
        w for w in window.findChildren(QWidget)
        if w.isVisible() and w.isEnabled() and w.focusPolicy() & Qt.FocusPolicy.TabFocus and w.focusProxy() is None
    ]  # fmt: skip
    missed = [w for w in wanted if w not in met and not w.inherits("QScrollArea")]
    assert not missed, [(type(w).__name__, w.accessibleName()) for w in missed]
    nameless = [w for w in met if not (w.accessibleName() or getattr(w, "text", str)()) and not isinstance(w, QLabel)]
    assert not nameless, [type(w).__name__ for w in nameless]
    for widget in met:
        if widget.property("chip") or type(widget).__name__ in ("Pots", "PlateCards", "SheetCards", "Canvas"):
            widget.setFocus(Qt.FocusReason.TabFocusReason)
            seen = widget.grab().toImage()
            (window.topbar.export if widget is not window.topbar.export else window.canvas).setFocus()
            assert widget.grab().toImage() != seen, f"{widget.accessibleName()} does not show that it has the focus"


def test_plates_are_shown_and_hidden_with_the_keys(demo: Driver) -> None:
    demo.easel.choose_stage("Press")
    demo.settle()
    cards = next(w for w in demo.window.findChildren(QWidget) if type(w).__name__ == "PlateCards")
    cards.setFocus()
    QTest.keyClick(cards, Qt.Key.Key_Right)
    assert cards.accessibleName() == "Plates: Cyan"
    QTest.keyClick(cards, Qt.Key.Key_Space)
    assert demo.window.seen.plates == (False, True, True, True)
    assert cards.accessibleDescription() == "hidden"
    QTest.keyClick(cards, Qt.Key.Key_Left)
    QTest.keyClick(cards, Qt.Key.Key_Space)
    assert demo.window.seen.plates == (True,) * 4
