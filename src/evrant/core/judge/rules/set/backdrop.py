"""Is the background wide, tall, long, level and far enough? Codes frame.backdrop_width,
frame.backdrop_height, frame.backdrop_sweep, frame.backdrop_level, fit.backdrop_gap, fit.sweep_curve."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import PLACED_BOTH, Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.holders import CURL
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space.ceiling import Spare
from evrant.core.space.framing import View, hits
from evrant.core.space.scene import Scene
from evrant.core.space.shares import gear_shares, picture_shares
from evrant.core.space.solids import Vector
from evrant.core.studio.gear import Backdrop
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

BACKDROP_WIDTH = Line(
    "frame.backdrop_width",
    "Width of the background",
    "m",
    Basis(
        "the frame's corner rays meet the background inside its ends; w·(d + b)/d for a level camera",
        "Central projection from the front principal plane, image distance f (1 + m)",
        "published",
    ),
    asks="Does the background fill the frame from side to side?",
    step="set",
    search="either",
    fails=True,
    helped_by=("gear/", "posture", "crop", "parts", "background_gap", "list='gear'"),
)
BACKDROP_HEIGHT = Line(
    "frame.backdrop_height",
    "Top of the background",
    "m",
    Basis(
        "the frame's upper rays meet the background below its top edge",
        "Central projection from the front principal plane, image distance f (1 + m)",
        "published",
    ),
    asks="Does it reach above the frame?",
    step="set",
    search="either",
    fails=True,
    helped_by=("gear/", "posture", "crop", "parts", "background_gap", "list='gear'"),
)
BACKDROP_SWEEP = Line(
    "frame.backdrop_sweep",
    "Length of the background",
    "m",
    Basis(
        "hanging height + floor to where the lower rays meet it ≤ length of the background",
        "Central projection; sweep onto the floor is common practice",
        "common practice",
    ),
    asks="Is it long enough to hang and to cover the floor the frame sees?",
    step="set",
    search="either",
    fails=True,
    helped_by=("gear/", "posture", "crop", "parts", "background_gap", "list='gear'"),
)
BACKDROP_GAP = Line(
    "fit.backdrop_gap",
    "Mark to background",
    "m",
    Basis(
        "mark to background ≥ what the shot asks for, 1.0 m when it asks for nothing",
        "Shadows miss or blur from about a metre on; common practice, no source",
        "common practice",
    ),
    asks="Does the subject stand clear of the background?",
    step="set",
    search="either",
    fails=True,
)
BACKDROP_LEVEL = Line(
    "frame.backdrop_level",
    "Background level",
    "m",
    Basis("height of one end − height of the other ≤ 1 cm", "Common practice, no source", "common practice"),
    asks="Does the background hang level?",
    step="set",
    search="either",
    fails=True,
    helped_by=("gear/", "posture", "crop", "parts", "background_gap", "list='gear'"),
)
SWEEP_CURVE = Line(
    "fit.sweep_curve",
    "Subject before the curve",
    "m",
    Basis("rearmost point of the subject − radius of the sweep ≥ 0", "Plane geometry of true outlines", "computed"),
    asks="Does the subject stand before the curve of the sweep, not in it?",
    step="set",
    search="either",
    fails=True,
)
USUAL_GAP = 1.0
UNLEVEL = 0.01


def margins(scene: Scene) -> Iterable[Margin]:
    """Every background line of a set."""
    about = f"{scene.path}/background"
    if scene.overhead:
        return
    if scene.plan.background.backdrop is None and scene.plan.background.x is None and scene.bare_wall is None:
        if scene.shot.tone is None:
            yield unknown(
                BACKDROP_WIDTH,
                (about,),
                "No background is chosen.",
                "Choose one from the kit, or plan a bare wall.",
            )
        return
    yield from _gap(scene, about)
    yield from _level(scene, about)
    view, line = scene.view, scene.line
    if view is None or line is None:
        return
    if scene.bare_wall is not None:
        yield from _wall(scene, view, line, about)
        return
    yield from _width(scene, view, line, about)
    yield from _height(scene, view, line, about)


def _width(scene: Scene, view: View, line: tuple[Vector, Vector], about: str) -> Iterable[Margin]:
    title = "Frame on the background"
    backdrop = scene.backdrop
    if backdrop is None and scene.shot.tone is not None:
        return
    if backdrop is None or backdrop.width is None:
        target = f"gear/{backdrop.id}" if backdrop else about
        yield unknown(
            BACKDROP_WIDTH,
            (target, about),
            "The background's width is missing.",
            "Measure the roll or cloth, or read its label.",
            title=title,
        )
        return
    seen = hits(view, line)
    if seen is None:
        yield unknown(
            BACKDROP_WIDTH,
            (about,),
            "The camera does not look at the background.",
            "Put the background behind the mark, facing the camera.",
            title=title,
        )
        return
    say = Say.of(scene.brief)
    need, have = 2 * float(np.abs(seen[0]).max()), usable_width(scene) or 0.0
    shares = (
        *gear_shares(scene, [backdrop], ("width", "curl"), usable_width),
        *picture_shares(scene, _seen_width),
    )
    side = 1.0 if abs(seen[0].max()) >= abs(seen[0].min()) else -1.0
    edge = line[0] + np.array([-line[1][1], line[1][0]]) * side * have / 2
    lost = backdrop.width.value - have
    of_it = (
        f", of which {say.length(lost)} are lost to {'folds and ' if backdrop.fullness else ''}edges"
        if lost > 0.001
        else ""
    )
    yield judge(
        BACKDROP_WIDTH,
        (about, f"{scene.path}/camera"),
        Estimate(have - need, shares),
        title=title,
        need=need,
        have=have,
        clear="The background fills the frame from side to side.",
        short="The frame looks past the side of the background.",
        reason=f"At its place the frame spans {say.length(need)}, counted from its middle; "
        f"the background is {say.length(backdrop.width.value)} wide{of_it}.",
        at=(float(edge[0]), float(edge[1]), 1.2),
        placing=0.02,
    )


def usable_width(scene: Scene) -> float | None:
    """Width of the background as it hangs, without what curls at its edges [m]."""
    item = scene.backdrop
    if item is None or item.width is None:
        return None
    curl = item.curl.value if item.curl else CURL.get(item.material or "", 0.0)
    return max(item.width.value / (item.fullness or 1.0) - 2 * curl, 0.0)


def _wall_spare(scene: Scene) -> float | None:
    """Bare wall beyond the frame on the side that has less [m]."""
    seen = hits(scene.view, scene.line) if scene.view and scene.line else None
    ends = scene.background_ends
    if seen is None or ends is None or scene.line is None:
        return None
    spot, way = scene.line
    along = np.array([-way[1], way[0]])
    places = sorted(float((end - spot) @ along) for end in ends)
    return min(float(seen[0].min()) - places[0], places[1] - float(seen[0].max()))


def _wall(scene: Scene, view: View, line: tuple[Vector, Vector], about: str) -> Iterable[Margin]:
    """A bare wall as background: its corners and the ceiling stay out of the picture."""
    say = Say.of(scene.brief)
    spare, seen = _wall_spare(scene), hits(view, line)
    if spare is None or seen is None or scene.walls is None or scene.bare_wall is None:
        return
    name = scene.room.edges(scene.walls.count)[scene.bare_wall].name
    shares = picture_shares(scene, _wall_spare) + tuple(
        Share(label, figure.pm) for label, figure, moves in scene.walls.figures if np.abs(moves[scene.bare_wall]).any()
    )
    yield judge(
        BACKDROP_WIDTH,
        (about, f"{scene.path}/camera"),
        Estimate(spare, shares),
        title="Frame on the background",
        need=0.0,
        have=spare,
        clear=f"The bare {name} fills the frame from side to side.",
        short=f"The frame looks past the corner of the {name}.",
        reason=f"Between the frame and the nearer corner: {say.gap(spare).lstrip('+')}.",
        at=(float(line[0][0]), float(line[0][1]), 1.2),
        placing=0.02,
    )
    found = _under(scene)
    if found is None:
        return
    high = found.height - found.value
    yield judge(
        BACKDROP_HEIGHT,
        (about, f"{scene.path}/camera"),
        Estimate(found.value, (*picture_shares(scene, _spare_over), *found.shares)),
        need=high,
        have=found.height,
        clear="The ceiling stays out of the picture.",
        short=f"The {found.under} comes into the picture.",
        reason=f"There the frame reaches {say.length(high)} up; the {found.under} is at {say.length(found.height)}.",
        at=(float(line[0][0]), float(line[0][1]), found.height),
        placing=PLACED_BOTH,
    )


def _under(scene: Scene) -> Spare | None:
    """What is left over the upper edge of the picture on a bare wall."""
    seen = hits(scene.view, scene.line) if scene.view and scene.line else None
    shown = scene.wall_shown
    if seen is None or shown is None or scene.ceiling is None:
        return None
    return scene.ceiling.over(np.column_stack([shown, np.full(2, float(seen[1].max()))]))


def _spare_over(scene: Scene) -> float | None:
    found = _under(scene)
    return None if found is None else found.value


def _level(scene: Scene, about: str) -> Iterable[Margin]:
    """A background measured to hang lower at one end."""
    lower = scene.plan.background.lower_by
    if lower is None:
        return
    say = Say.of(scene.brief)
    spot = scene.line[0] if scene.line else np.zeros(2)
    yield judge(
        BACKDROP_LEVEL,
        (about,),
        Estimate(UNLEVEL - abs(lower)),
        need=UNLEVEL,
        have=abs(lower),
        clear="The background hangs level.",
        short="The background hangs higher on one edge.",
        reason=f"One end is {say.length(abs(lower))} lower; up to {say.length(UNLEVEL)} does not show.",
        at=(float(spot[0]), float(spot[1]), scene.plan.background.height or 2.0),
        placing=0.003,
    )


def _seen_width(scene: Scene) -> float | None:
    """Twice the farther side of the frame at the background [m]."""
    seen = hits(scene.view, scene.line) if scene.view and scene.line else None
    return None if seen is None else 2 * float(np.abs(seen[0]).max())


def _seen_top(scene: Scene) -> float | None:
    seen = hits(scene.view, scene.line) if scene.view and scene.line else None
    return None if seen is None else float(seen[1].max())


def _height(scene: Scene, view: View, line: tuple[Vector, Vector], about: str) -> Iterable[Margin]:
    title = "Top of the background"
    height = scene.plan.background.height
    if height is None:
        yield unknown(
            BACKDROP_HEIGHT,
            (about,),
            "The height of the background's top is missing.",
            "Say how high the roll or cloth will hang.",
            title=title,
        )
        return
    seen = hits(view, line)
    if seen is None:
        return
    say = Say.of(scene.brief)

    top = float(seen[1].max())
    height -= abs(scene.plan.background.lower_by or 0.0)
    yield judge(
        BACKDROP_HEIGHT,
        (about, f"{scene.path}/camera"),
        Estimate(height - top, picture_shares(scene, _seen_top)),
        title=title,
        need=top,
        have=height,
        clear="The background reaches above the frame.",
        short="The frame looks over the top of the background.",
        reason=f"There the frame reaches {say.length(top)} up; the background hangs from {say.length(height)}.",
        at=(float(line[0][0]), float(line[0][1]), height),
        placing=PLACED_BOTH,
    )
    yield from _sweep(scene, about, scene.plan.background.height or height)


def _sweep(scene: Scene, about: str, height: float) -> Iterable[Margin]:
    """Length of background against hanging height and the floor the frame sees."""
    backdrop = scene.backdrop
    if backdrop is None or backdrop.length is None or scene.mark is None:
        if backdrop is not None:
            yield unknown(
                BACKDROP_SWEEP,
                (f"gear/{backdrop.id}", about),
                "The background's length is missing.",
                "Read it off the label.",
            )
        return
    say = Say.of(scene.brief)
    need = length_needed(scene) or height
    forward = floor_reach(scene) or 0.0
    where = "table" if scene.lands == "on the table" else "floor"
    run = f" and must run {say.length(forward)} over the {where}" if forward > 0.005 else ""
    spare = estimate(lambda background_length: background_length - need, background_length=backdrop.length)
    spare = spare.plus(*picture_shares(scene, length_needed))
    yield judge(
        BACKDROP_SWEEP,
        (about,),
        spare,
        need=need,
        have=backdrop.length.value,
        clear="The background is long enough for what the frame sees.",
        short="The background ends before the frame does.",
        reason=f"It hangs from {say.length(height)}{run}; it is {say.length(backdrop.length.value)} long.",
        placing=0.02,
    )
    radius = scene.plan.background.radius
    if radius and scene.line is not None:
        yield from _curve(scene, about, radius)


def length_needed(scene: Scene) -> float | None:
    """Background from its upper edge to the last point the frame sees of it [m].

    A quarter of a circle in the corner is shorter than going into it: by (2 − π/2) r.
    """
    height = scene.plan.background.height
    forward = floor_reach(scene)
    if height is None or forward is None:
        return height
    if scene.lands == "hangs free":
        seen = hits(scene.view, scene.line) if scene.view and scene.line else None
        low = max(float(seen[1].min()), 0.0) if seen is not None else 0.0
        return height - min(low, height)
    saved = (2 - math.pi / 2) * (scene.plan.background.radius or 0.0) if forward > 0 else 0.0
    return height - (scene.surface if scene.lands == "on the table" else 0.0) + forward - saved


def _curve(scene: Scene, about: str, radius: float) -> Iterable[Margin]:
    """The subject stands before the curve of the sweep, not in it."""
    assert scene.line is not None
    nearest = _nearest_to_line(scene)
    if nearest is None:
        return
    say = Say.of(scene.brief)
    spot = scene.line[0] + scene.line[1] * radius
    yield judge(
        SWEEP_CURVE,
        (about, f"{scene.path}/mark"),
        Estimate(nearest - radius, picture_shares(scene, _nearest_to_line)),
        need=radius,
        have=nearest,
        clear="The subject stands on the flat part of the sweep.",
        short="The subject stands in the curve of the sweep.",
        reason=f"The curve reaches {say.length(radius)} forward; the subject begins at {say.length(nearest)}.",
        at=(float(spot[0]), float(spot[1]), scene.surface),
        placing=PLACED_BOTH,
    )


def _nearest_to_line(scene: Scene) -> float | None:
    """Distance of the subject's rearmost point from the background's line [m]."""
    solids = [solid for subject in scene.shot.subjects for solid in scene.body_parts(subject.id)]
    if scene.line is None or not solids:
        return None
    return float(((np.vstack(solids)[:, :2] - scene.line[0]) @ scene.line[1]).min())


def floor_reach(scene: Scene) -> float | None:
    """How far over the floor (or table) the frame sees, from the background's line towards the camera [m]."""
    if scene.view is None or scene.line is None:
        return None
    if scene.lands == "hangs free":
        return 0.0
    spot, way = scene.line
    rays, eye = scene.view.rays()[2:], scene.view.eye
    low = scene.surface if scene.lands == "on the table" else 0.0
    falling = rays[rays[:, 2] < -1e-6]
    if eye[2] <= low:
        return 0.0
    points = eye[:2] + falling[:, :2] * ((eye[2] - low) / -falling[:, 2])[:, None]
    return max(0.0, *(float((point - spot) @ way) for point in points)) if len(points) else 0.0


def _gap(scene: Scene, about: str) -> Iterable[Margin]:
    if scene.mark is None or scene.line is None:
        return
    wish = scene.shot.background_gap or Figure(USUAL_GAP, 0.0, "typical")
    gap = float((scene.mark - scene.line[0]) @ scene.line[1])
    say = Say.of(scene.brief)
    spare = estimate(lambda wanted_distance: gap - wanted_distance, wanted_distance=wish)
    middle = (scene.mark + scene.line[0]) / 2
    yield judge(
        BACKDROP_GAP,
        (about, f"{scene.path}/mark"),
        spare,
        need=wish.value,
        have=gap,
        clear="The subject stands clear of the background.",
        short="The subject stands too near the background; its shadow will show.",
        reason=f"{say.length(gap)} between mark and background; {say.length(wish.value)} wanted.",
        at=(float(middle[0]), float(middle[1]), 0.0),
        placing=PLACED_BOTH,
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Move the background, hang it higher, take a wider one."""
    if scene is None or scene.line is None or margin.margin is None:
        return
    say = Say.of(scene.brief)
    spot, way = scene.line
    lack = -margin.margin + (margin.uncertainty or 0.0)
    target = f"{scene.path}/background"
    match margin.code:
        case "frame.backdrop_width":
            yield from _centred(scene, say)
            yield from _wider(studio, scene)
            yield from _nearer(scene, say)
        case "frame.backdrop_height":
            raised = (scene.plan.background.height or 0.0) + lack + 0.01
            yield Proposal(
                f"Hang it {say.short_by(lack + 0.01)} higher",
                SetFields(target=target, fields={"height": round(raised, 3)}),
            )
            yield from _nearer(scene, say)
        case "frame.backdrop_level":
            yield Proposal("Hang it level", SetFields(target=target, fields={"lower_by": 0.0}))
        case "fit.sweep_curve":
            yield from _flatter(scene, say, lack)
        case "frame.backdrop_sweep":
            yield from _longer(studio, scene)
            lowered = (scene.plan.background.height or 0.0) - lack - 0.01
            if lowered > 0:
                yield Proposal(
                    f"Hang it {say.short_by(lack + 0.01)} lower",
                    SetFields(target=target, fields={"height": round(lowered, 3)}),
                )
        case "fit.backdrop_gap":
            back = spot - way * (lack + 0.01)
            yield Proposal(f"Move the background {say.short_by(lack + 0.01)} back", _at(target, back))
            if scene.mark is not None:
                ahead = scene.mark + way * (lack + 0.01)
                yield Proposal(f"Move the mark {say.short_by(lack + 0.01)} forward", _at(f"{scene.path}/mark", ahead))


def _flatter(scene: Scene, say: Say, lack: float) -> Iterable[Proposal]:
    """A smaller curve, or the mark further from it."""
    for radius in (0.3, 0.15):
        if radius < (scene.plan.background.radius or 0.0):
            label = f"Lay the curve to a radius of {say.length(radius)}"
            yield Proposal(label, SetFields(target=f"{scene.path}/background", fields={"radius": radius}))
    if scene.mark is not None and scene.line is not None:
        spot = scene.mark + scene.line[1] * (lack + 0.01)
        yield Proposal(f"Move the mark {say.short_by(lack + 0.01)} forward", _at(f"{scene.path}/mark", spot))


def _at(target: str, spot: Vector) -> SetFields:
    return SetFields(target=target, fields={"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)})


def _nearer(scene: Scene, say: Say) -> Iterable[Proposal]:
    assert scene.line is not None
    spot, way = scene.line
    for step in (0.2, 0.4):
        yield Proposal(
            f"Move the background {say.length(step)} nearer", _at(f"{scene.path}/background", spot + way * step)
        )


def _centred(scene: Scene, say: Say) -> Iterable[Proposal]:
    """The background moved along its own line to the middle of what the frame sees of it."""
    assert scene.line is not None
    seen = hits(scene.view, scene.line) if scene.view else None
    if seen is None:
        return
    spot, way = scene.line
    off = float(seen[0].max() + seen[0].min()) / 2
    if abs(off) > 0.02:
        moved = spot + np.array([-way[1], way[0]]) * off
        yield Proposal(
            f"Move the background {say.short_by(off)} sideways, to the middle of the frame",
            _at(f"{scene.path}/background", moved),
        )


def _wider(studio: Studio, scene: Scene) -> Iterable[Proposal]:
    now = scene.backdrop.width.value if scene.backdrop and scene.backdrop.width else 0.0
    for item in studio.gear:
        if isinstance(item, Backdrop) and item.width and item.width.value > now:
            yield Proposal(
                f"Use the {item.called}", SetFields(target=f"{scene.path}/background", fields={"backdrop": item.id})
            )


def _longer(studio: Studio, scene: Scene) -> Iterable[Proposal]:
    now = scene.backdrop.length.value if scene.backdrop and scene.backdrop.length else 0.0
    for item in studio.gear:
        if isinstance(item, Backdrop) and item.length and item.length.value > now:
            yield Proposal(
                f"Use the {item.called}", SetFields(target=f"{scene.path}/background", fields={"backdrop": item.id})
            )


RULE = SetRule(
    "backdrop",
    margins,
    (
        BACKDROP_WIDTH,
        BACKDROP_HEIGHT,
        BACKDROP_SWEEP,
        BACKDROP_GAP,
        BACKDROP_LEVEL,
        SWEEP_CURVE,
    ),
    propose,
    reads=FRAMED,
    order=2,
    place_order=2,
)
