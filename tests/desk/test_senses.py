# SPDX-License-Identifier: GPL-3.0-or-later
"""Modifiers mean one thing in every tool of every stage, and each tool says all that they change in it."""

import inspect
import re

import pytest

from drip_pot.desk.dialogs.manual import TEXT
from drip_pot.desk.stages import STAGES
from drip_pot.desk.view.senses import KEYS, SENSES
from drip_pot.desk.view.tool import Tool, tools_of

TOOLS = {(stage, name): kind for stage in STAGES for name, kind in tools_of(stage).items()}
READ = {"shift": "ShiftModifier", "ctrl": "ControlModifier", "alt": "AltModifier"}
BY_OTHERS = {
    "kept_in": ("shift", "ctrl"),
    "Shaping).cut": ("shift", "ctrl"),
    "Shading).brush": ("shift", "ctrl", "alt"),
    "_dragged(self._start": ("shift",),
    "super().drawn(stroke, mods)": ("shift", "ctrl", "alt"),
}
"""What reads modifiers for a tool."""


def used(kind: type[Tool]) -> set[str]:
    """Return the modifiers that a tool reads, as the source of what it does says."""
    text = "".join(inspect.getsource(does) for _, does in inspect.getmembers(kind, inspect.isfunction))
    if "super().press(row, col, mods)" in inspect.getsource(kind):
        text += inspect.getsource(kind.__mro__[1])
    found = {name for name, mod in READ.items() if f"Mods.{mod}" in text}
    return found | {name for call, names in BY_OTHERS.items() if call in text for name in names}


@pytest.mark.parametrize(("stage", "name"), list(TOOLS))
def test_a_tool_says_what_every_modifier_changes_in_it_in_that_modifiers_one_sense(stage: str, name: str) -> None:
    senses = TOOLS[stage, name].senses
    said = {key: getattr(senses, key) for key in KEYS if getattr(senses, key)}
    with_ctrl = {"shift"} if "with Shift" in senses.ctrl and not senses.shift else set()
    assert set(said) == used(TOOLS[stage, name]) - with_ctrl
    assert re.match(r"keep\b", said.get("shift", "keep")), "Shift keeps to something"
    assert re.match(r"(all|also|both|over)\b", said.get("ctrl", "all")), "Ctrl reaches further"
    assert not re.search(r"\b(Alt|Shift|Ctrl)\b", TOOLS[stage, name].says), "the switches say it"


def test_the_manual_has_the_table_of_modifiers() -> None:
    text = TEXT.read_text(encoding="utf-8")
    for key, sense in SENSES.items():
        assert f"**{KEYS[key][0]}** {sense}" in text
