"""What whoever places lights does next: parts between stand and head, a leg under the load, bags, leads.

Only gear of the studio's own kit is used, and only where the place is still free; the ledger judges the result.
"""

import math
from dataclasses import replace

from evrant.core.base.tables.supports import Demand
from evrant.core.base.units import KG_PER_POUND, Units
from evrant.core.mechanics.beams import counterweight
from evrant.core.mechanics.supports import (
    Missing,
    Standing,
    background_standing,
    bag_for,
    camera_standing,
    card_standing,
    demand_of,
    joint_of,
    leg_under_load,
    light_standing,
    load_of,
    shared,
)
from evrant.core.place.cards import held_by
from evrant.core.space.booms import boom_out
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Lead, Part, Stand
from evrant.core.studio.room import value
from evrant.core.studio.sets import CameraPlace, LightPlace, PropPlace, SetPlan
from evrant.core.wiring.floor import need_of, routes

SPARE = 0.1
"""More than is asked for, as a share, so that the margin is no narrow one."""
HEAVIEST = 100.0
COVER = 1.4
"""A lead is laid under a cover where people walk up to this [m]; more wants another socket."""


def rigged(scene: Scene) -> SetPlan:
    """The set with what its lights, cards and background need to stand and be fed."""
    plan = scene.plan
    used: dict[str, int] = {}
    lights = []
    for light in scene.lights:
        place = joined(scene, light, used)
        light = replace(light, place=place)
        light = replace(light, place=balanced(scene, light))
        place = weighted(scene, light)
        place = _fed(scene, replace(light, place=place), used)
        lights.append(place)
    background = plan.background
    bare = replace(scene, plan=plan.changed(background=background.changed(bag=None)))
    made = background_standing(bare)
    if isinstance(made, Standing):
        mass = pair_of_bags(made, demand_of(scene, made), scene.brief.units)
        background = background.changed(bag=mass if 0 < mass < HEAVIEST else None)
    props = tuple(weighted_card(scene, prop) if prop.support else prop for prop in plan.props)
    return plan.changed(lights=tuple(lights), props=props, background=background, camera=_steadied(scene))


def _steadied(scene: Scene) -> CameraPlace:
    """The camera's place with a bag on its support, where it needs one to stand as is asked for."""
    place = scene.plan.camera
    made = camera_standing(replace(scene, plan=scene.plan.changed(camera=place.changed(bag=None))))
    if not isinstance(made, Standing):
        return place
    want = demand_of(scene, made)
    if bag_for(made, want, scene.brief.units) <= 0:
        return place.changed(bag=None)
    mass = bag_for(made, want, scene.brief.units, spare=SPARE)
    return place.changed(bag=mass if mass < HEAVIEST else None)


def pair_of_bags(made: Standing, want: Demand, units: Units) -> float:
    """Bag on each of two stands [kg]: half of what one in the middle would need, in halves of what they are told in."""
    both, unit = bag_for(made, want, units, spare=SPARE), 1.0 if units == "metric" else KG_PER_POUND
    return both if math.isinf(both) else math.ceil(both / unit - 1e-9) * unit / 2


def _at_hand(scene: Scene, used: dict[str, int]) -> list[Part]:
    return [
        item
        for item in scene.gear.values()
        if isinstance(item, Part) and item.at_hand and used.get(item.id, 0) < item.quantity
    ]


def joined(scene: Scene, light: Light, used: dict[str, int]) -> LightPlace:
    """A part of the kit where stand and head, or head and modifier, do not fit by themselves."""
    place, stand, head, modifier = light.place, light.stand, light.head, light.modifier
    if stand is not None and head is not None and place.joint is None and stand.top and head.foot:
        umbrella = modifier is not None and modifier.mount == "umbrella shaft"
        tilts = light.tilts
        for part in _at_hand(scene, used):
            fits = part.below == stand.top and part.above == head.foot
            holds = (not umbrella or head.shaft or part.shaft) and (not tilts or head.yoke or part.swivel)
            wanted = stand.top != head.foot or (umbrella and not head.shaft) or (tilts and not head.yoke)
            if wanted and fits and holds:
                used[part.id] = used.get(part.id, 0) + 1
                place = place.changed(joint=part.id)
                break
    if head is not None and modifier is not None and place.ring is None and head.front != modifier.mount:
        for part in _at_hand(scene, used):
            if part.head_side == head.front and part.modifier_side == modifier.mount and part.head_side is not None:
                used[part.id] = used.get(part.id, 0) + 1
                place = place.changed(ring=part.id)
                break
    return place


def balanced(scene: Scene, light: Light) -> LightPlace:
    """The weight on a boom's tail that balances it, where none is said and its figures are known."""
    stand, out, place = light.stand, boom_out(light), light.place
    if stand is None or stand.use != "boom stand" or out is None or place.counterweight is not None:
        return place
    load, tail, boom = load_of(light, joint_of(scene, light)), value(stand.tail), value(stand.boom_mass)
    if isinstance(load, Missing) or not tail or boom is None:
        return place
    need = counterweight(sum(one.mass for one in load), out[1], boom, tail)
    return place.changed(counterweight=round(max(need, 0.0), 1))


def weighted(scene: Scene, light: Light) -> LightPlace:
    """A leg under the load and a bag low on the column, as heavy as is asked for."""
    place = light.place
    joint = joint_of(scene, light)
    others = shared(scene, light)
    made = light_standing(replace(light, place=place.changed(bag=None)), joint, others)
    if not isinstance(made, Standing):
        return place
    leg = float(round(leg_under_load(made) % 360))
    turned = light_standing(replace(light, place=place.changed(bag=None, leg=leg)), joint, others)
    assert isinstance(turned, Standing)
    mass = bag_for(turned, demand_of(scene, made), scene.brief.units, spare=SPARE)
    return place.changed(leg=leg, bag=mass if 0 < mass < HEAVIEST else None, bag_at="low on the column")


def weighted_card(scene: Scene, place: PropPlace) -> PropPlace:
    """A card with a bag low on the column of what holds it, as heavy as is asked for."""
    made = card_standing(scene, place.changed(bag=None))
    if not isinstance(made, Standing):
        return place
    mass = bag_for(made, demand_of(scene, made), scene.brief.units, spare=SPARE)
    return place.changed(bag=mass if 0 < mass < HEAVIEST else None)


def held_and_weighted(scene: Scene, place: PropPlace, stand: Stand) -> PropPlace:
    """A card held there by a stand, with the weight that takes."""
    return weighted_card(held_by(scene, place, stand), place.changed(support=stand.id))


def lead_for(scene: Scene, light: Light, taken: dict[str, int]) -> Lead | None:
    """The shortest lead of the kit that reaches where the head's own cord does not; None when none is needed or
    none reaches."""
    head = light.head
    if head is None or head.supply != "mains" or head.cord is None:
        return None
    ways = routes(scene, light)
    if not ways or head.cord.value >= need_of(scene, light, ways[0]) + 0.1:
        return None
    need = need_of(scene, light, ways[0]) + 0.1 - head.cord.value
    leads = [
        item
        for item in scene.gear.values()
        if isinstance(item, Lead) and item.at_hand and taken.get(item.id, 0) < item.quantity
    ]
    reaching = [lead for lead in leads if (value(lead.length) or 0.0) >= need]
    return min(reaching, key=lambda lead: value(lead.length) or 0.0, default=None)


def _fed(scene: Scene, light: Light, used: dict[str, int]) -> LightPlace:
    place = light.place
    if light.head is None or light.head.supply != "mains":
        return place
    ways = routes(scene, light)
    if ways and 0.01 < ways[0].crossing < COVER:
        place = place.changed(covered=True)
    lead = lead_for(scene, light, used) if place.lead is None else None
    if lead is None:
        return place
    used[lead.id] = used.get(lead.id, 0) + 1
    return place.changed(lead=lead.id)
