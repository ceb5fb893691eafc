"""Write the template of all that can be translated, a gettext .pot: `./run words [FILE]`.

Every text of the program that a person may read is listed, with where it stands: what passes `tr` by name, and the
names, tips and sentences that tables hand to it.
"""

import ast
import re
import sys
from pathlib import Path

from babel.messages import Catalog, pofile

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src/drip_pot"
_SPOKEN = re.compile(r"[A-Z][a-z]|[a-z]{2,} [a-z(]|^[a-z]{3,}$")


def texts(tree: ast.Module) -> list[tuple[int, str]]:
    """List the texts of a module, with their lines: all but docstrings, parts of f-strings and keys of tables."""
    silent = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    silent |= {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in ast.walk(node)}
    found = [n for n in ast.walk(tree) if isinstance(n, ast.Constant) and isinstance(n.value, str)]
    return [(n.lineno, n.value) for n in found if id(n) not in silent and _SPOKEN.search(n.value)]


def main() -> None:
    """Write the template."""
    out = Path(sys.argv[1]) if len(sys.argv) > 1 else ROOT / "drip-pot.pot"
    catalog = Catalog(project="Drip Pot", copyright_holder="the makers of Drip Pot", charset="utf-8")
    for path in sorted(SOURCE.rglob("*.py")):
        if "demo" not in path.parts:
            for line, text in texts(ast.parse(path.read_text(encoding="utf-8"))):
                catalog.add(text, locations=[(str(path.relative_to(ROOT)), line)])
    with out.open("wb") as file:
        pofile.write_po(file, catalog, width=120)
    print(f"{len(catalog)} texts in {out}")


if __name__ == "__main__":
    main()
