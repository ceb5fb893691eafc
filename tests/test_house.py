# SPDX-License-Identifier: GPL-3.0-or-later
"""The house rules that no type checker sees: public names, no Qt outside the desk, no addresses, no long words."""

import ast
import importlib
import os
import pkgutil
import re
import subprocess
import sys
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import pytest

import drip_pot

ROOT = Path(__file__).parents[1]
PACKAGES = [
    name
    for _, name, is_package in pkgutil.walk_packages(drip_pot.__path__, "drip_pot.")
    if is_package and not name.startswith("drip_pot.desk")
]


@pytest.mark.parametrize("name", PACKAGES)
def test_packages_list_their_public_names(name: str) -> None:
    package = importlib.import_module(name)
    listed = getattr(package, "__all__", [])
    assert listed == sorted(listed, key=lambda n: (not n.isupper(), not n[0].isupper(), n)) or listed == sorted(listed)
    for public in listed:
        assert getattr(package, public) is not None
    assert package.__doc__, "a package says what it is for"


def test_scripts_beside_the_program_import_what_there_is() -> None:
    lost = []
    for path in (path for folder in ("benchmarks", "docs", "packaging") for path in (ROOT / folder).rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("drip_pot"):
                module = importlib.import_module(node.module)
                inner = {found.name for found in pkgutil.iter_modules(getattr(module, "__path__", []))}
                names = {name.name for name in node.names if not hasattr(module, name.name)} - inner
                lost += [f"{path.name}: {node.module}.{name}" for name in names]
    assert not lost


def test_everything_but_the_desk_imports_without_qt() -> None:
    names = [
        n
        for _, n, _ in pkgutil.walk_packages(drip_pot.__path__, "drip_pot.")
        if ".desk" not in n and "__main__" not in n
    ]
    code = f"import sys, importlib; sys.modules['PyQt6'] = None; [importlib.import_module(n) for n in {names!r}]"
    ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert ran.returncode == 0, ran.stderr


def test_a_tool_a_kind_of_file_and_an_order_are_each_one_file(tmp_path: Path) -> None:
    """Each registers itself as any other; nothing else is touched, and everything that lists them has them."""
    (tmp_path / "smudge.py").write_text(
        "from drip_pot.desk.view.tool import Tool, tool\n\n"
        '@tool("Shade")\nclass Smudge(Tool):\n    name, key, place, says = "Smudge", "U", 55, "Rub."\n'
    )
    (tmp_path / "words.py").write_text(
        "from drip_pot.files.delivery import kind\n\n"
        '@kind("words", "Size in words, text", "-size.txt")\ndef write(path, page):\n'
        '    path.write_text("x".join(map(str, page.ready.shown.labels.shape)))\n'
    )
    (tmp_path / "praise.py").write_text(
        "from drip_pot.book import Book, verbs\nfrom drip_pot.book.asking import order\n\n"
        '@order\ndef praise_book(book: Book, words: str) -> None:\n    """Praise the book in its title."""\n'
        "    verbs.name_book(book, f'{book.info.title}, {words}')\n"
    )
    code = f"""
import sys; sys.path.insert(0, {str(tmp_path)!r})
from PyQt6.QtCore import QSettings
from drip_pot.desk.app import make_app
import smudge, words, praise
from drip_pot.desk.dialogs.export import ExportDialog
from drip_pot.desk.window import Window
from drip_pot.files import derive, export_page, import_page, new_book
app = make_app(["house"])
window = Window(QSettings({str(tmp_path / "s.ini")!r}, QSettings.Format.IniFormat))
window.easel.choose_stage("Shade"); window.easel.choose_tool("Smudge")
assert window.canvas.tool.says == "Rub."
assert ("Shade", "Smudge") in window.toolbar.buttons
assert any("Smudge" in title for _, title in window.helping.sheet["Tools"])
boxes = ExportDialog(window, __import__("pathlib").Path(), 1).boxes.values()
assert "Size in words, text" in [box.text() for box in boxes]
from drip_pot import cli
from typer.testing import CliRunner
ran = CliRunner()
assert "praise-book" in ran.invoke(cli.app, ["orders"]).output
book = {str(tmp_path / "b.drip")!r}
file, _ = new_book(__import__("pathlib").Path(book), "Kites"); file.close()
assert ran.invoke(cli.app, ["do", book, "praise-book", '{{"words": "grand"}}']).exit_code == 0
assert "Kites, grand" in ran.invoke(cli.app, ["tell", book]).output
from PyQt6 import sip
sip.delete(window)
"""
    environment = os.environ | {"QT_QPA_PLATFORM": "offscreen"}
    ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False, env=environment)
    assert ran.returncode == 0, ran.stderr


def test_the_shipped_fonts_carry_their_licence() -> None:
    fonts = ROOT / "src/drip_pot/desk/parts/fonts"
    assert len(list(fonts.glob("*.ttf"))) >= 5
    assert "SIL OPEN FONT LICENSE" in (fonts / "OFL.txt").read_text().upper()


def test_the_papers_are_whole_and_every_screenshot_they_show_exists() -> None:
    assert 500 <= len((ROOT / "README.md").read_text().split()) <= 900
    shown = 0
    for paper in (ROOT / "README.md", *(ROOT / "docs").glob("*.md"), ROOT / "CONTRIBUTING.md"):
        for place in re.findall(r"\]\(([^)#:]+)\)", paper.read_text()):
            assert (paper.parent / place).exists(), f"{paper.name} leads to {place}"
            shown += place.endswith(".png")
    assert shown >= 19
    listed = [path for folder in ("src", "tests", "benchmarks", "packaging") for path in (ROOT / folder).rglob("*.py")]
    assert all(
        not path.read_text() or "SPDX-License-Identifier: GPL-3.0-or-later" in path.read_text() for path in listed
    )


def test_no_two_classes_have_one_name() -> None:
    trees = [ast.parse(path.read_text()) for path in (ROOT / "src").rglob("*.py")]
    names = Counter(node.name for tree in trees for node in ast.walk(tree) if isinstance(node, ast.ClassDef))
    assert [name for name, count in names.items() if count > 1] == []


def test_files_classes_and_bodies_stay_small() -> None:
    over = []
    for path in (ROOT / "src").rglob("*.py"):
        text = path.read_text(encoding="utf-8")
        if text.count("\n") > 600:
            over.append(f"{path.name}: {text.count(chr(10))} lines")
        for node in ast.walk(ast.parse(text)):
            if isinstance(node, ast.ClassDef) and node.end_lineno - node.lineno >= 300:
                over.append(f"{path.name}: class {node.name}")
            if isinstance(node, ast.FunctionDef):
                body = node.body[1:] if ast.get_docstring(node) else node.body
                if body and body[-1].end_lineno - body[0].lineno >= 60:
                    over.append(f"{path.name}: {node.name}")
    assert over == []


def test_a_start_reads_nothing_that_only_some_files_need() -> None:
    code = "import drip_pot.desk.app, sys; print(*sys.modules)"
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, env=env)
    late = {"pikepdf", "pypdfium2", "tifffile", "trimesh", "Xlib", "urllib.request", "scipy.ndimage", "scipy.spatial",
            "drip_pot.demo.works"}  # fmt: skip
    assert late & set(ran.stdout.split()) == set()


ARRAYS = re.compile(r"\b(U8|U16|U32|I16|I32|I64|F32|F64|C128|Bool|Gray|NDArray|ArrayLike)\b")
SHAPE = re.compile(r"\((?:[A-Za-z]\w*(?: \+ 1)?|…|\.\.\.|\d+)(?:,[^)]*)?\)")
DTYPE = re.compile(r"u?int\d+|float\d*|bool")


def _functions() -> Iterator[tuple[str, ast.FunctionDef]]:
    for path in sorted((ROOT / "src/drip_pot/core").rglob("*.py")):
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.FunctionDef):
                yield f"{path.stem}.{node.name}", node


def test_functions_on_arrays_say_shape_type_and_errors() -> None:
    known = list(_functions())
    raising = {node.name for _, node in known if any(isinstance(n, ast.Raise) and n.exc for n in ast.walk(node))}
    lacking = []
    for name, node in known:
        hints = [ast.unparse(h) for h in (*(a.annotation for a in node.args.args), node.returns) if h is not None]
        if node.name.startswith("_") or not any(ARRAYS.search(hint) for hint in hints):
            continue
        told = ast.get_docstring(node) or ""
        called = {n.func.id for n in ast.walk(node) if isinstance(n, ast.Call) and isinstance(n.func, ast.Name)}
        lacking += [f"{name}: shape"] * (not SHAPE.search(told)) + [f"{name}: dtype"] * (not DTYPE.search(told))
        if (node.name in raising or called & raising) and not re.search("[Rr]aise|refuse", told):
            lacking.append(f"{name}: errors")
    assert not lacking
