"""What may shine in a role and what may carry it: heads, modifiers, stands, arms, clamps."""

from collections.abc import Sequence

from evrant.core.judge.rules.light.sources import flickers
from evrant.core.place.hanging import HANGS
from evrant.core.place.lighting import BOOMED, boomed
from evrant.core.place.patterns import Beam
from evrant.core.search.kit.carrying import NO_BAR, nowhere_for
from evrant.core.search.kit.case import NOTHING
from evrant.core.search.kit.filling import Filling, is_a
from evrant.core.search.kit.filling_joins import fill_fittings, fill_joints
from evrant.core.search.kit.market import Good
from evrant.core.search.kit.softness import NARROW, may_be_bare, soft_from
from evrant.core.space.anchors import PLATE_AT_WALL
from evrant.core.space.rails import BARS, CLAMPS
from evrant.core.space.stands import ARM
from evrant.core.studio.gear import Flash, Holder, Lamp, Modifier, Part, Stand
from evrant.core.studio.room import value
from evrant.core.studio.words import time_words

DIRECT_STANDS = frozenset({"light stand", "rolling stand"})
HOOKS = frozenset({"hook", "adhesive hook"})
BEFORE_BAR = 0.3
"""From this share of its distance before the subject on, no light is put on the background's bar; project choice."""


def fill_light(filling: Filling, beam: Beam, name: str) -> None:
    """The parts of a light of the pattern, and how they go together."""
    heads = [good for good in filling.goods(Flash, Lamp) if _head_serves(filling, good, beam)]
    modifiers = [good for good in filling.goods(Modifier) if _modifier_serves(filling, good, beam)]
    stands = [good for good in filling.goods(Stand) if _stand_serves(filling, good, beam)]
    joints = [g for g in filling.goods(Part) if is_a(g, Part).below is not None and is_a(g, Part).above is not None]
    rings = [g for g in filling.goods(Part) if is_a(g, Part).head_side is not None]
    word = f"the {beam.role}"
    bare = any(may_be_bare(filling, good, beam) for good in heads)
    filling.slot(f"{name}.head", f"{word}'s head", [g.key for g in heads])
    filling.slot(f"{name}.modifier", f"{word}'s modifier", [*(g.key for g in modifiers), *([NOTHING] if bare else [])])
    if beam.aim != "lens":
        filling.slot(f"{name}.support", f"what carries {word}", [g.key for g in stands])
        _columns(filling, name, word, stands)
        _clamps(filling, name, stands)
    filling.slot(f"{name}.joint", f"{word}'s joint", [NOTHING, *(g.key for g in joints)])
    filling.slot(f"{name}.ring", f"{word}'s ring", [NOTHING, *(g.key for g in rings)])
    fill_fittings(filling, name, beam, heads, modifiers, rings)
    fill_joints(filling, name, beam, heads, stands, joints, modifiers)


def _head_serves(filling: Filling, good: Good, beam: Beam) -> bool:
    head = good.item
    assert isinstance(head, (Flash, Lamp))
    school = filling.schools.source
    if isinstance(head, Flash):
        if filling.shot.capture == "video":
            filling.drop(good, "a flash lights no film")
            return False
        if school == "continuous" and not good.owned:
            filling.drop(good, "your school works with continuous light")
            return False
        return beam.role not in ("practical", "ring light") and (head.fired == "radio" or good.owned > 0)
    if filling.shot.capture == "video" and head.flicker == "with the mains":
        filling.drop(good, "it flickers with the mains; film shows it")
        return False
    if filling.shot.shutter is not None and flickers(head, filling.shot.shutter, filling.studio.brief.country):
        filling.drop(good, f"it flickers at {time_words(filling.shot.shutter)}")
        return False
    if school == "flash" and not good.owned and filling.shot.capture == "stills" and beam.role != "practical":
        filling.drop(good, "your school works with flash")
        return False
    forms = {"practical": ("bulb",), "ring light": ("ring",)}.get(beam.role, ("spot", "panel", "tube", "bulb"))
    return head.form in forms


def _modifier_serves(filling: Filling, good: Good, beam: Beam) -> bool:
    modifier = is_a(good, Modifier)
    if modifier.width is None or modifier.form is None or beam.role in ("practical",) or beam.aim == "corner":
        return False
    size = max(modifier.width.value, value(modifier.height) or 0.0)
    form = modifier.form
    match beam.role:
        case "key" | "fill" | "top light":
            if form in ("snoot", "gobo holder", "ring"):
                return False
            if form in ("reflector dish", "beauty dish"):
                return filling.shot.contrast == "strong" or (form == "beauty dish" and not filling.people)
            if size < soft_from(filling):
                face, soft = filling.tell.length(size), filling.tell.length(soft_from(filling))
                filling.drop(good, f"its face of {face} is hard for this picture; {soft} is soft")
                return False
            narrow = min(modifier.width.value, value(modifier.height) or size)
            if narrow < NARROW * soft_from(filling):
                filling.drop(good, f"its face is {filling.tell.length(narrow)} narrow: hard across, however long it is")
                return False
            return True
        case "rim" | "hair light":
            return modifier.grid or form in ("snoot", "reflector dish")
        case "background light":
            return form == "gobo holder" if filling.case.pattern == "gobo" else form in ("reflector dish", "softbox")
        case "ring light":
            return form == "ring"
        case "under-light":
            return form in ("softbox", "reflector dish")
    return False


def _stand_serves(filling: Filling, good: Good, beam: Beam) -> bool:
    stand = is_a(good, Stand)
    if beam.role == "under-light" or beam.up < -20:
        return stand.use in ("floor stand", "light stand")
    if stand.use == CLAMPS and not filling.studio.room.rails and beam.before > BEFORE_BAR:
        filling.drop(good, "the room has no rail, and the background's bar is behind what this light shines on")
        return False
    if stand.use in HANGS | HOOKS:
        bought = boomed(beam) and stand.use != PLATE_AT_WALL
        return (bought or good.owned > 0) and _may_hang(filling, good, stand)
    if boomed(beam) and stand.use in ("boom stand", ARM):
        return True
    return beam.role not in BOOMED and stand.use in DIRECT_STANDS


def _may_hang(filling: Filling, good: Good, stand: Stand) -> bool:
    """Whether room, tenancy and school have a place for what hangs."""
    why = nowhere_for(filling.studio, filling.market, stand, owned=good.owned > 0)
    if why:
        filling.drop(good, why)
    return not why


def _clamps(filling: Filling, name: str, stands: Sequence[Good]) -> None:
    """In a room without rails a clamp wants a holder with a bar."""
    clamps = [good for good in stands if is_a(good, Stand).use == CLAMPS and not filling.studio.room.rails]
    holders = filling.case.slots["holder"].keys if "holder" in filling.case.slots else ()
    bare = [k for k in holders if k == NOTHING or is_a(filling.market.by_key[k], Holder).system not in BARS]
    for good in clamps:
        alone = (f"{name}.support", good.key)
        for key in bare:
            filling.never(NO_BAR, alone, ("holder", key))
        if not holders:
            filling.never(NO_BAR, alone)


def _columns(filling: Filling, name: str, word: str, stands: Sequence[Good]) -> None:
    """The stand an arm is put on; every other support needs none."""
    arms = [good for good in stands if is_a(good, Stand).use == ARM]
    if not arms:
        return
    s, on = f"{name}.support", f"{name}.stands_on"
    columns = [good for good in filling.goods(Stand) if is_a(good, Stand).use in DIRECT_STANDS]
    filling.slot(on, f"the stand under {word}'s arm", [NOTHING, *(good.key for good in columns)])
    for good in stands:
        if good not in arms:
            for column in columns:
                filling.never("it needs no stand under it", (s, good.key), (on, column.key))
            continue
        filling.never("an arm needs a stand", (s, good.key), (on, NOTHING))
        arm = is_a(good, Stand)
        for column in columns:
            stand = is_a(column, Stand)
            if arm.seat is not None and stand.top is not None and arm.seat != stand.top:
                filling.never("the arm does not sit on the stand", (s, good.key), (on, column.key))
            elif stand.load is not None and arm.mass is not None and arm.mass.value > stand.load.value:
                words = f"the stand carries {filling.tell.mass(stand.load.value)}"
                filling.never(words, (s, good.key), (on, column.key))
