"""A shot as roles to fill: what may fill each, what cannot go together, and what was dropped and why.

All of this is read off figures; whether a filled recipe fits the room and the light is for `check`.
"""

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import TypeVar

from evrant.core.base.tables.holders import HOLDERS, SCREWS_ALLOWED
from evrant.core.judge.rules.light.sources import flickers
from evrant.core.place.hanging import HANGS
from evrant.core.place.lighting import BOOMED, boomed, named_beams
from evrant.core.place.patterns import PATTERNS, Beam
from evrant.core.search.kit.carrying import NO_BAR, nowhere_for
from evrant.core.search.kit.market import Good, Market
from evrant.core.space.anchors import PLATE_AT_WALL
from evrant.core.space.footprint import Plan, plan_of
from evrant.core.space.framing import subject_distance
from evrant.core.space.rails import BARS, CLAMPS
from evrant.core.space.stands import ARM
from evrant.core.space.tents import outgrown
from evrant.core.space.wanted import OVERHEAD, Wanted, wanted
from evrant.core.studio.gear import (
    Backdrop,
    Board,
    Camera,
    Flash,
    Holder,
    Item,
    Lamp,
    Lens,
    Modifier,
    Part,
    Stand,
    Table,
    Tent,
)
from evrant.core.studio.room import value
from evrant.core.studio.shots import LIVING, Pattern, Shot
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import time_words

NOTHING = ""
Literal_ = tuple[str, str]
"""A slot and the key that fills it."""
T = TypeVar("T", bound=Item)
SOFT_FROM = {"head and shoulders": 0.55, "half length": 0.55, "three-quarter": 0.75, "full length": 0.85}
"""Least size of a key's face for people, by crop [m]; common practice, no source."""
SOFT_SMALL = 0.40
NARROW = 0.6
"""The shorter side of a soft face is at least this share of its least size; project choice."""
TONES: dict[str, tuple[float, float]] = {"white": (70, 100), "grey": (10, 60), "black": (0, 8), "colour": (0, 100)}
"""Reflectance of a background for a tone [%]; common practice, no source."""
ON_TABLE = 0.15
DIRECT_STANDS = frozenset({"light stand", "rolling stand"})
HOOKS = frozenset({"hook", "adhesive hook"})
BEFORE_BAR = 0.3
"""From this share of its distance before the subject on, no light is put on the background's bar; project choice."""
CARRIES = ("support", "stands_on")
"""What carries a light: a stand, or an arm and the stand it is put on."""
PARTS_OF_LIGHT = ("head", "modifier", *CARRIES, "joint", "ring")


@dataclass(frozen=True)
class Slot:
    """A role to be filled, with the keys that may fill it; `NOTHING` among them means it may stay empty."""

    name: str
    word: str
    keys: tuple[str, ...]


@dataclass(frozen=True)
class Clause:
    """Slots filled like this never go together, and why."""

    never: frozenset[Literal_]
    why: str


@dataclass
class Case:
    """One shot as slots and clauses. `impossible` says why no recipe exists at all; `hasty`: a light the ledger refused
    for its strength in one place is taken to be refused in all."""

    shot: Shot
    pattern: Pattern
    slots: dict[str, Slot] = field(default_factory=dict)
    clauses: list[Clause] = field(default_factory=list)
    dropped: dict[str, str] = field(default_factory=dict)
    impossible: str = ""
    hasty: bool = False

    @property
    def id(self) -> str:
        return self.shot.id

    def lights(self) -> list[str]:
        """Names of the lights, in the pattern's order."""
        return [name.removesuffix(".head") for name in self.slots if name.endswith(".head")]


Recipe = dict[str, str]
"""Slot → key of one filled case."""


def case_of(studio: Studio, shot: Shot, market: Market) -> Case:
    """The roles of a shot with everything the market has for them."""
    case = Case(shot, shot.pattern or "loop")
    asked = wanted(shot)
    if not shot.subjects or asked is None:
        case.impossible = "Say who or what is in the picture, with their height."
        return case
    _Builder(studio, shot, asked, market, case).build()
    for slot in case.slots.values():
        if not slot.keys:
            why = _dropped_heads(case, market) if slot.name.endswith(".head") else ""
            case.impossible = f"Nothing serves as {slot.word}{why}."
            break
    return case


def _dropped_heads(case: Case, market: Market) -> str:
    """In words, the head that was left out for a reason of its own, where there is one; of several that reason which
    most have."""
    told = [(why, market.by_key[key].item) for key, why in case.dropped.items() if key in market.by_key]
    heads = [(why, item.called) for why, item in told if isinstance(item, (Flash, Lamp))]
    if not heads:
        return ""
    why, _ = Counter(why for why, _ in heads).most_common(1)[0]
    return f"; of the {next(name for one, name in heads if one == why)}: {why}"


class _Builder:
    """Fills a case slot by slot."""

    def __init__(self, studio: Studio, shot: Shot, asked: Wanted, market: Market, case: Case) -> None:
        self.studio, self.shot, self.asked, self.market, self.case = studio, shot, asked, market, case
        self.walls = plan_of(studio.room)
        self.people = any(subject.kind in LIVING for subject in shot.subjects)
        self.schools = studio.brief.schools

    def build(self) -> None:
        self._camera()
        self._ground()
        self._surface()
        if self.case.pattern == "tent":
            self._tent()
        for beam, name in named_beams(self.case.pattern):
            self._light(beam, name)
        for number, card in enumerate(PATTERNS[self.case.pattern].cards, start=1):
            boards = [g.key for g in self._goods(Board) if _is(g, Board).surface == card.surface]
            self._slot(f"card-{number}", f"the {card.surface} board", boards)

    # --- small helpers ---

    def _goods(self, *kinds: type[Item]) -> Iterator[Good]:
        return (good for good in self.market.goods if isinstance(good.item, kinds))

    def _slot(self, name: str, word: str, keys: Sequence[str]) -> None:
        self.case.slots[name] = Slot(name, word, tuple(dict.fromkeys(keys)))

    def _drop(self, good: Good, why: str) -> None:
        if not good.owned:
            self.case.dropped.setdefault(good.key, why)

    def _never(self, why: str, *pairs: Literal_) -> None:
        self.case.clauses.append(Clause(frozenset(pairs), why))

    def _owned_first(self, goods: Sequence[Good]) -> list[str]:
        """What is owned, where something is; else all that is on offer."""
        owned = [good for good in goods if good.owned]
        for good in goods if owned else ():
            self._drop(good, f"the {owned[0].item.called} you have serves")
        return [good.key for good in owned or goods]

    # --- camera, lens, its support ---

    def _camera(self) -> None:
        bodies = list(self._goods(Camera))
        owned = [good for good in bodies if good.owned]
        if owned:
            for good in bodies:
                self._drop(good, f"you have the {owned[0].item.called}; light comes before a newer body")
            bodies = owned
        self._slot("body", "the camera", [good.key for good in bodies])
        lenses = [good for good in self._goods(Lens) if self._lens_serves(good)]
        self._slot("lens", "the lens", [good.key for good in lenses])
        for lens in lenses:
            for body in bodies:
                why = self._frames(_is(body, Camera), _is(lens, Lens))
                if why:
                    self._never(why, ("body", body.key), ("lens", lens.key))
                    self._drop(lens, why)
        overhead = self.shot.angle >= OVERHEAD
        still = all(s.kind in ("object", "garment") for s in self.shot.subjects) or self.shot.capture == "video"
        if overhead or still or "self" in self.shot.name.lower():
            use = "copy arm" if overhead else "tripod"
            stands = [good for good in self._goods(Stand) if _is(good, Stand).use == use]
            self._slot("tripod", "the camera's support", self._owned_first(stands))

    def _lens_serves(self, good: Good) -> bool:
        lens, stop = _is(good, Lens), self.shot.aperture
        if lens.focal is None:
            return False
        if stop is not None and lens.widest is not None and lens.widest.value > stop.value * 1.001:
            self._drop(good, f"it opens to f/{lens.widest.value:g} only")
            return False
        if stop is not None and lens.narrowest is not None and lens.narrowest.value < stop.value * 0.999:
            fixed = lens.widest is not None and lens.widest.value == lens.narrowest.value
            self._drop(good, f"it {'is fixed at' if fixed else 'closes to'} f/{lens.narrowest.value:g}")
            return False
        return True

    def _frames(self, body: Camera, lens: Lens) -> str:
        """Why a lens cannot take the shot with a body in this room, or nothing."""
        assert lens.focal is not None
        if body.sensor_width is None or body.sensor_height is None:
            return "the camera's sensor is not measured"
        small_lens, small_body = lens.focal.value < 0.011, body.sensor_width.value < 0.0121
        if small_lens != small_body:
            return f"it is no lens for the {body.called}"
        long, short = body.sensor_width.value * self.shot.kept, body.sensor_height.value * self.shot.kept
        across, up = (short, long) if self.shot.orientation == "portrait" else (long, short)
        focal = lens.focal.value
        need = max(
            subject_distance(focal, up, self.asked.height.value), subject_distance(focal, across, self.asked.width)
        )
        if lens.nearest and need * 1.05 + focal * 2 < lens.nearest.value and self.shot.angle < OVERHEAD:
            return "it does not focus near enough"
        room = self._longest()
        if room is not None and need > room:
            return f"the camera would have to step back {need:.1f} m; the longest line in the room is {room:.1f} m"
        return ""

    def _longest(self) -> float | None:
        if self.walls is None:
            return None
        if self.shot.angle >= OVERHEAD:
            return value(self.studio.room.height)
        return _longest_line(self.walls) + max((value(d.beyond) or 0.0 for d in self.studio.room.doors), default=0.0)

    # --- background and its holder ---

    def _ground(self) -> None:
        if self.shot.angle >= OVERHEAD:
            return
        grounds = [good for good in self._goods(Backdrop) if self._ground_serves(good)]
        keys = [good.key for good in grounds]
        if self._wall_serves():
            keys.append(NOTHING)
        self._slot("backdrop", "the background", keys)
        holders = [good for good in self._goods(Holder) if self._holder_serves(good)]
        self._slot("holder", "the background's holder", [*(good.key for good in holders), NOTHING])
        for ground in grounds:
            backdrop = _is(ground, Backdrop)
            if backdrop.material not in ("panel", "board"):
                self._never("it needs something to hang from", ("backdrop", ground.key), ("holder", NOTHING))
            for good in holders:
                why = _hangs(backdrop, _is(good, Holder), any(s.base for s in self.shot.subjects))
                if why:
                    self._never(why, ("backdrop", ground.key), ("holder", good.key))
        if NOTHING in keys:
            for good in holders:
                self._never("a wall needs no holder", ("backdrop", NOTHING), ("holder", good.key))

    def _ground_serves(self, good: Good) -> bool:
        backdrop, tone = _is(good, Backdrop), self.shot.tone
        school = self.schools.background
        if not good.owned and school == "fabric" and backdrop.material not in ("fabric", "panel"):
            self._drop(good, "your school hangs fabric")
            return False
        if not good.owned and school == "paper" and backdrop.material not in ("paper", "vinyl"):
            self._drop(good, "your school hangs paper")
            return False
        if tone is not None and backdrop.reflectance is not None:
            low, high = TONES[tone]
            if not low <= backdrop.reflectance.value <= high:
                self._drop(good, f"it reflects {backdrop.reflectance.value:.0f} %; a {tone} background wants another")
                return False
        if backdrop.width is not None and backdrop.width.value < self.asked.width:
            self._drop(good, f"it is narrower than the {self.asked.width:.2f} m the picture shows at the subject")
            return False
        return True

    def _wall_serves(self) -> bool:
        """A bare wall, where the school has it so or a wall has the tone."""
        if self.schools.background == "boards or wall" or self.shot.tone is None:
            return True
        low, high = TONES[self.shot.tone]
        lrvs = [wall.finish.share.value for wall in self.studio.room.walls if wall.finish.share]
        return self.shot.tone in ("white", "black") and any(low <= lrv <= high for lrv in lrvs)

    def _holder_serves(self, good: Good) -> bool:
        holder = _is(good, Holder)
        kind = HOLDERS.get(holder.system or "")
        if kind is None:
            return False
        allowed = SCREWS_ALLOWED.get(self.studio.brief.tenure or "", 99)
        if kind.holes > allowed:
            self._drop(good, f"it needs {kind.holes} holes; the tenancy allows {allowed}")
            return False
        if not good.owned and self.schools.fixing == "freestanding" and kind.hangs_from in ("wall", "ceiling"):
            self._drop(good, "your school keeps its holders freestanding")
            return False
        ceiling = self.studio.room.height
        spans = ceiling and holder.max_height and holder.min_height
        if kind.hangs_from == "floor and ceiling" and spans:
            assert ceiling and holder.max_height and holder.min_height
            if not holder.min_height.value <= ceiling.value <= holder.max_height.value:
                self._drop(good, "the ceiling is outside its range")
                return False
        return True

    # --- what the subject stands on ---

    def _surface(self) -> None:
        base = next((value(s.base) for s in self.shot.subjects if s.base and not s.held), None)
        if not base:
            return
        if any(s.kind == "garment" for s in self.shot.subjects):
            worn = any(s.kind == "garment" and s.depth for s in self.shot.subjects)
            form = "dress form" if worn else "hanger hook"
            hung = [good for good in self._goods(Table) if _is(good, Table).form == form]
            self._slot("table", "what it hangs on", self._owned_first(hung))
            return
        lit_below = self.case.pattern == "under-light"
        forms = ("translucent table",) if lit_below else ("table", "translucent table", "stool")
        tables = []
        for good in self._goods(Table):
            table = _is(good, Table)
            if table.form not in forms or table.height is None:
                continue
            if abs(table.height.value - base) > ON_TABLE:
                self._drop(
                    good, f"it is {table.height.value * 100:.0f} cm high; the subject stands at {base * 100:.0f} cm"
                )
                continue
            tables.append(good)
        if tables or any(s.kind in ("object", "cat") and base < 1.0 for s in self.shot.subjects):
            self._slot("table", "what it stands on", self._owned_first(tables))

    def _tent(self) -> None:
        tents = []
        for good in self._goods(Tent):
            why = outgrown(self.shot, _is(good, Tent))
            if why:
                self._drop(good, why)
            else:
                tents.append(good)
        self._slot("tent", "the tent", self._owned_first(tents))

    # --- lights ---

    def _light(self, beam: Beam, name: str) -> None:
        heads = [good for good in self._goods(Flash, Lamp) if self._head_serves(good, beam)]
        modifiers = [good for good in self._goods(Modifier) if self._modifier_serves(good, beam)]
        stands = [good for good in self._goods(Stand) if self._stand_serves(good, beam)]
        joints = [g for g in self._goods(Part) if _is(g, Part).below is not None and _is(g, Part).above is not None]
        rings = [g for g in self._goods(Part) if _is(g, Part).head_side is not None]
        word = f"the {beam.role}"
        bare = any(self._may_be_bare(good, beam) for good in heads)
        self._slot(f"{name}.head", f"{word}'s head", [g.key for g in heads])
        self._slot(
            f"{name}.modifier", f"{word}'s modifier", [*(g.key for g in modifiers), *([NOTHING] if bare else [])]
        )
        if beam.aim != "lens":
            self._slot(f"{name}.support", f"what carries {word}", [g.key for g in stands])
            self._columns(name, word, stands)
            self._clamps(name, stands)
        self._slot(f"{name}.joint", f"{word}'s joint", [NOTHING, *(g.key for g in joints)])
        self._slot(f"{name}.ring", f"{word}'s ring", [NOTHING, *(g.key for g in rings)])
        self._fittings(name, beam, heads, modifiers, rings)
        self._joints(name, beam, heads, stands, joints, modifiers)

    def _head_serves(self, good: Good, beam: Beam) -> bool:
        head = good.item
        assert isinstance(head, (Flash, Lamp))
        school = self.schools.source
        if isinstance(head, Flash):
            if self.shot.capture == "video":
                self._drop(good, "a flash lights no film")
                return False
            if school == "continuous" and not good.owned:
                self._drop(good, "your school works with continuous light")
                return False
            return beam.role not in ("practical", "ring light") and (head.fired == "radio" or good.owned > 0)
        if self.shot.capture == "video" and head.flicker == "with the mains":
            self._drop(good, "it flickers with the mains; film shows it")
            return False
        if self.shot.shutter is not None and flickers(head, self.shot.shutter, self.studio.brief.country):
            self._drop(good, f"it flickers at {time_words(self.shot.shutter)}")
            return False
        if school == "flash" and not good.owned and self.shot.capture == "stills" and beam.role != "practical":
            self._drop(good, "your school works with flash")
            return False
        forms = {"practical": ("bulb",), "ring light": ("ring",)}.get(beam.role, ("spot", "panel", "tube", "bulb"))
        return head.form in forms

    def _may_be_bare(self, good: Good, beam: Beam) -> bool:
        """Whether a head may shine by itself: where hard light is wanted, or its own face is large enough."""
        if beam.role not in ("key", "fill", "top light") or beam.aim == "corner":
            return self.case.pattern != "gobo" or beam.role != "background light"
        if self.shot.contrast == "strong" or self.case.pattern in ("scrim", "split", "tent"):
            return True
        head = good.item
        own = 0.0
        if isinstance(head, Lamp):
            own = max(value(head.width) or 0.0, value(head.height) or 0.0)
        return own >= self._soft_from() - 1e-9

    def _soft_from(self) -> float:
        return SOFT_FROM.get(self.shot.crop, SOFT_SMALL) if self.people else SOFT_SMALL

    def _modifier_serves(self, good: Good, beam: Beam) -> bool:
        modifier = _is(good, Modifier)
        if modifier.width is None or modifier.form is None or beam.role in ("practical",) or beam.aim == "corner":
            return False
        size = max(modifier.width.value, value(modifier.height) or 0.0)
        form = modifier.form
        match beam.role:
            case "key" | "fill" | "top light":
                if form in ("snoot", "gobo holder", "ring"):
                    return False
                if form in ("reflector dish", "beauty dish"):
                    return self.shot.contrast == "strong" or (form == "beauty dish" and not self.people)
                if size < self._soft_from():
                    words = (
                        f"its face of {size * 100:.0f} cm is hard for this picture; {self._soft_from() * 100:.0f} cm is"
                        " soft"
                    )
                    self._drop(good, words)
                    return False
                narrow = min(modifier.width.value, value(modifier.height) or size)
                if narrow < NARROW * self._soft_from():
                    self._drop(good, f"its face is {narrow * 100:.0f} cm narrow: hard across, however long it is")
                    return False
                return True
            case "rim" | "hair light":
                return modifier.grid or form in ("snoot", "reflector dish")
            case "background light":
                return form == "gobo holder" if self.case.pattern == "gobo" else form in ("reflector dish", "softbox")
            case "ring light":
                return form == "ring"
            case "under-light":
                return form in ("softbox", "reflector dish")
        return False

    def _stand_serves(self, good: Good, beam: Beam) -> bool:
        stand = _is(good, Stand)
        if beam.role == "under-light" or beam.up < -20:
            return stand.use in ("floor stand", "light stand")
        if stand.use == CLAMPS and not self.studio.room.rails and beam.before > BEFORE_BAR:
            self._drop(good, "the room has no rail, and the background's bar is behind what this light shines on")
            return False
        if stand.use in HANGS | HOOKS:
            bought = boomed(beam) and stand.use != PLATE_AT_WALL
            return (bought or good.owned > 0) and self._may_hang(good, stand)
        if boomed(beam) and stand.use in ("boom stand", ARM):
            return True
        return beam.role not in BOOMED and stand.use in DIRECT_STANDS

    def _may_hang(self, good: Good, stand: Stand) -> bool:
        """Whether room, tenancy and school have a place for what hangs."""
        why = nowhere_for(self.studio, self.market, stand, owned=good.owned > 0)
        if why:
            self._drop(good, why)
        return not why

    def _clamps(self, name: str, stands: Sequence[Good]) -> None:
        """In a room without rails a clamp wants a holder with a bar."""
        clamps = [good for good in stands if _is(good, Stand).use == CLAMPS and not self.studio.room.rails]
        holders = self.case.slots["holder"].keys if "holder" in self.case.slots else ()
        bare = [k for k in holders if k == NOTHING or _is(self.market.by_key[k], Holder).system not in BARS]
        for good in clamps:
            alone = (f"{name}.support", good.key)
            for key in bare:
                self._never(NO_BAR, alone, ("holder", key))
            if not holders:
                self._never(NO_BAR, alone)

    def _columns(self, name: str, word: str, stands: Sequence[Good]) -> None:
        """The stand an arm is put on; every other support needs none."""
        arms = [good for good in stands if _is(good, Stand).use == ARM]
        if not arms:
            return
        s, on = f"{name}.support", f"{name}.stands_on"
        columns = [good for good in self._goods(Stand) if _is(good, Stand).use in DIRECT_STANDS]
        self._slot(on, f"the stand under {word}'s arm", [NOTHING, *(good.key for good in columns)])
        for good in stands:
            if good not in arms:
                for column in columns:
                    self._never("it needs no stand under it", (s, good.key), (on, column.key))
                continue
            self._never("an arm needs a stand", (s, good.key), (on, NOTHING))
            arm = _is(good, Stand)
            for column in columns:
                stand = _is(column, Stand)
                if arm.seat is not None and stand.top is not None and arm.seat != stand.top:
                    self._never("the arm does not sit on the stand", (s, good.key), (on, column.key))
                elif stand.load is not None and arm.mass is not None and arm.mass.value > stand.load.value:
                    self._never(f"the stand carries {stand.load.value:g} kg", (s, good.key), (on, column.key))

    def _fittings(
        self, name: str, beam: Beam, heads: Sequence[Good], modifiers: Sequence[Good], rings: Sequence[Good]
    ) -> None:
        """Head, ring and modifier: what fits by itself, what a ring joins, what never fits."""
        h, m, r = f"{name}.head", f"{name}.modifier", f"{name}.ring"
        bare_allowed = NOTHING in self.case.slots[m].keys
        for good in heads:
            head = good.item
            assert isinstance(head, (Flash, Lamp))
            if bare_allowed and not self._may_be_bare(good, beam):
                self._never("a bare head is never soft", (h, good.key), (m, NOTHING))
            for other in modifiers:
                modifier = _is(other, Modifier)
                watts = (value(head.modelling) if isinstance(head, Flash) else value(head.power)) or 0.0
                if modifier.takes is not None and watts > modifier.takes.value:
                    self._never(f"it takes lamps up to {modifier.takes.value:.0f} W", (h, good.key), (m, other.key))
                    continue
                if modifier.mount == "umbrella shaft" or head.front == modifier.mount:
                    for ring in rings:
                        self._never("no ring is needed", (h, good.key), (m, other.key), (r, ring.key))
                    continue
                self._never(
                    f"the {head.called} takes no {modifier.called}", (h, good.key), (m, other.key), (r, NOTHING)
                )
                for ring in rings:
                    part = _is(ring, Part)
                    if part.head_side != head.front or part.modifier_side != modifier.mount:
                        self._never("the ring fits other things", (h, good.key), (m, other.key), (r, ring.key))
        for ring in rings:
            if bare_allowed:
                self._never("a ring needs a modifier", (m, NOTHING), (r, ring.key))

    def _joints(
        self,
        name: str,
        beam: Beam,
        heads: Sequence[Good],
        stands: Sequence[Good],
        joints: Sequence[Good],
        modifiers: Sequence[Good],
    ) -> None:
        """Stand, joint and head: ends that fit, something that tilts, something that holds an umbrella."""
        tilts = abs(beam.up) > 4 or beam.aim == "background"
        standing = stands if f"{name}.support" in self.case.slots else ()
        for good in heads:
            self._head_on(name, good, tilts, standing, joints)
        for joint in joints:
            for stand in standing:
                if _is(joint, Part).below != _is(stand, Stand).top:
                    pair = ((f"{name}.joint", joint.key), (f"{name}.support", stand.key))
                    self._never("the joint does not fit the stand", *pair)
        self._umbrellas(name, heads, joints, modifiers)
        self._loads(name, heads, stands, modifiers)

    def _head_on(self, name: str, good: Good, tilts: bool, stands: Sequence[Good], joints: Sequence[Good]) -> None:
        """A head on each stand by itself, and each joint under it."""
        head = good.item
        assert isinstance(head, (Flash, Lamp))
        h, s, j = (f"{name}.head", good.key), f"{name}.support", f"{name}.joint"
        if tilts and not head.yoke:
            self._never("nothing tilts it", h, (j, NOTHING))
        watts = value(head.power) if isinstance(head, Lamp) else None
        for joint in joints:
            part = _is(joint, Part)
            rated = value(part.rating) if part.use == "bulb holder" else None
            if part.above != head.foot or (tilts and not head.yoke and not part.swivel):
                self._never("the joint does not fit the head", h, (j, joint.key))
            elif rated is not None and watts is not None and watts > rated:
                self._never("the bulb is over the holder's rating", h, (j, joint.key))
        for stand in stands:
            if _is(stand, Stand).top != head.foot:
                words = f"the {head.called} does not sit on the {stand.item.called}"
                self._never(words, h, (s, stand.key), (j, NOTHING))

    def _umbrellas(self, name: str, heads: Sequence[Good], joints: Sequence[Good], modifiers: Sequence[Good]) -> None:
        """An umbrella's shaft wants a hole, in the head or in the joint."""
        words = "nothing holds the umbrella"
        without = [NOTHING, *(joint.key for joint in joints if not _is(joint, Part).shaft)]
        for other in modifiers:
            if _is(other, Modifier).mount != "umbrella shaft":
                continue
            for good in heads:
                for joint in () if getattr(good.item, "shaft", False) else without:
                    pair = ((f"{name}.modifier", other.key), (f"{name}.head", good.key))
                    self._never(words, *pair, (f"{name}.joint", joint))

    def _loads(self, name: str, heads: Iterable[Good], stands: Sequence[Good], modifiers: Sequence[Good]) -> None:
        """A stand carries its head, and the head with its modifier."""
        for good in heads:
            for stand in stands:
                load, mass = _is(stand, Stand).load, good.item.mass
                if load is None or mass is None:
                    continue
                words = f"the {stand.item.called} carries {load.value:g} kg"
                if mass.value > load.value:
                    self._never(words, (f"{name}.head", good.key), (f"{name}.support", stand.key))
                    continue
                for other in modifiers:
                    if other.item.mass is not None and mass.value + other.item.mass.value > load.value:
                        three = ((f"{name}.head", good.key), (f"{name}.modifier", other.key))
                        self._never(words, *three, (f"{name}.support", stand.key))


def _is(good: Good, kind: type[T]) -> T:
    assert isinstance(good.item, kind)
    return good.item


def _hangs(backdrop: Backdrop, holder: Holder, on_table: bool) -> str:
    """Why a background does not hang from a holder, or nothing."""
    kind = HOLDERS[holder.system or ""]
    stiff = backdrop.material in ("panel", "board")
    if stiff != (kind.hangs_from == "itself" or holder.system == "board pair"):
        return "that is no holder for it"
    if holder.system == "board pair" and backdrop.material != "board":
        return "that is no holder for it"
    if kind.hangs_from == "table" and not on_table:
        return "there is no table to clamp it to"
    spans = holder.max_width if holder.system != "tension rod" else None
    if backdrop.width and spans and backdrop.width.value > spans.value:
        return f"it is wider than the {spans.value:.2f} m the holder spans"
    if backdrop.mass and holder.load and backdrop.mass.value > holder.load.value:
        return f"it is heavier than the {holder.load.value:g} kg the holder carries"
    return ""


def _longest_line(walls: Plan) -> float:
    """Longest straight line between two corners [m]."""
    corners = [walls.wall(i)[0] for i in range(walls.count)]
    return max(float(((a - b) ** 2).sum() ** 0.5) for a in corners for b in corners)
