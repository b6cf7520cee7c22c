"""Does what holds the background suit wall, ceiling and tenancy, and can a person reach it? Codes
support.holder_place, support.holder_holes, support.holder_height, fit.reach."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import PLACED, PLACED_BOTH, Basis, Line, Margin, judge, unknown
from evrant.core.base.tables.bodies import REACH_UP
from evrant.core.base.tables.holders import HOLDERS, SCREWS_ALLOWED, HolderKind
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.space.solids import Points, Vector
from evrant.core.space.things import door_place
from evrant.core.studio.gear import Holder
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

HOLDER_PLACE = Line(
    "support.holder_place",
    "What the background hangs from",
    "m",
    Basis(
        "distance of the background from what it hangs from ≤ usual distance + reach of the holder",
        "Plane geometry; reaches by kind of holder are common practice, no source",
        "common practice",
    ),
    asks="Is the wall, ceiling, door or table where the holder needs it?",
    step="support",
    search="placed",
    fails=True,
)
HOLDER_HOLES = Line(
    "support.holder_holes",
    "Screw holes",
    "holes",
    Basis(
        "screws into the building ≤ what the tenancy bears (owned: any; small holes allowed: four; else none)",
        "Project choice; ask the landlord and the contract",
        "project choice",
    ),
    asks="Does the tenancy bear the holes it takes?",
    step="support",
    fails=True,
)
HOLDER_HEIGHT = Line(
    "support.holder_height",
    "Poles between floor and ceiling",
    "m",
    Basis(
        "lowest height ≤ floor to ceiling at both poles ≤ greatest height, where the ceiling is flat",
        "Maker's figure as entered",
        "declared",
    ),
    asks="Do the poles fit between floor and a level ceiling?",
    step="support",
    safety=True,
    search="placed",
    fails=True,
)
REACH = Line(
    "fit.reach",
    "Reach of who sets up",
    "m",
    Basis(
        "1.19 × stature + height of the step ≥ height of what is hung or turned by hand",
        "DIN 33402-2:2005, height gripped at (from memory)",
        "from memory",
    ),
    asks="Can whoever sets up reach what is hung or hangs overhead?",
    step="set",
    safety=True,
    hazards=("Climbing",),
)
EASY = 0.15
"""What is gripped while hanging a background lies at most this much over its bar [m]."""


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about how a background is held."""
    holder = scene.holder
    kind = HOLDERS.get(holder.system or "") if holder else None
    if holder is not None and kind is not None and scene.backdrop is not None:
        yield from _place(scene, holder, kind)
        yield from _holes(scene, holder, kind)
        if kind.hangs_from == "floor and ceiling":
            yield from _poles(scene, holder)
    yield from _reach(scene, kind)


def _about(scene: Scene) -> str:
    return f"{scene.path}/background"


def hung_from(scene: Scene, kind: HolderKind) -> tuple[float, str] | None:
    """How far the background's farther end is from what it hangs from [m], and its name; None where there
    is nothing of the kind. Holders on the floor need nothing."""
    ends = scene.background_ends
    if ends is None:
        return None
    points = np.array(ends)
    match kind.hangs_from:
        case "wall":
            return _from_walls(scene, points)
        case "ceiling":
            top = scene.plan.background.height
            if scene.ceiling is None or top is None:
                return None
            return float((scene.ceiling.heights(points) - top).max()), "ceiling"
        case "door":
            return _from_doors(scene, points)
        case "table":
            return _from_tables(scene, points)
    return None


def _from_walls(scene: Scene, points: Points) -> tuple[float, str] | None:
    if scene.walls is None:
        return None
    names = [wall.name for wall in scene.room.edges(scene.walls.count)]
    found = []
    for index, name in enumerate(names):
        start, end = scene.walls.wall(index)
        along = (end - start) / np.linalg.norm(end - start)
        place = (points - start) @ along
        if place.min() > -0.02 and place.max() < float(np.linalg.norm(end - start)) + 0.02:
            found.append((float(((points - start) @ scene.walls.inward(index)).max()), name))
    return min(found) if found else None


def _from_doors(scene: Scene, points: Points) -> tuple[float, str] | None:
    found = []
    for door in scene.room.doors:
        place = door_place(scene.room, scene.walls, door)
        if place is not None and scene.walls is not None:
            middle = (place[0] + place[1]) / 2
            off = float(((points - middle) @ scene.walls.inward(place[2])).max())
            along = float(np.abs((points - middle) @ (place[1] - place[0])).max() / np.linalg.norm(place[1] - place[0]))
            found.append((max(off, along - float(np.linalg.norm(place[1] - place[0])) / 2), door.name.lower()))
    return min(found) if found else None


def _from_tables(scene: Scene, points: Points) -> tuple[float, str] | None:
    """From the rear edge of the table under the subject."""
    found = []
    for thing in scene.things:
        if thing.kind == "prop" and thing.parts[0].kind == "top" and scene.line is not None:
            way: Vector = scene.line[1]
            rear = float((thing.parts[0].solid[:, :2] @ way).min())
            found.append((abs(rear - float((points @ way).mean())), thing.name))
    return min(found) if found else None


def _place(scene: Scene, holder: Holder, kind: HolderKind) -> Iterable[Margin]:
    if kind.hangs_from in ("floor", "floor and ceiling", "two walls", "itself") or scene.background_ends is None:
        return
    title, about = "What the background hangs from", _about(scene)
    if kind.hangs_from == "ceiling" and (scene.ceiling is None or scene.plan.background.height is None):
        return
    found = hung_from(scene, kind)
    if found is None:
        find = f"Put the background at a {kind.hangs_from}, or choose another holder."
        yield unknown(
            HOLDER_PLACE,
            (about,),
            f"There is no {kind.hangs_from} behind it.",
            find,
            title=title,
        )
        return
    off, name = found
    usual = holder.off_wall.value if holder.off_wall else kind.off
    reach = usual + kind.spread
    say = Say.of(scene.brief)
    x, y = scene.background_ends[0]
    shares = [Share("distance the holder keeps", holder.off_wall.pm)] if holder.off_wall else []
    if scene.walls is not None and kind.hangs_from in ("wall", "door"):
        shares += [Share(label, figure.pm) for label, figure, _ in scene.walls.figures[:2]]
    if kind.hangs_from == "ceiling" and scene.ceiling is not None:
        shares.append(Share("ceiling height", scene.ceiling.flat.pm))
    yield judge(
        HOLDER_PLACE,
        (about,),
        Estimate(reach - off, tuple(shares)),
        title=title,
        need=off,
        have=reach,
        clear=f"The {name} is where the holder needs it.",
        short=f"The {name} is too far away to hang the background from.",
        reason=f"It is {say.length(off)} away; {holder.called} bridge {say.length(reach)}.",
        at=(float(x), float(y), scene.plan.background.height or 1.5),
        placing=PLACED_BOTH,
    )


def _holes(scene: Scene, holder: Holder, kind: HolderKind) -> Iterable[Margin]:
    if not kind.holes:
        return
    tenure = scene.brief.tenure
    about = (_about(scene), "brief")
    if tenure is None:
        find = "Ask whoever owns the building."
        missing = "Whether walls and ceiling may be drilled is not said."
        yield unknown(
            HOLDER_HOLES,
            ("brief", *about),
            missing,
            find,
        )
        return
    allowed = SCREWS_ALLOWED[tenure]
    yield judge(
        HOLDER_HOLES,
        about,
        Estimate(float(allowed - kind.holes), ()),
        need=float(kind.holes),
        have=float(allowed),
        clear=f"The {kind.hangs_from} may be drilled for {holder.called}.",
        short=f"The {kind.hangs_from} may not be drilled for {holder.called}.",
        reason=f"It takes about {kind.holes} holes; the tenancy is: {tenure}.",
    )


def _poles(scene: Scene, holder: Holder) -> Iterable[Margin]:
    """Poles press between floor and ceiling: their span, and a ceiling that does not slope away."""
    ends, ceiling, about = scene.background_ends, scene.ceiling, _about(scene)
    title = "Poles between floor and ceiling"
    if ends is None or ceiling is None:
        return
    if holder.max_height is None or holder.min_height is None:
        find = "Read lowest and greatest height off the data sheet."
        missing = f"The span of the {holder.called} is missing."
        yield unknown(
            HOLDER_HEIGHT,
            (f"gear/{holder.id}", about),
            missing,
            find,
            title=title,
        )
        return
    over = ceiling.heights(np.array(ends))
    say = Say.of(scene.brief)
    sloped = float(over.min()) < ceiling.flat.value - 0.005
    high, low = ceiling.flat.value, holder.min_height.value
    tall = holder.max_height.value - high < high - low
    if sloped:
        spare, need, have = Estimate(float(over.min()) - ceiling.flat.value), ceiling.flat.value, float(over.min())
        words = "Under the slope a pole finds no level ceiling to press against."
    elif tall:
        spare = estimate(
            lambda greatest, ceiling_height: greatest - ceiling_height,
            greatest=holder.max_height,
            ceiling_height=ceiling.flat,
        )
        need, have, words = high, holder.max_height.value, "The ceiling is higher than the poles reach."
    else:
        spare = estimate(
            lambda lowest, ceiling_height: ceiling_height - lowest,
            lowest=holder.min_height,
            ceiling_height=ceiling.flat,
        )
        need, have, words = low, high, "The ceiling is lower than the poles can be set."
    yield judge(
        HOLDER_HEIGHT,
        (about,),
        spare,
        title=title,
        need=need,
        have=have,
        clear="The poles fit between floor and ceiling.",
        short=words,
        reason=f"They go from {say.length(low)} to {say.length(holder.max_height.value)}; "
        f"the ceiling there is at {say.length(float(over.min()))}.",
        at=(float(ends[0][0]), float(ends[0][1]), float(over.min())),
    )


def _handled(scene: Scene, kind: HolderKind | None) -> tuple[float, str] | None:
    """The highest place a hand must get to, and what is there: a background hung in place (stands are let
    down first), or a camera overhead."""
    places = []
    height = scene.plan.background.height
    if kind is not None and height is not None and kind.hangs_from not in ("floor", "itself", "table"):
        places.append((height + EASY, "the background's bar"))
    if scene.overhead and scene.eye is not None:
        places.append((float(scene.eye[2]) + 0.1, "the camera overhead"))
    return max(places) if places else None


def _reach(scene: Scene, kind: HolderKind | None) -> Iterable[Margin]:
    found = _handled(scene, kind)
    if found is None:
        return
    need, what = found
    about = (f"{scene.path}/{'camera' if 'camera' in what else 'background'}", "brief")
    stature = scene.brief.setter
    if stature is None:
        missing = "The height of the person who sets up is missing."
        yield unknown(
            REACH,
            ("brief", *about),
            missing,
            "Measure it.",
        )
        return
    say = Say.of(scene.brief)
    spare = estimate(
        lambda stature, step: REACH_UP * stature + step - need, stature=stature, step=scene.brief.step or 0.0
    ).plus(*(picture_shares(scene, _camera_grip) if "camera" in what else ()))
    step = f" on the step of {say.length(scene.brief.step.value)}" if scene.brief.step else ""
    yield judge(
        REACH,
        about,
        spare,
        need=need,
        have=need + spare.value,
        clear=f"Whoever sets up reaches {what}{step}.",
        short=f"Whoever sets up cannot reach {what} from the floor{' even' + step if step else ''}.",
        reason=f"It is {say.length(need)} up; the reach is {say.length(need + spare.value)}. "
        "Use a proper step ladder, never a stool or the bed.",
        placing=PLACED,
    )


def _camera_grip(scene: Scene) -> float | None:
    return None if scene.eye is None else float(scene.eye[2]) + 0.1


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Another holder, the background nearer to its wall or lower, a step."""
    if scene is None:
        return
    target = f"{scene.path}/background"
    say = Say.of(scene.brief)
    if margin.code == "fit.reach":
        if margin.margin is not None and margin.margin < 0.4:
            yield Proposal("Keep a step of 40 cm at hand", SetFields(target="brief", fields={"step": 0.4}))
            lower = (scene.plan.background.height or 0.0) + margin.margin - (margin.uncertainty or 0.0) - 0.01
            if margin.margin < 0 and "bar" in margin.sentence and lower > 0.5:
                yield Proposal(
                    f"Hang it at {say.length(lower)}", SetFields(target=target, fields={"height": round(lower, 3)})
                )
        return
    if margin.code == "support.holder_place" and scene.line is not None and margin.margin is not None:
        spot = scene.line[0] + scene.line[1] * (margin.margin - (margin.uncertainty or 0.0) - 0.01)
        fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
        yield Proposal("Move the background to what it hangs from", SetFields(target=target, fields=fields))
    for item in studio.gear:
        if isinstance(item, Holder) and item.id != scene.plan.background.holder:
            yield Proposal(f"Use the {item.called}", SetFields(target=target, fields={"holder": item.id}))


RULE = SetRule(
    "holding",
    margins,
    (
        HOLDER_PLACE,
        HOLDER_HOLES,
        HOLDER_HEIGHT,
        REACH,
    ),
    propose,
    reads=FRAMED,
    order=4,
    place_order=4,
)
