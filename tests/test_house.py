"""The house rules that no type checker sees: public names, no Qt outside the desk, no addresses, no long words."""

import importlib
import pkgutil
import subprocess
import sys
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


def test_everything_but_the_desk_imports_without_qt() -> None:
    names = [
        n
        for _, n, _ in pkgutil.walk_packages(drip_pot.__path__, "drip_pot.")
        if ".desk" not in n and "__main__" not in n
    ]
    code = f"import sys, importlib; sys.modules['PyQt6'] = None; [importlib.import_module(n) for n in {names!r}]"
    ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=False)
    assert ran.returncode == 0, ran.stderr


def test_the_shipped_fonts_carry_their_licence() -> None:
    fonts = ROOT / "src/drip_pot/desk/parts/fonts"
    assert len(list(fonts.glob("*.ttf"))) >= 5
    assert "SIL OPEN FONT LICENSE" in (fonts / "OFL.txt").read_text().upper()


def test_the_readme_names_every_need_that_works_and_every_screenshot_exists() -> None:
    readme = (ROOT / "README.md").read_text()
    for need in ("B1", "I1", "F1", "F2", "S1", "H1", "P1", "P6", "B5"):
        assert f"| {need} |" in readme
    shots = [word.split(")")[0] for word in readme.split("](docs/screenshots/")[1:]]
    assert shots
    for shot in shots:
        assert (ROOT / "docs/screenshots" / shot).is_file()
