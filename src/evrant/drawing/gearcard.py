"""A thing of the kit in outline beside a person, all to one scale: what takes up how much."""

from functools import cache

import numpy as np

from evrant.core.space.framing import frame_at
from evrant.core.space.posed import BODY, SIDE, posed
from evrant.core.studio.gear import Backdrop, Board, Flash, Holder, Item, Lamp, Lens, Modifier, Part, Stand, Table, Tent
from evrant.core.studio.gear import Camera as CameraItem
from evrant.core.studio.room import value
from evrant.core.studio.shots import Shot
from evrant.drawing.picture import Mapping, subject_groups
from evrant.drawing.svg import element, line, number, shape

SCALE, WIDE, HIGH = 44.0, 176.0, 132.0
"""Pixels a metre, and the card's drawing [px]."""
FLOOR, PERSON = 124.0, 146.0
STATURE = 1.70
FAR = 0.3
"""Focal length of the lens the person is drawn with: so far away that it is as good as flat [m]."""


def gear_card(item: Item) -> str:
    """The thing on the floor, at its greatest height where it has one; nothing where its size is not known."""
    return element(
        "svg",
        line((0, FLOOR), (WIDE, FLOOR), "ground-line"),
        element("g", person(), transform=f"translate({number(PERSON)} {number(FLOOR)})"),
        element("g", "".join(_outline(item)), transform=f"translate(60 {number(FLOOR)})"),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(WIDE)} {number(HIGH)}",
        class_="gear-card",
        aria_hidden="true",
        focusable="false",
    )


@cache
def person() -> str:
    """A standing person of 1.70 m, feet at the origin, at the card's scale."""
    body = {"id": "p", "name": "Person", "posture": "standing", "height": STATURE}
    shot = Shot.model_validate({"id": "s", "name": "S", "crop": "full length", "subjects": [body]})
    scene = posed(shot, BODY, Lens.model_validate({"kind": "lens", "id": "l", "name": "L", "focal": FAR}))
    assert scene.view is not None and scene.distance and scene.sensor
    high = frame_at(scene.distance, FAR, scene.sensor[1].value) * SCALE
    to = Mapping(scene.view, high * scene.view.across / scene.view.upward, high)
    feet = to.flat(np.array([[SIDE / 2, SIDE / 2, 0.0]]))[0]
    drawn = "".join(markup for _, markup in subject_groups(to, scene))
    return element(
        "g", drawn, transform=f"translate({number(-float(feet[0]))} {number(-float(feet[1]))})", class_="beside-it"
    )


def _box(wide: float, tall: float, base: float = 0.0, class_: str = "solid") -> str:
    w, h, b = wide * SCALE / 2, tall * SCALE, -base * SCALE
    return shape([(-w, b), (w, b), (w, b - h), (-w, b - h)], class_)


def _round(wide: float, tall: float, base: float) -> str:
    return element(
        "ellipse",
        cx=0.0,
        cy=-(base + tall / 2) * SCALE,
        rx=wide * SCALE / 2,
        ry=tall * SCALE / 2,
        class_="solid face-of",
    )


def _outline(item: Item) -> list[str]:
    match item:
        case Stand():
            return _stand(item)
        case Holder():
            return _holder(item)
        case Modifier():
            return _front(item)
        case Backdrop(width=wide, length=long, roll_diameter=thick) if wide:
            drop = min(long.value if long else 2.0, 2.2)
            return [_box(wide.value, drop, 0.0, "paper-face"), _box(wide.value, thick.value if thick else 0.02, drop)]
        case Table(length=long, height=tall) if long and tall:
            return _table(long.value, tall.value)
        case Flash() | Lamp():
            return _head(item)
        case CameraItem():
            return [_box(0.14, 0.10, HELD), _round(0.07, 0.07, HELD + 0.015)]
        case Lens(focal=focal):
            return [_box(0.05 + (focal.value if focal else 0.05), 0.075, HELD)]
    return _plain(item)


def _plain(item: Item) -> list[str]:
    """By its own width and height, or those it is packed in."""
    wide, tall = (value(getattr(item, name, None)) for name in ("width", "height"))
    if isinstance(item, (Board, Tent, Part)) and wide and tall:
        return [_box(wide, tall)]
    sides = [value(item.packed_length), value(item.packed_height)]
    return [_box(sides[0], sides[1])] if sides[0] and sides[1] else []


ROUND = frozenset({"octabox", "umbrella", "beauty dish", "ring", "lantern", "reflector dish", "snoot"})
HELD, MIDDLE = 1.2, 1.2
"""Where a camera is held and a light's face has its middle, for looking at [m]."""


def _front(item: Modifier) -> list[str]:
    if item.width is None:
        return []
    wide, tall = item.width.value, (item.height or item.width).value
    base = max(MIDDLE - tall / 2, 0.0)
    return [_round(wide, tall, base) if item.form in ROUND else _box(wide, tall, base, "solid face-of")]


def _head(item: Flash | Lamp) -> list[str]:
    if isinstance(item, Lamp) and item.width and item.height:
        return [_box(item.width.value, item.height.value, 1.0, "solid face-of")]
    return [_box(value(item.length) or 0.1, value(item.diameter) or 0.08, 1.0)]


def _table(long: float, tall: float) -> list[str]:
    top, leg = 0.03, 0.03
    legs = [
        element("g", _box(leg, tall - top), transform=f"translate({number(side * (long / 2 - 0.05) * SCALE)} 0)")
        for side in (-1, 1)
    ]
    return [*legs, _box(long, top, tall - top)]


def _stand(item: Stand) -> list[str]:
    """The column at its greatest height, drawn thinner over the lowest; legs on their circle."""
    if item.max_height is None:
        reach = value(item.reach)
        return [_box(reach, 0.04, 1.4)] if reach else []
    top, low = item.max_height.value, value(item.min_height)
    foot = value(item.foot_radius) or 0.0
    parts = [line((0, 0), (0, -top * SCALE), "column thin")]
    if low:
        parts.append(line((0, 0), (0, -low * SCALE), "column"))
    if foot:
        hub = -min(foot * 0.9, top * 0.5) * SCALE
        parts += [line((0, hub), (side * foot * SCALE, 0), "legs") for side in (-1, 1)]
    if item.reach:
        parts.append(line((-0.3 * SCALE, -top * SCALE), (item.reach.value * SCALE, -top * SCALE), "column thin"))
    return parts


def _holder(item: Holder) -> list[str]:
    wide, top = value(item.max_width), value(item.max_height)
    if wide is None and top is None:
        return []
    half, high = (wide or 0.3) / 2 * SCALE, -(top or 1.0) * SCALE
    return [
        *(line((side * half, 0), (side * half, high), "column") for side in (-1, 1)),
        line((-half, high), (half, high), "column thin"),
    ]
