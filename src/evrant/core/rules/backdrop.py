"""Is the background wide, tall, long and far enough? Codes frame.backdrop_width,
frame.backdrop_height, frame.backdrop_sweep, fit.backdrop_gap."""

from collections.abc import Iterable

import numpy as np

from evrant.core.edits import SetFields
from evrant.core.estimate import Estimate, estimate
from evrant.core.framing import View
from evrant.core.margins import Basis, Margin, judge, unknown
from evrant.core.quantity import Figure
from evrant.core.rules.picture import picture_shares
from evrant.core.rules.rule import Proposal
from evrant.core.scene import Scene
from evrant.core.solids import Vector
from evrant.core.studio.gear import Backdrop
from evrant.core.studio.studio import Studio
from evrant.core.words import Say

WIDTH = Basis(
    "the frame's corner rays meet the background inside its ends; w·(d + b)/d for a level camera",
    "Central projection from the front principal plane, image distance f (1 + m)",
    "published",
)
HEIGHT = Basis(
    "the frame's upper rays meet the background below its top edge",
    "Central projection from the front principal plane, image distance f (1 + m)",
    "published",
)
SWEEP = Basis(
    "hanging height + floor to where the lower rays meet it ≤ length of the background",
    "Central projection; sweep onto the floor is common practice",
    "common practice",
)
GAP = Basis(
    "mark to background ≥ what the shot asks for, 1.0 m when it asks for nothing",
    "Shadows miss or blur from about a metre on; common practice, no source",
    "common practice",
)
USUAL_GAP = 1.0


def margins(scene: Scene) -> Iterable[Margin]:
    """Every background line of a set."""
    about = f"{scene.path}/background"
    if scene.plan.background.backdrop is None and scene.plan.background.x is None:
        yield unknown(
            "frame.backdrop_width",
            (about,),
            "Width of the background",
            "m",
            "No background is chosen.",
            "Choose one from the kit, or plan a bare wall.",
            WIDTH,
        )
        return
    yield from _gap(scene, about)
    view, line = scene.view, scene.line
    if view is None or line is None:
        return
    yield from _width(scene, view, line, about)
    yield from _height(scene, view, line, about)


def hits(view: View, line: tuple[Vector, Vector]) -> tuple[np.ndarray, np.ndarray] | None:
    """Where the four corner rays meet the background's vertical plane: place along it, seen from the
    camera left to right [m], and height [m]. None when the camera does not look at it."""
    spot, way = line
    normal = np.array([way[0], way[1], 0.0])
    rays = view.rays()
    closing = -(rays @ normal)
    distance = float((view.eye - np.array([*spot, 0.0])) @ normal)
    if distance <= 0.02 or (closing <= 1e-6).any():
        return None
    points = view.eye + rays * (distance / closing)[:, None]
    along = np.array([-way[1], way[0]])
    return (points[:, :2] - spot) @ along, points[:, 2]


def _width(scene: Scene, view: View, line: tuple[Vector, Vector], about: str) -> Iterable[Margin]:
    title = "Frame on the background"
    backdrop = scene.backdrop
    if backdrop is None or backdrop.width is None:
        target = f"gear/{backdrop.id}" if backdrop else about
        yield unknown(
            "frame.backdrop_width",
            (target, about),
            title,
            "m",
            "The background's width is missing.",
            "Measure the roll or cloth, or read its label.",
            WIDTH,
        )
        return
    seen = hits(view, line)
    if seen is None:
        yield unknown(
            "frame.backdrop_width",
            (about,),
            title,
            "m",
            "The camera does not look at the background.",
            "Put the background behind the mark, facing the camera.",
            WIDTH,
        )
        return
    say = Say.of(scene.brief)
    need = 2 * float(np.abs(seen[0]).max())

    result = estimate(lambda background_width: background_width - need, background_width=backdrop.width)
    result = result.plus(*picture_shares(scene, _seen_width))
    side = 1.0 if abs(seen[0].max()) >= abs(seen[0].min()) else -1.0
    edge = line[0] + np.array([-line[1][1], line[1][0]]) * side * backdrop.width.value / 2
    yield judge(
        "frame.backdrop_width",
        (about, f"{scene.path}/camera"),
        title,
        result,
        need=need,
        have=backdrop.width.value,
        unit="m",
        clear="The background fills the frame from side to side.",
        short="The frame looks past the side of the background.",
        reason=f"At its place the frame spans {say.length(need)}, counted from its middle; "
        f"the background is {say.length(backdrop.width.value)} wide.",
        basis=WIDTH,
        at=(float(edge[0]), float(edge[1]), 1.2),
        placing=0.02,
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
            "frame.backdrop_height",
            (about,),
            title,
            "m",
            "The height of the background's top is missing.",
            "Say how high the roll or cloth will hang.",
            HEIGHT,
        )
        return
    seen = hits(view, line)
    if seen is None:
        return
    say = Say.of(scene.brief)

    top = float(seen[1].max())
    yield judge(
        "frame.backdrop_height",
        (about, f"{scene.path}/camera"),
        title,
        Estimate(height - top, picture_shares(scene, _seen_top)),
        need=top,
        have=height,
        unit="m",
        clear="The background reaches above the frame.",
        short="The frame looks over the top of the background.",
        reason=f"There the frame reaches {say.length(top)} up; the background hangs from {say.length(height)}.",
        basis=HEIGHT,
        at=(float(line[0][0]), float(line[0][1]), height),
        placing=0.014,
    )
    yield from _sweep(scene, about, height)


def _sweep(scene: Scene, about: str, height: float) -> Iterable[Margin]:
    """Length of background against hanging height and the floor the frame sees."""
    backdrop = scene.backdrop
    if backdrop is None or backdrop.length is None or scene.mark is None:
        if backdrop is not None:
            yield unknown(
                "frame.backdrop_sweep",
                (f"gear/{backdrop.id}", about),
                "Length of the background",
                "m",
                "The background's length is missing.",
                "Read it off the label.",
                SWEEP,
            )
        return
    forward = floor_reach(scene) or 0.0
    say = Say.of(scene.brief)
    need = height + forward
    run = f" and must run {say.length(forward)} over the floor" if forward > 0.005 else ""
    spare = estimate(lambda background_length: background_length - need, background_length=backdrop.length)
    spare = spare.plus(*picture_shares(scene, floor_reach))
    yield judge(
        "frame.backdrop_sweep",
        (about,),
        "Length of the background",
        spare,
        need=need,
        have=backdrop.length.value,
        unit="m",
        clear="The background is long enough for what the frame sees.",
        short="The background ends before the frame does.",
        reason=f"It hangs {say.length(height)}{run}; it is {say.length(backdrop.length.value)} long.",
        basis=SWEEP,
        placing=0.02,
    )


def floor_reach(scene: Scene) -> float | None:
    """How far over the floor the frame sees, from the background's line towards the camera [m]."""
    if scene.view is None or scene.line is None:
        return None
    spot, way = scene.line
    rays, eye = scene.view.rays()[2:], scene.view.eye
    if any(subject.base for subject in scene.shot.subjects):
        return 0.0
    falling = rays[rays[:, 2] < -1e-6]
    points = eye[:2] + falling[:, :2] * (eye[2] / -falling[:, 2])[:, None]
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
        "fit.backdrop_gap",
        (about, f"{scene.path}/mark"),
        "Mark to background",
        spare,
        need=wish.value,
        have=gap,
        unit="m",
        clear="The subject stands clear of the background.",
        short="The subject stands too near the background; its shadow will show.",
        reason=f"{say.length(gap)} between mark and background; {say.length(wish.value)} wanted.",
        basis=GAP,
        at=(float(middle[0]), float(middle[1]), 0.0),
        placing=0.014,
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
