"""Does the chain from stand to modifier fit together? Codes support.joint, support.mount."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.mechanics.supports import joint_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Part, Stand
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import a

JOINT_BASIS = Basis(
    "what the lower thing ends in = what the upper thing sits on, and something turns a light that is not level, or "
    "not straight down from a hook, unless it shines all round",
    "Makers' figures as entered; spigots and threads in general words, common practice",
    "declared",
)
JOINT = Line(
    "support.joint",
    "Connection of the … to its stand",
    "parts",
    JOINT_BASIS,
    asks="Do stand and head go together, does something tilt it and hold an umbrella?",
    step="support",
    fails=True,
    hazards=("Tipping and falling",),
    blames="joint and light",
)
MOUNT = Line(
    "support.mount",
    "Fitting of the modifier on the …",
    "parts",
    JOINT_BASIS,
    asks="Does the modifier fit the head?",
    step="support",
    fails=True,
    blames="joint and light",
)


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about connections."""
    for light in scene.lights:
        if light.stand is not None and light.head is not None:
            yield from _joint(scene, light)
        if light.head is not None and light.modifier is not None:
            yield from _mount(scene, light)


def _counted(line: Line, light: Light, title: str, lacks: list[str], clear: str) -> Margin:
    """A chain with the parts it lacks; none is one to spare, for nothing more is needed."""
    also = " ".join(f"And {words}" for words in lacks[1:])
    return judge(
        line,
        (light.path,),
        Estimate(-float(len(lacks)) if lacks else 1.0),
        title=title,
        need=float(len(lacks)),
        have=0.0,
        clear=clear,
        short=f"The {light.name} does not go together: {lacks[0] if lacks else ''}",
        reason=also or ("Put the part between them." if lacks else "Both ends are the same."),
    )


def _joint(scene: Scene, light: Light) -> Iterable[Margin]:
    stand, head, joint = light.stand, light.head, joint_of(scene, light)
    assert stand is not None and head is not None
    title = f"Connection of the {light.name} to its stand"
    below = stand.top
    ends = [(stand, below, "ends in"), (head, head.foot, "sits on")]
    if joint is not None and (joint.below is not None or joint.above is not None):
        ends = [ends[0], (joint, joint.below, "sits on"), (joint, joint.above, "offers"), ends[1]]  # type: ignore[list-item]
    arm = scene.gear.get(light.place.support or "")
    if light.column is not None and isinstance(arm, Stand):
        ends = [(light.column, light.column.top, "ends in"), (arm, arm.seat, "sits on"), *ends]
    item, _, what = next(((i, c, w) for i, c, w in ends if c is None), (None, None, ""))
    if item is not None:
        words = f"What the {item.called} {what} is missing."
        find = "Look at its end: a 16 or 28 mm spigot, a 1/4 or 3/8 inch thread, an accessory shoe, a bulb cap."
        yield unknown(
            JOINT,
            (f"gear/{item.id}", light.path),
            words,
            find,
            title=title,
        )
        return
    lacks = []
    for (lower, end, _), (upper, seat, _) in zip(ends[::2], ends[1::2], strict=True):
        if end != seat:
            lacks.append(
                f"the {lower.called} ends in {a(end or '')}, the {upper.called} sits on {a(seat or '')}. "
                f"A part that sits on {a(end or '')} and offers {a(seat or '')} joins them."
            )
    umbrella = light.modifier is not None and light.modifier.mount == "umbrella shaft"
    if umbrella and not head.shaft and (joint is None or not joint.shaft):
        lacks.append("nothing holds the umbrella's shaft. A swivel with an umbrella hole does.")
    elif light.tilts and not head.yoke and (joint is None or not joint.swivel):
        as_is = "hangs straight down" if light.hung else "does not tilt"
        lacks.append(f"the {head.called} {as_is} by itself. A swivel between stand and head does.")
    yield _counted(JOINT, light, title, lacks, f"The {light.name} fits its stand.")


def _mount(scene: Scene, light: Light) -> Iterable[Margin]:
    head, modifier = light.head, light.modifier
    assert head is not None and modifier is not None
    title = f"Fitting of the modifier on the {light.name}"
    if modifier.mount == "umbrella shaft":
        return
    ring = scene.gear.get(light.place.ring or "")
    front, back = head.front, modifier.mount
    for item, fitting, what in ((modifier, back, "fits heads by"), (head, front, "takes modifiers by")):
        if fitting is None:
            words = f"What the {item.called} {what} is missing."
            find = "Look at its fitting, or read it off the data sheet."
            yield unknown(
                MOUNT,
                (f"gear/{item.id}", light.path),
                words,
                find,
                title=title,
            )
            return
    ringed = isinstance(ring, Part) and ring.head_side == front and ring.modifier_side == back
    lacks = []
    if front != back and not ringed:
        lacks.append(
            f"the {head.called} takes {a(front or '')}, the {modifier.called} fits {a(back or '')}. "
            f"A ring from {front} to {back} joins them."
        )
    yield _counted(MOUNT, light, title, lacks, f"The {modifier.called} fits its head.")


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Parts of the kit that join; other modifiers and stands that fit."""
    light = scene.light_at(margin.about[0]) if scene else None
    if light is None:
        return
    field = "joint" if margin.code == "support.joint" else "ring"
    for item in studio.gear:
        if isinstance(item, Part) and item.id != getattr(light.place, field):
            joins = item.below is not None if field == "joint" else item.head_side is not None
            if joins:
                yield Proposal(f"Put the {item.called} between", SetFields(target=light.path, fields={field: item.id}))
    kind, name = ("stand", "support") if field == "joint" else ("modifier", "modifier")
    for other in studio.gear:
        if other.kind == kind and other.id != getattr(light.place, name):
            yield Proposal(f"Use the {other.called}", SetFields(target=light.path, fields={name: other.id}))


RULE = SetRule(
    "joints",
    margins,
    (
        JOINT,
        MOUNT,
    ),
    propose,
    reads=GEOMETRY,
)
