# SPDX-License-Identifier: GPL-3.0-or-later
"""Take the pictures in this folder anew from the demo book: `./run shots`."""

import io
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
from PIL import Image
from PyQt6.QtCore import QBuffer, QSettings
from PyQt6.QtGui import QPixmap
from PyQt6.QtTest import QTest

from drip_pot.book import verbs
from drip_pot.book.picking import neighbors_of
from drip_pot.book.values import PASSES, POURS, PRESS, TONE
from drip_pot.book.verbs.setting import thinned
from drip_pot.book.where import Scope
from drip_pot.core.inks import Effect
from drip_pot.demo.build import build_book
from drip_pot.demo.scheme import SCHEME, in_light
from drip_pot.demo.studies import study
from drip_pot.demo.works import colored, draw
from drip_pot.desk.app import make_app
from drip_pot.desk.dialogs.compare import SideBySide, first_sights
from drip_pot.desk.dialogs.contact import ContactSheet
from drip_pot.desk.dialogs.manual import TEXT
from drip_pot.desk.dialogs.palette import PaletteDialog
from drip_pot.desk.dialogs.pots import PotEditor
from drip_pot.desk.parts import theme
from drip_pot.desk.stages.flats.flatting import Flatting
from drip_pot.desk.stages.inks.inking import Inking
from drip_pot.desk.stages.shade.lighting import Lighting
from drip_pot.desk.stages.shade.shading import Shading
from drip_pot.desk.stages.shade.shaping import Shaping
from drip_pot.desk.window import Window

HERE = Path(__file__).parent
DPI = 600
_LEVELS, _SHARE = 24, 0.002
IN_MANUAL, _WIDE, _QUALITY = ("inks", "flats", "shade", "holds", "press"), 560, 84


def settle(window: Window) -> None:
    """Wait until all is known and drawn."""
    for _ in range(3):
        QTest.qWait(40)
        while not window.is_settled():
            QTest.qWait(20)


def take(window: Window, name: str) -> None:
    """Save what the window shows, in 256 colours, where it differs from what is there."""
    settle(window)
    keep(window.grab(), name)


def keep(seen: QPixmap, name: str) -> None:
    """Save a picture in 256 colours, unless the one that is there shows the same but for some pixels."""
    buffer, place = QBuffer(), HERE / f"{name}.png"
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    seen.save(buffer, "PNG")
    fresh = Image.open(io.BytesIO(buffer.data().data())).convert("RGB").quantize(256, dither=Image.Dither.NONE)
    if place.exists():
        known = Image.open(place).convert("RGB")
        now = np.asarray(fresh.convert("RGB"), np.int16)
        if known.size == fresh.size and (np.abs(now - np.asarray(known)).max(axis=2) > _LEVELS).mean() < _SHARE:
            print(f"{name}.png is as it was")
            put_in_manual(known, name)
            return
    fresh.save(place, optimize=True)
    put_in_manual(fresh.convert("RGB"), name)
    print(f"{name}.png")


def put_in_manual(seen: Image.Image, name: str) -> None:
    """Make the small picture that the manual shows of a stage."""
    if name in IN_MANUAL:
        small = seen.resize((_WIDE, round(_WIDE * seen.height / seen.width)), Image.Resampling.LANCZOS)
        small.save(TEXT.parent / f"{name}.jpg", quality=_QUALITY, optimize=True)


def near(window: Window, stage: str, part: tuple[float, float, float, float], zoom: float) -> None:
    """Go to a stage and bring part of the page near: top, left, bottom, right as shares of it."""
    window.easel.choose_stage(stage)
    assert window.easel.view is not None
    rows, cols = window.easel.view.shape
    window.canvas.set_zoom(zoom)
    window.canvas.go_to((int(part[0] * rows), int(part[1] * cols), int(part[2] * rows), int(part[3] * cols)))
    window.canvas.focus_rect = None
    window.refresh_look()


def beside(window: Window) -> None:
    """Take the contact sheet, and schemes side by side."""
    sheet = ContactSheet(window, window.easel, {})
    sheet.show()
    while sheet.work.busy() or len(sheet._small) < sheet.list.count():
        QTest.qWait(50)
    keep(sheet.grab(), "contact")
    sheet.close()
    sights = first_sights(window.easel)
    schemes = SideBySide(window, window.easel, sights, lambda _: None)
    schemes.show()
    while schemes.work.busy() or len(schemes._known) < len(set(sights)):
        QTest.qWait(50)
    QTest.qWait(100)
    keep(schemes.grab(), "schemes")
    schemes.close()


def named_pass(window: Window, name: str) -> int:
    """Return the number of a pass of the page."""
    sources = window.easel.sources()
    assert sources is not None
    return next(number for number, one in sources[PASSES].items() if one.name == name)


def light(window: Window) -> None:
    """Take a ramp in hand; then let a lamp suggest the shade of the whole page, and take that back."""
    easel, shading, lighting = window.easel, window.easel.own(Shading), window.easel.own(Lighting)
    book, view, sources = easel.book, easel.view, easel.sources()
    assert book is not None
    assert view is not None
    assert sources is not None
    rows, cols = view.shape
    easel.choose_tool("Ramp")
    shading.choose(named_pass(window, "Deep sky"))
    window.canvas.fit()
    take(window, "passes")
    start = book.position
    shading.choose(TONE)
    shading.fill(set(sources[POURS]), [], away=True)
    settle(window)
    easel.choose_tool("Lamp")
    lighting.place(0.06 * rows, 0.80 * cols)
    lighting.suggest()
    settle(window)
    easel.choose_tool("Pull")
    near(window, "Shade", (0.10, 0.10, 0.40, 0.55), 0.32)
    own = easel.own(Shaping)
    own.choose_cut(next(n for n, cut in own.cuts().items() if len(cut.knots) > 12))
    easel.chosen.emit()
    take(window, "lamp")
    while book.position > start:
        easel.undo()
    easel.choose_tool("Cut shade")


def hand_tools(window: Window, pages: dict[str, int], names: dict[str, int], folder: Path) -> None:
    """Sow seeds on the dense page, and open the two colour dialogs."""
    easel = window.easel
    easel.show_page(pages["Market day"])
    settle(window)
    assert easel.view is not None
    rows, cols = easel.view.shape
    easel.choose_tool("Seed")
    for pot, start, end in (("Coat", (0.40, 0.35), (0.45, 0.44)), ("Straw", (0.25, 0.20), (0.28, 0.30))):
        easel.choose_pot(names[pot])
        easel.own(Flatting).sow(thinned([(start[0] * rows, start[1] * cols), (end[0] * rows, end[1] * cols)]))
    near(window, "Flats", (0.15, 0.02, 0.55, 0.75), 0.25)
    take(window, "seeds")
    easel.undo()
    easel.undo()
    easel.show_page(pages["Torn in the wind"])
    settle(window)
    window.canvas.fit()
    assert easel.book is not None
    number, press = names["Coat"], easel.book.sources(easel.page)[PRESS]
    hand = easel.hand()
    assert hand is not None
    editor = PotEditor(window, easel.book, number, 1, press, neighbors_of(hand, number))
    picture = PaletteDialog(window, easel.book, "#d9482b", folder)
    dusk = {pot: in_light(color, "dusk") for pots in SCHEME.values() for pot, color in pots.items()}
    Image.fromarray(study(colored(draw("page-1", 100), dusk, 900), 5)).save(folder / "study.png")
    picture.open_picture(folder / "study.png")
    picture.take_telling()
    for dialog, name in ((editor, "pot"), (picture, "palette")):
        dialog.show()
        QTest.qWait(60)
        keep(dialog.grab(), name)
        print(f"{name}.png")
        dialog.close()


def moving(window: Window, pages: dict[str, int]) -> None:
    """Show a frame with colours carried to it and its neighbours seen through."""
    easel = window.easel
    easel.show_page(pages["Turning, frame 4"])
    settle(window)
    easel.choose_stage("Flats")
    window.canvas.fit()
    window.frames.ghost()
    while window.small.work.busy():
        QTest.qWait(50)
    take(window, "frames")
    while window.frames.how != "off":
        window.frames.ghost()


def solid(window: Window, pages: dict[str, int], folder: Path) -> None:
    """Show the handcart being turned, and a painted sky pulled into place on the cover."""
    easel = window.easel
    easel.show_page(pages["Market day"])
    settle(window)
    easel.choose_stage("Inks")
    easel.choose_sheet(1)
    easel.choose_tool("Prop")
    near(window, "Inks", (0.48, 0.18, 0.70, 0.78), 0.42)
    take(window, "prop")
    easel.show_page(pages["Cover"])
    settle(window)
    easel.choose_stage("Shade")
    dusk = {pot: in_light(color, "dusk") for pots in SCHEME.values() for pot, color in pots.items()}
    Image.fromarray(study(colored(draw("cover", 100), dusk, 900), 5)).save(folder / "Painted sky.png")
    shading = easel.own(Shading)
    shading.add_picture(folder / "Painted sky.png")
    while easel.opening.work.busy() or easel.hands.busy():
        QTest.qWait(20)
    assert easel.book is not None
    sky = next(number for number, part in easel.book.parts().items() if part.name == "Sky")
    shading.change(scope=Scope(parts=(sky,)))
    number = shading.number
    easel.do(lambda book, page: verbs.move_picture(book, page, number, scale=1.1, turn_deg=-8))
    window.canvas.fit()
    take(window, "picture")
    easel.undo()
    easel.undo()
    easel.undo()


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
        window.easel.opening.open(Path(folder) / "kites.drip")
        settle(window)
        easel, canvas = window.easel, window.canvas
        pages = {page.name: number for number, page in easel.book.pages().items()}  # type: ignore[union-attr]
        names = {pot.name: number for number, pot in easel.book.pots().items()}  # type: ignore[union-attr]
        easel.choose_pot(names["Ember"])
        take(window, "flats")
        near(window, "Shade", (0.42, 0.05, 0.70, 0.42), 0.3)
        take(window, "shade")
        light(window)
        near(window, "Holds", (0.05, 0.12, 0.26, 0.62), 0.42)
        take(window, "holds")
        easel.choose_stage("Press")
        canvas.fit()
        take(window, "press")
        beside(window)
        easel.show_page(pages["The patient"])
        settle(window)
        easel.choose_stage("Inks")
        canvas.fit()
        canvas.set_wipe(True)
        window.refresh_look()
        take(window, "inks")
        canvas.set_wipe(False)
        easel.show_page(pages["The storm"])
        settle(window)
        easel.choose_tool("Effect")
        assert easel.view is not None
        r, c = easel.view.shape
        panel = ((0.705 * r, 0.045 * c), (0.705 * r, 0.468 * c), (0.972 * r, 0.468 * c), (0.972 * r, 0.045 * c))
        easel.own(Inking).set_effect(
            Effect("focus", panel, 0.85 * r, 0.26 * c, 0.12 * c, 0, 90, 0.8, 26.0, 0.5, 3, "#f2e9b8")
        )
        take(window, "effect-lines")
        easel.undo()
        settle(window)
        easel.choose_tool("Roam")
        easel.choose_stage("Flats")
        easel.show_page(pages["Market day"])
        window.seen["loud"] = True
        window.refresh_look()
        take(window, "flats-loud")
        window.seen["loud"] = False
        hand_tools(window, pages, names, Path(folder))
        moving(window, pages)
        solid(window, pages, Path(folder))
        window.switch_bench()
        easel.show_page(pages["The storm"])
        take(window, "dim")
        window.close()


if __name__ == "__main__":
    main()
