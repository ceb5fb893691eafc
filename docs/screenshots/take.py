"""Take the pictures in this folder anew from the demo book: `./run shots`."""

import shutil
from pathlib import Path
from tempfile import TemporaryDirectory

from PyQt6.QtCore import QSettings
from PyQt6.QtTest import QTest

from drip_pot.demo.build import build_book
from drip_pot.desk import theme
from drip_pot.desk.app import make_app
from drip_pot.desk.window import Window

HERE = Path(__file__).parent
DPI = 600


def settle(window: Window) -> None:
    """Wait until all is known and drawn."""
    for _ in range(3):
        QTest.qWait(40)
        easel = window.easel
        while easel.work.busy() or easel._later.isActive() or not window.canvas.tiles.settled():
            QTest.qWait(20)


def take(window: Window, name: str) -> None:
    """Save what the window shows."""
    settle(window)
    window.grab().save(str(HERE / f"{name}.png"))
    print(f"{name}.png")


def main() -> None:
    """Go through the stages."""
    app = make_app(["drip-pot"])
    theme.apply(app, theme.LIGHT)
    with TemporaryDirectory() as folder:
        build_book(Path(folder) / "kites.drip", DPI)
        settings = QSettings(str(Path(folder) / "s.ini"), QSettings.Format.IniFormat)
        settings.setValue("tried", True)
        window = Window(settings)
        window.resize(1280, 800)
        window.show()
        take(window, "empty")
        window.easel.open(Path(shutil.copy(Path(folder) / "kites.drip", Path(folder) / "shown.drip")))
        settle(window)
        easel, canvas = window.easel, window.canvas
        first, second = easel.book.pages()  # type: ignore[union-attr]
        rows, cols = easel.view.shape  # type: ignore[union-attr]
        names = {pot.name: number for number, pot in easel.book.pots().items()}  # type: ignore[union-attr]
        easel.choose_pot(names["Ember"])
        take(window, "flats")
        easel.choose_stage("Shade")
        canvas.set_zoom(0.3)
        canvas.go_to((int(0.42 * rows), int(0.05 * cols), int(0.70 * rows), int(0.42 * cols)))
        canvas.focus_rect = None
        take(window, "shade")
        easel.choose_stage("Holds")
        canvas.set_zoom(0.3)
        canvas.go_to((int(0.05 * rows), int(0.60 * cols), int(0.30 * rows), int(0.98 * cols)))
        canvas.focus_rect = None
        take(window, "holds")
        easel.choose_stage("Press")
        canvas.fit()
        take(window, "press")
        window.trap = True
        window.refresh_look()
        canvas.set_zoom(0.5)
        canvas.go_to((int(0.05 * rows), int(0.64 * cols), int(0.20 * rows), int(0.92 * cols)))
        canvas.focus_rect = None
        take(window, "traps")
        window.trap = False
        easel.show_page(second)
        settle(window)
        easel.choose_stage("Inks")
        canvas.fit()
        canvas.set_wipe(True)
        window.refresh_look()
        take(window, "inks")
        canvas.set_wipe(False)
        easel.choose_stage("Flats")
        window.loud = True
        window.bridges = True
        window.refresh_look()
        canvas.fit()
        take(window, "flats-loud")
        easel.show_page(first)
        window.loud = window.bridges = False
        window.switch_bench()
        easel.choose_stage("Shade")
        take(window, "dim")
        window.close()


if __name__ == "__main__":
    main()
