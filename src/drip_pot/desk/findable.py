# SPDX-License-Identifier: GPL-3.0-or-later
"""Every setting of the inspector and every view, to be found by its name. Knows panels, chips and the easel."""

from collections.abc import Callable, Iterator, Mapping
from functools import partial

from PyQt6.QtWidgets import QAbstractButton, QComboBox, QWidget

from drip_pot.desk.dialogs.find_action import Entry
from drip_pot.desk.parts.widgets import Block, Choice, NumberRow
from drip_pot.desk.session.easel import Easel
from drip_pot.desk.stages import STAGES
from drip_pot.desk.stages.panel import Panel
from drip_pot.desk.view.seen import Chip, Seen
from drip_pot.words import tr


def controls_of(easel: Easel, seen: Seen, panels: Mapping[str, Panel], show: Callable[[QWidget], None]) -> list[Entry]:
    """Return what can be found: views of every stage, and its settings, which `show` brings into sight."""
    found: list[Entry] = []
    for stage, panel in panels.items():
        found += [_view(easel, seen, stage, chip) for chip in STAGES[stage].chips(easel, seen)]
        for block in panel.blocks:
            titles = set[str]()
            for title, widget in _named(block):
                if title and title not in titles:
                    titles.add(title)
                    where = tr("{0}: {1}", tr(stage), block.head.text())
                    found.append((where, title, "", partial(_go, easel, stage, widget, show)))
    return found


def _named(block: Block) -> Iterator[tuple[str, QWidget]]:
    """Go through the settings of a block by the names that people read."""
    yield block.head.text(), block
    for row in block.findChildren(NumberRow):
        yield row.box.accessibleName(), row.box
    for choice in block.findChildren(Choice):
        yield choice.accessibleName(), next(iter(choice.buttons.values()))
    for box in block.findChildren(QComboBox):
        yield box.accessibleName(), box
    for button in block.findChildren(QAbstractButton):
        if not isinstance(button.parent(), Choice):
            yield button.text() if len(button.text()) > 1 else button.accessibleName(), button


def _view(easel: Easel, seen: Seen, stage: str, chip: Chip) -> Entry:
    """Return what turns a view on or off, in its stage."""

    def turn() -> None:
        easel.choose_stage(stage)
        now = next((one for one in STAGES[stage].chips(easel, seen) if one.name == chip.name), None)
        if now is not None:
            now.done()

    return tr("{0}: view", tr(stage)), tr("{0}: {1}", tr(chip.name), tr(chip.tip)), "", turn


def _go(easel: Easel, stage: str, widget: QWidget, show: Callable[[QWidget], None]) -> None:
    easel.choose_stage(stage)
    show(widget)
