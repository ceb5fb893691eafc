# SPDX-License-Identifier: GPL-3.0-or-later
"""Shadows of forms in the beam of a lamp, made hard and few-cornered. Knows forms; nothing of pots or pages."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TypeVar

import cv2
import numpy as np
import scipy

from drip_pot.core.arrays import F32, F64, I32, U8, Bool, Rect
from drip_pot.core.shade.light.forms import Form, LitScene

Plane = TypeVar("Plane", F32, I32, U8)
_EDGE_STEPS = np.linspace(0.15, 1.5, 10)
_OWN, _BODY = 0.8, 0.2
_ROUND, _EDGE = 0.4, 0.6
_TO_BODY, _TO_REGION = 0.3, 0.5
_PIECE_LINES, _PIECE_AREA, _PIECE_SHARE = 0.85, 7.0, 0.012
_ISLAND = 0.05
_SMOOTH, _EVEN_PX, _THIN_LINES = 2.2, 2.5, 4.0
_CAST_LINES, _CAST_THICK, _CAST_BELOW = 4.0, 0.35, 0.25
_STRAIGHT, _CORNERS, _NARROW, _TURNED = 0.72, 14, 9, 0.06


@dataclass(frozen=True)
class Beam:
    """The light that falls on some regions.

    Attributes
    ----------
    row, col : float
        Where the lamp is, in pixels of the scene; it may lie far away.
    share : float
        How much of the figures lies in shadow, 0..1.
    cast : float
        Length of cast shadows against the usual, 0..4.
    """

    row: float
    col: float
    share: float = 1 / 3
    cast: float = 1.0


@dataclass(frozen=True)
class Shadow:
    """A shadow on a region.

    Attributes
    ----------
    region : int
        Which.
    loop : (K, 2) ndarray of float64
        Its outline in pixels of the scene, rows and columns; it goes on a little under the line.
    light : bool
        Whether it is a light place in a shadow.
    """

    region: int
    loop: F64
    light: bool = False


@dataclass(frozen=True)
class _Field:
    """Darkness in a rectangle about a region, where that region is in it, and which way the light comes from."""

    rect: Rect
    dark: F32
    own: Bool
    toward: tuple[float, float]
    turned: float


def shadows(
    scene: LitScene, forms: Mapping[int, Form], body_forms: Mapping[int, Form], beams: Mapping[int, Beam],
    stop: Callable[[], object] = lambda: None,
) -> list[Shadow]:  # fmt: skip
    """Work out the shadows of regions.

    Parameters
    ----------
    scene : Scene
        The regions.
    forms, body_forms : mapping
        Form of every region that takes shadow, and of every body, by number.
    beams : mapping
        Beam by panel.
    stop : callable
        Called between regions; may raise.

    Notes
    -----
    Roundness is the slope of a form that bulges as a membrane does; it is joined with how near the far edge is, and cut
    where the share of the beam lies in shadow, between what the page, the body and the region ask for.
    """
    fields = {}
    for region, form in forms.items():
        stop()
        beam = beams.get(int(scene.panel[region]))
        if beam is not None:
            fields[region] = _darkness(scene, region, form, body_forms.get(int(scene.bodies[region])), beam)
    if not fields:
        return []
    levels = _levels(scene, fields, beams)
    straight = {region: _is_straight(field.own, scene.line_px) for region, field in fields.items()}
    thin = {k for k, field in fields.items() if _thickness(field.own) < _THIN_LINES * scene.line_px}
    facets = {k for k in fields if straight[k] and _is_facet(scene, k, straight)}
    found: list[Shadow] = []
    for region, field in fields.items():
        stop()
        host = int(scene.hosts[region]) or region
        if region in thin:
            continue
        if host in facets:
            if fields[host].turned > _TURNED:
                found.append(_whole(field, region))
        elif not straight[region]:
            found += _cut(scene, region, field, levels[region], beams[int(scene.panel[region])])
        elif (strip := _strip(field, scene.line_px)) is not None:
            found += _cut(scene, region, field, levels[region], beams[int(scene.panel[region])], strip)
    return found


def _thickness(own: Bool) -> float:
    """Return how thick a region is where it is thickest, in pixels."""
    return 2 * float(cv2.distanceTransform(own.view(np.uint8), cv2.DIST_L2, 3).max()) if own.any() else 0.0


def _is_facet(scene: LitScene, region: int, straight: Mapping[int, bool]) -> bool:
    """Whether a straight-edged region is one of several that make up a body, as of a kite."""
    body = scene.bodies[region]
    mates = [
        k for k in scene.neighbors.of(region) if straight.get(k) and scene.bodies[k] == body and not scene.hosts[k]
    ]
    return len(mates) >= 2 and not scene.hosts[region]


def _whole(field: _Field, region: int) -> Shadow:
    """Return a shadow over all of a region."""
    near = cv2.dilate(field.own.view(np.uint8), _disc(3))
    contours, _ = cv2.findContours(near, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    contour = max(contours, key=len)
    return Shadow(region, _placed(contour, field.rect))


def _placed(contour: I32, rect: Rect) -> F64:
    """Return the rows and columns of a contour found in a rectangle, in the scene, without the steps of its pixels."""
    loop = contour[:, 0, ::-1].astype(np.float64)
    if len(loop) > 4 * _EVEN_PX:
        loop = scipy.ndimage.gaussian_filter1d(loop, _EVEN_PX, axis=0, mode="wrap")
    return np.asarray(loop + np.array(rect[:2]))


def _toward(form: Form, beam: Beam) -> tuple[float, float]:
    down, right = beam.row - form.middle[0], beam.col - form.middle[1]
    length = max(float(np.hypot(down, right)), 1e-6)
    return down / length, right / length


def _slope(form: Form, toward: tuple[float, float]) -> F32:
    """Return how far a form turns away from the light, -1..1."""
    s = form.down * np.float32(toward[0]) + form.right * np.float32(toward[1])
    return np.asarray(s / np.sqrt(1 + s * s), np.float32)


def _edge(form: Form, line_px: float, toward: tuple[float, float]) -> F32:
    """Return how near the edge away from the light is, 0..1."""
    top, left, bottom, right = form.rect
    out = np.zeros((bottom - top, right - left), np.float32)
    for step in _EDGE_STEPS:
        r, c = (round(-step * form.radius * way) for way in toward)
        out += 1 - _taken(form.inside, form.reach, (top + r, left + c, bottom + r, right + c)).astype(np.float32)
    blur = max(0.6 * line_px, 0.06 * form.radius)
    return np.asarray(cv2.GaussianBlur(out / len(_EDGE_STEPS), (0, 0), blur), np.float32)


def _darkness(scene: LitScene, region: int, form: Form, body: Form | None, beam: Beam) -> _Field:
    toward = _toward(body or form, beam)
    own_slope = _slope(form, toward)
    body_slope = own_slope if body is None else _slope_there(body, toward, form.rect)
    edge = _edge(form, scene.line_px, toward)
    dark = _ROUND * (_OWN * own_slope + _BODY * body_slope) + _EDGE * (1.8 * edge - 0.9)
    own = _taken(scene.labels, (0, 0, *scene.labels.shape), form.rect) == region
    turned = float(body_slope[own].mean()) if own.any() else 0.0
    return _Field(form.rect, np.asarray(dark, np.float32), own, toward, turned)


def _slope_there(form: Form, toward: tuple[float, float], rect: Rect) -> F32:
    s = _taken(form.down, form.rect, rect) * np.float32(toward[0])
    s = s + _taken(form.right, form.rect, rect) * np.float32(toward[1])
    return np.asarray(s / np.sqrt(1 + s * s), np.float32)


def _taken(plane: Plane, of: Rect, wanted: Rect) -> Plane:
    """Return a rectangle of a plane that covers another one, zeros beyond."""
    out = np.zeros((wanted[2] - wanted[0], wanted[3] - wanted[1]), plane.dtype)
    top, left, bottom, right = (
        max(of[0], wanted[0]),
        max(of[1], wanted[1]),
        min(of[2], wanted[2]),
        min(of[3], wanted[3]),
    )
    if bottom > top and right > left:
        out[top - wanted[0] : bottom - wanted[0], left - wanted[1] : right - wanted[1]] = plane[
            top - of[0] : bottom - of[0], left - of[1] : right - of[1]
        ]
    return out


def _levels(scene: LitScene, fields: Mapping[int, _Field], beams: Mapping[int, Beam]) -> dict[int, float]:
    """Return where each region's darkness is cut."""
    inside = {region: field.dark[field.own] for region, field in fields.items()}
    by_panel: dict[int, list[F32]] = {}
    by_body: dict[int, list[F32]] = {}
    for region, values in inside.items():
        by_panel.setdefault(int(scene.panel[region]), []).append(values[:: max(1, len(values) // 4000)])
        by_body.setdefault(int(scene.bodies[region]), []).append(values)
    shares = {panel: beams[panel].share for panel in by_panel}
    every = {panel: float(np.quantile(np.concatenate(v), 1 - shares[panel])) for panel, v in by_panel.items()}
    body = {b: np.concatenate(v) for b, v in by_body.items()}
    found = {}
    for region, values in inside.items():
        panel = int(scene.panel[region])
        level = every[panel]
        level += _TO_BODY * (float(np.quantile(body[int(scene.bodies[region])], 1 - shares[panel])) - level)
        found[region] = level + _TO_REGION * (float(np.quantile(values, 1 - shares[panel])) - level)
    return found


def _cut(
    scene: LitScene, region: int, field: _Field, level: float, beam: Beam, strip: Bool | None = None
) -> list[Shadow]:
    own, lw = field.own, scene.line_px
    area = float(np.count_nonzero(own))
    if area < 4 * lw * lw:
        return []
    dark = _spread(field.dark, own) > level
    mask = dark if strip is None else strip
    mask = mask | _cast(scene, region, field, area, beam)
    mask = _smoothed(mask, lw)
    near = cv2.dilate(own.view(np.uint8), _disc(1.2 * lw)) > 0
    found = []
    for light in (False, True):
        wanted = (mask if not light else ~mask) & own
        count, pieces, stats, _ = cv2.connectedComponentsWithStats(wanted.view(np.uint8), connectivity=4)
        depth = cv2.distanceTransform(wanted.view(np.uint8), cv2.DIST_L2, 3)
        for piece in range(1, count):
            px = stats[piece, cv2.CC_STAT_AREA]
            thick = float(depth[pieces == piece].max())
            small = thick < _PIECE_LINES * lw or px < max(_PIECE_AREA * lw * lw, _PIECE_SHARE * area)
            if light:
                small = px < _ISLAND * area and not _touches_lit_edge(pieces == piece, own, field.toward, lw)
            if small:
                mask = np.where(pieces == piece, light, mask)
    kept = mask & near & (cv2.dilate((mask & own).view(np.uint8), _disc(2 * lw)) > 0)
    contours, tree = cv2.findContours(kept.view(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    for contour, row in zip(contours, tree[0] if tree is not None else [], strict=True):
        if len(contour) < 3:
            continue
        is_hole = row[3] >= 0
        if is_hole and cv2.contourArea(contour) < 2 * lw * lw:
            continue
        found.append(Shadow(region, _placed(contour, field.rect), light=bool(is_hole)))
    return found


def _touches_lit_edge(piece: Bool, own: Bool, toward: tuple[float, float], lw: float) -> bool:
    """Whether a light piece lies at the edge that faces the lamp, as a rim does."""
    rows, cols = np.nonzero(piece)
    every = np.argwhere(own)
    along = every @ np.array(toward)
    return bool((rows * toward[0] + cols * toward[1]).max() > along.max() - 2 * lw)


def _spread(dark: F32, own: Bool) -> F32:
    """Let darkness go on beyond a region by its nearest value in it."""
    if own.all():
        return dark
    _, nearest = cv2.distanceTransformWithLabels((~own).view(np.uint8), cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    table = np.zeros(int(nearest.max()) + 1, np.float32)
    table[nearest[own]] = dark[own]
    return np.asarray(table[nearest])


def _smoothed(mask: Bool, lw: float) -> Bool:
    """Open and close a mask by a line's width, and make its edge one that a hand would cut."""
    disc = _disc(0.5 * lw)
    out = cv2.morphologyEx(mask.view(np.uint8), cv2.MORPH_CLOSE, disc)
    out = cv2.morphologyEx(out, cv2.MORPH_OPEN, disc)
    soft = cv2.GaussianBlur(out.astype(np.float32), (0, 0), _SMOOTH * lw / 2)
    return np.asarray(soft > 0.5)


def _disc(radius: float) -> U8:
    reach = max(1, round(radius))
    grid = np.hypot(*np.mgrid[-reach : reach + 1, -reach : reach + 1])
    return np.asarray(grid <= reach + 0.3, np.uint8)


def _is_straight(own: Bool, lw: float) -> bool:
    """Whether a region is flat and straight-edged, as walls and roofs are."""
    contours, _ = cv2.findContours(own.view(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    if not contours:
        return False
    corners = cv2.approxPolyDP(max(contours, key=len), 0.6 * lw, True)[:, 0].astype(np.float64)
    if not 3 <= len(corners) <= _CORNERS:
        return False
    lengths = np.hypot(*(np.roll(corners, -1, axis=0) - corners).T)
    return bool(lengths[lengths >= 4 * lw].sum() >= _STRAIGHT * lengths.sum())


def _strip(field: _Field, lw: float) -> Bool | None:
    """Return a straight strip along the upright edge that is away from the lamp; None on a narrow region."""
    cols = np.broadcast_to(np.arange(field.own.shape[1]), field.own.shape)
    across = -1.0 if field.toward[1] > 0 else 1.0
    inside = cols[field.own] * across
    width = float(np.ptp(inside)) if len(inside) else 0.0
    if width < _NARROW * lw:
        return None
    return np.asarray(cols * across > inside.max() - float(np.clip(0.2 * width, 2.2, 9 * lw)))


def _cast(scene: LitScene, region: int, field: _Field, area: float, beam: Beam) -> Bool:
    """Return where what lies in front of a region, in its own body, throws a shadow on it."""
    out = np.zeros(field.own.shape, bool)
    body = scene.bodies[region]
    fronts = [a for a in scene.coverers.get(region, ())
              if scene.bodies[a] == body and not scene.calm[a] and scene.hosts[a] != region]  # fmt: skip
    labels = _taken(scene.labels, (0, 0, *scene.labels.shape), field.rect)
    for front in fronts:
        mask = (labels == front).view(np.uint8)
        if not mask.any():
            continue
        thick = 2 * float(cv2.distanceTransform(mask, cv2.DIST_L2, 3).max())
        reach = beam.cast * min(_CAST_LINES * scene.line_px, _CAST_THICK * thick, _CAST_BELOW * np.sqrt(area))
        steps = max(1, int(np.ceil(reach)))
        size = mask.shape[1], mask.shape[0]
        for step in range(1, steps + 1):
            away = min(float(step), reach) + 0.5 * scene.line_px
            move = np.array([[1, 0, -field.toward[1] * away], [0, 1, -field.toward[0] * away]], np.float32)
            out |= cv2.warpAffine(mask, move, size, flags=cv2.INTER_NEAREST) > 0
    return out
