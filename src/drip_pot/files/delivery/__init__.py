# SPDX-License-Identifier: GPL-3.0-or-later
"""Delivery: pages written as files that printers and editors open. Knows the book and what is derived from it.

Every module here that offers a kind of file is read once.
"""

import importlib
import pkgutil

from drip_pot.files.delivery.animated import MOST_HIGH, MOVING, draw_frames, frame_targets, write_moving
from drip_pot.files.delivery.cut import CUTS, CutTo, cut_of
from drip_pot.files.delivery.deliver import ONE_PDF, PRESETS, deliver, delivery_targets
from drip_pot.files.delivery.export import export_page, export_targets
from drip_pot.files.delivery.how import How
from drip_pot.files.delivery.kinds import KINDS, Delivered, kind
from drip_pot.files.delivery.picture import parted_picture, picture, write_picture
from drip_pot.files.delivery.web_size import SIDES, WebSize, web_size

__all__ = [
    "CUTS",
    "KINDS",
    "MOST_HIGH",
    "MOVING",
    "ONE_PDF",
    "PRESETS",
    "SIDES",
    "CutTo",
    "Delivered",
    "How",
    "WebSize",
    "cut_of",
    "deliver",
    "delivery_targets",
    "draw_frames",
    "export_page",
    "export_targets",
    "frame_targets",
    "kind",
    "parted_picture",
    "picture",
    "web_size",
    "write_moving",
    "write_picture",
]

for _found in pkgutil.iter_modules(__path__, f"{__name__}."):
    importlib.import_module(_found.name)
