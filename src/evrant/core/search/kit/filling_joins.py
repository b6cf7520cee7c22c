"""How the parts of a light go together: fittings, rings, joints, shafts, loads."""

from collections.abc import Iterable, Sequence

from evrant.core.place.patterns import Beam
from evrant.core.search.kit.case import NOTHING
from evrant.core.search.kit.filling import Filling, is_a
from evrant.core.search.kit.market import Good
from evrant.core.search.kit.softness import may_be_bare
from evrant.core.space.lights import all_round
from evrant.core.studio.gear import Flash, Lamp, Modifier, Part, Stand
from evrant.core.studio.room import value


def fill_fittings(
    filling: Filling, name: str, beam: Beam, heads: Sequence[Good], modifiers: Sequence[Good], rings: Sequence[Good]
) -> None:
    """Head, ring and modifier: what fits by itself, what a ring joins, what never fits."""
    h, m, r = f"{name}.head", f"{name}.modifier", f"{name}.ring"
    bare_allowed = NOTHING in filling.case.slots[m].keys
    for good in heads:
        head = good.item
        assert isinstance(head, (Flash, Lamp))
        if bare_allowed and not may_be_bare(filling, good, beam):
            filling.never("a bare head is never soft", (h, good.key), (m, NOTHING))
        for other in modifiers:
            modifier = is_a(other, Modifier)
            watts = (value(head.modelling) if isinstance(head, Flash) else value(head.power)) or 0.0
            if modifier.takes is not None and watts > modifier.takes.value:
                filling.never(f"it takes lamps up to {modifier.takes.value:.0f} W", (h, good.key), (m, other.key))
                continue
            if modifier.mount == "umbrella shaft" or head.front == modifier.mount:
                for ring in rings:
                    filling.never("no ring is needed", (h, good.key), (m, other.key), (r, ring.key))
                continue
            filling.never(f"the {head.called} takes no {modifier.called}", (h, good.key), (m, other.key), (r, NOTHING))
            for ring in rings:
                part = is_a(ring, Part)
                if part.head_side != head.front or part.modifier_side != modifier.mount:
                    filling.never("the ring fits other things", (h, good.key), (m, other.key), (r, ring.key))
    for ring in rings:
        if bare_allowed:
            filling.never("a ring needs a modifier", (m, NOTHING), (r, ring.key))


def fill_joints(
    filling: Filling,
    name: str,
    beam: Beam,
    heads: Sequence[Good],
    stands: Sequence[Good],
    joints: Sequence[Good],
    modifiers: Sequence[Good],
) -> None:
    """Stand, joint and head: ends that fit, something that tilts, something that holds an umbrella."""
    tilts = abs(beam.up) > 4 or beam.aim == "background"
    standing = stands if f"{name}.support" in filling.case.slots else ()
    for good in heads:
        _head_on(filling, name, good, standing, joints)
        if tilts and not getattr(good.item, "yoke", False):
            _turned(filling, name, good, joints, modifiers)
    for joint in joints:
        for stand in standing:
            if is_a(joint, Part).below != is_a(stand, Stand).top:
                pair = ((f"{name}.joint", joint.key), (f"{name}.support", stand.key))
                filling.never("the joint does not fit the stand", *pair)
    _umbrellas(filling, name, heads, joints, modifiers)
    _loads(filling, name, heads, stands, modifiers)


def _head_on(filling: Filling, name: str, good: Good, stands: Sequence[Good], joints: Sequence[Good]) -> None:
    """A head on each stand by itself, and each joint under it."""
    head = good.item
    assert isinstance(head, (Flash, Lamp))
    h, s, j = (f"{name}.head", good.key), f"{name}.support", f"{name}.joint"
    watts = value(head.power) if isinstance(head, Lamp) else None
    for joint in joints:
        part = is_a(joint, Part)
        rated = value(part.rating) if part.use == "bulb holder" else None
        if part.above != head.foot:
            filling.never("the joint does not fit the head", h, (j, joint.key))
        elif rated is not None and watts is not None and watts > rated:
            filling.never("the bulb is over the holder's rating", h, (j, joint.key))
    for stand in stands:
        if is_a(stand, Stand).top != head.foot:
            words = f"the {head.called} does not sit on the {stand.item.called}"
            filling.never(words, h, (s, stand.key), (j, NOTHING))


def _turned(filling: Filling, name: str, good: Good, joints: Sequence[Good], modifiers: Sequence[Good]) -> None:
    """A head that does not tilt by itself wants a swivel, under whatever it does not shine all round through."""
    head, m = good.item, f"{name}.modifier"
    assert isinstance(head, (Flash, Lamp))
    before: dict[str, Modifier | None] = {one.key: is_a(one, Modifier) for one in modifiers}
    if NOTHING in filling.case.slots[m].keys:
        before[NOTHING] = None
    directed = [key for key, modifier in before.items() if not all_round(head, modifier)]
    whatever = [()] if len(directed) == len(before) else [((m, key),) for key in directed]
    for joint in (NOTHING, *(one.key for one in joints if not is_a(one, Part).swivel)):
        for also in whatever:
            filling.never("nothing tilts it", (f"{name}.head", good.key), *also, (f"{name}.joint", joint))


def _umbrellas(
    filling: Filling, name: str, heads: Sequence[Good], joints: Sequence[Good], modifiers: Sequence[Good]
) -> None:
    """An umbrella's shaft wants a hole, in the head or in the joint."""
    words = "nothing holds the umbrella"
    without = [NOTHING, *(joint.key for joint in joints if not is_a(joint, Part).shaft)]
    for other in modifiers:
        if is_a(other, Modifier).mount != "umbrella shaft":
            continue
        for good in heads:
            for joint in () if getattr(good.item, "shaft", False) else without:
                pair = ((f"{name}.modifier", other.key), (f"{name}.head", good.key))
                filling.never(words, *pair, (f"{name}.joint", joint))


def _loads(
    filling: Filling, name: str, heads: Iterable[Good], stands: Sequence[Good], modifiers: Sequence[Good]
) -> None:
    """A stand carries its head, and the head with its modifier."""
    for good in heads:
        for stand in stands:
            load, mass = is_a(stand, Stand).load, good.item.mass
            if load is None or mass is None:
                continue
            words = f"the {stand.item.called} carries {filling.tell.mass(load.value)}"
            if mass.value > load.value:
                filling.never(words, (f"{name}.head", good.key), (f"{name}.support", stand.key))
                continue
            for other in modifiers:
                if other.item.mass is not None and mass.value + other.item.mass.value > load.value:
                    three = ((f"{name}.head", good.key), (f"{name}.modifier", other.key))
                    filling.never(words, *three, (f"{name}.support", stand.key))
