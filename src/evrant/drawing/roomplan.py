"""The plan of a room to work on by hand: what can be held, and what the hand needs to know of each thing.

Every thing carries its place as data in room coordinates [m]; the page's script moves it under the pointer and sends
one edit when it is let go. A thing with a figure that is only assumed is drawn dashed.
"""

import json
from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import Any

import numpy as np

from evrant.core.base.model import Model
from evrant.core.base.quantity import Figure
from evrant.core.place.tray import TRAY, Usual, free_stretches
from evrant.core.space.footprint import Plan
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector
from evrant.core.space.things import door_place
from evrant.core.studio.room import Outline, Rectangle, Room, Traverse, value
from evrant.core.studio.words import Say
from evrant.drawing.layout import Frame, layout_of
from evrant.drawing.plan import NAMED_FROM, plan_view
from evrant.drawing.sheet import blank_sheet, view_of
from evrant.drawing.svg import element, line, number, path_of, shape, text, title

REACH = 22.0
"""Half the smallest side of what a finger holds [px]."""
LEFT, TOP, RIGHT, BOTTOM = 64.0, 40.0, 40.0, 52.0
MOST_SCALE = 240.0
NARROW = 560.0
Hold = dict[str, Any]


def room_plan(scene: Scene, width: float, height: float) -> str:
    """The plan as large as fits, with everything in it that can be held."""
    whole = layout_of(scene, 800.0, 800.0)
    if whole is None or scene.walls is None:
        return blank_sheet(width, height)
    long, wide = whole.plan.width / whole.scale, whole.plan.height / whole.scale
    scale = min((width - LEFT - RIGHT) / long, (height - TOP - BOTTOM) / wide, MOST_SCALE)
    tall = height if width >= NARROW else wide * scale + TOP + BOTTOM
    frame = replace(
        whole.plan,
        x=LEFT + (width - LEFT - RIGHT - long * scale) / 2,
        y=TOP + (tall - TOP - BOTTOM - wide * scale) / 2,
        width=long * scale,
        height=wide * scale,
        scale=scale,
    )
    walls = scene.walls
    inner = plan_view(frame, scene, lengths=True) + "".join(_held(frame, scene, walls))
    view = view_of(frame, "", inner, width, element("g", id="room-ghost", aria_hidden="true"))
    names = [wall.id for wall in scene.room.edges(walls.count)]
    ends = np.round(np.column_stack([walls.corners, walls.nexts]), 4).tolist()
    return element(
        "svg",
        view,
        id="sheet",
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(tall)}",
        class_="sheet room-sheet",
        role="group",
        aria_label="Plan of the room",
        data_frame=json.dumps([round(frame.scale, 6), *(round(part, 6) for part in frame.low), round(frame.height, 3)]),
        data_units=scene.brief.units,
        data_walls=json.dumps([[name, *end] for name, end in zip(names, ends, strict=True)]),
    )


def tray_glyph(one: Usual) -> str:
    """A thing of the tray from above, all to one scale."""
    scale, (long, across, _) = 13.0, one.size
    match one.list:
        case "doors":
            drawn = element("path", d="M3 20V5A15 15 0 0 1 18 20", class_="leaf-glyph")
        case "windows":
            drawn = line((3, 14), (25, 14), "window")
        case "sockets":
            drawn = line((14, 24), (14, 15), "socket") + element("circle", cx=14.0, cy=12.0, r=3.0, class_="socket-dot")
        case "slopes":
            drawn = element("path", d="M3 22V16L25 6V22Z", class_="overhead")
        case "rails":
            drawn = line((2, 14), (26, 14), "rail-line")
        case _:
            x, y = 14 - long * scale / 2, 14 - across * scale / 2
            kind = "zone" if one.list == "zones" else "overhead" if one.group == "Above" else "furniture"
            drawn = shape([(x, y), (28 - x, y), (28 - x, 28 - y), (x, 28 - y)], kind)
    return element("svg", drawn, viewBox="0 0 28 28", class_="glyph", aria_hidden="true")


def _held(frame: Frame, scene: Scene, walls: Plan) -> Iterator[str]:
    """From below: walls to click, walls to drag, what stands on the floor, what hangs, what is in the walls."""
    room, say = scene.room, Say.of(scene.brief)
    yield from _wall_hits(frame, room, walls, say)
    for thing in (*room.zones, *room.boxes):
        yield from _standing(frame, room, thing, say)
    yield from _slopes(frame, room, walls, say)
    for rail in room.rails:
        yield from _rail(frame, rail, say)
    yield from _edges(frame, room, walls, say)
    yield from _in_walls(frame, room, walls, say)


def assumed(thing: Model, names: Iterable[str] = ()) -> bool:
    """Whether a figure of it (of those named) is only assumed."""
    figures = (getattr(thing, name) for name in (names or type(thing).model_fields))
    return any(isinstance(one, Figure) and one.origin == "guess" for one in figures)


def _flat(frame: Frame, points: Any) -> Points:
    array = np.asarray(points, dtype=float)
    return frame.place(np.column_stack([array, np.zeros(len(array))]))


def _hold(path: str, words: str, hold: Hold, *shapes: str, loose: bool = False, part: str = "") -> str:
    """A thing that can be held, its data, and how a screen reader says it."""
    key = path.replace("/", "-") + (f"-{part}" if part else "")
    return element(
        "g",
        title(words),
        *shapes,
        id=f"hold-{key}",
        class_="hold loose" if loose else "hold",
        tabindex=0,
        role="button",
        aria_label=words + (", assumed" if loose else ""),
        aria_describedby="hold-help",
        data_path=path,
        data_hold=json.dumps({"target": path, **hold}),
    )


def _wall_hits(frame: Frame, room: Room, walls: Plan, say: Say) -> Iterator[str]:
    for i, wall in enumerate(room.edges(walls.count)):
        a, b = _flat(frame, walls.wall(i))
        length = float(np.linalg.norm(walls.nexts[i] - walls.corners[i]))
        yield element(
            "g",
            title(f"{wall.name}: click to put a door, a window or a socket here"),
            line(a, b, "wall-hit"),
            id=f"wall-hit-{wall.id}",
            class_="wall-spot",
            tabindex=0,
            role="button",
            aria_haspopup="true",
            aria_label=f"{wall.name}, {say.length(length)}: put a door, a window or a socket here",
            data_wall=wall.id,
            data_middle=f"{length / 2:.3f}",
        )


def _standing(frame: Frame, room: Room, thing: Any, say: Say) -> Iterator[str]:
    """Furniture or a zone, its corner nearest to A and its sizes known."""
    x, y, long, across = (value(getattr(thing, name)) for name in ("x", "y", "length", "width"))
    if x is None or y is None or long is None or across is None:
        return
    kind = "boxes" if thing in room.boxes else "zones"
    corners = _flat(frame, [(x, y), (x + long, y), (x + long, y + across), (x, y + across)])
    words = (
        f"{thing.name}, {say.length(long)} × {say.length(across)}, {say.length(x)} along A–B, {say.length(y)} off it"
    )
    hold = {"kind": "floor", "rect": [x, y, long, across], "fields": {"x": x, "y": y}, "turns": kind == "boxes"}
    loose = assumed(thing, ("x", "y", "length", "width"))
    name = _name_in(corners, thing.name.lower()) if kind == "boxes" else ""
    yield _hold(f"room/{kind}/{thing.id}", words, hold, shape(corners, "hold-shape"), name, loose=loose)


LETTER = 6.3
"""Usual width of a letter of a note [px]."""


def _name_in(corners: Points, name: str) -> str:
    """A name where the plan itself writes none: inside, upright where the thing is narrow, or nothing."""
    wide, tall = np.ptp(corners, axis=0)
    need, (x, y) = LETTER * len(name), corners.mean(axis=0)
    if wide > NAMED_FROM or max(wide, tall) < need:
        return ""
    turn = None if wide >= need else f"rotate(-90 {number(float(x))} {number(float(y))})"
    return text(float(x), float(y) + 4, name, "note", text_anchor="middle", transform=turn)


def _rail(frame: Frame, rail: Any, say: Say) -> Iterator[str]:
    x, y, to_x, to_y = (value(getattr(rail, name)) for name in ("x", "y", "to_x", "to_y"))
    if x is None or y is None or to_x is None or to_y is None:
        return
    path, loose = f"room/rails/{rail.id}", assumed(rail, ("x", "y", "to_x", "to_y"))
    ends = _flat(frame, [(x, y), (to_x, to_y)])
    rect = [min(x, to_x), min(y, to_y), abs(to_x - x), abs(to_y - y)]
    fields = {"x": x, "y": y, "to_x": to_x, "to_y": to_y}
    words = f"{rail.name}, {say.length(float(np.hypot(to_x - x, to_y - y)))} long"
    whole = {"kind": "floor", "rect": rect, "fields": fields, "turns": False}
    yield _hold(path, words, whole, line(ends[0], ends[1], "hold-line"), loose=loose)
    for part, names, end, spot in (
        ("from", ("x", "y"), ends[0], (x, y)),
        ("to", ("to_x", "to_y"), ends[1], (to_x, to_y)),
    ):
        hold = {
            "kind": "floor",
            "rect": [*spot, 0.0, 0.0],
            "fields": dict(zip(names, spot, strict=True)),
            "turns": False,
        }
        yield _hold(path, f"{rail.name}, an end", hold, _knob(end), part=part)


def _knob(at: Vector) -> str:
    x, y = float(at[0]), float(at[1])
    return element("circle", cx=x, cy=y, r=REACH, class_="reach") + element("circle", cx=x, cy=y, r=5.0, class_="knob")


def _slopes(frame: Frame, room: Room, walls: Plan, say: Say) -> Iterator[str]:
    """Where each slope ends, to be drawn in or out."""
    names = [wall.id for wall in room.edges(walls.count)]
    for slope in room.slopes:
        run = value(slope.run)
        if slope.wall not in names or run is None:
            continue
        i = names.index(slope.wall)
        inward = walls.inward(i)
        ends = np.array(walls.wall(i)) + inward * run
        a, b = _flat(frame, ends)
        hold = {"kind": "pull", "field": "run", "value": run, "way": inward.tolist(), "line": ends.round(4).tolist()}
        words = f"{slope.name}, ends {say.length(run)} from its wall"
        yield _hold(
            f"room/slopes/{slope.id}",
            words,
            hold,
            line(a, b, "hold-line thin"),
            _knob((a + b) / 2),
            loose=assumed(slope, ("run",)),
        )


def _edges(frame: Frame, room: Room, walls: Plan, say: Say) -> Iterator[str]:
    """A handle on each wall that a length of the room moves, in the middle of its longest free stretch."""
    if isinstance(room.footprint, Outline):
        yield from _corners(frame, walls, say)
    if isinstance(room.footprint, Traverse):
        yield from _sides(frame, room, room.footprint, walls, say)
    if room.footprint is None or isinstance(room.footprint, (Outline, Traverse)):
        return
    for i, wall in enumerate(room.edges(walls.count)):
        found = _moved_by(room, walls, i)
        if found is None:
            continue
        field, figure = found
        start, end = walls.wall(i)
        middle = _free_middle(room, walls, i)
        outward = -walls.inward(i)
        at = _flat(frame, [middle])[0]
        hold = {
            "kind": "pull",
            "field": field,
            "value": figure.value,
            "way": outward.tolist(),
            "line": np.round([start, end], 4).tolist(),
        }
        level = abs(outward[1]) > 0.5
        words = f"{wall.name}: drag for the room's {field.replace('_', ' ')}, {say.length(figure.value)}"
        yield _hold("room/footprint", words, hold, _grip(at, level), loose=figure.origin == "guess", part=f"{i}")


def _free_middle(room: Room, walls: Plan, index: int) -> Vector:
    """The middle of a wall's longest stretch without door or window."""
    start, end = walls.wall(index)
    length = float(np.linalg.norm(end - start))
    stretches = free_stretches(room, room.edges(walls.count)[index].id, length)
    left, right = max(stretches, key=lambda span: span[1] - span[0], default=(0.0, length))
    return np.asarray(start + (end - start) / length * (left + right) / 2)


STRAIGHT = 0.17
"""Sine of the least turn at which a wall can be pulled along the walls beside it."""


def _sides(frame: Frame, room: Room, measured: Traverse, walls: Plan, say: Say) -> Iterator[str]:
    """A handle on each wall of a round; pulled, the walls beside it grow and its direction stays."""
    ways = walls.nexts - walls.corners
    lengths = np.linalg.norm(ways, axis=1)
    ways = ways / lengths[:, None]
    for i, wall in enumerate(room.edges(walls.count)):
        outward = -walls.inward(i)
        before, after = ways[i - 1], ways[(i + 1) % walls.count]
        if min(abs(before @ outward), abs(after @ outward)) < STRAIGHT:
            continue
        hold = {
            "kind": "side",
            "index": i,
            "way": outward.round(6).tolist(),
            "before": before.round(6).tolist(),
            "after": after.round(6).tolist(),
            "line": np.round(walls.wall(i), 4).tolist(),
            "corners": walls.corners.round(4).tolist(),
            "lengths": lengths.round(4).tolist(),
            "legs": [leg.model_dump(mode="json", exclude_none=True) for leg in measured.legs],
        }
        words = f"{wall.name}: drag it out or in, {say.length(float(lengths[i]))} long"
        loose = assumed(measured.legs[i], ("length",))
        grip = _grip(_flat(frame, [_free_middle(room, walls, i)])[0], abs(outward[1]) > 0.5)
        yield _hold("room/footprint", words, hold, grip, loose=loose, part=f"{i}")


def _grip(at: Vector, level: bool) -> str:
    """A bar across the wall's middle, and around it what a finger holds."""
    x, y = float(at[0]), float(at[1])
    wide, tall = (26.0, 9.0) if level else (9.0, 26.0)
    return element("circle", cx=x, cy=y, r=REACH, class_="reach") + element(
        "rect", x=x - wide / 2, y=y - tall / 2, width=wide, height=tall, rx=4.0, class_="grip"
    )


def _moved_by(room: Room, walls: Plan, index: int) -> tuple[str, Figure] | None:
    """The measured length that moves a wall as a whole along its normal, the one that moves fewest others; of a
    rectangle's walls at A the length across the room."""
    outward, measures = -walls.inward(index), room.footprint
    best: tuple[int, str, Figure] | None = None
    if measures is None:
        return None
    for _, figure, moves in walls.figures:
        field = next((name for name in type(measures).model_fields if getattr(measures, name) is figure), None)
        if field is None:
            continue
        shifts = moves @ outward
        own = shifts[[index, (index + 1) % walls.count]]
        if np.allclose(np.abs(own), 1.0, atol=1e-6) and own[0] * own[1] > 0:
            count = int((np.abs(moves).max(axis=1) > 1e-9).sum())
            if best is None or count < best[0]:
                best = count, field, figure
    if best is not None:
        return best[1], best[2]
    if isinstance(measures, Rectangle) and measures.length and measures.width:
        return ("width", measures.width) if index % 2 == 0 else ("length", measures.length)
    return None


def _corners(frame: Frame, walls: Plan, say: Say) -> Iterator[str]:
    """Corners of a free outline; A stays where everything is measured from."""
    spots = walls.corners.round(4).tolist()
    for i in range(1, walls.count):
        x, y = spots[i]
        at = _flat(frame, [(x, y)])[0]
        words = f"Corner {chr(65 + i % 26)}, {say.length(x)} along A–B, {say.length(y)} off it"
        yield _hold(
            "room/footprint", words, {"kind": "corner", "index": i, "spots": spots}, _knob(at), part=f"corner-{i}"
        )


def _in_walls(frame: Frame, room: Room, walls: Plan, say: Say) -> Iterator[str]:
    names = [wall.id for wall in room.edges(walls.count)]
    for kind in ("windows", "sockets", "doors"):
        for thing in getattr(room, kind):
            offset, width = value(thing.offset), value(getattr(thing, "width", None)) or 0.0
            if thing.wall not in names or offset is None or (kind != "sockets" and not width):
                continue
            index = names.index(thing.wall)
            start, end = walls.wall(index)
            along = (end - start) / np.linalg.norm(end - start)
            out = -walls.inward(index) * (5.0 / frame.scale)
            a, b = _flat(frame, [start + along * offset + out, start + along * (offset + width) + out])
            shapes = [line(a, b, "hold-line")]
            if width * frame.scale < 2 * REACH:
                middle = (a + b) / 2
                shapes.insert(0, element("circle", cx=float(middle[0]), cy=float(middle[1]), r=REACH, class_="reach"))
            if kind == "doors":
                shapes += _leaf(frame, room, walls, thing)
            size = f", {say.length(width)} wide" if width else ""
            name = room.edges(walls.count)[index].name
            hold = {"kind": "wall", "wall": thing.wall, "offset": offset, "span": width, "turns": kind == "doors"}
            yield _hold(
                f"room/{kind}/{thing.id}",
                f"{thing.name}{size}, {say.length(offset)} from the start of {name}",
                hold,
                *shapes,
                loose=assumed(thing, ("offset", "width") if width else ("offset",)),
            )


def _leaf(frame: Frame, room: Room, walls: Plan, door: Any) -> list[str]:
    """The quarter a leaf sweeps, to be clicked."""
    place = door_place(room, walls, door)
    if place is None or door.swing == "slides":
        return []
    first, last, index = place
    hinge, other = (first, last) if door.hinge == "start" else (last, first)
    way = walls.inward(index) * (1 if door.swing == "in" else -1)
    width = float(np.linalg.norm(last - first))
    turns = np.linspace(0.0, np.pi / 2, 7)
    rim = [hinge + (other - hinge) * np.cos(t) + way * width * np.sin(t) for t in turns]
    points = _flat(frame, [hinge, *rim])
    return [
        shape(points, "hold-shape"),
        element("path", d=path_of(points[[0, -1]], closed=False), class_="hold-line thin"),
    ]


def tray_groups() -> dict[str, list[tuple[str, str, str]]]:
    """What the tray holds by its group: key, name and glyph."""
    found: dict[str, list[tuple[str, str, str]]] = {}
    for key, one in TRAY.items():
        found.setdefault(one.group, []).append((key, one.name, tray_glyph(one)))
    return found
