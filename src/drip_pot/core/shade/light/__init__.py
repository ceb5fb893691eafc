# SPDX-License-Identifier: GPL-3.0-or-later
"""Hard shadows worked out from flat shapes and a lamp. Knows labels and numbers; nothing of passes or pots."""

from drip_pot.core.shade.light.forms import Form, LitScene, forms_of
from drip_pot.core.shade.light.order import Neighbors, in_front, neighbors
from drip_pot.core.shade.light.shadows import Beam, Shadow, shadows

__all__ = ["Beam", "Form", "LitScene", "Neighbors", "Shadow", "forms_of", "in_front", "neighbors", "shadows"]
