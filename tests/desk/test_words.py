# SPDX-License-Identifier: GPL-3.0-or-later
"""Every word in the window comes through the one door, whatever stage is shown."""

import ast
import gettext
import importlib.util
import re
from collections.abc import Iterator
from io import BytesIO
from pathlib import Path

import pytest
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QAbstractButton, QLabel, QLineEdit, QWidget

from drip_pot import words
from drip_pot.core.errors import BadInput
from drip_pot.desk.stages import STAGES

from .conftest import Driver

ROOT = Path(__file__).parents[2]


def _all_texts() -> set[str]:
    spec = importlib.util.spec_from_file_location("packaging_words", ROOT / "packaging/words.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    found = module.all_texts()
    return {one for text in found for one in ((text,) if isinstance(text, str) else text)}


class _Marked(gettext.NullTranslations):
    """A language in which every text of the catalogue is its own in brackets; what was composed is in none."""

    def __init__(self) -> None:
        super().__init__()
        self.known = _all_texts()

    def gettext(self, message: str) -> str:
        return f"⟦{message}⟧" if message in self.known else message

    def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
        return self.gettext(msgid1 if n == 1 else msgid2)


@pytest.fixture
def marked(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(words, "_said", _Marked())


def _is_composed(node: ast.JoinedStr) -> bool:
    """Whether an f-string joins words to values, as no translation can."""
    text = "".join(str(v.value) if isinstance(v, ast.Constant) else "{}" for v in node.values)
    said = re.search(r"[A-Za-z]+[,.]? +(\{\}|[A-Za-z])|\{\} +[a-z]{2,}", text)
    return said is not None and re.match(r"SELECT|UPDATE|DELETE|INSERT|PRAGMA|CASE|\{\} = ", text) is None


FOR_PROGRAMS = {"theme.py", "svg.py", "pdf.py", "worn.py", "profile.py", "layout.py", "seen.py"}
"""Style sheets, files that programs read, seeds of noise, names in profiles."""


def test_no_sentence_is_composed_of_pieces() -> None:
    found = []
    for path in sorted((ROOT / "src/drip_pot").rglob("*.py")):
        if "demo" not in path.parts and path.name not in FOR_PROGRAMS:
            nodes = ast.walk(ast.parse(path.read_text()))
            found += [f"{path.name}:{n.lineno}" for n in nodes if isinstance(n, ast.JoinedStr) and _is_composed(n)]
    assert not found


def test_a_step_of_the_history_reads_in_the_language_of_the_person(monkeypatch: pytest.MonkeyPatch) -> None:
    class German(gettext.NullTranslations):
        def gettext(self, message: str) -> str:
            return {"paper": "Papier", "Rename {0} to {1}": "{0} in {1} umbenennen"}.get(message, message)

        def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
            return "{0} in eine Fläche gießen" if n == 1 else "{0} in {1} Flächen gießen"

    poured = words.say_many("Pour {0} into a region", "Pour {0} into {1} regions", 3, words.say("paper"), 3)
    named = words.say("Rename {0} to {1}", "paper", '["Pour {0}"]')
    assert words.read_out(poured) == "Pour paper into 3 regions"
    assert words.read_out(named) == 'Rename paper to ["Pour {0}"]'
    monkeypatch.setattr(words, "_said", German())
    assert words.read_out(poured) == "Papier in 3 Flächen gießen"
    assert words.read_out(named) == 'paper in ["Pour {0}"] umbenennen', "what a person named is never translated"
    assert words.read_out("[draft] Step of an older book") == "[draft] Step of an older book"


def _shown(window: QWidget) -> Iterator[tuple[str, str]]:
    for one in window.findChildren(QWidget):
        yield "name", one.accessibleName()
        yield "tip", one.toolTip()
        if isinstance(one, QLabel | QAbstractButton):
            yield "text", one.text()
        if isinstance(one, QLineEdit):
            yield "hint", one.placeholderText()
    for action in window.findChildren(QAction):
        yield "action", action.text()


def test_every_word_in_the_window_can_be_translated(marked: None, window: Driver, demo_book: Path) -> None:
    window.easel.opening.open(demo_book)
    window.settle()
    book = window.book
    own = {book.info.title, *(p.name for p in book.pots().values()), *(p.name for p in book.parts().values())}
    missed = set()
    for stage in STAGES:
        window.easel.choose_stage(stage)
        window.settle()
        for kind, text in _shown(window.window):
            if re.search("[A-Za-z]{2}", text) and "⟦" not in text and text not in own:
                missed.add((kind, text))
    print(*sorted(missed), sep="\n")
    assert not missed


def test_a_catalogue_is_found_by_its_language_and_keeps_the_values(tmp_path: Path) -> None:
    from babel.messages import Catalog, mofile

    catalog = Catalog(locale="de")
    catalog.add("{0} holds {1} pictures", "{1} Bilder in {0}")
    catalog.add("Line weight goes from -4 to 4 px, not {0:g}.", "Strichstärke geht von -4 bis 4 px, nicht {0:g}.")
    catalog.add("{0} left to look at", "noch {3} anzusehen")
    place = tmp_path / "de/LC_MESSAGES"
    place.mkdir(parents=True)
    with (place / "drip-pot.mo").open("wb") as file:
        mofile.write_mo(file, catalog)
    try:
        assert words.speak(["de"], [tmp_path]) == "de"
        assert words.tr("{0} holds {1} pictures", "a.tif", 3) == "3 Bilder in a.tif"
        assert str(BadInput("Line weight goes from -4 to 4 px, not {0:g}.", 5.0)).startswith("Strichstärke")
        assert words.tr("Unknown {0}", 1) == "Unknown 1"
        assert words.tr("{0} left to look at", 2) == "2 left to look at", "a faulty translation breaks nothing"
        (place / "drip-pot.mo").write_bytes(b"\xde\x12\x04\x95 torn")
        gettext._translations.clear()
        assert words.speak(["de"], [tmp_path]) == "", "nor does a damaged catalogue"
    finally:
        assert words.speak(["xx"], [tmp_path]) == ""
    assert words.tr("{0} holds {1} pictures", "a.tif", 3) == "a.tif holds 3 pictures"


def test_the_catalogues_that_ship_are_compiled_nearly_whole_and_keep_every_value() -> None:
    from babel.messages import mofile, pofile

    files = sorted((ROOT / "src/drip_pot/languages").glob("*/LC_MESSAGES/drip-pot.po"))
    assert files
    for file in files:
        told = pofile.read_po(BytesIO(file.read_bytes()), locale=file.parents[1].name)
        compiled = mofile.read_mo(BytesIO(file.with_suffix(".mo").read_bytes()))
        both = [{str(tuple(m.id)): tuple(m.string) for m in one if m.id and m.string} for one in (told, compiled)]
        assert both[0] == both[1], "compile it: ./run words"
        known = {one for m in told if m.id and m.string for one in (m.id if m.pluralizable else (m.id,))}
        assert len(_all_texts() - known) < 60, "./run words tells which texts a catalogue lacks"
        for message in told:
            if message.id and message.string:
                ours, theirs = (one if message.pluralizable else (one,) for one in (message.id, message.string))
                allowed = {value for one in ours for value in re.findall(r"\{\d+", one)}
                assert {value for one in theirs for value in re.findall(r"\{\d+", one)} == allowed, message.id


def test_names_are_listed_as_they_are_said() -> None:
    said = [words.listed(names) for names in ([], ["Coat"], ["Coat", "Sky"], ["Coat", "Sky", "Hair"])]
    assert said == ["", "Coat", "Coat and Sky", "Coat, Sky and Hair"]


@pytest.mark.parametrize("rule", ["n/0", "n*1000000000000", "(n==1)?0:7", "n%0"])
def test_a_catalogue_with_a_hostile_rule_or_places_falls_back_to_our_words(
    monkeypatch: pytest.MonkeyPatch, rule: str
) -> None:
    class Hostile(gettext.NullTranslations):
        plural = staticmethod(eval(f"lambda n: {rule.replace('?', ' and ').replace(':', ' or ')}"))

        def gettext(self, message: str) -> str:
            return "{0:999999999} {0.__class__} {9}"

        def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
            return ("eins", "viele")[self.plural(n)]

    monkeypatch.setattr(words, "_said", Hostile())
    assert words.tr("{0} pots", 3) == "3 pots"
    assert words.tr_many("one pot", "{0} pots", 3, 3) in ("3 pots", "eins", "viele")
