# SPDX-License-Identifier: GPL-3.0-or-later
"""The stages of the work, in order, each a folder of its own. Each knows the view and the session; none another.

Importing this package offers every tool: each module below it is read once.
"""

import importlib
import pkgutil

from drip_pot.desk.stages.flats.stage import STAGE as FLATS
from drip_pot.desk.stages.holds.stage import STAGE as HOLDS
from drip_pot.desk.stages.inks.stage import STAGE as INKS
from drip_pot.desk.stages.press.stage import STAGE as PRESS
from drip_pot.desk.stages.shade.stage import STAGE as SHADE
from drip_pot.desk.stages.stage import Stage

STAGES: dict[str, Stage] = {stage.name: stage for stage in (INKS, FLATS, SHADE, HOLDS, PRESS)}

for _found in pkgutil.walk_packages(__path__, f"{__name__}."):
    importlib.import_module(_found.name)
