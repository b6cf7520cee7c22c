"""The volumes of what a set is made of: camera, photographer, lights, background, tables and cards."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.solids import Points, Vector, bar, cuboid, shade, turned, unit, upright
from evrant.core.studio.gear import Backdrop, Board, Flash, Holder, Lamp, Modifier, Stand, Table
from evrant.core.studio.room import value
from evrant.core.things import Part, PartKind, Thing, legs_of, slab, stand_parts

OPERATOR_DEPTH, OPERATOR_WIDTH, OPERATOR_HEIGHT = 0.60, 0.50, 1.75
REMOTE_DEPTH = 0.25
OPERATOR_SPREAD, REMOTE_SPREAD = 0.10, 0.05
"""Room behind the lens for camera and photographer, or camera alone, with its ± [m]. Common practice, no source."""
BODY_BEHIND = 0.17
"""Lens to the photographer's front [m]: the camera itself."""


def camera(path: str, eye: Vector, axis: Vector, tripod: Stand | None) -> Thing:
    """Body and lens barrel about the perspective centre, on a tripod if there is one."""
    back, side = np.array([*axis, 0.0]), np.array([-axis[1], axis[0], 0.0])
    corners = [
        eye + along * back + across * side + np.array([0, 0, up])
        for along in (0.05, 0.16)
        for across in (-0.07, 0.07)
        for up in (-0.05, 0.05)
    ]
    parts = [Part("head", np.array(corners)), Part("head", bar(eye - back * 0.05, eye + back * 0.05, 0.035))]
    if tripod:
        parts += stand_parts(tripod, eye[:2] + axis * 0.1, float(eye[2]) - 0.06)
    return Thing(path, "camera", "camera", tuple(parts))


def operator(path: str, eye: Vector, axis: Vector) -> Thing:
    """The photographer behind the camera."""
    half = OPERATOR_WIDTH / 2
    box = cuboid((BODY_BEHIND, -half, 0), (OPERATOR_DEPTH, half, OPERATOR_HEIGHT))
    standing = turned(box, math.degrees(math.atan2(axis[1], axis[0])), (0, 0)) + np.array([*eye[:2], 0.0])
    return Thing(path, "photographer", "operator", (Part("body", standing),))


def roll(path: str, backdrop: Backdrop, ends: tuple[Vector, Vector], height: float) -> Thing:
    """The roll or upper edge a background hangs from."""
    left, right = (np.array([*end, height]) for end in ends)
    return Thing(path, "background", "backdrop", (Part("roll", bar(left, right, _thickness(backdrop) / 2)),))


def _thickness(backdrop: Backdrop) -> float:
    return value(backdrop.roll_diameter) or 0.02


def holder(
    path: str, item: Holder, ends: tuple[Vector, Vector], height: float, ceiling: float | None
) -> Iterable[Thing]:
    """Stands or poles beyond both ends; other holders take no floor."""
    if item.system not in ("two stands and crossbar", "floor-to-ceiling poles"):
        return
    left, right = ends
    along, out = unit(right - left), value(item.overhang) or 0.0
    top = height if item.system == "two stands and crossbar" else ceiling or height
    parts: list[Part] = []
    for end, sign in ((left, -1.0), (right, 1.0)):
        spot = end + along * (sign * out)
        if item.foot_radius:
            parts += legs_of(spot, item.foot_radius.value, height)
        parts.append(Part("column", upright(spot[0], spot[1], 0, top, 0.015)))
    yield Thing(path, "background's holder", "holder", tuple(parts))


def shade_of(modifier: Modifier, at: Vector, forward: Vector) -> list[Part]:
    """A modifier, tapering from its face to the mount; nothing while its size is missing."""
    if modifier.width is None:
        return []
    depth = value(modifier.depth) or 0.05
    return [Part("shade", shade(at, forward, modifier.width.value, value(modifier.height), depth, 0.3))]


def head_of(head: Flash | Lamp, mount: Vector, forward: Vector) -> Part:
    """A head behind its mount."""
    length, thick = value(head.length) or 0.1, value(head.diameter) or 0.08
    return Part("head", bar(mount, mount - forward * length, thick / 2))


def prop(path: str, item: Table | Board, spot: Vector, turn: float) -> Thing | None:
    """A table or a standing card with its middle at `spot`, or None while a size is missing."""
    solids: list[tuple[PartKind, Points]] = []
    if isinstance(item, Table) and item.length and item.width and item.height:
        length, width, top = item.length.value, item.width.value, item.height.value
        solids.append(("top", slab(length, width, max(top - 0.04, 0.0), top)))
        solids.append(("casing", slab(length * 0.9, width * 0.9, 0.0, max(top - 0.04, 0.01))))
    elif isinstance(item, Board) and item.width and item.height:
        solids.append(("card", slab(item.width.value, 0.02, 0.0, item.height.value)))
    if not solids:
        return None
    move = np.array([*spot, 0.0])
    parts = tuple(Part(kind, turned(solid, turn, (0, 0)) + move) for kind, solid in solids)
    return Thing(path, item.name.lower(), "prop", parts)
