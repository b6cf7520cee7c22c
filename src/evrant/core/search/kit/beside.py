"""Two lights of a recipe beside each other: do they find room, wherever in a room the set is put?

Lights that are aimed at the face stand by face and crop alone, so two of them that are in each other's way at every
distance are so in every room, with every lens. Heads are left out where stands and modifiers are enough for that.
"""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, field
from itertools import combinations

from evrant.core.base.margins import Verdict
from evrant.core.base.memo import plain
from evrant.core.judge.rules.set import overlap
from evrant.core.place.lighting import key_distance, lit, sided
from evrant.core.search.kit.brightness import NEAR
from evrant.core.search.kit.case import CARRIES, NOTHING, Case, Clause, Recipe, Spot
from evrant.core.search.kit.stage import Stage
from evrant.core.search.kit.unit import SIDES, by_face
from evrant.core.search.kit.verdicts import Lessons, Unlit
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Item

NO_HEADS = frozenset({"head"})
WHOLE: frozenset[str] = frozenset()
Names = tuple[str, str]


@dataclass
class Beside:
    """Verdicts on two lights at a distance, kept by the look of what they are made of."""

    stage: Stage
    lessons: Lessons
    kept: dict[tuple[object, ...], str | None] = field(default_factory=dict)

    def fault(self, case: Case, recipe: Recipe, opened: Scene, serves: Collection[Spot]) -> Clause | None:
        """Two lights in each other's way wherever both serve; `opened` is the shot without lights in the open."""
        for names in combinations(self._by_face(case, recipe), 2):
            for spared in (NO_HEADS, WHOLE):
                why = self._each(case, recipe, names, opened, serves, spared)
                if why is not None:
                    return self._told(case, recipe, names, opened, spared, why)
        return None

    def _by_face(self, case: Case, recipe: Recipe) -> list[str]:
        """Lights that stand by face and crop, with anything whatever."""
        there = (name for name in case.lights() if recipe.get(f"{name}.head", NOTHING) != NOTHING)
        return [name for name in there if by_face(case, name) and not self.stage.hangs(recipe, name)]

    def _told(
        self, case: Case, recipe: Recipe, names: Names, opened: Scene, spared: frozenset[str], why: str
    ) -> Clause:
        """What of two lights never goes together. Where they would at a distance at which they do not serve now, what
        else settles where they serve has its part."""
        pair = _pair(recipe, names, spared)
        if self._each(case, recipe, names, opened, NEAR, spared) is not None:
            self._others(case, recipe, names, opened, spared)
            return Clause(frozenset(pair.items()), why)
        clash = (spot for spot in NEAR if self._at(case, recipe, names, opened, spot, spared) is not None)
        self.lessons.unlit += [Unlit(frozenset(pair.items()), spot) for spot in clash]
        rest = {slot: key for slot, key in recipe.items() if "." not in slot or slot.rpartition(".")[0] in names}
        return Clause(frozenset(rest.items()), why)

    def _others(self, case: Case, recipe: Recipe, names: Names, opened: Scene, spared: frozenset[str]) -> None:
        """Once two stands are in each other's way: with every other modifier of each of the two lights."""
        for name in names if spared else ():
            slot = f"{name}.modifier"
            rest = {one: key for one, key in _pair(recipe, names, spared).items() if one != slot}
            if slot not in case.slots or not self.lessons.first(case.id, "beside", name, self.stage.looks(rest)):
                continue
            for modifier in case.slots[slot].keys:
                other = {**recipe, slot: modifier}
                if (why := self._each(case, other, names, opened, NEAR, spared)) is not None:
                    self.lessons.clauses.append(Clause(frozenset(_pair(other, names, spared).items()), why))

    def _each(
        self,
        case: Case,
        recipe: Recipe,
        names: Names,
        opened: Scene,
        spots: Iterable[Spot],
        spared: frozenset[str],
    ) -> str | None:
        """Why two lights are in each other's way at every one of some spots; None where they are not, or of none."""
        why = None
        for spot in spots:
            why = self._at(case, recipe, names, opened, spot, spared)
            if why is None:
                return None
        return why

    def _at(
        self, case: Case, recipe: Recipe, names: Names, opened: Scene, spot: Spot, spared: frozenset[str]
    ) -> str | None:
        key = (case.id, names, spot, spared, self.stage.looks(_pair(recipe, names, spared)))
        if key not in self.kept:
            self.kept[key] = self._found(case, recipe, names, opened, spot, spared)
        return self.kept[key]

    def _found(
        self, case: Case, recipe: Recipe, names: Names, opened: Scene, spot: Spot, spared: frozenset[str]
    ) -> str | None:
        """Why two lights are in each other's way at a spot, on either side of the face."""
        made = {name: self.stage.made(recipe, name, spared) for name in names}
        gear: Mapping[str, Item] = {key: item for _, things in made.values() for key, item in things.items()}
        bare = opened.with_lights(opened.plan, gear)
        why = None
        for side in SIDES if sided(case.pattern) else SIDES[:1]:
            geared = {name: place for name, (place, _) in made.items()}
            plan = lit(bare, case.pattern, side, key_distance(bare) * spot[0], spot[1], geared)
            scene = bare.with_lights(plan, gear)
            with plain():
                lights = tuple(thing for thing in scene.things if thing.kind == "light")
                lines = overlap.margins(scene, frozenset({"light"}), lights)
                why = next((line.sentence for line in lines if line.verdict is Verdict.SHORT), None)
            if why is None:
                return None
        return why


def _pair(recipe: Mapping[str, str], names: Names, spared: frozenset[str]) -> Recipe:
    """The slots of two lights that settle what room they take."""
    parts = ("modifier", *CARRIES, *(() if spared else ("head",)))
    slots = (f"{name}.{part}" for name in names for part in parts)
    return {slot: recipe[slot] for slot in slots if slot in recipe}
