# SPDX-License-Identifier: GPL-3.0-or-later
"""What needs an eye in Flats, by how much harm it does. Knows the book and what is derived from it; draws nothing."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from drip_pot.book.asking import ask
from drip_pot.book.book import Book
from drip_pot.book.derive import Derived, Facts
from drip_pot.book.findings.finding import Finding, around_spot, in_turn, slid_markings
from drip_pot.book.following import CUTS
from drip_pot.book.leftovers import leftovers, regions_left
from drip_pot.book.sources import PageSources
from drip_pot.book.tables import Tables
from drip_pot.book.values import BALLOON, DOUBTS, FIGURES, POURS, Pot
from drip_pot.book.verbs.house import house_of, unlike_house
from drip_pot.core.arrays import I64, Bool, Rect, Report, no_report
from drip_pot.core.color import delta_e, from_hex, srgb8_to_oklab
from drip_pot.core.regions import Atoms, Panels, RegionGraph, bridge_verdicts, islands, region_graph
from drip_pot.words import grouped, listed, tr, tr_many

_MOST = 40
_ALIKE, _LIKELY = 3.0, 0.5
_FEW, _FEW_SHARE = 12, 0.15
_THREAD_PX, _ISLAND_SHARE, _LONG = 1.5, 0.02, 8
_TOUCH_PX, _SPAN_SHARE, _SURE = 40, 0.05, 0.8


@dataclass(frozen=True)
class _Flat:
    """A page's regions with their pots, all by place in `graph.ids`; a pot of -1 is none, 0 a balloon."""

    atoms: Atoms
    facts: Facts
    region: I64
    graph: RegionGraph
    pot: I64
    pots: dict[int, Pot]
    panels: Panels
    solid: Bool

    def members(self, place: int) -> list[int]:
        """Return the atoms of a region."""
        root = self.graph.ids[place]
        return [int(a) for a in np.flatnonzero((self.region == root) & (self.facts.areas > 0))]

    def rect(self, place: int) -> Rect:
        """Return where a region lies."""
        boxes = self.facts.boxes[self.members(place)]
        top, left = boxes[:, :2].min(axis=0).tolist()
        bottom, right = boxes[:, 2:].max(axis=0).tolist()
        return top, left, bottom, right

    def spot(self, place: int) -> tuple[float, float]:
        """Return a pixel of a region."""
        atom = max(self.members(place), key=lambda a: int(self.facts.areas[a]))
        top, left, bottom, right = self.facts.boxes[atom].tolist()
        rows, cols = np.nonzero(self.atoms.labels[top:bottom, left:right] == atom)
        return float(top + rows[len(rows) // 2]), float(left + cols[len(cols) // 2])

    def at(self, row: int, col: int) -> int | None:
        """Return the region at a pixel; None beside the page."""
        high, wide = self.atoms.labels.shape
        atom = int(self.atoms.labels[row, col]) if 0 <= row < high and 0 <= col < wide else 0
        return int(np.searchsorted(self.graph.ids, self.region[atom])) if atom else None

    def around(self, place: int) -> dict[int, int]:
        """Return the neighbours of a region and along how many pixel sides each."""
        mine = (self.graph.pairs == place).any(axis=1)
        other = self.graph.pairs[mine].sum(axis=1) - place
        return dict(zip(other.tolist(), self.graph.length_px[mine].tolist(), strict=True))


def find_flats(
    book: Book, sources: PageSources, derived: Derived, tables: Tables, report: Report = no_report
) -> list[Finding]:
    """List what is left to look at in Flats: what was asked for, then what does most harm first."""
    found = leaks(sources, derived, book.pots())
    if len(tables.is_poured) != derived.regions.atoms(sources.line).count + 1:
        return found
    flat = _flat(book, sources, derived)
    small = [*_slivers(flat), *_islands(flat)] if sources[POURS] else []
    told = {f.key.split(":")[1] for f in small}
    kinds: list[Callable[[], list[Finding]]] = [
        lambda: _figures(flat, sources, book),
        lambda: _changed_light(flat, sources),
        lambda: found,
        lambda: _spans(flat),
        lambda: slid_markings(sources, *CUTS),
        lambda: _doubts(flat, sources),
        lambda: [f for f in _unpoured(flat, sources, tables) if f.key.split(":")[1] not in told],
        lambda: small,
        lambda: _fringe(flat, sources, derived, tables),
        lambda: _strays(flat, book),
        lambda: _unlike_house(flat, book),
        lambda: _alike(flat, book),
        lambda: _refused(sources, derived),
    ]
    return in_turn(kinds, report, "Looking at the flats")


def _flat(book: Book, sources: PageSources, derived: Derived) -> _Flat:
    atoms, facts, part = (
        derived.regions.atoms(sources.line),
        derived.regions.facts(sources.line),
        derived.regions.partition(sources),
    )
    graph = region_graph(part.region, facts.areas, facts.borders)
    pot = np.full(len(graph.ids), -1, np.int64)
    solid = np.zeros(len(graph.ids), bool)
    live = [(a, p) for a, p in sources[POURS].items() if 0 < a < len(facts.areas) and facts.areas[a]]
    if live:
        chosen = np.array(live, np.int64)
        pot[np.searchsorted(graph.ids, part.region[chosen[:, 0]])] = chosen[:, 1]
    solids = atoms.solids[facts.areas[atoms.solids] > 0]
    solid[np.searchsorted(graph.ids, part.region[solids])] = True
    return _Flat(atoms, facts, part.region, graph, pot, book.pots(), derived.regions.panels(sources), solid)


def leaks(sources: PageSources, derived: Derived, pots: Mapping[int, Pot]) -> list[Finding]:
    """List likely bridges that are not shut, between large pieces that are not both poured yet, the largest first."""
    atoms, part = derived.regions.atoms(sources.line), derived.regions.partition(sources)
    areas, bridges = atoms.areas, atoms.bridges
    chosen = {(r, c) for r, c, _ in sources.choices}
    poured = np.zeros(len(areas), bool)
    poured[[a for a in sources[POURS] if a < len(poured)]] = True
    one, two, index = atoms.edges[~poured[atoms.edges[:, :2]].all(axis=1)].T
    least = np.zeros(len(bridges))
    np.maximum.at(least, index, np.minimum(areas[one], areas[two]))
    meant = bridge_verdicts(atoms)
    score = meant * np.sqrt(least)
    likely = part.separates & ~part.closed & (meant > _LIKELY) & (least > 40 * max(atoms.line_px, 1) ** 2)
    found = []
    for index in np.flatnonzero(likely)[np.argsort(-score[likely], kind="stable")][:_MOST]:
        r0, c0, r1, c1 = bridges.feet[index].tolist()
        row, col, width = (r0 + r1) / 2, (c0 + c1) / 2, float(bridges.width_px[index])
        if (row, col) not in chosen:
            meet = _meeting(sources, pots, atoms.edges[atoms.edges[:, 2] == index])
            text = tr("{0}{1:.0f} px, {2:.2f} mm", meet, width, width / sources.page.dpi * 25.4)
            found.append(Finding(f"leak:{row:g}:{col:g}", "Open gap", text, "Bridge",
                                 around_spot(row, col, max(60.0, width * 2)), None,
                                 ask("choose-bridge", row=row, col=col, keep=True)))  # fmt: skip
    return found


def _meeting(sources: PageSources, pots: Mapping[int, Pot], edges: I64) -> str:
    """Say which pots would meet through a bridge that is not shut: 'Coat into Sky, '; empty where neither is poured."""
    for one, two in edges[:, :2].tolist():
        first, second = (pots.get(sources[POURS].get(atom, -1)) for atom in (one, two))
        if first is not None and second is not first:
            if second is None:
                return tr("{0} into what is unpoured, ", first.name)
            return tr("{0} into {1}, ", first.name, second.name)
        if second is not None and second is not first:
            return tr("{0} into what is unpoured, ", second.name)
    return ""


def _refused(sources: PageSources, derived: Derived) -> list[Finding]:
    """List bridges refused by hand that would part large pieces."""
    atoms = derived.regions.atoms(sources.line)
    middle = (atoms.bridges.feet[:, :2] + atoms.bridges.feet[:, 2:]) / 2
    found = []
    for row, col, keep in sources.choices:
        if keep or not len(middle):
            continue
        index = int(np.hypot(middle[:, 0] - row, middle[:, 1] - col).argmin())
        ends = atoms.edges[atoms.edges[:, 2] == index, :2]
        if len(ends) and atoms.areas[ends].min(axis=1).max() > 40 * max(atoms.line_px, 1) ** 2:
            text, what = "Colour passes here by your wish", ask("choose-bridge", row=row, col=col, keep=True)
            spot = around_spot(row, col, 80)
            found.append(Finding(f"refused:{row:g}:{col:g}", "Refused bridge", text, "Bridge", spot, None, what))
    return found


def _unpoured(flat: _Flat, sources: PageSources, tables: Tables) -> list[Finding]:
    """List the regions of which a part has no pot, the largest first; one finding stands for many."""
    left = leftovers(flat.facts.areas, tables.is_left, flat.panels)
    roots = regions_left(flat.region, left)
    if not sources[POURS] or not len(roots):
        return []
    bare = np.bincount(flat.region[left], flat.facts.areas[left], minlength=len(flat.region))[roots]
    order = roots[np.argsort(-bare, kind="stable")]
    places = np.searchsorted(flat.graph.ids, order).tolist()
    if len(order) > max(_FEW, _FEW_SHARE * len(flat.graph.ids)):
        text = tr("{0} regions are still paper; this is the largest", grouped(len(order)))
        return [Finding("bare:many", "Unpoured", text, "", flat.rect(places[0]))]
    return [_bare(flat, place, left, int(px)) for place, px in zip(places, sorted(bare, reverse=True), strict=True)]


def _bare(flat: _Flat, place: int, left: Bool, px: int) -> Finding:
    """Say what of a region has no pot, and what would suit it."""
    key, empty = f"bare:{flat.graph.ids[place]}", [a for a in flat.members(place) if left[a]]
    boxes = flat.facts.boxes[empty]
    rect = (*boxes[:, :2].min(axis=0).tolist(), *boxes[:, 2:].max(axis=0).tolist())
    own = int(flat.pot[place])
    near = {n: length for n, length in flat.around(place).items() if flat.pot[n] > BALLOON}
    pot = own if own >= 0 else int(flat.pot[max(near, key=lambda n: near[n])]) if near and flat.solid[place] else -1
    if pot in flat.pots:
        part, under = "{0} px of a region in {1} have no pot", "{0} px under solid black have no pot; {1} is near"
        text = tr(part if own >= 0 else under, grouped(px), flat.pots[pot].name)
        return Finding(key, "Unpoured", text, "Fill", rect, None, ask("pour", atoms=empty, pot=pot))
    text = tr("A region of {0} px is still paper", grouped(px))
    return Finding(key, "Unpoured", text, "Keep paper", rect, None, ask("keep-balloon", atoms=empty))


def _figures(flat: _Flat, sources: PageSources, book: Book) -> list[Finding]:
    """List the figures that are offered, the largest first."""
    found = []
    for number, offer in sources[FIGURES].items():
        places = [flat.at(one.row, one.col) for one in offer.regions]
        boxes = np.array([flat.rect(place) for place in places if place is not None and flat.pot[place] < 0])
        if len(boxes):
            page = book.pages().get(offer.source)
            many = tr_many("one region", "{0} regions", len(boxes), len(boxes))
            there = page.name if page else tr("a page that is gone")
            text = (
                tr("{0}, as on {1}, mirrored; {2}", offer.name, there, many)
                if offer.mirrored else tr("{0}, as on {1}; {2}", offer.name, there, many)
            )  # fmt: skip
            (top, left), (bottom, right) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
            rect = (top, left, bottom, right)
            found.append(Finding(f"figure:{number}", "Figure stands here", text, "Pour", rect,
                                 asks=ask("pour-figures", numbers=[number]),
                                 drops=ask("drop-figures", numbers=[number])))  # fmt: skip
    return found


def _changed_light(flat: _Flat, sources: PageSources) -> list[Finding]:
    """Ask once a pot and panel whether what was poured over a carried colour goes for the rest of it there.

    What was carried in doubt and poured anew was only wrong; it says nothing of the rest.
    """
    changed: dict[tuple[int, int, int], list[tuple[int, int]]] = {}
    standing: dict[tuple[int, int], list[int]] = {}
    for spot, doubt in sources[DOUBTS].items():
        place = flat.at(*spot)
        if place is None:
            continue
        panel, now = int(flat.panels.panel[flat.graph.ids[place]]), int(flat.pot[place])
        if now == doubt.pot:
            standing.setdefault((doubt.pot, panel), []).append(place)
        elif now in flat.pots and doubt.pot in flat.pots and not doubt.is_open:
            changed.setdefault((doubt.pot, now, panel), []).append(spot)
    found = []
    for (carried, now, panel), spots in changed.items():
        places = standing.get((carried, panel), [])
        if not places:
            continue
        boxes = np.array([flat.rect(place) for place in places])
        (top, left), (bottom, right) = boxes[:, :2].min(axis=0).tolist(), boxes[:, 2:].max(axis=0).tolist()
        was, new, rest = flat.pots[carried].name, flat.pots[now].name, len(places)
        text = tr_many(
            "This region was carried as {1} too. Pour {2} here as well?",
            "These {0} regions were carried as {1} too. Pour {2} here as well?", rest, rest, was, new,
        )  # fmt: skip
        found.append(Finding(f"light:{carried}:{now}:{panel}", tr("{0} became {1}", was, new), text, "Pour",
                             (top, left, bottom, right),
                             asks=ask("pour-alike", carried=carried, pot=now, panel=panel),
                             drops=ask("keep-carried", spots=spots)))  # fmt: skip
    return found


def _doubts(flat: _Flat, sources: PageSources) -> list[Finding]:
    """List colours that were carried in doubt and still stand, the least sure first."""
    found = []
    for (row, col), doubt in sorted(sources[DOUBTS].items(), key=lambda item: item[1].sure):
        place = flat.at(row, col) if doubt.is_open else None
        if place is None or flat.pot[place] != doubt.pot:
            continue
        name = flat.pots[doubt.pot].name if doubt.pot in flat.pots else "Balloon"
        text = tr("Poured with {0} as it was there; {1:.0%} sure. Pour another pot, or keep it.", name, doubt.sure)
        members = flat.members(place)
        found.append(Finding(f"doubt:{row}:{col}", "Carried in doubt", text, "Keep", flat.rect(place),
                             asks=ask("keep-carried", spots=[(row, col)]),
                             drops=ask("pour", atoms=members, pot=None)))  # fmt: skip
    return found


def _slivers(flat: _Flat) -> list[Finding]:
    """List threads, and long thin bits that nobody poured, each with the neighbour to absorb it.

    A round bit may be a pearl, a tooth or the white of an eye: it counts as unpoured, and nobody absorbs it unasked.
    """
    line, thick, areas = max(flat.atoms.line_px, 1.0), flat.graph.thickness, flat.graph.areas
    bit = (flat.pot < 0) & (thick < 0.8 * line) & (areas < 4 * line**2) & (areas >= _LONG * thick**2)
    thin = (thick < _THREAD_PX) | bit
    found = []
    for place in np.flatnonzero(thin & ~flat.solid & (flat.graph.around > 0))[: 2 * _MOST].tolist():
        near = {n: px for n, px in flat.around(place).items() if not flat.solid[n]}
        if not near:
            continue
        into = max(near, key=lambda n: (flat.pot[n] >= 0, near[n]))
        if flat.pot[place] == flat.pot[into] or (flat.pot[into] < 0 and thick[place] >= _THREAD_PX):
            continue
        pot = int(flat.pot[into])
        spots = (flat.spot(place), flat.spot(into))
        what = ask("absorb", atoms=flat.members(place), pot=pot if pot >= 0 else None, spots=spots)
        name = flat.pots[pot].name if pot in flat.pots else "paper"
        text = tr("{0} px, {1:.1f} px thick; {2} takes it", grouped(int(flat.graph.areas[place])), thick[place], name)
        found.append(Finding(f"sliver:{flat.graph.ids[place]}", "Sliver", text, "Absorb", flat.rect(place), None, what))
    return found


def _islands(flat: _Flat) -> list[Finding]:
    """List small unpoured regions within a poured one that hold nothing; the white of an eye holds a pupil."""
    found = []
    for inner, outer in islands(flat.graph):
        pot, area = int(flat.pot[outer]), int(flat.graph.areas[inner])
        if flat.pot[inner] >= 0 or pot <= BALLOON or pot not in flat.pots or flat.solid[inner] or flat.solid[outer]:
            continue
        if area <= _ISLAND_SHARE * flat.graph.areas[outer]:
            text = tr("{0} px of paper inside {1}", grouped(area), flat.pots[pot].name)
            what = ask("pour", atoms=flat.members(inner), pot=pot)
            found.append(
                Finding(f"island:{flat.graph.ids[inner]}", "Island", text, "Fill", flat.rect(inner), None, what)
            )
    return found[:_MOST]


def _spans(flat: _Flat) -> list[Finding]:
    """List regions that run through a frame: into another panel, or into the gutter."""
    panels = flat.panels
    if not panels.framed:
        return []
    small = flat.region[flat.atoms.labels[:: panels.step, :: panels.step]]
    count = int(panels.plane.max()) + 1
    place = np.searchsorted(flat.graph.ids, small).ravel()
    own = np.bincount(place * count + panels.plane.ravel(), minlength=len(flat.graph.ids) * count)
    share = own.reshape(len(flat.graph.ids), count)
    share = share / np.maximum(share.sum(axis=1, keepdims=True), 1)
    found = []
    for number in np.flatnonzero(((share[:, 1:] > _SPAN_SHARE).sum(axis=1) > 1) & ~flat.solid).tolist():
        inside = listed([str(k) for k in range(1, count) if share[number, k] > _SPAN_SHARE])
        text = tr("One region lies in panels {0}. Bridge or dam the frame between them", inside)
        found.append(Finding(f"span:{flat.graph.ids[number]}", "Through a frame", text, "", flat.rect(number)))
    return found[:_MOST]


def _fringe(flat: _Flat, sources: PageSources, derived: Derived, tables: Tables) -> list[Finding]:
    """Show where most paper shows between flat and line, once the page is nearly poured."""
    if not sources[POURS] or (flat.pot < 0).sum() > max(_FEW, _FEW_SHARE * len(flat.graph.ids)):
        return []
    found: dict[str, Finding] = {}
    for rect in derived.regions.fringe(sources, tables.is_poured).rects:
        labels = flat.atoms.labels[rect[0] : rect[2], rect[1] : rect[3]]
        places = np.searchsorted(flat.graph.ids, flat.region[labels])
        bare = places[flat.pot[places] < 0]
        place = int(np.bincount(bare).argmax()) if bare.size else -1
        near = {n: px for n, px in flat.around(place).items() if flat.pot[n] > BALLOON} if place >= 0 else {}
        key, text = f"fringe:{flat.graph.ids[place]}", "Paper shows between flat and line here"
        if near and flat.solid[place]:
            pot = int(flat.pot[max(near, key=lambda n: near[n])])
            what = ask("pour", atoms=flat.members(place), pot=pot)
            text = tr("Solid black lies on paper; {0} goes under it", flat.pots[pot].name)
            found.setdefault(key, Finding(key, "Fringe", text, "Fill", rect, None, what))
        else:
            found.setdefault(key, Finding(key, "Fringe", text, "", rect))
    return list(found.values())[:_MOST]


def _strays(flat: _Flat, book: Book) -> list[Finding]:
    """List lone regions of a part in a panel where all that surrounds them is of one other part."""
    parts = book.parts()
    part = np.array([flat.pots[int(p)].part if int(p) in flat.pots else -1 for p in flat.pot])
    panel = flat.panels.panel[flat.graph.ids]
    met: dict[tuple[int, int], set[int]] = {}
    for a, b in flat.graph.pairs.tolist():
        met.setdefault((int(part[a]), int(part[b])), set()).add(int(panel[a]))
        met.setdefault((int(part[b]), int(part[a])), set()).add(int(panel[a]))
    found = []
    for number in np.flatnonzero(part >= 0).tolist():
        if ((part == part[number]) & (panel == panel[number])).sum() > 1:
            continue
        near = flat.around(number)
        weight: dict[int, int] = {}
        for other, px in near.items():
            weight[int(part[other])] = weight.get(int(part[other]), 0) + px
        best = max(weight, key=lambda p: weight[p], default=-1)
        if best in (-1, int(part[number])) or weight[best] < _SURE * sum(weight.values()):
            continue
        if ((part == best) & (panel == panel[number])).sum() < 3 or len(met[int(part[number]), best]) > 1:
            continue  # parts that meet in other panels too belong beside each other
        into = max((n for n in near if part[n] == best), key=lambda n: near[n])
        mine, theirs = flat.pots[int(flat.pot[number])], flat.pots[int(flat.pot[into])]
        text = tr("{0} of {1} alone among {2}", mine.name, parts[mine.part].name, parts[theirs.part].name)
        what = ask("pour", atoms=flat.members(number), pot=int(flat.pot[into]))
        found.append(Finding(f"stray:{flat.graph.ids[number]}", "Stray pot", text, tr("Give {0}", theirs.name),
                             flat.rect(number), None, what))  # fmt: skip
    return found[:_MOST]


def _unlike_house(flat: _Flat, book: Book) -> list[Finding]:
    """List the pots of the page that are of another colour than the house has for them."""
    used, unlike = set(flat.pot.tolist()), unlike_house(book)
    found = []
    for number in sorted(used & unlike.keys()):
        pot, wanted = flat.pots[number], unlike[number]
        name = house_of(book).name
        if pot.local == wanted.local:
            text = tr(
                "The shadow of {0} is {1} here and {2} in {3}", pot.name, book.tone_pair(pot)[1], wanted.shadow, name
            )
        else:
            text = tr("{0} is {1} here and {2} in {3}", pot.name, pot.local, wanted.local, name)
        found.append(Finding(f"house:{number}:{wanted.local}:{wanted.shadow}", "Unlike the house", text, "Take", None,
                             wanted.local, ask("take-house", numbers=[number]), number))  # fmt: skip
    return found


def _alike(flat: _Flat, book: Book) -> list[Finding]:
    """List pots too alike: where two parts meet in them first, then the others."""
    used = sorted({int(p) for p in flat.pot if int(p) in flat.pots})
    known = set(used)
    lab = srgb8_to_oklab(np.array([from_hex(flat.pots[n].local) for n in used], np.uint8).reshape(-1, 3))
    away = np.asarray(delta_e(lab[:, None], lab[None]))
    meet: dict[tuple[int, int], tuple[int, int]] = {}
    for (a, b), px in zip(flat.graph.pairs.tolist(), flat.graph.length_px.tolist(), strict=True):
        one, two = sorted((int(flat.pot[a]), int(flat.pot[b])))
        if one in known and two in known and one != two and px > meet.get((one, two), (0, _TOUCH_PX))[1]:
            meet[one, two] = (a, px)
    touching: list[Finding] = []
    apart: list[Finding] = []
    for i, j in np.argwhere(np.triu(away < _ALIKE, 1)).tolist():
        a, b, distance = used[i], used[j], away[i, j]
        first, second = flat.pots[a], flat.pots[b]
        if (a, b) in meet and first.part != second.part:
            where = flat.rect(meet[a, b][0])
            text = tr("{0} meets {1} of another part, {2:.1f} ΔE apart", first.name, second.name, distance)
            touching.append(Finding(f"meet:{a}:{b}", "No border seen", text, "", where, None, None, b))
        elif len(apart) < _MOST:
            text, what = (
                tr("{0} and {1} differ by {2:.1f} ΔE", first.name, second.name, distance),
                ask("remove-pot", number=b, into=a),
            )
            apart.append(Finding(f"alike:{a}:{b}", "Too alike", text, "Merge", None, second.local, what))
    return touching + apart
