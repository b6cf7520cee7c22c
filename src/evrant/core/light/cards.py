"""What a card gives or takes: the set in its light with the card and without it, at the same powers."""

import math
from collections.abc import Collection, Iterable
from dataclasses import dataclass, replace

from evrant.core.base.memo import Memo
from evrant.core.light import account
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit
from evrant.core.light.mirrored import shiny
from evrant.core.space.scene import Scene
from evrant.core.space.tops import FLAT
from evrant.core.studio.gear import Board
from evrant.core.studio.sets import PropPlace, SetPlan

RETURNS = frozenset({"white", "silver", "mirror", "foil", "glossy white"})
"""Surfaces of boards that send light back."""
SWALLOWS = frozenset({"black", "glossy black"})
"""Surfaces of boards that take light away."""
SIDES = ("shadow side", "key side", "face", "ground")
SEEN = 1 / 6
"""The least one sees [stops]; project choice."""
ALIKE = 0.03
"""Another receiver than the dark side is told of where a card adds so much more to it [stops]."""
_BARE: Memo[SetPlan] = Memo(2_000_000, lambda plan: 4000)
_OTHER_FIELDS = tuple(name for name in SetPlan.model_fields if name != "props")


@dataclass(frozen=True, eq=False)
class Lift:
    """What a card adds, or takes away, where it does so most [stops], at that receiver, and the set without it."""

    stops: float
    where: str
    without: Lit


def returning(scene: Scene) -> Iterable[tuple[PropPlace, Board]]:
    """Upright cards of a set that send light back and have a place."""
    return upright(scene, RETURNS)


def upright(scene: Scene, surfaces: Collection[str]) -> Iterable[tuple[PropPlace, Board]]:
    """Upright cards of a set with one of these surfaces that have a place."""
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        if isinstance(item, Board) and item.surface in surfaces and abs(place.tilt) < FLAT and place.x is not None:
            yield place, item


def lift(state: Lit, place: PropPlace) -> Lift | None:
    """What a card of a set adds at the subjects. None where that cannot be computed without it."""
    return _most(state, place, 1.0, _receivers(state))


def taken(state: Lit, place: PropPlace) -> Lift | None:
    """What a black card takes away, where it should: not from the side that the light comes from. None where that
    cannot be computed without it."""
    return _most(state, place, -1.0, (name for name in _receivers(state) if name != "key side"))


def _most(state: Lit, place: PropPlace, sign: float, receivers: Iterable[str]) -> Lift | None:
    scene = state.scene
    without = lit(replace(scene, plan=_bare(scene.plan, place)))
    if isinstance(without, Missing) or len(without.beams) != len(state.beams):
        return None
    found = {name: sign * account.over(state, without, name) for name in receivers if name in without.rows.at}
    found = {name: stops for name, stops in found.items() if math.isfinite(stops)}
    if not found:
        return None
    where = max(found, key=lambda name: found[name] + (ALIKE if name == SIDES[0] else 0.0))
    return Lift(found[where], where, without)


def without_idle(scene: Scene) -> SetPlan:
    """The set without the reflectors that add nothing one would see, one after the other; what is shiny shows its
    cards and keeps them."""
    while any(returning(scene)) and shiny(scene) is None:
        state = lit(scene)
        if isinstance(state, Missing) or state.key is None:
            break
        added = ((place, lift(state, place)) for place, _ in returning(scene))
        idle = next((place for place, found in added if found is not None and found.stops < SEEN), None)
        if idle is None:
            break
        scene = replace(scene, plan=_bare(scene.plan, idle))
    return scene.plan


def _bare(plan: SetPlan, place: PropPlace) -> SetPlan:
    """The set without a card: the same object however the card is moved, so that its light is remembered."""
    others = tuple(one for one in plan.props if one.id != place.id)
    fields = (*(getattr(plan, name) for name in _OTHER_FIELDS), *others)
    return _BARE.get("bare", fields, lambda: plan.changed(props=others))


def moved_by_paint(state: Lit, found: Lift) -> dict[str, float]:
    """By surface, how what a card adds moves with the ± of that surface's reflectance [stops]."""
    if isinstance(state.around, Missing) or state.settled is None or found.without.settled is None:
        return {}
    names: dict[str, float] = {}
    there = _by_name(state, found.where)
    bare = _by_name(found.without, found.where)
    for number, surface in enumerate(state.settled.surfaces):
        apart = there.get(surface.name, 0.0) - bare.get(surface.name, 0.0)
        amount = abs(apart) * state.around.unsure.get(number, 0.03) / math.log(2)
        names[surface.name] = max(amount, names.get(surface.name, 0.0))
    return names


def _by_name(state: Lit, where: str) -> dict[str, float]:
    """By surface, how the light at a receiver moves with its reflectance, as a share of that light."""
    assert state.settled is not None
    whole = state.total(where)
    shares: dict[str, float] = {}
    for number, (slope,) in account.reflectance_shares(state, (where,)).items():
        name = state.settled.surfaces[number].name
        shares[name] = shares.get(name, 0.0) + float(slope) / whole if whole > 0 else 0.0
    return shares


def _receivers(state: Lit) -> Iterable[str]:
    return (name for name in state.rows.at if name in SIDES or name.startswith(("down", "subject")))
