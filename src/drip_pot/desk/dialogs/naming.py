# SPDX-License-Identifier: GPL-3.0-or-later
"""What the parts and pots of a recipe are in another book, asked for. Knows a book and a recipe."""

from collections.abc import Sequence

from PyQt6.QtWidgets import QComboBox, QGridLayout, QWidget

from drip_pot.book import Book
from drip_pot.book.recipe_changes import Named
from drip_pot.book.recipes import Recipe
from drip_pot.desk.dialogs.asking import Asking
from drip_pot.desk.parts.widgets import label
from drip_pot.words import tr

_KINDS = {"part": "Part {0}", "pot": "Pot {0}"}


def ask_names(parent: QWidget | None, book: Book, recipe: Recipe, unknown: Sequence[Named]) -> dict[Named, str] | None:
    """Ask what each part and pot that a book does not have is called here; '' is to be added, None is called off."""
    asking = Asking(parent, tr("{0} in this book", recipe.name), "Do it")
    told = label("This recipe speaks of parts and pots that are not here. What do you call them in this book?", "muted")
    told.setWordWrap(True)
    asking.body.addWidget(told)
    grid, boxes = QGridLayout(), dict[Named, QComboBox]()
    parts = [part.name for part in book.parts().values()]
    pots = [pot.name for pot in book.pots().values()]
    for row, (kind, name) in enumerate(unknown):
        title = tr(_KINDS[kind], name)
        box = QComboBox()
        box.setAccessibleName(title)
        box.addItem(tr("Add it"))
        box.addItems(parts if kind == "part" else pots)
        grid.addWidget(label(title), row, 0)
        grid.addWidget(box, row, 1)
        boxes[kind, name] = box
    asking.body.addLayout(grid)
    if not asking.exec():
        return None
    return {one: box.currentText() if box.currentIndex() else "" for one, box in boxes.items()}
