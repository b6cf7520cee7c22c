"""Does a recipe pass? It is arranged in the room and put through the ledger, like any set.

A recipe passes when the search finds a place for it without a Short line of geometry and the ledger then has no
Short line that gear can change. What the check saw is kept by the look of its parts, so that things that differ
in name and price only are judged once.

When a recipe fails, the smallest failing combination is looked for: first its background and lights by themselves;
then, for geometry, groups of things are taken out one by one, and what still does not fit without them is their
fault not; for other lines, the things they are about.
"""

from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import partial

from evrant.core.base.margins import Margin, Verdict
from evrant.core.judge.ledger import lines_of_set
from evrant.core.judge.rules.light.as_set import EXPOSURE
from evrant.core.judge.rules.support.anchor import ANCHOR
from evrant.core.judge.rules.support.cards import CARD, in_the_air
from evrant.core.judge.rules.support.rails import RAIL
from evrant.core.place.rigging import weighted_card
from evrant.core.search.arrange.formations import Offer
from evrant.core.search.arrange.judge import judged_in_the_open
from evrant.core.search.arrange.search import Result, arrange, fits
from evrant.core.search.kit.blame import groups, is_small, slots_of
from evrant.core.search.kit.brightness import LIGHT, NEAR
from evrant.core.search.kit.case import CARRIES, NOTHING, Case, Clause, Recipe, Spot
from evrant.core.search.kit.grounds import Grounds
from evrant.core.search.kit.held import holders, holding
from evrant.core.search.kit.lenses import GRID, Lenses
from evrant.core.search.kit.lights import Lights, facing
from evrant.core.search.kit.market import Market
from evrant.core.search.kit.stage import GAPS, Stage, geared, ideal, renamed
from evrant.core.search.kit.verdicts import Besides, Counts, Fail, Lessons, Pass, Report, Stopped, Unlit
from evrant.core.search.kit.weights import bags
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.gear import Lead
from evrant.core.studio.sets import PropPlace, SetPlan
from evrant.core.studio.studio import Studio, by_id

LENSES, LEVELS = -1, 3
"""How far a recipe is looked into: its background and each light by themselves; its base in the room; all of it."""
Serve = Callable[[Case, Recipe], tuple[Spot, ...]]
"""At which distances the lights of part of a recipe serve."""
COUNTED = frozenset({"parts", "leads", "holes"})
"""Units of lines that only count: none of them is a close call."""


@dataclass
class Checker:
    """Checks recipes of one studio; counts how often the room was searched and the ledger asked."""

    studio: Studio
    market: Market
    kept: dict[tuple[object, ...], Pass | Fail] = field(default_factory=dict)
    geometry: dict[tuple[object, ...], Result] = field(default_factory=dict)
    fitting: dict[tuple[object, ...], bool] = field(default_factory=dict)
    bounds: dict[tuple[object, ...], float] = field(default_factory=dict)
    lessons: Lessons = field(default_factory=Lessons)
    ledger_runs: int = 0
    searches: int = 0
    stop: Callable[[], bool] = lambda: False
    """Asked while the room is searched; then `Stopped` is raised and nothing of that search is kept."""

    def __post_init__(self) -> None:
        self.stage = Stage(self.studio, self.market)
        self.lenses = Lenses(self.stage)
        self.grounds = Grounds(self.stage, self.lessons)
        self.lights = Lights(self.stage, self.lenses, self.lessons)

    @property
    def counts(self) -> Counts:
        return Counts(len(self.kept), self.searches + self.lenses.searches, self.ledger_runs)

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
            self.lessons.clauses += self.lenses.clauses(case)
        else:
            found = self._look_into(case, recipe, level)
        return Report(found, *self.lessons.take())

    def _look_into(self, case: Case, recipe: Recipe, level: int) -> Pass | Fail | None:
        base = {slot: key for slot, key in recipe.items() if "." not in slot and not slot.startswith("card")}
        if level == 0:
            clause = self.grounds.fault(case, base) or self.lights.fault(case, recipe)
            return None if clause is None else Fail(clause)
        if level == 1:
            return self._by_parts(case, recipe, base)
        key = (case.id, self.stage.looks(recipe))
        if key not in self.kept:
            self.kept[key] = self._judge(case, recipe, self.lights.serve(case, recipe))
        return _again(recipe, self.kept[key])

    # --- room ---

    def _by_parts(self, case: Case, recipe: Recipe, base: Recipe) -> Fail | None:
        """The base of a recipe in the room, and each of its lights by itself with what it lights: what does not fit
        then fits with nothing."""
        if not self._fits(case, base):
            return Fail(self._smallest(case, base))
        still = {slot: key for slot, key in base.items() if slot not in ("backdrop", "holder")}
        for name in case.lights():
            part = still | {slot: key for slot, key in recipe.items() if slot.startswith(f"{name}.")}
            if recipe.get(f"{name}.head", NOTHING) == NOTHING:
                continue
            for near in self.lights.serve(case, part):
                if self._fits_at(case, part, near, frozenset()):
                    break
                if name in facing(case):
                    large = frozenset((slot, key) for slot, key in part.items() if not is_small(slot))
                    self.lessons.unlit.append(Unlit(large, near))
            else:
                return Fail(self._smallest(case, part, self.lights.serve))
        return None

    def _judge(self, case: Case, recipe: Recipe, near: tuple[Spot, ...]) -> Pass | Fail:
        """A recipe arranged at each distance that serves, nearest the usual first, and put through the ledger."""
        fault: list[Margin] = []
        missed = False
        for one in _told_apart(recipe, near):
            tried = self._arranged(case, recipe, (one,))
            if not tried.fits:
                missed = True
                continue
            made = self._through_ledger(case, recipe, tried.sets[0].plan)
            if isinstance(made, Pass):
                return made
            fault += made
        if fault and case.hasty and (weak := _too_weak(recipe, fault, partial(self.stage.hangs, recipe))):
            return Fail(weak)
        if fault and missed:
            # Where it was placed the ledger refused it; elsewhere the rest of the set was in the way: all had a part.
            whole = {slot: key for slot, key in recipe.items() if not is_small(slot)}
            return Fail(Clause(frozenset(whole.items()), fault[0].sentence))
        if fault or not missed:
            return Fail(self._blamed(case, recipe, fault))
        return Fail(self._smallest(case, recipe, self.lights.serve))

    def _arranged(
        self,
        case: Case,
        part: Mapping[str, str],
        near: tuple[Spot, ...] = NEAR,
        spared: frozenset[str] = frozenset(),
    ) -> Result:
        """The first set that fits, of a whole recipe or of some slots of it, or the nearest miss; `spared` slots hold
        ideal things."""
        key = (case.id, near, spared, self.stage.looks(part))
        if key not in self.geometry:
            self.searches += 1
            kit, offer = self._offered(case, part, near, spared)
            if self.stop():
                raise Stopped
            found = arrange(
                kit, case.shot, offer=offer, grid=GRID, budget=0.5, most=1, misses=1, first=True, clock=self._stopped
            )
            if not found.fits and self.stop():
                raise Stopped
            self.geometry[key] = found
        return self.geometry[key]

    def _fits(
        self,
        case: Case,
        part: Mapping[str, str],
        near: tuple[Spot, ...] = NEAR,
        spared: frozenset[str] = frozenset(),
    ) -> bool:
        """Whether a recipe or some slots of it fit at any of some distances; asked of one after the other."""
        return any(self._fits_at(case, part, one, spared) for one in _told_apart(part, near))

    def _fits_at(self, case: Case, part: Mapping[str, str], near: Spot, spared: frozenset[str]) -> bool:
        key = (case.id, near, self.stage.looks(part, spared))
        if key not in self.fitting:
            self.searches += 1
            kit, offer = self._offered(case, part, (near,), spared)
            still = {slot: key for slot, key in part.items() if "." not in slot and not slot.startswith("card")}
            look = (case.id, self.stage.looks(still, spared))
            found = fits(
                kit, case.shot, offer=offer, grid=GRID, bound=lambda scene: self._bound(look, scene), late=self.stop
            )
            if found is None:
                raise Stopped
            self.fitting[key] = found
        return self.fitting[key]

    def _bound(self, look: tuple[object, ...], scene: Scene) -> float:
        """What lens and background of that look are worth by themselves, found once."""
        key = (*look, scene.plan.camera, scene.plan.background, scene.plan.props)
        if key not in self.bounds:
            self.bounds[key] = judged_in_the_open(scene)
        return self.bounds[key]

    def _offered(
        self, case: Case, part: Mapping[str, str], near: tuple[Spot, ...], spared: frozenset[str]
    ) -> tuple[Studio, Offer]:
        """The studio with part of a recipe as its gear, and what of it is to be tried."""
        free = {part[slot] for slot in spared}
        gear = tuple(ideal(item) if item.id in free else item for item in self.stage.gear(part))
        bare = "backdrop" not in part
        offer = Offer(
            gaps=GAPS[:1] if bare else GAPS,
            near=tuple(dict.fromkeys(one for one, _ in near)),
            wide=tuple(dict.fromkeys(wide for _, wide in near)),
            modifiers=1,
            geared=geared(case, part),
            bare=bare,
        )
        return self.stage.studio.changed(gear=(*gear, *self.stage.shelf()), sets=()), offer

    def _stopped(self) -> float:
        """The time as a search of the room sees it: none has passed until it is to stop."""
        return float(self.stop())

    def _own_leads(self, plan: SetPlan) -> SetPlan:
        """The set with leads that are owned in place of those to be bought, where one is as long and is left."""
        left = {good.key: good.owned for good in self.stage.market.of("lead") if good.owned}
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
        item = self.stage.market.by_key[key].item if key else None
        return item.length.value if isinstance(item, Lead) and item.length and not item.drum else None

    # --- ledger ---

    def _through_ledger(self, case: Case, recipe: Recipe, plan: SetPlan) -> Pass | list[Margin]:
        """What the ledger says of a recipe where it was placed; Short lines gear can change are faults. Then its cards
        are held by what brings none."""
        plan = self._own_leads(renamed(plan, recipe))
        plan = plan.changed(id=f"{case.id[:40]}-kit", name=f"{case.shot.name}, planned"[:80])
        lines = self._lines(recipe, plan)
        if faults := _faults(lines):
            return faults
        plan, lines, stands = self._with_cards_held(recipe, plan, lines)
        loose = [line for line in lines if line.code == CARD.code and line.verdict is Verdict.SHORT]
        if loose and case.hasty:
            return loose  # what works at once is wanted: another board may hold
        besides = tuple(self._needs(recipe, plan, stands))
        counted = [line for line in lines if line.line.fails]
        measured = [line for line in counted if line.margin is not None and line.unit not in COUNTED]
        worst = min(measured, key=Margin.order, default=None)
        unknown = tuple(line.sentence for line in counted if line.verdict is Verdict.UNKNOWN)
        return Pass(plan, besides, worst, unknown)

    def _with_cards_held(
        self, recipe: Recipe, plan: SetPlan, lines: list[Margin]
    ) -> tuple[SetPlan, list[Margin], dict[str, str]]:
        """The set with what holds each card that would hang in the air, its lines, and by card the stand it takes. A
        card that nothing holds there without harm is left as it is: its stand is counted all the same."""
        stands: dict[str, str] = {}
        for card in [prop.id for prop in plan.props if prop.id in recipe]:
            scene, place = scene_of(self._kit(recipe, plan), plan), by_id(plan.props, card)
            if scene is None or place is None or not in_the_air(scene, place):
                continue
            short = {line.key for line in lines if line.verdict is Verdict.SHORT and line.code != CARD.code}
            ways = list(holding(scene, place, self.stage.market, Counter([*recipe.values(), *stands.values()])))
            for bare in ways:
                way, held = self._weighed(recipe, plan, bare)
                found = self._lines(recipe, held)
                if not _faults(found) and not any(_is_short_of(card, one) and one.key not in short for one in found):
                    plan, lines = held, found
                    break
            else:
                way = next((one for one in ways if one.support), place)
            if way.support:
                stands[card] = way.support
        return plan, lines, stands

    def _weighed(self, recipe: Recipe, plan: SetPlan, card: PropPlace) -> tuple[PropPlace, SetPlan]:
        """A card with the weight that its stand takes, and the set with it."""
        held = plan.changed(props=tuple(card if one.id == card.id else one for one in plan.props))
        scene = scene_of(self._kit(recipe, held), held) if card.support else None
        way = card if scene is None else weighted_card(scene, card)
        return way, plan.changed(props=tuple(way if one.id == card.id else one for one in plan.props))

    def _lines(self, recipe: Recipe, plan: SetPlan) -> list[Margin]:
        """The ledger of a set made of a recipe."""
        self.ledger_runs += 1
        return list(lines_of_set(self._kit(recipe, plan), plan))

    def _kit(self, recipe: Recipe, plan: SetPlan) -> Studio:
        """The studio with a recipe and what holds its cards as its gear."""
        stands = {f"{prop.id}.support": prop.support for prop in plan.props if prop.support}
        return self.stage.studio.changed(gear=(*self.stage.gear(recipe | stands), *self.stage.shelf()), sets=(plan,))

    def _needs(self, recipe: Recipe, plan: SetPlan, stands: Mapping[str, str]) -> Iterable[Besides]:
        """Leads, weights and stands of cards a set needs besides, unit by unit, counted where the set was first found,
        and the slots that settle it: for a light, whose place hangs on everything else, all of them."""

        def of(unit: str, keys: Iterable[str], slots: Iterable[str]) -> Iterable[Besides]:
            here = tuple(slot for slot in slots if slot in recipe)
            return (Besides(unit, key, count, here) for key, count in Counter(keys).items())

        for light in plan.lights:
            yield from of(light.id, [key for key in (light.lead, light.lead_on) if key], recipe)
            if light.bag:
                yield from of(light.id, bags(self.stage.market, light.bag), recipe)
        if plan.background.bag:
            yield from of(
                "background", bags(self.stage.market, plan.background.bag) * 2, ("body", "lens", "backdrop", "holder")
            )
        for card, stand in stands.items():
            bag = next((prop.bag for prop in plan.props if prop.id == card), None)
            hung = bags(self.stage.market, bag) if bag else []
            yield from of(card, [stand, *hung], (card, "table", "lens"))
        if plan.camera.support:
            weights = bags(self.stage.market, plan.camera.bag) if plan.camera.bag else []
            yield from of("camera", [*weights, *holders(self.stage.market, recipe)], ("body", "lens", "tripod"))

    # --- whose fault ---

    def _smallest(self, case: Case, recipe: Recipe, serve: Serve = lambda case, part: NEAR) -> Clause:
        """The fewest groups of a recipe that do not fit even by themselves, and of these the fewest things. `serve`
        says at which distances the lights that are left serve: one that is taken out binds the others no more. What
        has no other to be put in its place is left where it is."""
        left = dict(recipe)
        for group in groups(case, recipe):
            without = {slot: key for slot, key in left.items() if slot not in group}
            if len(without) == len(left) or not self._has_others(case, group):
                continue
            if not self._fits(case, without, serve(case, without)):
                left = without
        ideals: frozenset[str] = frozenset()
        innocent: frozenset[str] = frozenset()
        near = serve(case, left)
        for name in ("", *case.lights()):
            for parts in _spareable(name):
                slots = frozenset(slot for slot in parts if left.get(slot, NOTHING) != NOTHING)
                free = {slot: key for slot, key in left.items() if slot not in innocent | slots}
                carried = any(left.get(f"{name}.{part}", NOTHING) != NOTHING for part in CARRIES)
                if not slots or (carried and parts[0].endswith(".modifier") and f"{name}.support" not in innocent):
                    continue  # a modifier puts its stand where it is
                if not self._fits(case, left, serve(case, free), ideals | slots):
                    ideals, innocent, near = ideals | slots, innocent | slots, serve(case, free)
                elif parts[0].endswith(".head"):
                    there = serve(case, {slot: key for slot, key in left.items() if slot not in innocent})
                    if self._too_far(case, left, innocent, name, ideals | slots, there):
                        ideals, near = ideals | slots, there
        guilty = {slot: key for slot, key in left.items() if slot not in innocent and not is_small(slot)}
        last = self._arranged(case, left, near[:1], ideals)
        miss = last.nearest.judged.short if last.nearest else ()
        why = miss[0].sentence if miss else last.missing or "it does not fit"
        return Clause(frozenset((guilty or left).items()), why)

    @staticmethod
    def _has_others(case: Case, group: Iterable[str]) -> bool:
        """Whether a group of slots can be filled in another way."""
        return any(len(case.slots[slot].keys) > 1 for slot in group if slot in case.slots)

    def _too_far(
        self,
        case: Case,
        left: Recipe,
        innocent: frozenset[str],
        name: str,
        ideals: frozenset[str],
        near: tuple[Spot, ...],
    ) -> bool:
        """Whether part of a recipe does not fit at the distances a light serves at even with `ideals`, its head among
        them: it is then not the head's size that does not fit but where it must stand. So with all that serve only
        where it does not fit."""
        if self._fits(case, left, near, ideals):
            return False
        rest = {slot: key for slot, key in left.items() if slot not in innocent and not is_small(slot)}
        never = tuple(one for one in NEAR if not self._fits_at(case, left, one, ideals))
        for head, modifier in self.lights.bound(case, name, never):
            if modifier == left.get(f"{name}.modifier", NOTHING):
                whole = rest | {f"{name}.head": head, f"{name}.modifier": modifier}
                told = Clause(frozenset(whole.items()), "its light must stand where it does not fit")
                self.lessons.clauses.append(told)
        return True

    def _blamed(self, case: Case, recipe: Recipe, faults: list[Margin]) -> Clause:
        """The slots the ledger's lines are about; the whole recipe when they do not say."""
        slots: set[str] = set()
        for line in faults:
            slots |= slots_of(line, recipe)
        why = faults[0].sentence if faults else "no place on the grid suits its light"
        if not slots:
            slots = set(recipe)
        return Clause(frozenset((slot, key) for slot, key in recipe.items() if slot in slots), why)


def _spareable(name: str) -> tuple[tuple[str, ...], ...]:
    """Slots of a light, or of the background, that are taken to be ideal one after the other."""
    if not name:
        return (("holder",),)
    return tuple(f"{name}.{part}" for part in CARRIES), (f"{name}.modifier",), (f"{name}.head",)


def _told_apart(part: Mapping[str, str], near: tuple[Spot, ...]) -> tuple[Spot, ...]:
    """Distances of the lights that make a difference: without lights none does."""
    return near if any(slot.endswith(".head") for slot in part) else NEAR[:1]


def _faults(lines: list[Margin]) -> list[Margin]:
    """Lines that fail a recipe."""
    return [line for line in lines if line.line.fails and (line.verdict is Verdict.SHORT or hangs_on_nothing(line))]


def _is_short_of(card: str, line: Margin) -> bool:
    """Whether a line finds something lacking about a card."""
    return line.verdict is Verdict.SHORT and any(path.endswith(f"/props/{card}") for path in line.about)


def hangs_on_nothing(line: Margin) -> bool:
    """Whether what carries a light has no rail, wall or ceiling to be at: nothing to buy mends that."""
    return line.verdict is Verdict.UNKNOWN and line.code in (RAIL.code, ANCHOR.code)


def _too_weak(recipe: Recipe, faults: list[Margin], hangs: Callable[[str], bool]) -> Clause | None:
    """The head and modifier of a light whose strength is all the ledger found fault with; with what it `hangs` from,
    by its name, where that tells how far away it is."""
    paths = {path for line in faults if line.code in LIGHT for path in line.about if "/lights/" in path}
    names = {path.rsplit("/", 1)[-1] for path in paths}
    if len(names) != 1 or not all(line.code in (*LIGHT, EXPOSURE.code) for line in faults):
        return None
    parts = ("head", "modifier", *(CARRIES if hangs(min(names)) else ()))
    pair = [(slot, recipe[slot]) for part in parts if (slot := f"{min(names)}.{part}") in recipe]
    return Clause(frozenset(pair), faults[0].sentence) if pair else None


def _again(recipe: Recipe, found: Pass | Fail) -> Pass | Fail:
    """A verdict found with equal-looking things, in this recipe's keys."""
    if isinstance(found, Fail):
        slots = {slot for slot, _ in found.clause.never}
        return Fail(Clause(frozenset((s, k) for s, k in recipe.items() if s in slots), found.clause.why))
    return Pass(renamed(found.plan, recipe), found.besides, found.worst, found.unknown)
