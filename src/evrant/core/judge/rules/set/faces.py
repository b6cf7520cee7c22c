"""Is everyone's face seen past the others of a group? Code frame.hidden."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space.framing import View
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.space.solids import Points, Vector, ball, cut, flat_separation
from evrant.core.space.stature import CHIN, FACE_DEPTH
from evrant.core.studio.shots import LIVING, Subject
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

HIDDEN = Line(
    "frame.hidden",
    "Everyone's face seen",
    "m",
    Basis(
        "gap in the picture between a face and the bodies before it, carried back to the face ≥ 0; a head is 0.13 of "
        "the stature high and 0.09 wide",
        "Central projection; head height after Drillis and Contini (from memory); its width common practice, no source",
        "common practice",
    ),
    asks="Does nobody in a group hide another's face?",
    step="set",
)
HALF_WIDE, HALF_HIGH = 0.045, (1 - CHIN) / 2
"""Half of a head as a share of stature."""
STANDING = Share("spot each of them takes", 0.03)
STEPS = (0.1, -0.1, 0.2, -0.2, 0.3, -0.3)
"""How far somebody moves aside at most [m]."""


@dataclass(frozen=True)
class _Covered:
    """The least gap of a face to somebody before it [m], and who that is."""

    gap: float
    by: Subject


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for a group, of the face that comes nearest to be hidden."""
    if len(scene.shot.subjects) < 2 or scene.view is None or scene.overhead:
        return
    found = [(one, near) for one in scene.shot.subjects if (near := _nearest(scene, one)) is not None]
    if not found:
        return
    one, near = min(found, key=lambda pair: round(pair[1].gap, 4))  # of two alike the first

    def gap(twin: Scene) -> float | None:
        same = by_id(twin.shot.subjects, one.id)
        other = None if same is None else _nearest(twin, same)
        return None if other is None else other.gap

    face, who, other = scene.face_of(one), one.name.lower(), near.by.name.lower()
    subjects = f"shots/{scene.shot.id}/subjects"
    yield judge(
        HIDDEN,
        (f"{subjects}/{one.id}", f"{subjects}/{near.by.id}", f"{scene.path}/camera"),
        Estimate(near.gap, (STANDING, *picture_shares(scene, gap))),
        need=0.0,
        have=near.gap,
        clear="Nobody hides another's face.",
        short=f"The {other} hides the face of the {who}.",
        reason=f"Seen from the lens, the {other} comes {Say.of(scene.brief).short_by(near.gap)} "
        f"{'clear of' if near.gap >= 0 else 'over'} the face of the {who}.",
        at=None if face is None else (float(face[0]), float(face[1]), float(face[2])),
    )


def _nearest(scene: Scene, one: Subject) -> _Covered | None:
    """Who of the others comes nearest to a face from before it; None where nobody is before it."""
    view, face = scene.view, _head(scene, one)
    if view is None or face is None:
        return None
    middle = face.mean(axis=0)
    head = view.picture(face)
    size = float(view.depth(middle[None])[0]) / view.image
    others = [other for other in scene.shot.subjects if other.id != one.id]
    parts = [(solid, other) for other in others for solid in scene.body_parts(other.id)]
    if not parts or size <= 0:
        return None  # nobody else is there, or the face is behind the lens
    least = _at_least(view, head, [solid for solid, _ in parts])
    best: tuple[float, int] | None = None
    for index in np.argsort(least, kind="stable").tolist():
        if best is not None and least[index] > best[0]:
            break
        seen = cut(parts[index][0], middle, -view.forward)
        if len(seen) >= 3:
            gap = flat_separation(head, view.picture(seen))[0]
            best = (gap, index) if best is None else min(best, (gap, index))
    return None if best is None else _Covered(best[0] * size, parts[best[1]][1])


def _at_least(view: View, head: Points, solids: list[Points]) -> Vector:
    """(n,) what the gap of a face to each body is at least, in a picture [m]: across or upward alone. Bodies that reach
    behind the lens have no bound."""
    points = np.vstack(solids)
    starts = np.cumsum([0, *(len(solid) for solid in solids[:-1])])
    flat = view.picture(points)
    low, high = np.minimum.reduceat(flat, starts), np.maximum.reduceat(flat, starts)
    gaps = np.maximum(low - head.max(axis=0), head.min(axis=0) - high).max(axis=1)
    return np.where(np.minimum.reduceat(view.depth(points), starts) > 0, gaps, -np.inf)


def _head(scene: Scene, one: Subject) -> Points | None:
    """A person's head, an animal's as deep as high; None of what has no face."""
    spot = scene.face_of(one)
    if spot is None or one.kind not in LIVING or one.height is None:
        return None
    tall = one.height.value
    deep = FACE_DEPTH[one.kind] / 2
    wide, high = (HALF_WIDE, HALF_HIGH) if one.kind == "person" else (deep, deep)
    return ball(spot, (wide * tall, wide * tall, high * tall))


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """One of the two a step aside."""
    if scene is None:
        return
    say = Say.of(scene.brief)
    for path in margin.about:  # the camera has no place here
        one = by_id(scene.shot.subjects, path.rsplit("/", 1)[-1])
        if one is None:
            continue
        for step in STEPS:
            label = f"{one.name} {say.length(abs(step))} to their {'left' if step > 0 else 'right'}"
            yield Proposal(label, SetFields(target=path, fields={"across": round(one.across + step, 3)}))


RULE = SetRule("faces of a group", margins, (HIDDEN,), propose, reads=FRAMED, order=2)
