# SPDX-License-Identifier: GPL-3.0-or-later
"""Write the template of all that can be translated, a gettext .pot: `./run words [FILE]`; renew what ships of it.

Every text of the program that a person may read is listed, with where it stands: what passes `tr` by name, and the
names, tips and sentences that tables hand to it.
"""

import ast
import re
import sys
from pathlib import Path

from babel.messages import Catalog, mofile, pofile

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/drip_pot"
_SPOKEN = re.compile(r"[A-Z][a-z]|[A-Za-z]{2,},? +[A-Za-z({]|[A-Z] [a-z]{2}|\{\d[^}]*\} ?[a-z]{2,}")
_CODE = re.compile(
    r"(?:Ctrl|Alt|Shift)[+]\S+|[A-Za-z_.\[\] |]*[a-z][A-Z]\w*|\w+[.:]\w+|[\w./-]*/[\w./-]*|.*\{\d?\.?\w*\.\w+\}.*"
    r"|(?:SELECT|INSERT|DELETE|UPDATE|CREATE|ALTER|DROP|PRAGMA|CAST|BEGIN)\b.*|Q[A-Z].*|<.*|q /.*",
    re.DOTALL,
)
"""What is no word, but names a type, a key or a file, or speaks to another program."""
_WORD, _DOORS, _MANY = re.compile(r"[A-Za-zß-ž]{2,}"), {"tr", "say"}, {"tr_many", "say_many"}
Text = str | tuple[str, str]


def texts(tree: ast.Module) -> list[tuple[int, Text]]:
    """List the texts of a module, with their lines; those that are counted as pairs of one and many.

    They are what is handed to `tr` and its like by name, and all else that reads as words: no docstrings, no parts of
    f-strings, nothing that names things for programs.
    """
    calls = [(node, _called(node)) for node in ast.walk(tree) if isinstance(node, ast.Call)]
    pairs = [(node.lineno, pair) for node, name in calls if name in _MANY and all(pair := _counted(node))]
    handed = [node.args[0] for node, name in calls if name in _DOORS and node.args]
    words = {id(one) for arg in handed for one in ast.walk(arg) if isinstance(one, ast.Constant)}
    silent = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    silent |= {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in ast.walk(node)}
    silent |= {id(arg) for node, name in calls if name in _MANY for arg in node.args[:2]}
    silent |= {id(one) for node in ast.walk(tree) for one in ast.walk(node) if _names_things(node)}
    found = [n for n in ast.walk(tree) if isinstance(n, ast.Constant) and isinstance(n.value, str)]
    spoken = [n for n in found if id(n) not in silent and (id(n) in words or _is_spoken(str(n.value)))]
    return [*pairs, *((n.lineno, str(n.value)) for n in spoken if _WORD.search(str(n.value)))]


def _is_spoken(text: str) -> bool:
    return _SPOKEN.search(text) is not None and _CODE.fullmatch(text) is None


def _names_things(node: ast.AST) -> bool:
    """Whether all strings below a node name things for programs: a list of what a module gives out, and types."""
    if isinstance(node, ast.Assign):
        return any(isinstance(target, ast.Name) and target.id == "__all__" for target in node.targets)
    return isinstance(node, ast.Subscript) and isinstance(node.value, ast.Name) and node.value.id == "Literal"


def _called(node: ast.Call) -> str:
    return node.func.id if isinstance(node.func, ast.Name) else getattr(node.func, "attr", "")


def _counted(node: ast.Call) -> tuple[str, str]:
    one, many = (str(arg.value) if isinstance(arg, ast.Constant) else "" for arg in node.args[:2])
    return one, many


def all_texts() -> dict[Text, list[tuple[str, int]]]:
    """Return every text of the program that a person may read, and where it stands."""
    found: dict[Text, list[tuple[str, int]]] = {}
    for path in sorted(SOURCE.rglob("*.py")):
        if "demo" not in path.parts:
            for line, text in texts(ast.parse(path.read_text(encoding="utf-8"))):
                found.setdefault(text, []).append((str(path.relative_to(ROOT)), line))
    return found


def bring_up_to_date(file: Path, template: Catalog) -> int:
    """Give a catalogue all texts of the template, compile it beside itself, and return how many it lacks."""
    with file.open("rb") as told:
        catalog = pofile.read_po(told, locale=file.parents[1].name)
    catalog.update(template, no_fuzzy_matching=True, update_creation_date=False)
    catalog.obsolete.clear()
    catalog.fuzzy, catalog.msgid_bugs_address = False, "the makers of Drip Pot"
    with file.open("wb") as out:
        pofile.write_po(out, catalog, width=120, include_previous=False)
    with file.with_suffix(".mo").open("wb") as out:
        mofile.write_mo(out, catalog)
    return sum(not (all(m.string) if m.pluralizable else m.string) for m in catalog if m.id)


def main() -> None:
    """Write the template, and bring the catalogues that ship up to date with it."""
    out = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "drip-pot.pot"
    catalog = Catalog(project="Drip Pot", copyright_holder="the makers of Drip Pot", charset="utf-8")
    for text, places in all_texts().items():
        catalog.add(text, locations=[(place, None) for place in dict.fromkeys(place for place, _ in places)])
    with out.open("wb") as file:
        pofile.write_po(file, catalog, width=120)
    print(f"{len(catalog)} texts in {out}")
    for known in sorted(SOURCE.glob("languages/*/LC_MESSAGES/drip-pot.po")):
        print(f"{known.relative_to(ROOT)}: {bring_up_to_date(known, catalog)} texts are still said in English")


if __name__ == "__main__":
    main()
