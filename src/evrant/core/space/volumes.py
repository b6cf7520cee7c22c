"""The volumes of what a set is made of: camera, photographer, lights, background, tables and cards."""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from evrant.core.base.tables.supports import FEETLESS
from evrant.core.space.solids import Points, Vector, bar, cuboid, frame_axes, shade, turned, unit, upright
from evrant.core.space.tents import Panel, panels
from evrant.core.space.things import Part, PartKind, Thing, legs_of, slab, stand_parts
from evrant.core.studio.gear import Backdrop, Board, Flash, Holder, Lamp, Microphone, Modifier, Stand, Table, Tent
from evrant.core.studio.room import value

OPERATOR_DEPTH, OPERATOR_WIDTH, OPERATOR_HEIGHT = 0.60, 0.50, 1.75
REMOTE_DEPTH = 0.25
SCREEN_DEPTH = 0.40
OPERATOR_SPREAD, REMOTE_SPREAD = 0.10, 0.05
"""Room behind the lens for camera and photographer, or camera alone, with its ± [m]. Common practice, no source."""
TAIL = 0.35
"""Tail of a boom as a share of its reach, where its data sheet does not say; drawn, and counted in the way."""
ARMS_AT = {"wall boom": 0.10, "rail or crossbar": 0.0}
"""Arms that end at their plate or clamp, and how deep that is [m]; common practice, no source."""
BODY_BEHIND = 0.17
"""Lens to the photographer's front [m]: the camera itself."""


PLATE_BELOW, ARM_ABOVE = 0.06, 0.10
"""How far under the lens axis its support ends, and how far over a lens that looks down [m]; from memory."""


def camera(path: str, eye: Vector, axis: Vector, tripod: Stand | None, foot: Vector, *, down: bool = False) -> Thing:
    """Body and lens barrel about the perspective centre, on a support whose foot is at `foot`.

    `down`: it looks straight down, its top away from the operator.
    """
    level, side, z = np.array([*axis, 0.0]), np.array([-axis[1], axis[0], 0.0]), np.array([0.0, 0.0, 1.0])
    back, top = (z, -level) if down else (level, z)
    corners = [
        eye + along * back + across * side + up * top
        for along in (0.05, 0.16)
        for across in (-0.07, 0.07)
        for up in (-0.05, 0.05)
    ]
    parts = [Part("head", np.array(corners)), Part("head", bar(eye - back * 0.05, eye + back * 0.05, 0.035))]
    if tripod:
        high = float(eye[2]) + (ARM_ABOVE if down else -PLATE_BELOW)
        parts += stand_parts(tripod, foot, high)
        if down:
            hold = np.array([eye[0], eye[1], high])
            parts.append(Part("boom", bar(hold, np.array([foot[0], foot[1], high]), 0.02)))
    return Thing(path, "camera", "camera", tuple(parts))


def operator(path: str, spot: Vector, axis: Vector) -> Thing:
    """The photographer behind the camera."""
    half = OPERATOR_WIDTH / 2
    box = cuboid((BODY_BEHIND, -half, 0), (OPERATOR_DEPTH, half, OPERATOR_HEIGHT))
    standing = turned(box, math.degrees(math.atan2(axis[1], axis[0])), (0, 0)) + np.array([*spot, 0.0])
    return Thing(path, "photographer", "operator", (Part("body", standing),))


def person(path: str, name: str, spot: Vector) -> Thing:
    """Someone else in the room, standing or waiting."""
    return Thing(path, name, "person", (Part("body", upright(spot[0], spot[1], 0.0, OPERATOR_HEIGHT, 0.23)),))


def backdrop(path: str, item: Backdrop, ends: tuple[Vector, Vector], height: float, lowest: float) -> Thing:
    """The roll or upper edge a background hangs from, and what hangs down to `lowest`."""
    left, right = (np.array([*end, height]) for end in ends)
    thick = 0.02 if item.material in ("panel", "board") else 0.004
    along = unit(right - left)
    out = np.array([-along[1], along[0], 0.0]) * thick / 2
    sheet = [
        end + shift - np.array([0, 0, down])
        for end in (left, right)
        for shift in (-out, out)
        for down in (0.0, height - lowest)
    ]
    parts = (Part("roll", bar(left, right, _thickness(item) / 2)), Part("sheet", np.array(sheet)))
    return Thing(path, "background", "backdrop", parts)


def _thickness(backdrop: Backdrop) -> float:
    return value(backdrop.roll_diameter) or 0.02


@dataclass(frozen=True)
class Hold:
    """Where a background hangs: its ends and height, how high the ceiling is over a place, the table's height, and
    the walls left and right of it along its line."""

    ends: tuple[Vector, Vector]
    height: float
    ceiling: Callable[[Vector], float | None]
    table: float
    walls: tuple[Vector, Vector] | None


def holder(path: str, item: Holder, hold: Hold) -> Iterable[Thing]:
    """The bodies of a holder beyond both ends of the background; those without any yield nothing."""
    build = _HOLDERS.get(item.system or "")
    parts = list(build(item, hold)) if build else []
    if parts:
        yield Thing(path, "background's holder", "holder", tuple(parts))


def _outer(item: Holder, hold: Hold) -> Iterable[Vector]:
    left, right = hold.ends
    along, out = unit(right - left), value(item.overhang) or 0.0
    return (left - along * out, right + along * out)


def _uprights(item: Holder, hold: Hold) -> Iterable[Part]:
    poles = item.system != "two stands and crossbar"
    for spot in _outer(item, hold):
        top = (hold.ceiling(spot) if poles else None) or hold.height
        if item.foot_radius:
            yield from legs_of(spot, item.foot_radius.value, hold.height)
        yield Part("column", upright(spot[0], spot[1], 0, top, 0.015))


def _rod(item: Holder, hold: Hold) -> Iterable[Part]:
    if hold.walls is not None:
        first, last = (np.array([*spot, hold.height]) for spot in hold.walls)
        yield Part("boom", bar(first, last, 0.02))


def _clamps(item: Holder, hold: Hold) -> Iterable[Part]:
    for spot in _outer(item, hold):
        yield Part("column", upright(spot[0], spot[1], max(hold.table - 0.05, 0.0), hold.height, 0.012))


def _drops(item: Holder, hold: Hold) -> Iterable[Part]:
    for spot in _outer(item, hold):
        yield Part(
            "column", upright(spot[0], spot[1], hold.height, max(hold.ceiling(spot) or 0.0, hold.height + 0.02), 0.02)
        )


def _feet(item: Holder, hold: Hold) -> Iterable[Part]:
    """Two crosswise feet of a panel that stands by itself."""
    left, right = hold.ends
    along = unit(right - left)
    reach = value(item.foot_radius) or 0.2
    out = np.array([-along[1], along[0]]) * reach
    for spot in (left + along * 0.1, right - along * 0.1):
        yield Part("legs", bar(np.array([*(spot - out), 0.02]), np.array([*(spot + out), 0.02]), 0.02))


_HOLDERS: dict[str, Callable[[Holder, Hold], Iterable[Part]]] = {
    "two stands and crossbar": _uprights,
    "floor-to-ceiling poles": _uprights,
    "tension rod": _rod,
    "table clamps": _clamps,
    "ceiling brackets": _drops,
    "stands by itself": _feet,
}


def light_support(stand: Stand, mount: Vector, boom: float | None, length: float | None) -> list[Part]:
    """A stand under its light, or a boom's arm, tail and stand; a boom lies level at the mount's height. Hooks and
    brackets stand on nothing.

    `boom` is the plan direction from light to stand [degrees], `length` how far it is drawn out [m].
    """
    high = float(mount[2])
    reach = value(stand.reach) if length is None else length
    off_floor = stand.use in FEETLESS and stand.use != "floor-to-ceiling pole"
    if boom is None or not reach:
        return [] if off_floor else stand_parts(stand, mount[:2], high)
    angle = math.radians(boom)
    way = np.array([math.cos(angle), math.sin(angle), 0.0])
    pivot = mount + way * reach
    if stand.use in ARMS_AT:
        end = pivot - way * min(ARMS_AT[stand.use], reach / 2)
        return [Part("boom", bar(mount, end, 0.015))]
    tail = pivot + way * (value(stand.tail) or TAIL * reach)
    arm = Part("boom", bar(mount, tail, 0.015))
    return [arm] if off_floor else [arm, *stand_parts(stand, pivot[:2], high)]


def shade_of(modifier: Modifier, at: Vector, forward: Vector) -> list[Part]:
    """A modifier, tapering from its face to the mount; nothing while its size is missing."""
    if modifier.width is None:
        return []
    depth = value(modifier.depth) or 0.05
    if modifier.form == "ring":
        across = modifier.width.value
        return [Part("shade", piece) for piece in ring_of(at, forward, across, across * HOLE["modifier"], depth)]
    return [Part("shade", shade(at, forward, modifier.width.value, value(modifier.height), depth, 0.3))]


HOLE = {"lamp": 0.7, "modifier": 0.35}
"""Diameter of the hole the lens looks through as a share of a ring's own: of tubes, of adapters; from memory."""


def ring_of(at: Vector, forward: Vector, diameter: float, hole: float, depth: float) -> list[Points]:
    """A ring as eight pieces round its hole, its face at `at`."""
    right, up = frame_axes(forward)
    angles = np.arange(9) * (math.pi / 4)
    ways = np.cos(angles)[:, None] * right + np.sin(angles)[:, None] * up
    found = []
    for a, b in pairwise(ways):
        # The chord of the outer edge would cut the ring short, that of the hole would narrow it: both go by the middle.
        rims = np.array([a * diameter / 2, b * diameter / 2, a * hole / 2 / CHORD, b * hole / 2 / CHORD])
        found.append(np.vstack([at + rims, at + rims - forward * depth]))
    return found


CHORD = math.cos(math.pi / 8)
"""How near the middle of a chord of an eighth comes to the middle of its circle."""


def head_of(head: Flash | Lamp, mount: Vector, forward: Vector) -> list[Part]:
    """A head behind its mount; of a panel its flat body, of a ring the pieces round its hole."""
    if isinstance(head, Lamp) and head.form == "ring" and head.diameter is not None:
        across, deep = head.diameter.value, value(head.length) or 0.05
        return [Part("head", piece) for piece in ring_of(mount, forward, across, across * HOLE["lamp"], deep)]
    return [_plain_head(head, mount, forward)]


def _plain_head(head: Flash | Lamp, mount: Vector, forward: Vector) -> Part:
    if isinstance(head, Lamp) and head.width is not None:
        deep = value(head.length) or 0.05
        return Part("head", shade(mount, forward, head.width.value, value(head.height) or head.width.value, deep, 1.0))
    length, thick = value(head.length) or 0.1, value(head.diameter) or 0.08
    return Part("head", bar(mount, mount - forward * length, thick / 2))


def prop(
    path: str, item: Table | Board | Tent | Microphone, spot: Vector, turn: float, base: float = 0.0, tilt: float = 0.0
) -> Thing | None:
    """A table, stool, card or tent with its middle at `spot`, or None while a size is missing."""
    if isinstance(item, Tent):
        walls = tuple(_cloth(panel) for panel in panels(item, spot, turn, base, tilt) if panel.wall != "floor")
        return Thing(path, item.name.lower(), "prop", walls) if walls else None
    solids: list[tuple[PartKind, Points]] = []
    if isinstance(item, Microphone):
        solids += _on_a_boom(item, base)
    if isinstance(item, Table) and item.length and item.width and item.height:
        solids += _table(item, item.length.value, item.width.value, item.height.value, base)
    elif isinstance(item, Board) and item.width and item.height:
        solids.append(("card", _card(item.width.value, item.height.value, base, tilt)))
    if not solids:
        return None
    move = np.array([*spot, 0.0])
    parts = tuple(Part(kind, turned(solid, turn, (0, 0)) + move) for kind, solid in solids)
    return Thing(path, item.name.lower(), "prop", parts)


ARM = 0.9
"""How far a microphone's boom arm reaches where nothing is said [m]; usual, from memory."""


def _on_a_boom(item: Microphone, height: float) -> Iterable[tuple[PartKind, Points]]:
    """A microphone whose tip is at the origin, with its arm along x to the column of its stand."""
    if item.form != "on a boom":
        return
    reach, thick = value(item.reach) or ARM, (value(item.diameter) or 0.04) / 2
    far = (value(item.length) or 0.18) + reach
    tip, end = np.array([0.0, 0.0, height]), np.array([far, 0.0, height])
    yield "card", bar(tip, end, thick)
    yield "column", upright(far, 0.0, 0.0, height, 0.02)


CLOTH = 0.004
"""Thickness a tent's walls are given [m]."""


def _cloth(panel: Panel) -> Part:
    """A wall of a tent; those round the lens's hole are cards, which must stay out of the picture."""
    ring = panel.outline
    out = unit(np.cross(ring[1] - ring[0], ring[2] - ring[1])) * CLOTH / 2
    return Part("card" if panel.wall == "front" else "wall", np.vstack([ring - out, ring + out]))


def _table(item: Table, length: float, width: float, top: float, base: float) -> Iterable[tuple[PartKind, Points]]:
    if item.form in ("water tray", "turntable"):
        yield "top", slab(length, width, base, base + top)
        return
    if item.form == "dress form":
        yield "casing", upright(0.0, 0.0, max(top - 0.75, 0.1), top, min(length, width) / 2)
        yield "column", upright(0.0, 0.0, 0.0, max(top - 0.75, 0.1), 0.02)
        return
    if item.form == "hanger hook":
        yield "top", slab(length, width, max(top - 0.05, 0.0), top)
        return
    yield "top", slab(length, width, max(top - 0.04, 0.0), top)
    if item.form in ("table", "translucent table"):
        for x in (-1, 1):
            for y in (-1, 1):
                yield (
                    "column",
                    upright(x * (length / 2 - 0.02), y * (width / 2 - 0.02), 0.0, max(top - 0.04, 0.01), 0.015),
                )
        return
    yield "casing", slab(length * 0.9, width * 0.9, 0.0, max(top - 0.04, 0.01))


def _card(width: float, height: float, base: float, tilt: float) -> Points:
    """A card on its lowest edge, tilted forward about its middle."""
    flat = slab(width, 0.02, -height / 2, height / 2)
    angle = math.radians(tilt)
    y, z = flat[:, 1], flat[:, 2]
    leaning = np.column_stack(
        [flat[:, 0], y * math.cos(angle) - z * math.sin(angle), y * math.sin(angle) + z * math.cos(angle)]
    )
    return np.asarray(leaning + (0.0, 0.0, card_middle(base, height, tilt)))


def card_middle(base: float, height: float, tilt: float) -> float:
    """Height of the middle of a card whose underside is at `base` [m]."""
    angle = math.radians(tilt)
    return base + height / 2 * abs(math.cos(angle)) + 0.01 * abs(math.sin(angle))
