"""Does a recipe pass? It is arranged in the room and put through the ledger, like any set.

A recipe passes when the search finds a place for it without a Short line of geometry and the ledger then has no
Short line that gear can change. What the check saw is kept by the look of its parts, so that things that differ
in name and price only are judged once.

When a recipe fails, the smallest failing combination is looked for: first lights against the window of the shot;
then, for geometry, groups of things are taken out one by one, and what still does not fit without them is their
fault not; for other lines, the things they are about.
"""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace

from evrant.core.arrange.formations import Offer, drafts
from evrant.core.arrange.judge import Rule, counts
from evrant.core.arrange.poses import Grid
from evrant.core.arrange.search import Result, arrange
from evrant.core.kit.blame import groups, is_small, slots_of
from evrant.core.kit.case import NOTHING, Case, Clause, Literal_, Recipe
from evrant.core.kit.market import Market
from evrant.core.kit.unit import NEAR, Bench, Spot, Units, facing_beams, ideal
from evrant.core.kit.weights import bags
from evrant.core.ledger import lines_of_set
from evrant.core.margins import Margin, Verdict
from evrant.core.memo import plain
from evrant.core.rules import backdrop, fit, support
from evrant.core.scene import Scene
from evrant.core.studio.gear import Item, Lead
from evrant.core.studio.room import value
from evrant.core.studio.sets import LightPlace, SetPlan
from evrant.core.studio.studio import Studio

GRID = Grid()
GAPS = (0.03, 0.30)
STILL = ("body", "lens", "tripod", "table")
"""Slots that stand as they are whatever light is chosen."""
LENSES, LEVELS = -1, 3
"""How far a recipe is looked into: its background and each light by themselves; its base in the room; all of it."""
IN_THE_WAY = "its stand is in the way, or too low, at every distance"
OF_GROUNDS: tuple[Rule, ...] = (backdrop.margins, support.margins, fit.margins)
TOO_NARROW = "frame.backdrop_width"
HELD = ("support.holder_reach", "support.holder_load", "fit.holder_ceiling")
JUDGED = (
    "frame.",
    "fit.",
    "support.",
    "trigger.",
    "power.",
    "light.power",
    "light.shutter",
    "light.flicker",
    "light.falloff",
    "light.pattern",
    "light.shadow",
    "light.scrim",
)
NOT_GEAR = frozenset(
    {
        "frame.depth",
        "frame.blur",
        "frame.lens",
        "fit.reach",
        "trigger.transmitter",
        "trigger.receivers",
        "trigger.camera",
        "trigger.groups",
        "power.battery",
        "power.warmth",
        "power.air",
        "power.water",
    }
)
"""Lines that settings, the room or counted parts settle: aperture, a person's reach, air; triggers and spare
batteries are counted by themselves."""


COUNTED = frozenset({"parts", "leads", "holes"})
"""Units of lines that only count: none of them is a close call."""


@dataclass(frozen=True)
class Besides:
    """Weights or leads one unit of a set needs: how many of what, and for which slots."""

    unit: str
    key: str
    count: int
    slots: tuple[str, ...]


@dataclass(frozen=True)
class Weight:
    """What a light filled like this needs hung low to stand: so many of a weight."""

    light: str
    when: frozenset[Literal_]
    key: str
    count: int


@dataclass(frozen=True)
class Pass:
    """A recipe that works: its set, what its units need besides, and the worst line it has."""

    plan: SetPlan
    besides: tuple["Besides", ...]
    worst: Margin | None
    unknown: tuple[str, ...]


@dataclass(frozen=True)
class Fail:
    """A recipe that does not: the smallest failing combination found, and why."""

    clause: Clause


@dataclass(frozen=True)
class Counts:
    """Recipes judged, searches of the room, runs of the ledger."""

    recipes: int = 0
    searches: int = 0
    ledger_runs: int = 0

    def __add__(self, other: "Counts") -> "Counts":
        return Counts(
            self.recipes + other.recipes, self.searches + other.searches, self.ledger_runs + other.ledger_runs
        )


@dataclass(frozen=True)
class Report:
    """What a look at a recipe found: its verdict, where it was looked into to the end or failed; combinations that
    fail and weights that are needed, found on the way."""

    found: Pass | Fail | None
    clauses: tuple[Clause, ...] = ()
    weights: tuple[Weight, ...] = ()


@dataclass
class Checker:
    """Checks recipes of one studio; counts how often the ledger was asked."""

    studio: Studio
    market: Market
    kept: dict[tuple[object, ...], Pass | Fail] = field(default_factory=dict)
    geometry: dict[tuple[object, ...], Result] = field(default_factory=dict)
    open: dict[tuple[object, ...], Scene | None] = field(default_factory=dict)
    grounds: dict[tuple[object, ...], tuple[frozenset[str], str] | None] = field(default_factory=dict)
    tried: set[tuple[object, ...]] = field(default_factory=set)
    weights: list[Weight] = field(default_factory=list)
    usual: dict[str, tuple[Scene, Scene]] = field(default_factory=dict)
    found: list[Clause] = field(default_factory=list)
    ledger_runs: int = 0
    searches: int = 0

    @property
    def counts(self) -> "Counts":
        return Counts(len(self.kept), self.searches, self.ledger_runs)

    def __post_init__(self) -> None:
        self.units = Units(self.market)

    def check(self, case: Case, recipe: Recipe) -> Pass | Fail:
        """The verdict on a recipe."""
        for level in range(LEVELS):
            found = self._look_into(case, recipe, level)
            if found is not None:
                return found
        raise AssertionError("the last level ends in a verdict")

    def report(self, case: Case, recipe: Recipe, level: int) -> Report:
        """A recipe looked into at one level, of those below `LEVELS`; the dear ones come last. Levels before it are
        taken to have passed. At `LENSES`, the lenses of the case, whatever the recipe."""
        found = None
        if level == LENSES:
            self.found += self.lenses(case)
        else:
            found = self._look_into(case, recipe, level)
        clauses, weights = tuple(self.found), tuple(self.weights)
        self.found, self.weights = [], []
        return Report(found, clauses, weights)

    def _look_into(self, case: Case, recipe: Recipe, level: int) -> Pass | Fail | None:
        base = {slot: key for slot, key in recipe.items() if "." not in slot and not slot.startswith("card")}
        if level == 0:
            clause = self._ground(case, base) or self._unlit(case, recipe)
            return None if clause is None else Fail(clause)
        if level == 1:
            placed = self._arranged(case, base)
            return None if placed.fits else Fail(self._smallest(case, base, placed))
        key = (case.id, tuple(sorted((slot, self._look(key)) for slot, key in recipe.items())))
        if key not in self.kept:
            self.kept[key] = self._judge(case, recipe, self._serves(case, recipe))
        return self._again(case, recipe, self.kept[key])

    def _again(self, case: Case, recipe: Recipe, found: Pass | Fail) -> Pass | Fail:
        """A verdict found with equal-looking things, in this recipe's keys."""
        if isinstance(found, Fail):
            slots = {slot for slot, _ in found.clause.never}
            return Fail(Clause(frozenset((s, k) for s, k in recipe.items() if s in slots), found.clause.why))
        return Pass(_renamed(found.plan, case, recipe), found.besides, found.worst, found.unknown)

    def _look(self, key: str) -> str:
        return "" if key == NOTHING else self.market.by_key[key].look

    # --- by themselves ---

    def _unlit(self, case: Case, recipe: Recipe) -> Clause | None:
        """A light that serves at no distance by itself."""
        for name in case.lights():
            found = self._light(case, recipe, name) if name in facing_beams(case) else None
            if isinstance(found, Clause):
                return found
        return None

    def _serves(self, case: Case, recipe: Recipe) -> tuple[Spot, ...]:
        """The distances at which every light serves by itself."""
        serves: tuple[Spot, ...] = NEAR
        for name in case.lights():
            found = self._light(case, recipe, name) if name in facing_beams(case) else NEAR
            if not isinstance(found, Clause):
                serves = tuple(near for near in serves if near in found)
        return serves

    def _light(self, case: Case, recipe: Recipe, name: str) -> Clause | tuple[Spot, ...]:
        """What is wrong with one light at every distance that is possible with its stand; else where it serves."""
        still: dict[str, str] = {slot: recipe[slot] for slot in STILL if slot in recipe}
        standing = {**still, **{slot: key for slot, key in recipe.items() if slot == f"{name}.support" and key}}
        opened = self._opened(case, still)
        if opened is None:
            return NEAR
        near = self.units.possible(case, recipe, name, opened)
        if not near:
            self._in_the_way(case, still, name, opened)
            return Clause(frozenset(standing.items()), IN_THE_WAY)
        usual, placed = self._usual(case, opened)
        bench = Bench(opened, usual, placed, near)
        rest = standing if len(near) < len(NEAR) else {}
        self._wrong(case, name, bench, rest)
        good = self.units.serves(case, recipe, name, bench)
        if good:
            self._weighed(case, name, recipe.get(f"{name}.support", NOTHING), bench)
        else:
            self._hopeless(case, recipe, name, bench)
        return good or self.units.fault(case, recipe, name, bench) or NEAR

    def _in_the_way(self, case: Case, still: Recipe, name: str, opened: Scene) -> None:
        """Once one stand of a light is in the way at every distance: all others that are."""
        key = (case.id, name, "stands", tuple(self._look(key) for key in still.values()))
        if key in self.tried:
            return
        self.tried.add(key)
        for stand in case.slots[f"{name}.support"].keys:
            standing = {**still, f"{name}.support": stand}
            if not self.units.possible(case, standing, name, opened):
                self.found.append(Clause(frozenset(standing.items()), IN_THE_WAY))

    def _usual(self, case: Case, opened: Scene) -> tuple[Scene, Scene]:
        """A shot without lights in the open and where it usually stands in the room, whatever recipe is checked."""
        if case.id not in self.usual:
            self.lenses(case)
        return self.usual.get(case.id, (opened, opened))

    def _hopeless(self, case: Case, recipe: Recipe, name: str, bench: Bench) -> None:
        """Once for each stand of a light: all its heads and modifiers that serve at no distance on it."""
        slots = ("lens", "tripod", "table", f"{name}.support")
        key = (case.id, name, "hopeless", tuple(self._look(recipe[slot]) for slot in slots if slot in recipe))
        if key not in self.tried:
            self.tried.add(key)
            self.found += self.units.hopeless(case, recipe, name, bench)

    def _wrong(self, case: Case, name: str, bench: Bench, rest: Mapping[str, str]) -> None:
        """Once for each light and stand of a shot: all its heads and modifiers against the shot's window."""
        key = (case.id, name, bench.near, tuple(sorted(rest.items())))
        if key not in self.tried:
            self.tried.add(key)
            self.found += self.units.wrong(case, name, bench, rest)

    def _weighed(self, case: Case, name: str, support: str, bench: Bench) -> None:
        """Once for each stand of a light: what every head and modifier on it needs hung low to stand."""
        key = (case.id, name, support, "weights")
        if support == NOTHING or key in self.tried:
            return
        self.tried.add(key)
        for pair, mass in self.units.weights(case, name, support, bench):
            for bag, count in Counter(bags(self.market, mass)).items():
                self.weights.append(Weight(name, pair, bag, count))

    def lenses(self, case: Case) -> list[Clause]:
        """Lenses that fit the room with no background of the market, before anything is chosen; what is on offer
        is left out where an owned lens serves."""
        slots = case.slots
        still: dict[str, str] = {
            slot: slots[slot].keys[0] for slot in STILL if slot != "lens" and slot in slots and slots[slot].keys
        }
        never = {clause.never for clause in case.clauses}
        found: list[Clause] = []
        owned = [key for key in slots["lens"].keys if self.market.by_key[key].owned]
        serving = ""
        for key in sorted(slots["lens"].keys, key=lambda key: key not in owned):
            lens = ("lens", key)
            if any(lens in one and one <= {("body", still["body"]), lens} for one in never):
                continue
            if serving and key in owned:
                continue
            if serving:
                words = f"the {self.market.by_key[serving].item.called} you have frames it"
                found.append(Clause(frozenset({lens}), words))
                continue
            why = self._no_room(case, still | {"lens": key})
            if why:
                found.append(Clause(frozenset({lens}), why))
            elif key in owned:
                serving = key
        return found

    def _no_room(self, case: Case, part: dict[str, str]) -> str:
        """Why a lens fits the room with none of the backgrounds, each on an ideal holder, narrowest first; nothing
        when it fits with one. What does not fit without any background fits with none."""
        slots = case.slots["backdrop"].keys if "backdrop" in case.slots else (NOTHING,)
        grounds = [self.market.by_key[key].item for key in slots if key != NOTHING]
        held = next((good.item for good in self.market.of("holder")), None)
        widths = {item.id: value(getattr(item, "width", None)) or 0.0 for item in grounds}
        options: list[tuple[Item, ...]] = [()]
        if held is not None:
            ranked = sorted(grounds, key=lambda item: widths[item.id])
            options += [(ground.changed(status="owned"), ideal(held)) for ground in ranked]
        why = "no background goes with it"
        for more in options:
            kit = self.studio.changed(gear=(*self._gear(part), *more), sets=())
            offer = Offer(gaps=GAPS, near=(1.0,), wide=(0.0,), geared={}, bare=not more)
            self.searches += 1
            result = arrange(kit, case.shot, offer=offer, grid=GRID, budget=None, most=1, misses=1, first=True)
            if result.fits and (more or NOTHING in slots):
                self._keep_usual(case, part, kit, result.sets[0].plan)
                return ""
            miss = result.nearest.judged.short if result.nearest else ()
            why = miss[0].sentence if miss else result.missing or why
            if not result.fits and not more:
                break
        return why

    def _keep_usual(self, case: Case, part: Mapping[str, str], kit: Studio, plan: SetPlan) -> None:
        """The first set without lights that fits: in the open, and where it stands in the room."""
        opened = self._opened(case, part)
        if opened is not None and case.id not in self.usual:
            gear = {item.id: item for item in kit.gear}
            self.usual[case.id] = opened, replace(opened, room=self.studio.room, plan=plan, gear=gear)

    def _opened(self, case: Case, part: Mapping[str, str]) -> Scene | None:
        """Part of a recipe in the open room, without lights and background."""
        key = (case.id, tuple(sorted((slot, self._look(key)) for slot, key in part.items())))
        if key not in self.open:
            kit = self.studio.changed(gear=tuple(self._gear(part)), sets=())
            offer = Offer(bare=True, geared={}, gaps=GAPS[:1])
            made = next(iter(drafts(kit, case.shot, offer, lambda scene: 0.0)), None)
            self.open[key] = None if made is None else made.base
        return self.open[key]

    def _ground(self, case: Case, base: Recipe) -> Clause | None:
        """A background too small for what the lens shows, or that its holder cannot take, wherever they stand."""
        if base.get("backdrop", NOTHING) == NOTHING:
            return None
        fault = self._fault_of_ground(case, base)
        if fault is None:
            return None
        key = (case.id, "grounds", tuple(self._look(base[slot]) for slot in STILL if slot in base))
        if key not in self.tried:
            self.tried.add(key)
            self.found += self._grounds(case, base)
        return fault

    def _grounds(self, case: Case, base: Recipe) -> Iterable[Clause]:
        """Once one background is too narrow for a lens: all others that are, on the first holder that takes each."""
        never = {clause.never for clause in case.clauses}
        for ground in case.slots["backdrop"].keys:
            for holder in case.slots["holder"].keys if ground != NOTHING else ():
                if frozenset({("backdrop", ground), ("holder", holder)}) not in never:
                    fault = self._fault_of_ground(case, base | {"backdrop": ground, "holder": holder})
                    if fault is not None:
                        yield fault
                    break

    def _fault_of_ground(self, case: Case, base: Recipe) -> Clause | None:
        key = (case.id, tuple(sorted((slot, self._look(key)) for slot, key in base.items())))
        if key not in self.grounds:
            self.grounds[key] = self._ground_fault(case, base)
        found = self.grounds[key]
        return found and Clause(frozenset((slot, base[slot]) for slot in found[0] if slot in base), found[1])

    def _ground_fault(self, case: Case, base: Recipe) -> tuple[frozenset[str], str] | None:
        """Slots and words of a background that fails in every formation: for its width whatever holds it."""
        kit = self.studio.changed(gear=tuple(self._gear(base)), sets=())
        faults: list[Margin | None] = []
        for draft in drafts(kit, case.shot, Offer(geared={}, gaps=GAPS), lambda scene: 0.0):
            with plain():
                lines = [line for rule in OF_GROUNDS for line in rule(draft.base) if counts(line)]
            short = [m for m in lines if m.verdict is Verdict.SHORT and m.code.startswith(("frame.backdrop", *HELD))]
            faults.append(min(short, key=lambda line: line.code != TOO_NARROW, default=None))
        sure = [fault for fault in faults if fault is not None]
        if not sure or len(sure) < len(faults):
            return None
        slots = {"body", "lens", "backdrop"}
        if any(fault.code != TOO_NARROW for fault in sure):
            slots |= {"holder"}
        return frozenset(slots), sure[-1].sentence

    # --- room ---

    def _judge(self, case: Case, recipe: Recipe, near: tuple[Spot, ...]) -> Pass | Fail:
        """A recipe arranged at each distance that serves, nearest the usual first, and put through the ledger."""
        fault: list[Margin] = []
        miss: Result | None = None
        for one in near:
            tried = self._arranged(case, recipe, (one,))
            if not tried.fits:
                miss = tried
                continue
            made = self._through_ledger(case, recipe, tried.sets[0].plan)
            if isinstance(made, Pass):
                return made
            fault += made
        if fault and miss is not None:
            # Where it was placed the ledger refused it; elsewhere the rest of the set was in the way: all had a part.
            whole = {slot: key for slot, key in recipe.items() if not is_small(slot)}
            return Fail(Clause(frozenset(whole.items()), fault[0].sentence))
        if fault or miss is None:
            return Fail(self._blamed(case, recipe, fault))
        return Fail(self._smallest(case, recipe, miss, near))

    def _arranged(
        self,
        case: Case,
        part: Mapping[str, str],
        near: tuple[Spot, ...] = NEAR,
        spared: frozenset[str] = frozenset(),
    ) -> Result:
        """The first set that fits, of a whole recipe or of some slots of it; `spared` slots hold ideal things."""
        key = (case.id, near, spared, tuple(sorted((slot, self._look(key)) for slot, key in part.items())))
        if key not in self.geometry:
            self.searches += 1
            free = {part[slot] for slot in spared}
            gear = tuple(ideal(item) if item.id in free else item for item in self._gear(part))
            bare = "backdrop" not in part
            offer = Offer(
                gaps=GAPS[:1] if bare else GAPS,
                near=tuple(dict.fromkeys(one for one, _ in near)),
                wide=tuple(dict.fromkeys(wide for _, wide in near)),
                modifiers=1,
                geared=_geared(case, part),
                bare=bare,
            )
            kit = self.studio.changed(gear=(*gear, *self._shelf()), sets=())
            found = arrange(kit, case.shot, offer=offer, grid=GRID, budget=None, most=1, misses=1, first=True)
            self.geometry[key] = found
        return self.geometry[key]

    def _gear(self, part: Mapping[str, str]) -> Iterable[Item]:
        """What a recipe names, as owned, with its counts; the camera's support first."""
        counts = Counter(key for key in part.values() if key != NOTHING)
        order = sorted(counts, key=lambda key: key != part.get("tripod"))
        for key in order:
            yield self.market.by_key[key].item.changed(status="owned", quantity=counts[key])

    def _shelf(self) -> Iterable[Item]:
        """Leads at hand: all there are, several of each."""
        for good in self.market.of("lead"):
            yield good.item.changed(status="owned", quantity=6)

    def _own_leads(self, plan: SetPlan) -> SetPlan:
        """The set with leads that are owned in place of those to be bought, where one is as long and is left."""
        left = {good.key: good.owned for good in self.market.of("lead") if good.owned}
        lights = []
        for light in plan.lights:
            wish = self._length(light.lead)
            own = [key for key in left if left[key] and wish is not None and (self._length(key) or 0.0) >= wish]
            best = min(own, key=lambda key: self._length(key) or 0.0, default=None)
            if best is not None:
                left[best] -= 1
                light = light.changed(lead=best)
            lights.append(light)
        return plan.changed(lights=tuple(lights))

    def _length(self, key: str | None) -> float | None:
        item = self.market.by_key[key].item if key else None
        return item.length.value if isinstance(item, Lead) and item.length and not item.drum else None

    # --- ledger ---

    def _through_ledger(self, case: Case, recipe: Recipe, plan: SetPlan) -> Pass | list[Margin]:
        """What the ledger says of a recipe where it was placed; Short lines gear can change are faults."""
        plan = self._own_leads(_renamed(plan, case, recipe))
        plan = plan.changed(id=f"{case.id[:40]}-kit", name=f"{case.shot.name}, planned"[:80])
        kit = self.studio.changed(gear=(*self._gear(recipe), *self._shelf()), sets=(plan,))
        self.ledger_runs += 1
        lines = [line for line in lines_of_set(kit, plan) if line.code.startswith(JUDGED)]
        lines = [line for line in lines if line.code not in NOT_GEAR]
        faults = [line for line in lines if line.verdict is Verdict.SHORT]
        if faults:
            return faults
        besides = tuple(self._needs(recipe, plan))
        measured = [line for line in lines if line.margin is not None and line.unit not in COUNTED]
        worst = min(measured, key=Margin.order, default=None)
        unknown = tuple(line.sentence for line in lines if line.verdict is Verdict.UNKNOWN)
        return Pass(plan, besides, worst, unknown)

    def _needs(self, recipe: Recipe, plan: SetPlan) -> Iterable[Besides]:
        """Leads and weights a set needs besides, unit by unit, counted where the set was first found, and the slots
        that settle it: for a light, whose place hangs on everything else, all of them."""

        def of(unit: str, keys: Iterable[str], slots: Iterable[str]) -> Iterable[Besides]:
            here = tuple(slot for slot in slots if slot in recipe)
            return (Besides(unit, key, count, here) for key, count in Counter(keys).items())

        for light in plan.lights:
            yield from of(light.id, [key for key in (light.lead, light.lead_on) if key], recipe)
            if light.bag:
                yield from of(light.id, bags(self.market, light.bag), recipe)
        if plan.background.bag:
            yield from of(
                "background", bags(self.market, plan.background.bag) * 2, ("body", "lens", "backdrop", "holder")
            )
        if plan.camera.bag:
            yield from of("camera", bags(self.market, plan.camera.bag), ("body", "lens", "tripod"))

    # --- whose fault ---

    def _smallest(self, case: Case, recipe: Recipe, result: Result, near: tuple[Spot, ...] = NEAR) -> Clause:
        """The fewest groups of a recipe that do not fit even by themselves, and of these the fewest things."""
        left, last = dict(recipe), result
        for group in groups(case, recipe):
            without = {slot: key for slot, key in left.items() if slot not in group}
            if len(without) < len(left) and not (tried := self._arranged(case, without, near)).fits:
                left, last = without, tried
        spared: frozenset[str] = frozenset()
        for name in ("", *case.lights()):
            lights = ((f"{name}.head", f"{name}.modifier"), (f"{name}.support",))
            for parts in lights if name else (("holder",),):
                slots = frozenset(slot for slot in parts if left.get(slot, NOTHING) != NOTHING)
                if slots and not (tried := self._arranged(case, left, near, spared | slots)).fits:
                    spared, last = spared | slots, tried
        keys = {left[slot] for slot in spared}
        guilty = {slot: key for slot, key in left.items() if key not in keys and not is_small(slot)}
        miss = last.nearest.judged.short if last.nearest else ()
        return Clause(
            frozenset((guilty or left).items()), miss[0].sentence if miss else last.missing or "it does not fit"
        )

    def _blamed(self, case: Case, recipe: Recipe, faults: list[Margin]) -> Clause:
        """The slots the ledger's lines are about; the whole recipe when they do not say."""
        slots: set[str] = set()
        for line in faults:
            slots |= slots_of(line, recipe)
        why = faults[0].sentence if faults else "no place on the grid suits its light"
        if not slots:
            slots = set(recipe)
        return Clause(frozenset((slot, key) for slot, key in recipe.items() if slot in slots), why)


def _geared(case: Case, part: Mapping[str, str]) -> dict[str, LightPlace]:
    """What each light is made of, by name, for the lights that are in."""
    found = {}
    for name in case.lights():
        head = part.get(f"{name}.head", NOTHING)
        if head == NOTHING:
            continue
        fields = {
            slot.rpartition(".")[2]: key for slot, key in part.items() if slot.startswith(f"{name}.") and key != NOTHING
        }
        found[name] = LightPlace(id=name).changed(**fields)
    return found


def _renamed(plan: SetPlan, case: Case, recipe: Recipe) -> SetPlan:
    """A kept set with this recipe's keys in place of those it was found with."""

    def key(slot: str) -> str | None:
        return recipe.get(slot) or None

    lights = []
    for light in plan.lights:
        fields = {part: key(f"{light.id}.{part}") for part in ("head", "modifier", "support", "joint", "ring")}
        lights.append(light.changed(**fields))
    props = []
    for prop in plan.props:
        slot = "table" if prop.id == "table" else prop.id
        props.append(prop.changed(item=key(slot)) if slot in recipe else prop)
    return plan.changed(
        camera=plan.camera.changed(body=key("body"), lens=key("lens"), support=key("tripod")),
        background=plan.background.changed(backdrop=key("backdrop"), holder=key("holder")),
        lights=tuple(lights),
        props=tuple(props),
    )
