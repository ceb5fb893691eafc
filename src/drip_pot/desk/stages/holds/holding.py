"""Lines coloured by a click. Knows the book."""

from drip_pot.book import verbs
from drip_pot.desk.view.tool import Mods, Tool, tool


@tool("Holds")
class Hold(Tool):
    """Colour the lines of a part."""

    name = "Hold"
    place = 10
    key = "H"
    says = "Click a region: the lines of its part take a darker version of their colour, or turn plain again."

    def press(self, row: float, col: float, mods: Mods) -> None:
        pot = self.easel.pot_of(self.easel.atom_at(int(row), int(col)))
        sources = self.easel.sources()
        if self.easel.book is None or sources is None:
            return
        if pot is None:
            self.easel.said.emit(
                "This region has no pot yet, so its lines have no part. Pour it first, in Flats.", False
            )
            return
        part = self.easel.book.pots()[pot].part
        amount = None if part in sources.holds else 0.55
        self.easel.do(lambda book, page: verbs.set_hold(book, page, part, amount))
