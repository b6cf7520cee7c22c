"""Does what the camera stands on reach, hang over and carry it? Codes support.camera, support.camera_sight,
support.camera_arm, support.camera_load."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import PLACED, Basis, Line, Margin, judge, unknown
from evrant.core.base.tables.supports import CAMERA_BEFORE, CAMERA_OVER, FEETLESS
from evrant.core.edits.language import SetFields, Several
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.judge.rules.support.loads import BOOM_LOAD_BASIS, Load, weighed
from evrant.core.space.scene import Scene
from evrant.core.space.shares import picture_shares
from evrant.core.space.tripods import plate
from evrant.core.space.wanted import films_or_overhead
from evrant.core.studio.gear import Item, Stand
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

HEIGHT = Line(
    "support.camera",
    "What holds the camera",
    "m",
    Basis(
        "lowest height ≤ height of the lens − 6 cm ≤ greatest height of the support; looking down, height of the "
        "lens + 10 cm",
        "Makers' figures as entered; from plate to lens from memory. That a film, a self-portrait and what is taken "
        "straight down want something that stands is common practice, no source",
        "declared",
    ),
    asks="Does the camera stand on something, and does that reach (and go down to) its height?",
    step="support",
    fails=True,
    mark="height",
)
SIGHT = Line(
    "support.camera_sight",
    "Looking into the camera",
    "m",
    Basis(
        "height of the lens ≤ 1.8 m ± 10 cm for who stands behind it or holds it",
        "Eye height of who stands, with a screen that tilts; common practice, no source",
        "common practice",
    ),
    asks="Does who stands behind the camera see into it without a stool?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Climbing",),
    goes=True,
)
ARM = Line(
    "support.camera_arm",
    "Arm over what is taken",
    "m",
    Basis("length drawn out ≤ reach of the arm", "Maker's figure as entered", "declared"),
    asks="Does the arm of a camera that looks down reach that far?",
    step="support",
    fails=True,
)
LOAD = Line(
    "support.camera_load",
    "Load on the stand of the camera",
    "kg",
    Basis("mass of camera and lens ≤ the stand's load limit", "Maker's figure as entered", "declared"),
    asks="Does what the camera is on carry camera and lens; an arm, drawn out as far as it is?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling",),
    mark="load",
)
SEEN_TO, SEEN_UNSURE, ASKED_FROM = 1.8, 0.1, 1.5
"""How high a camera may be for who stands behind it, and from where on that is asked [m]; common practice, no
source."""
TRIPOD, COPY_ARM = "camera-tripod", "camera-arm"
BOUGHT = {
    TRIPOD: {"name": "Tripod 1.6 m with a head", "use": "tripod", "min_height": 0.3, "max_height": 1.6}
    | {"foot_radius": 0.48, "load": 6.0, "mass": 1.9},
    COPY_ARM: {"name": "Tripod with overhead arm", "use": "copy arm", "min_height": 0.6, "max_height": 2.2}
    | {"foot_radius": 0.5, "load": 4.0, "mass": 2.8, "reach": 0.7, "tail": 0.25, "shortest": 0.4, "boom_mass": 0.7},
}
PACKED = {"packed_length": 0.6, "packed_width": 0.14, "packed_height": 0.14}
EUROS = {TRIPOD: 118, COPY_ARM: 62}
"""What most shops have, and what it costs; common practice, no source."""


def margins(scene: Scene) -> Iterable[Margin]:
    """Lines about what holds the camera, where it is placed."""
    stand = _support(scene)
    if scene.eye is None or scene.body is None:
        return
    path = f"{scene.path}/camera"
    by_hand = scene.plan.camera.operator == "photographer behind it"
    if by_hand and not scene.overhead and float(scene.eye[2]) > ASKED_FROM:
        yield _sight(scene, path)
    if stand is None:
        if films_or_overhead(scene.shot) or not by_hand:
            yield _in_the_hand(scene, path)
        return
    if stand.use in FEETLESS:
        words = f"Whether the {stand.called} holds the camera there is not worked out."
        find = "Put it on something with feet, or have what it hangs from judged by who fixed it."
        yield unknown(HEIGHT, (path, f"gear/{stand.id}"), words, find, subject=path)
    else:
        yield _height(scene, path, stand)
    if scene.overhead:
        yield from _arm(scene, path, stand)
    yield from _load(scene, path, stand)


def _support(scene: Scene) -> Stand | None:
    found = scene.gear.get(scene.plan.camera.support or "")
    return found if isinstance(found, Stand) else None


def _in_the_hand(scene: Scene, path: str) -> Margin:
    why = "A film sways in the hand."
    if scene.overhead:
        why = "Nobody holds a camera still over a table."
    elif scene.plan.camera.operator != "photographer behind it":
        why = "Nobody is behind it to hold it."
    return unknown(HEIGHT, (path,), "Nothing holds the camera yet.", f"{why} Choose a tripod or an arm from the kit.")


def _height(scene: Scene, path: str, stand: Stand) -> Margin:
    at, say = plate(scene), Say.of(scene.brief)
    assert at is not None and scene.eye is not None
    if stand.max_height is None:
        words, find = f"How high the {stand.called} goes is missing.", "Measure it or read its label."
        return unknown(HEIGHT, (f"gear/{stand.id}", path), words, find)
    least = value(stand.min_height) or 0.0
    low = at - least < stand.max_height.value - at
    figure = stand.min_height if low and stand.min_height is not None else stand.max_height
    sign = -1.0 if low else 1.0
    spare = estimate(lambda height: sign * (height - at), height=figure)
    return judge(
        HEIGHT,
        (path,),
        spare.plus(*picture_shares(scene, plate)),
        need=figure.value if low else at,
        have=at if low else figure.value,
        clear="The camera stands as high as it is wanted.",
        short=f"The {stand.called} {'does not go that low' if low else 'is too short for the camera'}.",
        reason=f"The lens is {say.length(float(scene.eye[2]))} up, its plate at {say.length(at)}; the "
        f"{stand.called} goes from {say.length(least)} to {say.length(stand.max_height.value)}.",
        at=(float(scene.eye[0]), float(scene.eye[1]), at),
        placing=PLACED,
    )


def _sight(scene: Scene, path: str) -> Margin:
    assert scene.eye is not None
    high, say = float(scene.eye[2]), Say.of(scene.brief)
    return judge(
        SIGHT,
        (path,),
        Estimate(SEEN_TO - high, (Share("height of the photographer", SEEN_UNSURE),)),
        need=high,
        have=SEEN_TO,
        clear="The photographer sees into the camera from the floor.",
        short="Nobody sees into the camera from the floor.",
        reason=f"It is {say.length(high)} up; from the floor one sees into it to about {say.length(SEEN_TO)}. Standing "
        "on a stool to look is how people fall.",
        at=(float(scene.eye[0]), float(scene.eye[1]), high),
    )


def _arm(scene: Scene, path: str, stand: Stand) -> Iterable[Margin]:
    drawn, say = scene.plan.camera.arm_length, Say.of(scene.brief)
    if stand.reach is None:
        words = f"How far the {stand.called} reaches out is missing."
        find = "Measure its arm; a tripod without one stands on what is to be taken."
        yield unknown(ARM, (f"gear/{stand.id}", path), words, find)
    elif drawn is not None:
        yield judge(
            ARM,
            (path,),
            estimate(lambda reach: reach - drawn, reach=stand.reach),
            need=drawn,
            have=stand.reach.value,
            clear="The arm reaches that far.",
            short="The arm is drawn out further than it goes.",
            reason=f"It is drawn out to {say.length(drawn)}; it reaches {say.length(stand.reach.value)}.",
            placing=PLACED,
        )


def _load(scene: Scene, path: str, stand: Stand) -> Iterable[Margin]:
    items: tuple[Item | None, ...] = (scene.body, scene.lens)
    carried = {item.id: (item, 1) for item in items if item is not None}
    if scene.lens is None:
        return
    drawn = scene.plan.camera.arm_length if scene.plan.camera.arm_length is not None else stand.reach
    load = Load(stand, carried, drawn if scene.overhead else None)
    line = LOAD.but(basis=BOOM_LOAD_BASIS) if load.out else LOAD
    yield weighed(scene, line, path, "camera", load)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Another support of the kit or a usual one bought, the camera lower or higher, the arm drawn in."""
    if scene is None or scene.eye is None:
        return
    path, say = f"{scene.path}/camera", Say.of(scene.brief)
    if margin.code == ARM.code and margin.have is not None:
        fields = {"arm_length": round(margin.have, 3)}
        yield Proposal(f"Draw the arm in to {say.length(margin.have)}", SetFields(target=path, fields=fields))
    if margin.code != SIGHT.code:
        yield from _others(studio, scene, path)
    if margin.margin is not None and margin.code in (HEIGHT.code, SIGHT.code) and not scene.overhead:
        down = margin.code == SIGHT.code or "too short" in margin.sentence
        lack = -margin.margin + (margin.uncertainty or 0.0) + 0.01
        high = round(max(float(scene.eye[2]) + (-lack if down else lack), 0.05), 2)
        words = f"Put the lens {say.length(high)} up"
        yield Proposal(words, SetFields(target=path, fields={"height": high}))


def _others(studio: Studio, scene: Scene, path: str) -> Iterable[Proposal]:
    uses, own = CAMERA_OVER if scene.overhead else CAMERA_BEFORE, scene.plan.camera.support
    stands = [item for item in studio.gear if isinstance(item, Stand) and item.use in uses and item.id != own]
    for item in stands:
        yield Proposal(f"Put the camera on the {item.called}", SetFields(target=path, fields={"support": item.id}))
    usual = COPY_ARM if scene.overhead else TRIPOD
    if usual not in {item.id for item in studio.gear}:
        fields = BOUGHT[usual]
        label = f"Put the camera on a {str(fields['name'])[:1].lower()}{str(fields['name'])[1:]}"
        bought = to_buy(studio, EUROS[usual], kind="stand", id=usual, **fields, **PACKED)
        edits = (bought, SetFields(target=path, fields={"support": usual}))
        yield Proposal(label, Several(edits=edits, label=label))


RULE = SetRule("camera support", margins, (HEIGHT, SIGHT, ARM, LOAD), propose, order=4, reads=FRAMED)
