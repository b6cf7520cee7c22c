"""Does what stands in the set stay standing? Codes support.tipping, support.push, support.counterweight."""

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.memo import Memo, is_plain
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.supports import GRAVITY, GRIP_FACTOR
from evrant.core.base.units import show_number
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import GEOMETRY, Proposal, SetRule
from evrant.core.judge.rules.support.cards import other_holders
from evrant.core.judge.rules.support.support import other_supports
from evrant.core.judge.rules.support.weights import with_weights
from evrant.core.mechanics import beams, standing
from evrant.core.mechanics.supports import (
    Missing,
    Standing,
    background_standing,
    bag_for,
    camera_standing,
    card_standing,
    counterweight_of,
    demand_of,
    figures_of,
    friction_of,
    joint_of,
    leg_under_load,
    light_standing,
    load_of,
    shared,
)
from evrant.core.place.rigging import pair_of_bags, weighted_card
from evrant.core.space.booms import boom_out
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Item, Part, Stand
from evrant.core.studio.sets import BagPlace
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

TIPPING = Line(
    "support.tipping",
    "Slope the … bears",
    "°",
    Basis(
        "arctan(distance of the plumb of the whole mass to the nearest edge between feet / height of the mass) ≥ "
        "6° plain, 10° castors or carpet, 15° animals, children, visitors; what is over 6° by the square of what would "
        "fall (20 J and more: fully) × 0.6, 1 or 1.5 by the caution chosen",
        "Statics of rigid bodies, any engineering handbook; demands are a project choice around the 6° slope of "
        "IEC 60598 (from memory)",
        "project choice",
    ),
    asks="What slope does it bear before it tips, by its weakest edge?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling",),
    mark="slope",
)
PUSH = Line(
    "support.push",
    "Push the … bears",
    "N",
    Basis(
        "whole mass × g × distance to the nearest edge / height of the push ≥ 20 N plain, 30 N castors, "
        "50 N animals in the room, children, visitors, 20 to 50 N half the weight of an animal in the picture, "
        "by the square of what would fall (20 J and more: fully) "
        "× 0.6, 1 or 1.5 by the caution chosen; pushed at 1.0 m or at the top of lower stands",
        "Statics of rigid bodies, any engineering handbook; demands are a project choice",
        "project choice",
    ),
    asks="What push at 1 m does it bear?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling",),
    mark="push",
)
COUNTERWEIGHT = Line(
    "support.counterweight",
    "Counterweight of the …",
    "kg",
    Basis(
        "load × arm + boom × (arm − tail) / 2 = counterweight × tail, within what the joint holds by grip (factor 2) "
        "or a tenth",
        "Moments about the pivot, any engineering handbook; the tenth is a project choice",
        "computed",
    ),
    asks="Is the boom balanced?",
    step="support",
    safety=True,
    fails=True,
    hazards=("Tipping and falling",),
    mark="counterweight",
)
BALANCE_SLACK = 0.1
FIELDS = ("mass", "length", "depth", "foot_radius", "reach", "tail", "boom_mass", "counterweight", "pack", "overhang")
BAG_PLACES: tuple[BagPlace, ...] = ("low on the column", "on the leg away from the load")
_KEPT: Memo[tuple[Margin, ...]] = Memo(8_000_000, lambda lines: 300 + 1800 * len(lines))
Build = Callable[[Scene], Standing | Missing | None]


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about standing, for lights, camera and background."""
    plan = scene.plan
    for light in scene.lights:
        line = plan.background if light.place.role == "background light" else None
        seen = (scene.shot, plan.mark, plan.camera, plan.background if plan.camera.x is None else None)
        others = shared(scene, light)
        own = (light.place, light.head, light.modifier, light.stand, joint_of(scene, light), line, *seen)
        parts = (*(part for other in others for part in (other.place, other.head, other.modifier)), *own)
        key = f"{light.path} {light.name} {scene.room.floor}"
        where = (scene.brief, scene.room.footprint, scene.room.walls)
        yield from _KEPT.get(key, (*parts, *where), partial(_light_lines, scene, light))
    for path, build, items, name in (
        (f"{scene.path}/camera", camera_standing, (scene.body, scene.lens, scene.gear.get(_support(scene))), "camera"),
        (f"{scene.path}/background", background_standing, (scene.holder, scene.backdrop), "background"),
    ):
        yield from _other(scene, path, build, items, name)
    for place in plan.props:
        board, stand = scene.gear.get(place.item or ""), scene.gear.get(place.support or "")
        if board is not None and stand is not None:
            of_card = partial(card_standing, place=place)
            yield from _other(scene, f"{scene.path}/props/{place.id}", of_card, (board, stand), board.called)


def _support(scene: Scene) -> str:
    return scene.plan.camera.support or ""


def _light_lines(scene: Scene, light: Light) -> tuple[Margin, ...]:
    return tuple(_light(scene, light))


def _light(scene: Scene, light: Light) -> Iterable[Margin]:
    joint = joint_of(scene, light)
    made = light_standing(light, joint, shared(scene, light))
    twins = [] if is_plain() else list(_light_twins(scene, light, joint))
    yield from _lines(scene, light.path, light.name, made, twins)
    yield from _balance(scene, light, joint)


def _light_twins(scene: Scene, light: Light, joint: Part | None) -> Iterable[tuple[str, Standing]]:
    """The same light with one unsure figure moved by its ±."""
    for item, name, figure in figures_of((light.stand, light.head, light.modifier, joint), FIELDS):
        moved = item.changed(**{name: figure.moved()})
        changes = {kind: moved for kind in ("stand", "head", "modifier") if getattr(light, kind) is item}
        others = shared(scene, light)
        twin = light_standing(replace(light, **changes), moved if item is joint else joint, others)  # type: ignore[arg-type]
        if isinstance(twin, Standing):
            yield f"{name.replace('_', ' ')} of the {item.called}", twin
    for label, other in scene.picture_twins:
        twin = light_standing(other.light(light.place), joint, shared(other, light))
        if isinstance(twin, Standing):
            yield label, twin


def _other(scene: Scene, path: str, build: Build, items: tuple[Item | None, ...], name: str) -> Iterable[Margin]:
    made = build(scene)
    if made is None:
        return
    twins: list[tuple[str, Standing]] = []
    if isinstance(made, Standing) and not is_plain():
        for item, field, figure in figures_of(items, (*FIELDS, "width")):
            moved = item.changed(**{field: figure.moved()})
            twin = build(scene.with_gear({**scene.gear, item.id: moved}))
            if isinstance(twin, Standing):
                twins.append((f"{field.replace('_', ' ')} of the {item.called}", twin))
        for label, other in scene.picture_twins:
            twin = build(other)
            if isinstance(twin, Standing):
                twins.append((label, twin))
    yield from _lines(scene, path, name, made, twins)


def _lines(
    scene: Scene, path: str, name: str, made: Standing | Missing | None, twins: list[tuple[str, Standing]]
) -> Iterable[Margin]:
    if made is None:
        return
    titles = (f"Slope the {name} bears", f"Push the {name} bears")
    if isinstance(made, Missing):
        for line, title in ((TIPPING, titles[0]), (PUSH, titles[1])):
            find = "Weigh it, or read it off the data sheet. Until then hang a bag low on the column."
            yield unknown(
                line,
                (made.enter, path),
                made.words,
                find,
                title=title,
            )
        return
    friction = friction_of(scene)
    want = demand_of(scene, made)
    whole = [made, *(twin for _, twin in twins)]
    found = standing.stability(
        np.stack([one.masses for one in whole]),
        np.stack([one.places for one in whole]),
        np.stack([one.polygon for one in whole]),
        np.array([one.push_height for one in whole]),
        friction,
    )
    labels = [label for label, _ in twins]
    at = (float(made.spot[0]), float(made.spot[1]), 0.05)
    angle, push = float(found.angle[0]), float(found.push[0])
    legs = "" if made.turned else " Its legs are taken as they stand worst; turn one under the load."
    what = "background" if name == "background" else f"stand of the {name}"
    yield judge(
        TIPPING,
        (path,),
        Estimate(angle - want.angle, _shares(labels, found.angle)),
        title=titles[0],
        need=want.angle,
        have=angle,
        clear=f"The {what} bears the slope it must.",
        short=f"The {what} tips too easily.",
        reason=f"{Say.of(scene.brief).mass(float(found.mass[0]))} in all, its middle "
        f"{Say.of(scene.brief).length(float(found.centre[0, 2]))} up; asked for because of {want.why}.{legs}",
        at=at,
        placing=0.2,
    )
    slides = float(found.slide[0])
    yield judge(
        PUSH,
        (path,),
        Estimate(push - want.push, _shares(labels, found.push)),
        title=titles[1],
        need=want.push,
        have=push,
        clear=f"The {what} bears being pushed.",
        short=f"A push tips the {what}.",
        reason=f"{show_number(push, 0)} N at {Say.of(scene.brief).length(made.push_height)} tip it"
        f"{f'; it slides first, at about {slides:.0f} N' if slides < push else ''}; "
        f"asked for because of {want.why_push}.",
        at=at,
        placing=0.2,
    )


def _shares(labels: list[str], values: standing.Array) -> tuple[Share, ...]:
    moves = np.abs(values[1:] - values[0])
    return tuple(Share(label, float(move)) for label, move in zip(labels, moves, strict=True) if move > 1e-9)


def _balance(scene: Scene, light: Light, joint: Part | None) -> Iterable[Margin]:
    """The counterweight a boom needs against the one it has."""
    stand, out = light.stand, boom_out(light)
    if stand is None or out is None or stand.use != "boom stand":
        return
    title, about = f"Counterweight of the {light.name}", (light.path,)
    load = load_of(light, joint)
    missing = _missing(stand, load)
    if missing is not None:
        find = "Read it off the data sheet or measure it. Until then tie the tail down and hang the light low."
        yield unknown(
            COUNTERWEIGHT,
            (missing.enter, light.path),
            missing.words,
            find,
            title=title,
        )
        return
    assert not isinstance(load, Missing) and stand.tail is not None
    have = counterweight_of(light)
    own = stand.counterweight if light.place.counterweight is None else None
    carried: dict[str, Figure | float] = {
        f"mass_of_the_{what}": item.mass
        for what, item in (("head", light.head), ("modifier", light.modifier), ("joint", joint))
        if item is not None and item.mass is not None
    }
    drawn: Figure | float = out[1] if light.place.boom_length is not None else (stand.reach or out[1])
    heads = light.place.heads

    def spare(tail: float, boom: float, grip: float, arm: float, weight: float, **masses: float) -> float:
        mass = sum(heads * m if name == "mass_of_the_head" else m for name, m in masses.items())
        need = beams.counterweight(mass, arm, boom, tail)
        slack = grip / GRIP_FACTOR / GRAVITY / tail if grip else BALANCE_SLACK * abs(need)
        return slack - abs(weight - need)

    need = beams.counterweight(
        sum(c.mass for c in load), out[1], stand.boom_mass.value if stand.boom_mass else 0.0, stand.tail.value
    )
    say = Say.of(scene.brief)
    heavy = have > need
    yield judge(
        COUNTERWEIGHT,
        about,
        estimate(
            spare,
            tail=stand.tail,
            boom=stand.boom_mass or 0.0,
            grip=stand.grip or 0.0,
            arm=drawn,
            weight=own if own is not None else have,
            **carried,
        ),
        title=title,
        need=need,
        have=have,
        clear=f"The boom of the {light.name} is balanced.",
        short=f"The counterweight outweighs the {light.name}."
        if heavy
        else f"The boom of the {light.name} lacks counterweight.",
        reason=f"{say.mass(sum(c.mass for c in load))} drawn out to {say.length(out[1])} want {say.mass(need)} on a "
        f"tail of {say.length(stand.tail.value)}; there is {say.mass(have)}.",
    )


def _missing(stand: Stand, load: tuple[object, ...] | Missing) -> Missing | None:
    if isinstance(load, Missing):
        return load
    if stand.tail is None:
        return Missing(f"gear/{stand.id}", f"How far the boom of the {stand.called} reaches behind is missing.")
    if stand.boom_mass is None:
        return Missing(f"gear/{stand.id}", f"The mass of the boom of the {stand.called} is missing.")
    return None


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Turn a leg, hang a bag, set the counterweight, lower the light, another stand; with the weights it takes."""
    if scene is not None:
        yield from with_weights(studio, scene.plan.id, _steadied(studio, scene, margin))


def _steadied(studio: Studio, scene: Scene, margin: Margin) -> Iterable[Proposal]:
    path, say = margin.about[0], Say.of(scene.brief)
    if "/props/" in path:
        yield from _bag_on_card(scene, path)
        yield from other_holders(studio, scene, path)
        return
    light = scene.light_at(path)
    if margin.code == "support.counterweight":
        if light is not None and margin.need is not None:
            fields = {"counterweight": round(max(margin.need, 0.0), 1)}
            yield Proposal(
                f"Put {say.mass(fields['counterweight'])} on the tail", SetFields(target=path, fields=fields)
            )
        return
    made = light_standing(light, joint_of(scene, light), shared(scene, light)) if light else _built(scene, path)
    if not isinstance(made, Standing):
        return
    want, units = demand_of(scene, made), scene.brief.units
    bare = replace(made, carried=tuple(one for one in made.carried if one.what != "bag"))
    if light is None:
        mass = pair_of_bags(bare, want, units) if path.endswith("background") else bag_for(bare, want, units, spare=0.1)
        if math.isfinite(mass):
            words = f"Hang {say.mass(mass)} on each stand" if path.endswith("background") else f"Hang {say.mass(mass)}"
            yield Proposal(f"{words}, low", SetFields(target=path, fields={"bag": mass}))
        return
    options: list[tuple[float, float | None, BagPlace]] = []
    if not made.turned:
        leg = round(leg_under_load(made) % 360, 0)
        yield Proposal("Turn a leg under the load", SetFields(target=path, fields={"leg": leg}))
        bare_light = replace(light, place=light.place.changed(leg=leg, bag=None))
        turned = light_standing(bare_light, joint_of(scene, light), shared(scene, light))
        if isinstance(turned, Standing):
            options.append((bag_for(turned, want, units, spare=0.1), leg, "low on the column"))
    options += [(bag_for(bare, want, units, where, 0.1), None, where) for where in BAG_PLACES]
    yield from _bags(say, path, options)
    yield from other_supports(studio, light, ("tripod",))


def _bag_on_card(scene: Scene, path: str) -> Iterable[Proposal]:
    place = by_id(scene.plan.props, path.rsplit("/", 1)[-1])
    mass = (weighted_card(scene, place).bag or 0.0) if place is not None else 0.0
    if 0 < mass <= HEAVIEST_BAG:
        yield Proposal(f"Hang {Say.of(scene.brief).mass(mass)}, low", SetFields(target=path, fields={"bag": mass}))


def _bags(say: Say, path: str, options: Sequence[tuple[float, float | None, BagPlace]]) -> Iterable[Proposal]:
    """Bags (mass, leg turned to, where), without those that weigh half as much again as the lightest that does."""
    able = [one for one in options if 0 < one[0] <= HEAVIEST_BAG]
    lightest = min((mass for mass, _, _ in able), default=0.0)
    for mass, leg, where in able:
        if mass > 1.5 * lightest:
            continue
        fields: dict[str, object] = {"bag": mass, "bag_at": where}
        if leg is not None:
            fields["leg"] = leg
        turn = "" if leg is None else " and turn a leg under the load"
        yield Proposal(f"Hang {say.mass(mass)} {where}{turn}", SetFields(target=path, fields=fields))


HEAVIEST_BAG = 60.0
"""Nobody hangs more on one stand [kg]."""


def _built(scene: Scene, path: str) -> Standing | Missing | None:
    return camera_standing(scene) if path.endswith("camera") else background_standing(scene)


RULE = SetRule(
    "standing",
    margins,
    (
        TIPPING,
        PUSH,
        COUNTERWEIGHT,
    ),
    propose,
    reads=GEOMETRY,
)
