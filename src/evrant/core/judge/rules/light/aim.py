"""What lights are aimed at, and what they must not reach: codes light.pattern, frame.flare, light.shadow,
light.scrim, trigger.sight."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import PLACED_BOTH, Basis, Line, Margin, judge
from evrant.core.base.memo import is_plain
from evrant.core.edits.language import Light as LightEdit
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, SetRule
from evrant.core.light.effective import effective
from evrant.core.light.emission import Missing
from evrant.core.light.lit import lit
from evrant.core.light.softness import cone
from evrant.core.place.patterns import PATTERNS, apart, deviation, named
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.shares import gear_shares, picture_shares
from evrant.core.space.solids import Points, Vector, bar, separation, unit
from evrant.core.space.volumes import card_middle
from evrant.core.studio.gear import Board, Flash, Modifier
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

PATTERN = Line(
    "light.pattern",
    "Pattern: …",
    "°",
    Basis(
        "angle between where a light stands, seen from the face, and where the pattern wants it ≤ tolerance",
        "Angles from the nose line are common practice, no source",
        "common practice",
    ),
    asks="Do the lights make the pattern wanted?",
    step="light",
    search="kept",
    fails=True,
)
FLARE = Line(
    "frame.flare",
    "Flare from the …",
    "°",
    Basis(
        "angle from the light's axis to the lens ≥ half its beam, or angle from the lens axis ≥ half the picture's "
        "diagonal + 20° of hood",
        "Plane trigonometry; usual beams by form of modifier and the hood are common practice, no source",
        "common practice",
    ),
    asks="Does a light shine into the lens?",
    step="set",
    search="kept",
    fails=True,
)
SHADOW = Line(
    "light.shadow",
    "Shadow of the …'s light",
    "m",
    Basis(
        "shadow outside the frame, or penumbra W·b/D ≥ size of the shadow w·(1 + b/D), so that no core is left",
        "Similar triangles from a source of width W at D from the subject, b before the background",
        "published",
    ),
    asks="Does the subject's shadow miss the picture, or dissolve?",
    step="light",
    search="kept",
    fails=True,
)
SCRIM = Line(
    "light.scrim",
    "Scrim before the …",
    "m",
    Basis(
        "rays from the light to the edges of subject and background cross the scrim inside its edges",
        "Plane geometry of true outlines",
        "computed",
    ),
    asks="Does the scrim cover subject and background?",
    step="light",
    search="kept",
    fails=True,
)
SIGHT = Line(
    "trigger.sight",
    "Sight to the …'s slave",
    "m",
    Basis(
        "least gap between the line from a fired flash to the slave and every body ≥ 0",
        "Hyperplane separation theorem; true outlines",
        "computed",
    ),
    asks="Does an optical slave see the flash that should fire it?",
    step="power",
    search="kept",
    fails=True,
    blames="light",
)
HALF_BEAM: dict[str, float] = {
    "softbox": 50,
    "octabox": 55,
    "strip box": 50,
    "umbrella": 65,
    "reflector dish": 50,
    "beauty dish": 50,
    "lantern": 150,
    "ring": 60,
    "snoot": 12,
    "gobo holder": 15,
}
GRIDDED, BARE, HOOD = 20.0, 80.0, 20.0
BLOCKERS = ("subject", "prop", "holder", "box", "person")


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about aims and shadows of a set."""
    yield from of_pattern(scene)
    yield from of_beams(scene)


def of_beams(scene: Scene) -> Iterable[Margin]:
    """The lines about where light goes, whatever pattern it makes."""
    for light in scene.lights:
        yield from _flare(scene, light)
        yield from _sight(scene, light)
        if light.place.role == "key":
            yield from _shadow(scene, light)
    yield from _scrims(scene)


def of_pattern(scene: Scene) -> Iterable[Margin]:
    """Whether the lights make the pattern that is wished for."""
    wish = scene.shot.pattern
    found = deviation(scene, wish) if wish else None
    if wish is None or found is None:
        return
    off, path = found
    near = PATTERNS[wish].near
    light = next(one for one in scene.lights if one.path == path)

    def off_by(one: Scene) -> float | None:
        there = deviation(one, wish)
        return there[0] if there else None

    now = "" if is_plain() else named(scene)
    made = "" if now in ("", wish) else f" Now it is: {now}."
    yield judge(
        PATTERN,
        (f"{scene.path}/pattern", path),
        Estimate(near - off, picture_shares(scene, off_by)),
        title=f"Pattern: {wish}",
        need=off,
        have=near,
        clear=f"The lights make {wish}.",
        short=f"The lights do not make {wish}.",
        reason=f"The {light.name} stands {off:.0f}° from where it belongs; up to {near:.0f}° still counts.{made}",
        at=None if light.at is None else (float(light.at[0]), float(light.at[1]), float(light.at[2])),
        placing=1.0,
    )


def half_beam(modifier: Modifier | None, gridded: bool = False) -> float:
    """Half of a light's beam, edge to axis [degrees]; behind a grid, built in or put on, it is the grid's: a cell
    passes half of what comes at half its cut-off."""
    if modifier is None:
        return BARE
    usual = modifier.beam / 2 if modifier.beam is not None else HALF_BEAM.get(modifier.form or "", BARE)
    grid = modifier.grid_angle / 2 if modifier.grid_angle else GRIDDED
    return min(usual, grid) if modifier.grid or gridded else usual


def _flare_spare(scene: Scene, path: str) -> float | None:
    """How far the lens lies outside the beam, or the light outside what the hood lets in [degrees]."""
    light = scene.light_at(path)
    view = scene.view
    if light is None or view is None or light.at is None or light.forward is None:
        return None
    toward = view.eye - light.at
    if float((light.at - view.eye) @ view.forward) < 0.05:
        return None
    beam = apart(light.forward, unit(toward)) - half_beam(light.modifier, light.place.gridded)
    cut = math.degrees(math.atan(math.hypot(view.across, view.upward) / 2 / view.image)) + HOOD
    return max(beam, apart(view.forward, unit(-toward)) - cut)


def _flare(scene: Scene, light: Light) -> Iterable[Margin]:
    spare = _flare_spare(scene, light.path)
    if spare is None or light.at is None or light.place.role in ("practical", "ring light") or scene.eye is None:
        return
    if spare < 0 and _blocked(scene, light.at, scene.eye, light.path) is not None:
        return
    half = half_beam(light.modifier, light.place.gridded)
    yield judge(
        FLARE,
        (light.path, f"{scene.path}/camera"),
        Estimate(spare, picture_shares(scene, lambda one: _flare_spare(one, light.path))),
        title=f"Flare from the {light.name}",
        need=half,
        have=half + spare,
        clear=f"The {light.name} does not shine into the lens.",
        short=f"The {light.name} shines into the lens.",
        reason=f"Its beam reaches {half:.0f}° from its axis"
        f"{' (gridded)' if light.place.gridded or (light.modifier and light.modifier.grid) else ''}; "
        f"the lens lies {abs(spare):.0f}° {'outside what reaches it' if spare >= 0 else 'inside'}.",
        at=(float(light.at[0]), float(light.at[1]), float(light.at[2])),
        placing=2.0,
    )


def _blocked(scene: Scene, start: Vector, end: Vector, *own: str) -> float | None:
    """Depth by which a body stands in a line of sight [m], or None when it is open."""
    sight = bar(start, end, 0.005, 6)
    depths = [
        separation(sight, part.solid)[0]
        for thing in scene.around
        if thing.kind in BLOCKERS and thing.path not in own
        for part in thing.parts
    ]
    worst = min(depths, default=1.0)
    return -worst if worst < 0 else None


def _heads(scene: Scene) -> list[Light]:
    return [light for light in scene.lights if isinstance(light.head, Flash) and light.mount is not None]


def _sight_gap(scene: Scene, path: str) -> tuple[float, str, str] | None:
    """Best over the flashes that fire it, slaves that are fired themselves among them: least gap of the line to any
    body [m], the flash, the body."""
    heads = {one.path: one for one in _heads(scene)}
    if path not in heads:
        return None
    fired = [one for one in heads.values() if getattr(one.head, "fired", None) != "optical slave"]
    waiting = [one for one in heads.values() if one not in fired]
    best: dict[str, tuple[float, str, str]] = {}
    while True:
        for slave in waiting:
            seen = [(*_seen(scene, other, slave), other.name) for other in fired if other is not slave]
            if seen:
                gap, body, by = max(seen)
                best[slave.path] = gap, by, body
        reached = [one for one in waiting if best.get(one.path, (-1.0,))[0] >= 0]
        if not reached:
            return best.get(path)
        fired += reached
        waiting = [one for one in waiting if one not in reached]


def _seen(scene: Scene, flash: Light, slave: Light) -> tuple[float, str]:
    """Least gap of the line between two heads to any opaque body [m], and the body; a sheet that lets light through
    dims a flash, but a slave still sees it."""
    assert flash.mount is not None and slave.mount is not None
    sight = bar(flash.mount, slave.mount, 0.005, 6)
    sheets = {
        f"{scene.path}/props/{prop.id}"
        for prop in scene.plan.props
        if getattr(scene.gear.get(prop.item or ""), "surface", None) == "translucent"
    }
    bodies = [
        (separation(sight, part.solid)[0], thing.name)
        for thing in scene.around
        if thing.kind in (*BLOCKERS, "backdrop") and thing.path not in (slave.path, flash.path, *sheets)
        for part in thing.parts
    ]
    return min(bodies, default=(1.0, "nothing"))


def _sight(scene: Scene, light: Light) -> Iterable[Margin]:
    if not isinstance(light.head, Flash) or light.head.fired != "optical slave" or light.mount is None:
        return
    found = _sight_gap(scene, light.path)
    if found is None:
        gap, by, body = -1.0, "no flash", "nothing"
    else:
        gap, by, body = found

    def gap_of(one: Scene) -> float | None:
        there = _sight_gap(one, light.path)
        return there[0] if there else None

    say = Say.of(scene.brief)
    yield judge(
        SIGHT,
        (light.path,),
        Estimate(gap, picture_shares(scene, gap_of) if found else ()),
        title=f"Sight to the {light.name}'s slave",
        need=0.0,
        have=gap,
        clear=f"The {light.name}'s optical slave sees the {by}.",
        short=f"The {light.name}'s optical slave does not see the flash that should fire it.",
        reason=f"Nearest to the line from the {by} is the {body}, {say.short_by(gap)} "
        f"{'beside it' if gap >= 0 else 'across it'}."
        if found
        else "No flash in this set is fired by radio or cable.",
        at=(float(light.mount[0]), float(light.mount[1]), float(light.mount[2])),
        placing=PLACED_BOTH,
    )


def _source_of(scene: Scene, path: str) -> tuple[Vector, float] | None:
    """Centre and width of a light's own face [m]."""
    light = scene.light_at(path)
    if light is None or light.at is None or light.face is None:
        return None
    width, height = light.face
    return light.at, min(width, height) if height else width


def _turned_away(scene: Scene, path: str) -> bool:
    """Whether a light looks so far past the subject that it may come from something else first."""
    light = scene.light_at(path)
    if light is None or light.at is None or light.forward is None or scene.face is None:
        return False
    return apart(light.forward, unit(scene.face - light.at)) > PAST


def _has_sheet(scene: Scene) -> bool:
    """Whether anything that lets light through stands in the set."""
    props = (scene.gear.get(prop.item or "") for prop in scene.plan.props)
    return any(isinstance(item, Board) and item.surface == "translucent" for item in props)


def _sent_by(scene: Scene, path: str) -> tuple[Vector, float, str] | None:
    """Centre, width and name of what a light comes from at the subject, where that is not the head."""
    if not (_turned_away(scene, path) or _has_sheet(scene)):
        return None
    state = lit(scene)
    if isinstance(state, Missing) or scene.face is None:
        return None
    number = next((i for i, beam in enumerate(state.beams) if beam.path == path), None)
    found = effective(state, number) if number is not None else None
    if found is None or not found.name:
        return None
    far = float(np.linalg.norm(found.centre - scene.face))
    return found.centre, 2 * far * math.tan(min(cone(found.angle) / 2, math.radians(80))), found.name


def _shadow_spare(scene: Scene, path: str, sent: tuple[Vector, float] | None = None) -> float | None:
    """How far the head's shadow lies outside the frame, or how far its core has dissolved [m]; `sent`: centre and
    width of what the light comes from, where that is not the head."""
    view, line, face, source = scene.view, scene.line, scene.face, sent or _source_of(scene, path)
    if view is None or line is None or face is None or source is None:
        return None
    at, wide = source
    spot, way = line
    ahead = np.array([way[0], way[1], 0.0])
    before = float((at - [*spot, 0.0]) @ ahead)
    head = float((face - [*spot, 0.0]) @ ahead)
    if not before > head > 0.01:
        return None
    behind = head / (before - head)
    shadow = face + (face - at) * behind
    size = HEAD * (scene.wanted.height.value if scene.wanted else 0.2)
    far, near = float(np.linalg.norm(at - face)), float(np.linalg.norm(shadow - face))
    core = size * (1 + near / far) - wide * near / far
    outside = _beyond_frame(scene, shadow, size * (1 + near / far) / 2)
    return max(outside, -core)


PAST = 75.0
"""Angle from the subject at which a light no longer shines on it straight [degrees]."""
HEAD = 0.12
"""Width of the head as a share of the frame's height: what throws the shadow that is seen; common practice."""


def _beyond_frame(scene: Scene, shadow: Vector, radius: float) -> float:
    """Distance of a round shadow on the background from the frame's edge there, positive outside [m]."""
    assert scene.view is not None and scene.line is not None
    view = scene.view
    offset = shadow - view.eye
    depth = max(float(offset @ view.forward), 0.05)
    x, y = float(offset @ view.right), float(offset @ view.up)
    half_x, half_y = view.across / 2 / view.image * depth, view.upward / 2 / view.image * depth
    return max(abs(x) - half_x, abs(y) - half_y) - radius


def _shadow(scene: Scene, light: Light) -> Iterable[Margin]:
    bounced = _sent_by(scene, light.path)
    sent = bounced[:2] if bounced else None
    spare = _shadow_spare(scene, light.path, sent)
    if spare is None or light.at is None or scene.line is None or scene.overhead:
        return
    if bounced is None and _turned_away(scene, light.path):
        return  # it shines elsewhere: what it comes from is not known while the room's finishes are not
    say = Say.of(scene.brief)
    shares = (
        *picture_shares(scene, lambda one: _shadow_spare(one, light.path, sent)),
        *gear_shares(scene, [light.modifier], ("width", "height"), lambda one: _shadow_spare(one, light.path, sent)),
        *gear_shares(
            scene,
            [light.head if light.modifier is None else None],
            ("diameter",),
            lambda one: _shadow_spare(one, light.path, sent),
        ),
    )
    yield judge(
        SHADOW,
        (light.path, f"{scene.path}/background"),
        Estimate(spare, shares),
        title=f"Shadow of the {light.name}'s light",
        need=0.0,
        have=spare,
        clear="The subject's shadow stays out of the picture, or dissolves.",
        short="The subject's shadow shows on the background.",
        reason=(
            f"Its core there is {say.length(-spare)} wide, inside the frame."
            if spare < 0
            else f"It falls {say.length(spare)} outside the frame, or has that much no core left."
        )
        + (f" The light comes from the {bounced[2]}." if bounced else ""),
        placing=0.02,
    )


def _scrim_spare(scene: Scene, prop: str, *, background: bool) -> float | None:
    """Least distance inside the scrim's edges at which the wanted rays cross it [m]."""
    place = next((p for p in scene.plan.props if p.id == prop), None)
    item = scene.gear.get(place.item or "") if place else None
    if place is None or not isinstance(item, Board) or not item.width or not item.height:
        return None
    if place.x is None or place.y is None:
        return None
    light = _behind_scrim(scene, np.array([place.x, place.y]))
    targets = _background_edges(scene) if background else _subject_edges(scene)
    if light is None or light.at is None or targets is None:
        return None
    angle, tilt = math.radians(place.turn), math.radians(place.tilt)
    along = np.array([math.cos(angle), math.sin(angle), 0.0])
    flat = np.array([-math.sin(angle), math.cos(angle), 0.0])
    up = np.array([0, 0, 1.0]) * math.cos(tilt) - flat * math.sin(tilt)
    normal = np.cross(along, up)
    middle = np.array([place.x, place.y, card_middle(place.height or 0.0, item.height.value, place.tilt)])
    rays = targets - light.at
    closing = rays @ normal
    if (np.abs(closing) < 1e-9).any():
        return None
    share = ((middle - light.at) @ normal) / closing
    if (share < 0).any() or (share > 1).any():
        # A target beside or before the scrim gets no light through it: by how far its edges would have to move.
        reach = np.abs((targets - middle) @ along) - item.width.value / 2
        return -float(max(reach.max(), np.abs((targets - middle) @ normal).max(), 0.01))
    hit = light.at + rays * share[:, None]
    x, y = np.abs((hit - middle) @ along), np.abs((hit - middle) @ up)
    return float(min((item.width.value / 2 - x).min(), (item.height.value / 2 - y).min()))


def _behind_scrim(scene: Scene, spot: Vector) -> Light | None:
    """The light whose line to the face passes nearest to the scrim and lies beyond it."""
    best: tuple[float, Light] | None = None
    for light in scene.lights:
        if light.at is None or scene.face is None or light.place.role == "background light":
            continue
        way = scene.face[:2] - light.at[:2]
        long = float(np.linalg.norm(way))
        if long < 0.05:
            continue
        t = float((spot - light.at[:2]) @ way) / long**2
        if 0 < t < 1:
            off = float(np.linalg.norm(light.at[:2] + way * t - spot))
            if best is None or off < best[0]:
                best = (off, light)
    return best[1] if best else None


def _subject_edges(scene: Scene) -> Points | None:
    """Outermost points of the subject that the frame shows."""
    solids = [solid for subject in scene.shot.subjects for solid in scene.body_parts(subject.id)]
    if not solids or scene.wanted is None:
        return None
    points = np.vstack(solids)
    low = scene.wanted.top - scene.wanted.height.value
    seen = points[(points[:, 2] >= low) & (points[:, 2] <= scene.wanted.top)]
    return seen[:: max(len(seen) // 60, 1)] if len(seen) else None


def _background_edges(scene: Scene) -> Points | None:
    """Where the frame's corners meet the background."""
    if scene.view is None or scene.line is None:
        return None
    spot, way = scene.line
    normal = np.array([way[0], way[1], 0.0])
    rays = scene.view.rays()
    closing = -(rays @ normal)
    far = float((scene.view.eye - np.array([*spot, 0.0])) @ normal)
    if far <= 0.02 or (closing <= 1e-6).any():
        return None
    return np.asarray(scene.view.eye + rays * (far / closing)[:, None])


def _scrims(scene: Scene) -> Iterable[Margin]:
    for prop in scene.plan.props:
        item = scene.gear.get(prop.item or "")
        if not isinstance(item, Board) or item.surface != "translucent":
            continue
        for background, what in ((False, "subject"), (True, "background")):
            key = prop.id

            def spare_of(one: Scene, key: str = key, background: bool = background) -> float | None:
                return _scrim_spare(one, key, background=background)

            spare = spare_of(scene)
            if spare is None or prop.x is None or prop.y is None:
                continue
            say = Say.of(scene.brief)
            yield judge(
                SCRIM,
                (f"{scene.path}/props/{prop.id}/{what}", f"{scene.path}/props/{prop.id}"),
                Estimate(
                    spare, picture_shares(scene, spare_of) + gear_shares(scene, [item], ("width", "height"), spare_of)
                ),
                title=f"Scrim before the {what}",
                need=0.0,
                have=spare,
                clear=f"All light on the {what} comes through the scrim.",
                short=f"The scrim does not cover the {what}.",
                reason=f"Light to its edge passes {say.short_by(spare)} "
                f"{'inside' if spare >= 0 else 'beside'} the scrim.",
                at=(prop.x, prop.y, 1.2),
                placing=0.02,
            )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Place the pattern anew; a grid or another place against flare; more distance against shadows."""
    if scene is None or scene.axis is None or scene.mark is None:
        return
    if margin.code == "light.pattern" and scene.shot.pattern:
        for side in ("left", "right"):
            label = f"Place {scene.shot.pattern} from the subject's {side}"
            yield Proposal(label, LightEdit(target=scene.path, pattern=scene.shot.pattern, side=side))
        return
    light = scene.light_at(margin.about[0])
    if margin.code == "frame.flare" and light is not None and light.at is not None:
        yield from _less_flare(studio, scene, light)
    if margin.code == "light.shadow" and light is not None:
        yield from _less_shadow(studio, scene, light)
    if margin.code == "light.scrim":
        yield from _better_scrim(studio, scene, margin)


def _less_flare(studio: Studio, scene: Scene, light: Light) -> Iterable[Proposal]:
    assert light.at is not None and scene.axis is not None and scene.mark is not None
    for item in studio.gear:
        if (
            isinstance(item, Modifier)
            and item.id != light.place.modifier
            and half_beam(item) < half_beam(light.modifier)
        ):
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"modifier": item.id}))
    if light.modifier is not None and not light.modifier.grid:
        label = f"Put a grid on the {light.modifier.called}"
        yield Proposal(label, SetFields(target=f"gear/{light.modifier.id}", fields={"grid": True}))
    side = np.array([-scene.axis[1], scene.axis[0]])
    side = side if float((light.at[:2] - scene.mark) @ side) >= 0 else -side
    for step in (0.2, 0.4):
        spot = light.at[:2] + side * step + scene.axis * step
        fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
        yield Proposal(
            f"Bring the {light.name} {step * 100:.0f} cm forward and out", SetFields(target=light.path, fields=fields)
        )


def _less_shadow(studio: Studio, scene: Scene, light: Light) -> Iterable[Proposal]:
    assert scene.axis is not None and scene.mark is not None
    if scene.line is not None and scene.bare_wall is None:
        for step in (0.2, 0.4):
            spot = scene.line[0] - scene.line[1] * step
            fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
            yield Proposal(
                f"Move the background {step * 100:.0f} cm back",
                SetFields(target=f"{scene.path}/background", fields=fields),
            )
    wide = light.face[0] if light.face else 0.0
    for item in studio.gear:
        if isinstance(item, Modifier) and item.width and item.width.value > wide:
            yield Proposal(f"Use the {item.called}", SetFields(target=light.path, fields={"modifier": item.id}))


def _better_scrim(studio: Studio, scene: Scene, margin: Margin) -> Iterable[Proposal]:
    target = margin.about[1]
    for item in studio.gear:
        if isinstance(item, Board) and item.surface == "translucent":
            yield Proposal(f"Use the {item.called}", SetFields(target=target, fields={"item": item.id}))
    prop = next((p for p in scene.plan.props if target.endswith(f"/{p.id}")), None)
    if prop is None or prop.x is None or prop.y is None or scene.line is None:
        return
    for step in (0.15, 0.3, -0.15):
        spot = np.array([prop.x, prop.y]) - scene.line[1] * step
        fields = {"x": round(float(spot[0]), 3), "y": round(float(spot[1]), 3)}
        way = "toward the background" if step > 0 else "toward the camera"
        yield Proposal(f"Move the scrim {abs(step) * 100:.0f} cm {way}", SetFields(target=target, fields=fields))


RULE = SetRule(
    "aim",
    margins,
    (
        PATTERN,
        FLARE,
        SHADOW,
        SCRIM,
        SIGHT,
    ),
    propose,
    order=5,
)
