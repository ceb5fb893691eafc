# SPDX-License-Identifier: GPL-3.0-or-later
"""A page as lamps see it, and the cuts they suggest on it. Knows a page at hand; changes nothing."""

import weakref
from collections.abc import Callable, Mapping
from dataclasses import dataclass

import msgspec
import numpy as np

from drip_pot.book.hand import Hand
from drip_pot.book.values import BALLOON, CALM, POURS, Lamp, ShadeCut
from drip_pot.book.where import Scope
from drip_pot.core.arrays import F64, I32, I64, Bool
from drip_pot.core.color import from_hex, srgb8_to_oklab
from drip_pot.core.shade import fitted
from drip_pot.core.shade.light import Beam, Form, LitScene, forms_of, shadows

_LINE, _RIM = 3.5, 2
_LARGE, _TOP, _CROSSING = 0.25, 0.12, 6
_WHITE, _WHITE_LINES = 0.97, 26.0
_FIT = 1.0
_MOST = 3000


@dataclass(frozen=True)
class Staged:
    """A page prepared for lamps.

    Attributes
    ----------
    scene : Scene
        Its regions at a scale at which the line is 3 to 4 px wide, with a rim of nothing around.
    step : float
        Page pixels for each pixel of the scene.
    forms, bodies : dict
        Form of every region that takes shadow, and of every body.
    atoms : dict
        The page's atoms of every region.
    boxes : (P + 1, 4) ndarray of int32
        Top, left, bottom and right of every panel in the scene.
    """

    scene: LitScene
    step: float
    forms: dict[int, Form]
    bodies: dict[int, Form]
    atoms: dict[int, list[int]]
    boxes: I32

    def to_scene(self, row: float, col: float) -> tuple[float, float]:
        """Return where a page position lies in the scene."""
        return row / self.step + _RIM, col / self.step + _RIM

    def middle(self, panel: int) -> tuple[float, float]:
        """Return the middle of a panel on the page."""
        top, left, bottom, right = self.boxes[min(panel, len(self.boxes) - 1)].tolist()
        return ((top + bottom) / 2 - _RIM) * self.step, ((left + right) / 2 - _RIM) * self.step


_kept: list[tuple[object, object, Staged]] = []


def staged(hand: Hand, stop: Callable[[], object] = lambda: None) -> Staged:
    """Return a page prepared for lamps; the last one is kept. `stop` is called on the way and may raise."""
    sources = hand.sources
    told = (hand.partition.region.tobytes(), tuple(sources[POURS].items()), tuple(sources[CALM].items()),
            tuple((n, p.part) for n, p in hand.book.pots().items()))  # fmt: skip
    for of, what, found in _kept:
        if isinstance(of, weakref.ref) and of() is hand.divided and what == told:
            return found
    found = _staged(hand, stop)
    _kept[:] = [(weakref.ref(hand.divided), told, found)]
    return found


def _staged(hand: Hand, stop: Callable[[], object]) -> Staged:
    line_px = hand.divided.atoms.line_px
    step = line_px / _LINE if line_px > 1.3 * _LINE else 1.0
    rows, cols = (np.minimum(((np.arange(int(n / step)) + 0.5) * step).astype(int), n - 1) for n in hand.shape)
    small = hand.labels[rows][:, cols]
    alike = _alike(hand)
    region = alike[small]
    names, numbers = np.unique(region, return_inverse=True)
    labels: I32 = np.pad(numbers.reshape(region.shape) + 1, _RIM).astype(np.int32)
    count = len(names)
    panels, sources, pots = hand.panels, hand.sources, hand.book.pots()
    by_region: dict[int, list[int]] = {}
    place = {int(name): k for k, name in enumerate(names.tolist(), 1)}
    for atom, name in enumerate(alike.tolist()):
        if atom and name in place:
            by_region.setdefault(place[name], []).append(atom)
    part, panel, light = np.full(count + 1, -1, np.int32), np.zeros(count + 1, np.int32), np.zeros(count + 1)
    pot_of = np.full(count + 1, -1, np.int32)
    for number, atoms in by_region.items():
        pot = next((p for a in atoms if (p := sources[POURS].get(a)) is not None), None)
        panel[number] = int(panels.panel[atoms[0]]) if panels.framed else 1
        if not panels.framed and pot is None and _at_edge(hand, atoms):
            panel[number] = 0  # the margin round a drawing without panels
        if pot is not None and pot != BALLOON and pot in pots:
            part[number], pot_of[number] = pots[pot].part, pot
            light[number] = float(srgb8_to_oklab(from_hex(pots[pot].local))[0])
    scene = LitScene(labels, part, panel, np.zeros(count + 1, bool), float(line_px / step))
    boxes = _panel_boxes(scene)
    calm = _grounds(scene, boxes, pot_of)
    calm |= (light > _WHITE) & (scene.areas < (_WHITE_LINES * scene.line_px) ** 2)
    for number, leave in sources[CALM].items():
        calm[part == number] = leave
    scene = LitScene(labels, part, panel, calm, scene.line_px)
    wanted = [k for k in range(1, count + 1) if part[k] >= 0 and not calm[k] and panel[k] > 0]
    large = [k for k in wanted if scene.areas[k] >= 4 * scene.line_px**2][:_MOST]
    stop()
    shared = [k if not scene.hosts[k] or calm[scene.hosts[k]] else int(scene.hosts[k]) for k in large]
    forms = dict(zip(large, forms_of(scene, [[k] for k in shared], stop), strict=True))
    members: dict[int, list[int]] = {}
    for k in large:
        members.setdefault(int(scene.bodies[k]), []).append(k)
    several = {b: regions for b, regions in members.items() if len(regions) > 1}
    bodies = dict(zip(several, forms_of(scene, list(several.values()), stop), strict=True))
    return Staged(scene, step, forms, bodies, by_region, boxes)


def _alike(hand: Hand) -> I64:
    """Return a number for the atoms of a region that have the same pot, (A + 1,): leaks may have joined others."""
    pots = np.full(len(hand.areas), -1, np.int64)
    for atom, pot in hand.sources[POURS].items():
        if atom < len(pots):
            pots[atom] = pot
    _, number = np.unique(np.stack([hand.partition.region, pots]), axis=1, return_inverse=True)
    return np.asarray(number.reshape(-1), np.int64)


def _at_edge(hand: Hand, atoms: list[int]) -> bool:
    boxes = hand.divided.boxes[atoms]
    return bool((boxes[:, :2] == 0).any() or (boxes[:, 2:] == hand.shape).any())


def _panel_boxes(scene: LitScene) -> I32:
    count = int(scene.panel.max())
    boxes = np.zeros((count + 1, 4), np.int32)
    for number in range(1, count + 1):
        mine = scene.boxes[1:][scene.panel[1:] == number]
        if len(mine):
            boxes[number] = [*mine[:, :2].min(axis=0), *mine[:, 2:].max(axis=0)]
    boxes[0] = (0, 0, *scene.labels.shape)
    return boxes


def _grounds(scene: LitScene, boxes: I32, pot_of: I32) -> Bool:
    """Tell which regions are ground behind the figures: they reach the frame, and far, or their pot mostly does so."""
    found = np.zeros(scene.count + 1, bool)
    near = 3 * scene.line_px
    for k in range(1, scene.count + 1):
        panel = int(scene.panel[k])
        if panel == 0 or not scene.areas[k]:
            continue
        box, frame = scene.boxes[k].astype(float), boxes[panel].astype(float)
        share = scene.areas[k] / max(1.0, float(np.prod(frame[2:] - frame[:2])))
        top, left = box[:2] - frame[:2] <= near
        bottom, right = frame[2:] - box[2:] <= near
        if not (top or left or bottom or right):
            continue
        sides = int(top) + int(left) + int(bottom) + int(right)
        crossing = left and right and len(scene.neighbors.of(k)) > _CROSSING
        found[k] = bool(share > _LARGE or sides >= 3 or crossing or (top and share > _TOP))
    for pot in set(pot_of[found].tolist()) - {-1}:
        mine = pot_of == pot
        if scene.areas[mine & found].sum() > 0.5 * scene.areas[mine].sum():
            found |= mine
    return found


def lamp_of(lamps: Mapping[int, Lamp], panel: int) -> Lamp | None:
    """Return the key light of a panel: its own, or the one of all panels."""
    keys = [lamp for lamp in lamps.values() if not lamp.color]
    every = [lamp for lamp in keys if lamp.panel == panel] or [lamp for lamp in keys if lamp.panel == 0]
    return every[0] if every else None


def beams_of(found: Staged, lamps: Mapping[int, Lamp]) -> dict[int, tuple[Lamp, Beam]]:
    """Return lamp and beam of every panel that is lit.

    A lamp of all panels stands to each as it stands to the page.
    """
    beams = {}
    whole = found.middle(0)
    for panel in range(1, len(found.boxes)):
        lamp = lamp_of(lamps, panel)
        if lamp is not None:
            row, col = lamp.row, lamp.col
            if lamp.panel == 0 and len(found.boxes) > 2:
                middle = found.middle(panel)
                row, col = row - whole[0] + middle[0], col - whole[1] + middle[1]
            beams[panel] = lamp, Beam(*found.to_scene(row, col), lamp.share, lamp.cast)
    return beams


def suggestions(
    found: Staged, lamps: Mapping[int, Lamp], only: Bool | None = None, stop: Callable[[], object] = lambda: None
) -> list[tuple[int, F64, bool, float]]:
    """Return what lamps suggest: region, outline on the page (K, 2), whether it is light, and softness in pixels.

    `only` (R + 1,) bool tells the regions of the scene that are asked for.
    """
    lit = beams_of(found, lamps)
    forms = {k: f for k, f in found.forms.items() if only is None or only[k]}
    made = shadows(found.scene, forms, found.bodies, {panel: beam for panel, (_, beam) in lit.items()}, stop)
    return [
        (
            one.region,
            (one.loop + 0.5 - _RIM) * found.step,
            one.light,
            lit[int(found.scene.panel[one.region])][0].softness_px,
        )
        for one in made
    ]


def as_cuts(hand: Hand, found: Staged, made: list[tuple[int, F64, bool, float]], into: int) -> list[ShadeCut]:
    """Return suggestions as shapes cut into a pass, offered to be kept."""
    spots: dict[int, Scope] = {}
    cuts = []
    for region, loop, light, soft in made:
        if region not in spots:
            spots[region] = Scope(spots=hand.spots_of(found.atoms[region]))
        cuts.append(ShadeCut(into, fitted(loop, _FIT * found.step), light, soft, spots[region], offered=True))
    return cuts


def bounced(
    found: Staged, lamp: Lamp, stop: Callable[[], object] = lambda: None
) -> list[tuple[int, F64, bool, float]]:  # fmt: skip
    """Return what turns away from a bounce, as `suggestions` do for a key light."""
    alone = msgspec.structs.replace(lamp, color="")
    only = found.scene.panel == lamp.panel if lamp.panel else None
    return suggestions(found, {1: alone}, only, stop)
