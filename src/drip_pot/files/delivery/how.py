# SPDX-License-Identifier: GPL-3.0-or-later
"""How files of a delivery are made, beside which kinds they are. Knows choices only."""

import msgspec

from drip_pot.files.delivery.cut import CutTo
from drip_pot.files.delivery.web_size import WebSize


class How(msgspec.Struct, frozen=True):
    """How files are made.

    Attributes
    ----------
    cut : str
        What pictures, plates and line are cut to, one of `CUTS`; other files hold the whole page.
    web : WebSize
        How large copies for screens are.
    schemes : tuple of int
        The numbers of the schemes that everything is written in, each under its name; none is the one in hand.
    parts : tuple of str
        The names of the parts that are cut out; none is all of them.
    """

    cut: CutTo = "page"
    web: WebSize = WebSize()
    schemes: tuple[int, ...] = ()
    parts: tuple[str, ...] = ()

    def wants(self, part: str) -> bool:
        """Whether a part is cut out, by its name."""
        return not self.parts or part.casefold() in {name.casefold() for name in self.parts}


PLAIN = How()
