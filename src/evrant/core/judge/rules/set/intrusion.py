"""Does a stand, light or card stick into the picture? Code frame.intrusion."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.base.memo import Memo
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.light.ground import laid
from evrant.core.mechanics.standing import feet
from evrant.core.space.framing import View
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector, cut, flat_separation
from evrant.core.space.things import Part, Thing
from evrant.core.space.twins import twins
from evrant.core.studio.gear import Backdrop
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

INTRUSION = Line(
    "frame.intrusion",
    "… outside the picture",
    "m",
    Basis(
        "gap between projected outline and frame, carried back to the thing's distance ≥ 0; legs turned for the best",
        "Central projection from the front principal plane, image distance f (1 + m); hyperplane separation theorem",
        "published",
    ),
    asks="Do lights, cards and the background's holder stay out of the picture?",
    step="set",
    search="kept",
    fails=True,
    helped_by=("gear/", "posture", "background_gap"),
)
Spot = tuple[float, float, float]
SAME = 1e-9
"""Points of a picture that are no farther apart count as one [m on the sensor]."""
NEAR = 0.05
TURNS = 8
"""Ways legs are tried to be turned, within a third of a round."""
ROUND = 8
"""Legs of fewer corners are bars, not a cone."""
THIN = np.array([[0.01, 0.01, 0.0]])
_LINES: Memo[tuple[Margin, ...]] = Memo(4_000_000, lambda lines: 300 + 1800 * len(lines))


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for each light, background holder and card of a set with a picture, and for who else is in the room."""
    if scene.view is None:
        return
    plan = scene.plan
    flat = laid(scene)
    picture = (scene.brief, scene.shot, plan.mark, plan.camera, scene.body, scene.lens, plan.background)
    for thing in scene.around:
        light = scene.light_at(thing.path) if thing.kind == "light" else None
        if light is not None and light.place.role == "practical":
            continue  # meant to be seen: judged by how bright it looks
        if flat is not None and thing.path.endswith(f"/props/{flat.id}"):
            continue  # a flat lay's background
        if (
            not scene.owns(thing)
            or thing.kind in ("light", "holder", "person")
            or (thing.kind == "prop" and thing.parts[0].kind == "card")
        ):
            yield from _LINES.get("", (*picture, thing), partial(_line, scene, thing))


@dataclass(frozen=True)
class Found:
    """Least gap of a thing to the frame [m], which of its parts shows it, how that is turned, and where in the room."""

    gap: float
    part: int
    turn: int
    at: Spot


def _line(scene: Scene, thing: Thing) -> tuple[Margin, ...]:
    found = nearest(scene, thing)
    if found is None:
        return ()
    say = Say.of(scene.brief)
    side = "into the picture" if found.gap < 0 else "outside it"
    return (
        judge(
            INTRUSION,
            (thing.path if scene.owns(thing) else _beside(scene, thing), f"{scene.path}/camera"),
            Estimate(found.gap, shares_of(scene, thing, found)),
            title=f"{thing.name.capitalize()} outside the picture",
            need=0.0,
            have=found.gap,
            clear=f"The {thing.name} stays out of the picture.",
            short=f"The {thing.name} sticks into the picture.",
            reason=f"Seen from the lens, its outline is {say.short_by(found.gap)} {side}.",
            at=found.at,
            placing=0.02,
        ),
    )


def _beside(scene: Scene, thing: Thing) -> str:
    """A name in this set for a thing of a set beside."""
    return f"{scene.path}/beside-{thing.path.removeprefix('sets/').replace('/', '-')}"


def nearest(scene: Scene, thing: Thing) -> Found | None:
    """None when all of the thing is behind the lens or the background. Of what can be turned the best turn counts."""
    if scene.view is None:
        return None
    worst: Found | None = None
    for number, part in sorted(enumerate(thing.parts), key=lambda pair: pair[1].kind == "legs"):
        if scene.owns(thing) and thing.kind == "prop" and part.kind != "card":
            continue  # a tent's back and sides are the picture's background
        worst = _worse(scene, scene.view, thing, number, worst) or worst
    return worst


def _worse(scene: Scene, view: View, thing: Thing, number: int, worst: Found | None) -> Found | None:
    """A part by the turn that shows it least, where that is worse than what is the `worst` so far."""
    part = thing.parts[number]
    best: Found | None = None
    for turn in range(_turn_count(scene, thing, part)):
        found = _of(scene, view, _turned(scene, thing, part, turn), number, turn)
        if found is None:
            return None  # turned so, nothing of it is before the lens
        if best is None or found.gap > best.gap:
            best = found
        if worst is not None and best.gap >= worst.gap:
            return None
    return best


def _of(scene: Scene, view: View, solid: Points, part: int, turn: int) -> Found | None:
    seen = _seen(scene, view, solid)
    if len(seen) < 3:
        return None
    flat, frame = view.picture(seen), _frame(view)
    gap, way = flat_separation(frame, flat)
    far, spot = min(_nearest_spots(view, seen, flat, frame, way), key=lambda found: gap * found[0])
    return Found(gap * far / view.image, part, turn, spot)


def _nearest_spots(view: View, seen: Points, flat: Points, frame: Points, way: Vector) -> list[tuple[float, Spot]]:
    """Where in the room a body's outline comes nearest to the frame, with the distance along the lens axis [m]: a
    corner of it, or on an edge that runs along the frame the ends of what faces it."""
    reach = flat @ way
    close = np.flatnonzero(reach <= reach.min() + SAME)
    if len(close) == 1:
        return [(float(view.depth(seen[close])[0]), _spot(seen[close[0]]))]
    side = np.array([-way[1], way[0]])
    along = flat[close] @ side
    ends = close[[int(along.argmin()), int(along.argmax())]]
    low, high = float(along.min()), float(along.max())
    ahead = frame @ way
    facing = frame[ahead >= ahead.max() - SAME] @ side
    near, far = (float(one) for one in view.depth(seen[ends]))
    found = []
    for at in (float(facing.min()), float(facing.max())):
        share = min(max((at - low) / max(high - low, SAME), 0.0), 1.0)
        depth = 1 / ((1 - share) / near + share / far)  # along an edge 1 / depth goes as in the picture
        part = share if abs(far - near) < SAME else (depth - near) / (far - near)
        found.append((depth, _spot(seen[ends[0]] * (1 - part) + seen[ends[1]] * part)))
    return found


def _spot(point: Vector) -> Spot:
    x, y, z = (float(value) for value in point)
    return x, y, z


def _gap(scene: Scene, thing: Thing | None, found: Found) -> float | None:
    """The gap of the same part, turned in the same way, in another scene or of a twin."""
    if scene.view is None or thing is None or found.part >= len(thing.parts):
        return None
    part = thing.parts[found.part]
    turn = min(found.turn, _turn_count(scene, thing, part) - 1)
    there = _of(scene, scene.view, _turned(scene, thing, part, turn), found.part, turn)
    return None if there is None else there.gap


def _frame(view: View) -> Points:
    x, y = view.across / 2, view.upward / 2
    return np.array([(-x, -y), (x, -y), (x, y), (-x, y)])


def _seen(scene: Scene, view: View, solid: Points) -> Points:
    """The part of a body in front of the lens and, where there is a background, in front of that."""
    seen = cut(solid, view.eye + view.forward * NEAR, view.forward)
    if scene.background_ends is not None and scene.line is not None and len(seen):
        spot, way = scene.line
        seen = cut(seen, np.array([*spot, 0.0]) + np.array([*way, 0.0]) * 0.01, np.array([*way, 0.0]))
    return seen


def _turn_count(scene: Scene, thing: Thing, part: Part) -> int:
    """In how many ways a part may be turned: legs through a third of a round, unless the plan says how they stand."""
    if part.kind != "legs" or len(part.solid) < ROUND:
        return 1
    light = scene.light_at(thing.path) if thing.kind == "light" else None
    return 1 if light is not None and light.place.leg is not None else TURNS


def _turned(scene: Scene, thing: Thing, part: Part, turn: int) -> Points:
    """A part turned in one of its ways; legs as those of a stand."""
    solid = part.solid
    if part.kind != "legs" or len(solid) < ROUND:
        return solid
    light = scene.light_at(thing.path) if thing.kind == "light" else None
    middle = solid.mean(axis=0)
    radius = float(np.linalg.norm(solid[:, :2] - middle[:2], axis=1).max())
    count = light.stand.legs if light is not None and light.stand is not None else 3
    leg = light.place.leg if light is not None else None
    first = math.radians(leg) if leg is not None else 2 * math.pi / count / TURNS * turn
    top = np.array([[*middle[:2], float(solid[:, 2].max())]])
    ring = feet(middle[:2], np.array(radius), count, first)
    return np.vstack([np.column_stack([ring, np.zeros(count)]), top, top + THIN])


def shares_of(scene: Scene, thing: Thing, found: Found) -> tuple[Share, ...]:
    """What the ± of the thing's figures and of the picture's make of that gap [m]."""
    moved = {label: _gap(scene, twin, found) for label, twin in twins(scene, thing)}
    moved |= {label: _gap(other, other.rebuilt(thing), found) for label, other in scene.picture_twins}
    amounts = {label: abs(gap - found.gap) for label, gap in moved.items() if gap is not None}
    return tuple(Share(label, amount) for label, amount in amounts.items() if amount > 1e-9)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Lights outward, up or down; for the background's holder a wider background or more distance."""
    if scene is None or margin.margin is None or scene.axis is None or scene.mark is None:
        return
    say = Say.of(scene.brief)
    lack = -margin.margin + (margin.uncertainty or 0.0) + 0.01
    light = scene.light_at(margin.about[0])
    if light is not None and light.at is not None:
        outward = np.array([-scene.axis[1], scene.axis[0]])
        if float((light.at[:2] - scene.mark) @ outward) < 0:
            outward = -outward
        spot = light.at[:2] + outward * lack
        fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
        yield Proposal(
            f"Move the {light.name} {say.short_by(lack)} outward", SetFields(target=light.path, fields=fields)
        )
        yield Proposal(
            f"Raise the {light.name} {say.short_by(lack)}",
            SetFields(target=light.path, fields={"height": round(float(light.at[2]) + lack, 3)}),
        )
        return
    who = by_id(scene.plan.people, margin.about[0].rsplit("/", 1)[-1])
    if who is not None and who.x is not None and who.y is not None:
        side = np.array([-scene.axis[1], scene.axis[0]])
        out = side if float((np.array([who.x, who.y]) - scene.mark) @ side) >= 0 else -side
        fields = {"x": round(who.x + float(out[0]) * lack, 3), "y": round(who.y + float(out[1]) * lack, 3)}
        words = f"The {who.name.lower()} steps {say.short_by(lack)} aside"
        yield Proposal(words, SetFields(target=margin.about[0], fields=fields))
        return
    now = scene.backdrop.width.value if scene.backdrop and scene.backdrop.width else 0.0
    for item in studio.gear:
        if isinstance(item, Backdrop) and item.width and item.width.value > now:
            fields_b = {"backdrop": item.id}
            yield Proposal(f"Use the {item.called}", SetFields(target=f"{scene.path}/background", fields=fields_b))
    if scene.line is not None:
        for step in (0.1, 0.25):
            spot = scene.line[0] - scene.line[1] * step
            yield Proposal(
                f"Move the background {say.length(step)} back",
                SetFields(
                    target=f"{scene.path}/background",
                    fields={"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)},
                ),
            )


RULE = SetRule("intrusion", margins, (INTRUSION,), propose, order=9, reads=GEOMETRY)
