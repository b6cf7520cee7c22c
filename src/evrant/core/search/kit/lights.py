"""The lights of a recipe, each by itself: where it serves, and what of it never does."""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from evrant.core.place.lighting import named_beams
from evrant.core.search.kit.beside import Beside
from evrant.core.search.kit.brightness import NEAR, Pair, literals, pairs_of
from evrant.core.search.kit.case import CARRIES, NOTHING, Case, Clause, Literal_, Recipe, Spot
from evrant.core.search.kit.lenses import Lenses
from evrant.core.search.kit.stage import STILL, Stage
from evrant.core.search.kit.unit import Bench, Units
from evrant.core.search.kit.verdicts import Lessons, Unlit, Weight
from evrant.core.search.kit.weights import bags
from evrant.core.space.scene import Scene
from evrant.core.space.stands import ARM


@dataclass
class Lights:
    """Verdicts on the lights of recipes; what one look teaches of others goes to the lessons."""

    stage: Stage
    lenses: Lenses
    lessons: Lessons

    def __post_init__(self) -> None:
        self.units = Units(self.stage)
        self.beside = Beside(self.stage, self.lessons)

    def fault(self, case: Case, recipe: Recipe) -> Clause | None:
        """A light that serves at no distance by itself."""
        for name in facing(case):
            found = self._one(case, recipe, name)
            if isinstance(found, Clause):
                return found
        if (close := self._beside(case, recipe)) is not None:
            return close
        weak = next((one for name in cornered(case) if (one := self._into_corner(case, recipe, name))), None)
        if weak is None:
            for name in case.lights():
                self._weigh_behind(case, recipe, name)
            self._apart(case, recipe)
        return weak

    def _beside(self, case: Case, recipe: Recipe) -> Clause | None:
        """Two lights in each other's way wherever they serve."""
        if len(facing(case)) < 2:
            return None
        opened = self.stage.opened(case, {slot: recipe[slot] for slot in STILL if slot in recipe})
        serves = self.serve(case, recipe)
        return None if opened is None or not serves else self.beside.fault(case, recipe, opened, serves)

    def _weigh_behind(self, case: Case, recipe: Recipe, name: str) -> None:
        """Once for each stand of a light that is not aimed at the face: what every head and modifier on it needs hung
        low where the shot usually stands."""
        usual, support = self.lenses.usually(case), recipe.get(f"{name}.support", NOTHING)
        if usual is None or name in facing(case) or support == NOTHING or self.stage.hangs(recipe, name):
            return
        if self.lessons.first(case.id, name, "weights", support):
            self._told(name, self.units.weights_there(case, name, support, usual[1]))

    def _into_corner(self, case: Case, recipe: Recipe, name: str) -> Clause | None:
        """A light fired into a corner that is far too weak or too strong where the shot usually stands; once one is,
        all others of which this is so are told."""
        usual = self.lenses.usually(case)
        pair = recipe.get(f"{name}.head", NOTHING), recipe.get(f"{name}.modifier", NOTHING)
        judge = self.units.brightness.into_corner
        if usual is None or usual[1] is usual[0] or not (why := judge(case, name, pair, usual)):
            return None
        if self.lessons.first(case.id, name, "corner"):
            told = ((one, judge(case, name, one, usual)) for one in pairs_of(case, name))
            self.lessons.clauses += [Clause(literals(name, one), words) for one, words in told if words]
        return Clause(literals(name, pair), why)

    def serve(self, case: Case, part: Recipe) -> tuple[Spot, ...]:
        """The distances at which every light that is in serves by itself."""
        serves: tuple[Spot, ...] = NEAR
        for name in facing(case):
            found = self._one(case, part, name) if part.get(f"{name}.head", NOTHING) != NOTHING else NEAR
            if not isinstance(found, Clause):
                serves = tuple(near for near in serves if near in found)
        return serves

    def bound(self, case: Case, name: str, near: tuple[Spot, ...]) -> list[Pair]:
        """Heads and modifiers of a light that serve at no other distances than these, wherever they stand."""
        usual = self.lenses.usually(case)
        if usual is None:
            return []
        bright = self.units.bright(case, name, pairs_of(case, name), usual)
        return [pair for pair, spots in bright.items() if set(spots) <= set(near)]

    def _one(self, case: Case, recipe: Recipe, name: str) -> Clause | tuple[Spot, ...]:
        """What is wrong with one light at every distance that is possible with its stand; else where it serves."""
        still = {slot: recipe[slot] for slot in STILL if slot in recipe}
        support = recipe.get(f"{name}.support", NOTHING)
        slots = (f"{name}.{part}" for part in CARRIES)
        standing = still | {slot: recipe[slot] for slot in slots if recipe.get(slot, NOTHING) != NOTHING}
        opened = self.stage.opened(case, still)
        if opened is None:
            return NEAR
        near = self.units.possible(case, recipe, name, opened)
        standing |= {slot: recipe[slot] for slot in (f"{name}.modifier",) if recipe.get(slot, NOTHING) != NOTHING}
        if not near:
            self._in_the_way(case, standing, name, opened)
            return self.units.out(case, standing, name, opened)
        bench = Bench(opened, self.lenses.usually(case) or (opened, opened), near)
        rest = standing if len(near) < len(NEAR) else {}
        if self.lessons.first(case.id, name, near, tuple(sorted(rest.items()))):
            self.lessons.clauses += self.units.wrong(case, name, bench, rest)
        good = self.units.serves(case, recipe, name, bench)
        self._dark(case, recipe, name, standing, bench, good)
        if good:
            self._weigh(case, name, support, bench)
        elif self.lessons.first(case.id, name, "hopeless", self.stage.looks(standing)):
            self.lessons.clauses += self.units.hopeless(case, recipe, name, bench)
        elif self.lessons.first(case.id, name, "stuck", self.stage.looks(standing)):
            self.lessons.clauses += self.units.stuck(case, recipe, name, bench)
        return good or self.units.fault(case, recipe, name, bench) or NEAR

    def _dark(
        self,
        case: Case,
        recipe: Recipe,
        name: str,
        standing: Mapping[str, str],
        bench: Bench,
        good: tuple[Spot, ...],
    ) -> None:
        """Where several lights must serve at once: the spots at which this one does not, and why not there."""
        pair = recipe.get(f"{name}.head", NOTHING), recipe.get(f"{name}.modifier", NOTHING)
        cards = frozenset((slot, key) for slot, key in recipe.items() if slot.startswith("card-"))
        whole = frozenset(standing.items()) | literals(name, pair) | cards
        if len(facing(case)) < 2 or not self.lessons.first(case.id, name, "dark", whole):
            return
        bright = self.units.bright(case, name, [pair], bench.usual)[pair]
        for spot in NEAR:
            if spot not in bench.near:
                self.lessons.unlit.append(Unlit(frozenset(standing.items()), spot))
            elif spot not in good:
                self.lessons.unlit.append(Unlit(whole if spot in bright else literals(name, pair), spot))

    def _apart(self, case: Case, recipe: Recipe) -> None:
        """Once lights serve each by itself but at no spot together: the spots of every head with every modifier."""
        usual = self.lenses.usually(case)
        if usual is None or len(facing(case)) < 2 or self.serve(case, recipe):
            return
        for name in facing(case) if self.lessons.first(case.id, "apart") else ():
            for pair, spots in self.units.bright(case, name, pairs_of(case, name), usual).items():
                self.lessons.unlit += [Unlit(literals(name, pair), spot) for spot in NEAR if spot not in spots]

    def _in_the_way(self, case: Case, whole: Recipe, name: str, opened: Scene) -> None:
        """Once one stand of a light is in the way at every distance: all others that are."""
        stands = case.slots.get(f"{name}.support")
        still = {slot: key for slot, key in whole.items() if slot.rpartition(".")[2] not in CARRIES}
        if stands is None or not self.lessons.first(case.id, name, "stands", self.stage.looks(still)):
            return
        for stand in stands.keys:
            if getattr(self.stage.market.by_key[stand].item, "use", "") == ARM:
                continue  # it stands as well as what it is put on
            standing = {**still, f"{name}.support": stand}
            if not self.units.possible(case, standing, name, opened):
                self.lessons.clauses.append(self.units.out(case, standing, name, opened))

    def _weigh(self, case: Case, name: str, support: str, bench: Bench) -> None:
        """Once for each stand of a light: what every head and modifier on it needs hung low to stand."""
        if support == NOTHING or not self.lessons.first(case.id, name, "weights", support):
            return
        self._told(name, self.units.weights(case, name, support, bench.usual))

    def _told(self, name: str, weights: Iterable[tuple[frozenset[Literal_], float]]) -> None:
        """What parts of a light need hung low [kg], as weights on offer."""
        for when, mass in weights:
            for bag, count in Counter(bags(self.stage.market, mass)).items():
                self.lessons.weights.append(Weight(name, when, bag, count))


def cornered(case: Case) -> list[str]:
    """Lights fired into a corner of the room."""
    return [name for beam, name in named_beams(case.pattern) if beam.aim == "corner" and name in case.lights()]


def facing(case: Case) -> list[str]:
    """Lights aimed at the face: those that stay as they are wherever the set is put."""
    return [name for beam, name in named_beams(case.pattern) if beam.aim in ("face", "lens") and name in case.lights()]
