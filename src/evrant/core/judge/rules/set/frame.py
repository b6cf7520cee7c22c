"""Does the lens frame the shot from inside this room? Codes frame.distance, frame.crop, frame.lens."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import PLACED, Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space import framing
from evrant.core.space.doorway import doorway
from evrant.core.space.footprint import first_wall
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_estimate, picture_shares
from evrant.core.space.solids import Vector
from evrant.core.space.stepback import behind_lens, needed_distance
from evrant.core.space.things import box_thing
from evrant.core.space.volumes import (
    OPERATOR_HEIGHT,
    OPERATOR_WIDTH,
)
from evrant.core.space.wanted import Wanted
from evrant.core.studio.gear import Lens
from evrant.core.studio.room import Box
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

LENS = Line(
    "frame.lens",
    "Lenses you own",
    "m",
    Basis("d = f (1 + h / s)", "Thin-lens equation; any optics handbook", "published"),
    asks="Which of the lenses you own can take this shot from here?",
    step="set",
)
DISTANCE = Line(
    "frame.distance",
    "Room for the lens",
    "m",
    Basis(
        "d + room for camera and photographer ≤ free depth from the mark",
        "Thin-lens equation; 0.5–0.7 m behind the lens is common practice",
        "published",
    ),
    asks="Is there room on the lens axis for the framing distance, the camera and the photographer? A "
    "doorway with free depth behind it counts.",
    step="set",
    search="placed",
    fails=True,
    helped_by=("lens", "crop", "parts", "beyond", "orientation"),
)
CROP = Line(
    "frame.crop",
    "Frame at the mark",
    "m",
    Basis("frame at the mark = s (d / f − 1) ≥ wanted frame", "Thin-lens equation; any optics handbook", "published"),
    asks="Does the camera, where it stands, take in the wanted frame?",
    step="set",
    search="kept",
    fails=True,
)
ABOVE_LENS = 0.17
"""Camera above a lens that looks down [m]; common practice, no source."""


def margins(scene: Scene) -> Iterable[Margin]:
    """Every framing line of a set."""
    missing = _missing(scene)
    if missing:
        what, where, find = missing
        yield unknown(
            DISTANCE,
            (where, f"{scene.path}/camera"),
            what,
            find,
        )
        return
    asked = scene.wanted
    assert asked is not None
    if scene.mark is not None and scene.axis is not None:
        yield from _distance(scene)
        yield from _lenses(scene)
    if scene.distance:
        yield _crop(scene, asked)


def _missing(scene: Scene) -> tuple[str, str, str] | None:
    camera = f"{scene.path}/camera"
    shot = f"shots/{scene.shot.id}"
    if not scene.shot.subjects:
        return "The shot has no subject yet.", shot, "Say who or what is in the picture."
    if scene.wanted is None:
        return "A subject's height is missing.", shot, "Measure it, or take a typical figure."
    if scene.walls is None:
        return "The room's length and width are missing.", "room", "Measure along the walls at floor level."
    if scene.mark is None:
        return "The mark has no place yet.", f"{scene.path}/mark", "Put the mark where the subject will stand."
    if scene.body is None or scene.sensor is None:
        return "No camera with a known sensor is chosen.", camera, "Choose a body; its data sheet gives the sensor."
    if scene.lens is None or scene.focal is None:
        return "No lens is chosen.", camera, "Choose a lens from the kit."
    if scene.lens and scene.lens.focal and not _within(scene.lens, scene.focal.value):
        return "The focal length used lies outside the lens's range.", camera, "Empty it, or give one the lens has."
    return None


def _within(lens: Lens, focal: float) -> bool:
    """Whether a lens has that focal length, to its 2 %."""
    least = lens.focal.value if lens.focal else 0.0
    most = lens.focal_long.value if lens.focal_long else least
    return least * 0.98 <= focal <= most * 1.02


def sides(scene: Scene) -> tuple[Figure, Figure]:
    assert scene.sensor is not None
    return scene.sensor


def free_depth(scene: Scene) -> tuple[Estimate, str, Vector] | None:
    """Free length from the mark along the lens axis [m], what ends it, and where."""
    if scene.walls is None or scene.mark is None or scene.axis is None:
        return None
    hit = first_wall(scene.walls, scene.mark, scene.axis)
    if hit is None:
        return None
    length, index, along = hit
    point = scene.mark + scene.axis * length
    way = scene.walls.inward(index)
    slant = abs(float(way @ scene.axis)) or 1e-6
    shares = []
    for label, figure, moves in scene.walls.figures:
        move = (1 - along) * moves[index] + along * moves[(index + 1) % scene.walls.count]
        shares.append(Share(label, abs(float(way @ move)) * figure.pm / slant))
    name = scene.room.edges(scene.walls.count)[index].name
    best = Estimate(length, tuple(s for s in shares if s.amount > 1e-12)), name, point
    through = _through_door(scene, best[0], point, index)
    if through:
        best = through
    blocker = _blocker(scene, best[0].value)
    return blocker or best


def _through_door(scene: Scene, depth: Estimate, point: Vector, index: int) -> tuple[Estimate, str, Vector] | None:
    door = doorway(scene, index, point)
    if door is None or door.beyond is None or scene.mark is None or scene.axis is None:
        return None
    total = Estimate(depth.value + door.beyond.value, depth.shares).plus(
        Share(f"free depth behind the {door.name}", door.beyond.pm)
    )
    return total, f"the end of the space behind the {door.name.lower()}", scene.mark + scene.axis * total.value


def _blocker(scene: Scene, limit: float) -> tuple[Estimate, str, Vector] | None:
    """The first piece of furniture in the strip where camera and photographer would stand."""
    assert scene.mark is not None and scene.axis is not None
    side = np.array([-scene.axis[1], scene.axis[0]])
    nearest: tuple[Estimate, str, Vector] | None = None
    for box in scene.boxes:
        thing = box_thing(box)
        if thing is None or box.x is None or box.y is None:
            continue
        solid = thing.parts[0].solid
        if solid[:, 2].min() > OPERATOR_HEIGHT or solid[:, 2].max() < 0.15:
            continue
        offset = solid[:, :2] - scene.mark
        along, across = offset @ scene.axis, offset @ side
        if across.min() > OPERATOR_WIDTH / 2 or across.max() < -OPERATOR_WIDTH / 2 or along.min() < 0.3:
            continue
        if along.min() < limit and (nearest is None or along.min() < nearest[0].value):
            shares = _box_shares(scene, box)
            nearest = (
                Estimate(float(along.min()), shares),
                f"the {thing.name}",
                scene.mark + scene.axis * float(along.min()),
            )
    return nearest


def _box_shares(scene: Scene, box: Box) -> tuple[Share, ...]:
    """How a box's place and sizes move its face toward the mark along the lens axis."""
    assert scene.axis is not None
    shares = []
    for label, figure, axis, sized in (("place", box.x, 0, box.length), ("place", box.y, 1, box.width)):
        rate = abs(float(scene.axis[axis]))
        if figure and rate > 1e-9:
            shares.append(Share(f"{label} of the {box.name.lower()}", rate * figure.pm))
        if sized and scene.axis[axis] < -1e-9:
            shares.append(Share(f"size of the {box.name.lower()}", rate * sized.pm))
    return tuple(s for s in shares if s.amount > 0)


@dataclass(frozen=True)
class _Room:
    """What the lens axis has: free length from the middle of the frame, what ends it and where, which
    part of the framing distance lies along it, and what camera and photographer take beyond the lens."""

    have: Estimate
    ends_at: str
    point: tuple[float, float, float]
    part: float
    behind: Figure
    who: str


def _room(scene: Scene) -> _Room | None:
    """Along the floor for a camera that looks ahead, up to the ceiling for one that looks down."""
    if scene.overhead:
        return _room_above(scene)
    free = free_depth(scene)
    if free is None:
        return None
    have, ends_at, point = free
    others = {"remote or timer": "camera", "oneself, seen on a screen": "camera and screen"}
    who = others.get(scene.plan.camera.operator, "camera and photographer")
    part = math.cos(math.radians(scene.shot.angle))
    return _Room(have, ends_at, (float(point[0]), float(point[1]), 1.2), part, behind_lens(scene), who)


def _room_above(scene: Scene) -> _Room | None:
    if scene.ceiling is None or scene.aim is None:
        return None
    over = scene.ceiling.over(scene.aim[None])
    shares = picture_shares(scene, lambda one: None if one.aim is None else over.height - float(one.aim[2]))
    x, y, _ = (float(part) for part in scene.aim)
    part = math.sin(math.radians(scene.shot.angle))
    behind = Figure(ABOVE_LENS, 0.02, "typical")
    return _Room(
        Estimate(over.value, over.shares + shares), f"the {over.under}", (x, y, over.height), part, behind, "camera"
    )


def _spare(room: _Room, need: Estimate) -> Estimate:
    shares = tuple(Share(share.label, share.amount * room.part) for share in need.shares)
    total = need.value * room.part + room.behind.value
    return Estimate(
        room.have.value - total, room.have.shares + shares + (Share("room behind the lens", room.behind.pm),)
    )


def _distance(scene: Scene) -> Iterable[Margin]:
    room = _room(scene)
    if room is None or scene.focal is None:
        return
    need = needed_distance(scene)
    say = Say.of(scene.brief)
    level = need.value * room.part
    words = "go high" if scene.overhead else "step back"
    yield judge(
        DISTANCE,
        (f"{scene.path}/camera", f"{scene.path}/mark"),
        _spare(room, need),
        need=level + room.behind.value,
        have=room.have.value,
        clear=f"The {say.focal(scene.focal.value)} lens has room to {words}.",
        short=f"The {say.focal(scene.focal.value)} lens cannot {words}{'' if scene.overhead else ' far'} enough.",
        reason=f"The frame needs {say.length(level)} to the lens and {say.length(room.behind.value)} for the "
        f"{room.who}; "
        f"{room.ends_at} leaves {say.length(room.have.value)} from the {'subject' if scene.overhead else 'mark'}.",
        at=room.point,
        placing=PLACED,
    )


def _lenses(scene: Scene) -> Iterable[Margin]:
    room = _room(scene)
    lenses = [item for item in scene.gear.values() if isinstance(item, Lens)]
    own = [item for item in lenses if item.status == "owned"]
    used = scene.lens if scene.lens is not None and scene.lens.status == "planned" else None
    whose = "your lenses" if own else "the lenses you plan"
    owned = own or [item for item in lenses if item.at_hand]
    if own and used:
        whose, owned = "the lenses you have and plan", [*own, used]
    if room is None:
        return
    about = (f"{scene.path}/camera", f"shots/{scene.shot.id}")
    if not owned:
        yield unknown(
            LENS,
            about,
            "No lens of your own is entered.",
            "Enter the lenses you own under Kit, with their focal lengths.",
        )
        return
    say = Say.of(scene.brief)
    ranked = []
    for lens in owned:
        if lens.focal is not None:
            need = needed_distance(scene, lens)
            ranked.append((_spare(room, need), lens, need.value * room.part))
    if not ranked:
        yield unknown(
            LENS,
            (f"gear/{owned[0].id}", *about),
            "Your lenses have no focal length entered.",
            "It is engraved on the lens.",
        )
        return
    ranked.sort(key=lambda row: -row[0].value)
    fits = [lens.name for spare, lens, _ in ranked if spare.value >= 0]
    spare, _, level = ranked[0]
    words = "; ".join(f"{lens.name} {say.gap(s.value)}" for s, lens, _ in ranked)
    yield judge(
        LENS,
        about,
        spare,
        need=level + room.behind.value,
        have=room.have.value,
        clear=f"{len(fits)} of {len(ranked)} of {whose} can take this from here.",
        short=f"None of {whose} can take this from here.",
        reason=f"Spare room {'above' if scene.overhead else 'behind'} the {room.who}: {words}.",
        placing=PLACED,
    )


def _frame_spare(scene: Scene) -> float | None:
    """Height of the frame at the mark beyond what the shot asks for [m]."""
    frame, sensor = scene.wanted, scene.sensor
    if frame is None or sensor is None or scene.distance is None or scene.focal is None:
        return None
    across, up = (framing.frame_at(scene.distance, scene.focal.value, side.value) for side in sensor)
    return min(up - frame.height.value, (across - frame.width) * sensor[1].value / sensor[0].value)


def _crop(scene: Scene, asked: Wanted) -> Margin:
    """Whether the camera where it stands takes in the wanted frame: spare frame height [m]."""
    assert scene.focal is not None and scene.distance is not None
    across, up = sides(scene)
    ratio = across.value / up.value
    result = picture_estimate(scene, _frame_spare) or Estimate(-math.inf)
    frame = framing.frame_at(scene.distance, scene.focal.value, up.value)
    need = max(asked.height.value, asked.width / ratio)
    say = Say.of(scene.brief)
    return judge(
        CROP,
        (f"{scene.path}/camera",),
        result,
        need=need,
        have=frame,
        clear="The camera takes in the whole frame.",
        short="From here the camera cuts into the wanted frame.",
        reason=f"{say.focal(scene.focal.value)} from {say.length(scene.distance)} shows {say.length(frame)} high; "
        f"the shot asks for {say.length(need)}."
        f"{'' if scene.shot.parts == 1 or scene.shot.still else ' What moves cannot be joined from several parts.'}",
        placing=PLACED * up.value / scene.focal.value,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Other lenses, the other way of holding the camera, the distance that frames exactly."""
    if scene is None or scene.wanted is None or scene.sensor is None:
        return
    if scene.mark is None or scene.axis is None:
        return
    if margin.code in ("frame.distance", "frame.lens", "frame.crop"):
        yield from _other_lenses(studio, scene)
    if margin.code == "frame.crop" and scene.focal is not None:
        need = needed_distance(scene)
        yield _camera_at(scene, need.value + max(2 * need.uncertainty, 0.03), "Step the camera back to the full frame")
    if margin.code == "frame.distance":
        if scene.plan.camera.operator != "remote or timer":
            yield Proposal(
                "Release by remote or timer, nobody behind the camera",
                SetFields(target=f"{scene.path}/camera", fields={"operator": "remote or timer"}),
            )
        if (other := scene.shot.held_otherwise) is not None:
            held = SetFields(target=f"shots/{scene.shot.id}", fields={"orientation": other})
            yield Proposal(f"Hold the camera in {other}", held)


def _camera_at(scene: Scene, distance: float, label: str) -> Proposal:
    assert scene.mark is not None and scene.axis is not None
    spot = scene.mark + scene.axis * distance
    return Proposal(
        label,
        SetFields(target=f"{scene.path}/camera", fields={"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}),
    )


def _other_lenses(studio: Studio, scene: Scene) -> Iterable[Proposal]:
    """Each other lens in the kit at its own framing distance."""
    assert scene.wanted is not None and scene.sensor is not None
    for item in studio.gear:
        if not isinstance(item, Lens) or item.focal is None or item.id == scene.plan.camera.lens:
            continue
        need = needed_distance(scene, item)
        moved = _camera_at(scene, need.value + max(2 * need.uncertainty, 0.03), "")
        assert isinstance(moved.edit, SetFields) and scene.mark is not None and scene.axis is not None
        if math.isfinite(need.value) and need.value < 12:
            fields = {**moved.edit.fields, "lens": item.id, "focal": None}
            yield Proposal(
                f"Use the {item.called}, lens {Say.of(scene.brief).length(need.value)} from the mark",
                SetFields(target=f"{scene.path}/camera", fields=fields),
            )


RULE = SetRule(
    "frame",
    margins,
    (
        LENS,
        DISTANCE,
        CROP,
    ),
    propose,
    reads=FRAMED,
    whole_kit=True,
    order=0,
    place_order=1,
)
