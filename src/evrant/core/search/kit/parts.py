"""The parts nobody thinks of: what the chosen sets need besides the things one sees, counted against the kit.

Sets are struck in between, so of each part as many are needed as the set that needs most. What is common practice
only (clamps, tape, boards under paper) says so in its reason.
"""

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.supports import CARD_STANDS
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.power.triggers import RECEIVERS, TRANSMITTER
from evrant.core.judge.rules.support.cards import in_the_air
from evrant.core.judge.rules.support.clamped import USE as HOLDER_USE
from evrant.core.judge.rules.support.joints import JOINT, MOUNT
from evrant.core.mechanics.weights import hung_together
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.tripods import is_clamped
from evrant.core.stowage.packing import pack
from evrant.core.stowage.pieces import pieces_of, spaces_of
from evrant.core.studio.gear import Backdrop, Flash, Item, Lamp, Lead, Part, Stand, Table
from evrant.core.studio.room import value
from evrant.core.studio.sets import used_by
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.core.wiring.feeds import fed
from evrant.core.wiring.floor import need_of

COVER_LENGTH = 1.5
SPARE_CELLS = 2


@dataclass(frozen=True)
class PartWanted:
    """A part the sets need: how many, how many the kit has, why, and the library's item that serves (by id)."""

    word: str
    count: int
    have: int
    why: str
    item: Item | None

    @property
    def lacks(self) -> int:
        return max(self.count - self.have, 0)


def parts_wanted(studio: Studio, library: Sequence[Item]) -> list[PartWanted]:
    """Everything small the sets need, what is missing first."""
    scenes = [scene for plan in studio.sets if (scene := scene_of(studio, plan)) is not None]
    if not scenes:
        return []
    hand = [item for item in studio.gear if item.at_hand]
    found = [
        *_weights(studio, scenes, hand, library),
        *_firing(studio, library, hand),
        *_joints(studio, scenes, library),
        *_leads(studio, scenes, library, hand),
        *_covers(scenes, hand, library, Say.of(studio.brief)),
        *_batteries(scenes, hand, library),
        *_background(studio, scenes, hand, library),
        *_gloves(studio, scenes, hand, library),
        *_hooks(studio, hand, library),
        *_card_stands(scenes, hand, library),
        *_seats(scenes, hand, library),
        *_holders(scenes, hand, library),
    ]
    return sorted(found, key=lambda one: (one.lacks == 0, one.word))


def _uses(items: Iterable[Item], *uses: str) -> list[Part]:
    return [item for item in items if isinstance(item, Part) and item.use in uses]


def _named(items: Iterable[Item], words: str) -> Item | None:
    return next((item for item in items if words in item.name.lower()), None)


def _count(parts: Iterable[Item]) -> int:
    return sum(part.quantity for part in parts)


def _weights(
    studio: Studio, scenes: Sequence[Scene], hand: Sequence[Item], library: Sequence[Item]
) -> Iterable[PartWanted]:
    """Bags hung on stands: kilograms of the set that hangs most, in bags of the kit or of 5 kg."""
    masses = [hung_together(scene) for scene in scenes]
    most = max(masses)
    if most <= 0:
        return
    own = _uses(hand, "weight")
    kilos = sum(part.quantity * (value(part.mass) or 0.0) for part in own)
    item = own[0] if own else next(iter(_uses(library, "weight")), None)
    each = (value(item.mass) if item else None) or 5.0
    heaviest = scenes[masses.index(most)].plan.name
    say = Say.of(studio.brief)
    words = f"“{heaviest}” hangs {say.mass(most)} on its stands so that nothing tips; the kit has {say.mass(kilos)}."
    need = math.ceil(most / each - 1e-9)
    yield PartWanted("weight bags", max(need, _count(own)) if kilos >= most else need, _count(own), words, item)


def _firing(studio: Studio, library: Sequence[Item], hand: Sequence[Item]) -> Iterable[PartWanted]:
    """Transmitters and receivers the ledger counts."""
    words = {
        TRANSMITTER.code: ("transmitter", "transmitter", "trigger"),
        RECEIVERS.code: ("receivers", "receiver"),
    }
    worst: dict[str, Margin] = {}
    for line in ledger_of(studio).lines:
        if line.code in words and line.need is not None:
            held = worst.get(line.code)
            if held is None or (held.need or 0) < line.need:
                worst[line.code] = line
    for code, line in worst.items():
        name, *uses = words[code]
        item = next(iter(_uses(library, *uses)), None)
        why = "Flashes fired by radio need a transmitter on the camera." if name == "transmitter" else line.reason
        yield PartWanted(name, int(line.need or 0), int(line.have or 0), why, item)


def _joints(studio: Studio, scenes: Sequence[Scene], library: Sequence[Item]) -> Iterable[PartWanted]:
    """Swivels, spigots and rings between things that do not fit by themselves."""
    missing: dict[str, tuple[Item, int, str]] = {}
    for line in ledger_of(studio).lines:
        if line.code not in (JOINT.code, MOUNT.code) or line.verdict is not Verdict.SHORT:
            continue
        light = next((one for s in scenes for one in s.lights if one.path == line.about[0]), None)
        if light is None or light.head is None:
            continue
        for part in _uses(library, "adapter", "bulb holder"):
            top = light.stand.top if light.stand else None
            joins = part.below == top and part.above == light.head.foot and part.below is not None
            rings = light.modifier is not None and part.head_side == light.head.front
            rings = rings and part.modifier_side == (light.modifier.mount if light.modifier else None)
            if joins if line.code == JOINT.code else rings:
                held = missing.get(part.id, (part, 0, line.sentence))
                missing[part.id] = (part, held[1] + 1, held[2])
                break
    for item, count, why in missing.values():
        yield PartWanted(item.called, count, 0, why, item)
    for key, count in _fitted(scenes).items():
        own = next((one for one in studio.gear if one.id == key), None)
        if own is not None:
            have = own.quantity if own.at_hand else 0
            yield PartWanted(own.called, count, have, "A set has it between stand, head and modifier.", own)


def _fitted(scenes: Sequence[Scene]) -> dict[str, int]:
    """Joints and rings the sets have: of each as many as the set with most."""
    most: dict[str, int] = {}
    for scene in scenes:
        keys = [key for place in scene.plan.lights for key in (place.joint, place.ring) if key]
        most = {key: max(most.get(key, 0), keys.count(key)) for key in {*most, *keys}}
    return most


def _leads(
    studio: Studio, scenes: Sequence[Scene], library: Sequence[Item], hand: Sequence[Item]
) -> Iterable[PartWanted]:
    """Leads where a head's own cord does not reach, each set by itself."""
    lacking: list[float] = []
    longest = ""
    for scene in scenes:
        here = []
        for one in fed(scene):
            cord = value(one.head.cord)
            if one.found is None or cord is None or one.leads:
                continue
            rest = need_of(scene, one.light, one.found) - cord
            if rest > 0:
                here.append(rest)
        if len(here) > len(lacking):
            lacking, longest = here, scene.plan.name
    if not lacking:
        return
    say = Say.of(studio.brief)
    offers = sorted(
        (item for item in library if isinstance(item, Lead) and item.length and not item.drum),
        key=lambda lead: lead.length.value if lead.length else 0.0,
    )
    item = next((lead for lead in offers if lead.length and lead.length.value >= max(lacking)), None)
    words = f"In “{longest}” the heads' own cords end {say.length(max(lacking))} before the socket."
    yield PartWanted("leads", len(lacking), 0, words, item)


def _covers(scenes: Sequence[Scene], hand: Sequence[Item], library: Sequence[Item], tell: Say) -> Iterable[PartWanted]:
    """Covers for leads that run where people walk."""
    most = 0.0
    for scene in scenes:
        covered = {light.id for light in scene.plan.lights if light.covered}
        here = sum(one.found.crossing for one in fed(scene) if one.found and one.light.place.id in covered)
        most = max(most, here)
    if most <= 0.01:
        return
    own = [item for item in hand if "cover" in item.name.lower() and isinstance(item, Part)]
    words = f"Leads cross where people walk, over {tell.length(most)}; under a cover nobody trips."
    yield PartWanted("lead covers", math.ceil(most / COVER_LENGTH), _count(own), words, _named(library, "lead cover"))


def _batteries(scenes: Sequence[Scene], hand: Sequence[Item], library: Sequence[Item]) -> Iterable[PartWanted]:
    """A second set of cells for every hot-shoe flash."""
    need = 0
    for scene in scenes:
        here = sum(
            light.place.heads
            for light in scene.lights
            if isinstance(light.head, Flash) and light.head.supply == "battery" and light.head.foot == "accessory shoe"
        )
        need = max(need, here)
    if need:
        own = _uses(hand, "battery")
        words = "Hot-shoe flashes eat cells: one set in, one charged. Common practice, no source."
        yield PartWanted(
            "sets of cells", need * SPARE_CELLS, _count(own), words, next(iter(_uses(library, "battery")), None)
        )


def _background(
    studio: Studio, scenes: Sequence[Scene], hand: Sequence[Item], library: Sequence[Item]
) -> Iterable[PartWanted]:
    """Clamps, tape, and a board under paper on carpet."""
    hung = [scene.backdrop for scene in scenes if isinstance(scene.backdrop, Backdrop)]
    soft = [one for one in hung if one.material in ("paper", "vinyl", "fabric")]
    if soft:
        words = "A background slips and curls without clamps at bar and edges. Common practice, no source."
        clamps = _uses(hand, "clamp")
        yield PartWanted("spring clamps", 1, _count(clamps), words, next(iter(_uses(library, "clamp")), None))
    swept = [s for s in scenes if s.backdrop in soft and s.plan.background.lands in (None, "on the floor")]
    if swept:
        words = "Paper and cloth are taped to the floor at their front edge; so are marks. Common practice, no source."
        tape = _uses(hand, "tape")
        yield PartWanted("cloth tape", 1, _count(tape), words, next(iter(_uses(library, "tape")), None))
    paper = [s for s in swept if s.backdrop is not None and s.backdrop.material == "paper"]
    if paper and studio.room.floor == "carpet":
        boards = _uses(hand, "floor board")
        words = "Paper on carpet tears under a heel: hard boards beneath. Common practice, no source."
        yield PartWanted("floor boards", 2, _count(boards), words, next(iter(_uses(library, "floor board")), None))


def _gloves(
    studio: Studio, scenes: Sequence[Scene], hand: Sequence[Item], library: Sequence[Item]
) -> Iterable[PartWanted]:
    """Cotton gloves for what shows every finger."""
    shiny = [scene for scene in scenes if any(s.shine == "mirror-like" for s in scene.shot.subjects)]
    hot = [
        scene
        for scene in scenes
        for light in scene.lights
        if isinstance(light.head, Lamp) and light.head.technology == "filament"
    ]
    own = [item for item in hand if "gloves" in item.name.lower()]
    if shiny:
        words = f"“{shiny[0].plan.name}” shows every fingerprint. Common practice, no source."
        yield PartWanted("cotton gloves", 1, _count(own), words, _named(library, "cotton gloves"))
    elif hot:
        words = "Filament lamps burn fingers when they are moved: leather gloves. Common practice, no source."
        yield PartWanted("gloves", 1, _count(own), words, None)


def _hooks(studio: Studio, hand: Sequence[Item], library: Sequence[Item]) -> Iterable[PartWanted]:
    """Hooks for rolls that find no place: two a roll, on a wall of their own."""
    spaces = spaces_of(studio.room.places)
    if not spaces or studio.brief.schools.standing == "leave it standing":
        return
    found = pack(pieces_of(studio.gear), spaces)
    rolls = [one.piece.name for one in found.left if one.piece.stowed == "upright"]
    if rolls:
        own = [item for item in hand if isinstance(item, Part) and "screw hooks" in item.name.lower()]
        words = f"{rolls[0]} finds no place upright; hung on two hooks along a wall it lies out of the way."
        if studio.brief.tenure == "no drilling":
            words += " Here nothing may be drilled: ask first, or leave it standing in a corner."
        yield PartWanted("screw hooks", math.ceil(len(rolls) / 2), _count(own), words, _named(library, "screw hooks"))


def _card_stands(scenes: Sequence[Scene], hand: Sequence[Item], library: Sequence[Item]) -> Iterable[PartWanted]:
    """Stands for cards that nothing holds, besides those of the kit that the set leaves free."""
    wanted, free, where = max((_loose(scene, hand) for scene in scenes), key=lambda one: one[0] - one[1])
    if wanted <= 0:
        return
    shelf = [item for item in library if isinstance(item, Stand) and item.use in CARD_STANDS and item.price is not None]
    item = min(shelf, key=lambda one: one.price or 0, default=None)
    words = (
        f"In “{where}” {wanted} card{'s' if wanted > 1 else ''} off the floor {'are' if wanted > 1 else 'is'} held by "
    )
    yield PartWanted("stands for cards", wanted, min(free, wanted), words + "nothing; a clamp goes on the stand.", item)


def _loose(scene: Scene, hand: Sequence[Item]) -> tuple[int, int, str]:
    """How many cards of a set nothing holds, how many stands it leaves free, and its name."""
    used = Counter(used_by(scene.plan))
    stands = [item for item in hand if isinstance(item, Stand) and item.use in CARD_STANDS]
    free = sum(max(item.quantity - used[item.id], 0) for item in stands)
    return sum(in_the_air(scene, place) for place in scene.plan.props), free, scene.plan.name


def _seats(scenes: Sequence[Scene], hand: Sequence[Item], library: Sequence[Item]) -> Iterable[PartWanted]:
    """Something to sit on for everyone who sits and is not planned to stand on anything."""
    need = max(sum(who.kind == "person" and who.posture == "seated" for who in s.shot.subjects) for s in scenes)
    if need:
        stools = [item for item in hand if isinstance(item, Table) and item.form == "stool"]
        words = (
            "Who sits needs a stool without back and arms; a kitchen chair turned sideways does at first. "
            "Common practice, no source."
        )
        offer = next((item for item in library if isinstance(item, Table) and item.form == "stool"), None)
        yield PartWanted("stools", need, _count(stools), words, offer)


def _holders(scenes: Sequence[Scene], hand: Sequence[Item], library: Sequence[Item]) -> Iterable[PartWanted]:
    """A holder for a telephone that stands on something."""
    if any(is_clamped(scene.body) and scene.plan.camera.support for scene in scenes):
        words = "A telephone has no thread; a holder with one goes between it and what it stands on."
        own = _uses(hand, HOLDER_USE)
        yield PartWanted("telephone holders", 1, _count(own), words, next(iter(_uses(library, HOLDER_USE)), None))
