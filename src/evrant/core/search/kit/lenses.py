"""Which lenses fit the room for a shot at all, before anything is chosen, and where the shot then usually stands."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from evrant.core.search.arrange.formations import Offer
from evrant.core.search.arrange.poses import Grid
from evrant.core.search.arrange.search import arrange
from evrant.core.search.kit.case import NOTHING, Case, Clause
from evrant.core.search.kit.stage import GAPS, STILL, Stage, ideal
from evrant.core.space.scene import Scene, gear_of
from evrant.core.studio.gear import Item
from evrant.core.studio.room import value
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio

GRID = Grid()


@dataclass
class Lenses:
    """Lenses by themselves; counts the searches of the room."""

    stage: Stage
    usual: dict[str, tuple[Scene, Scene]] = field(default_factory=dict)
    searches: int = 0

    def clauses(self, case: Case) -> list[Clause]:
        """Lenses that fit the room with no background of the market; what is on offer is left out where an owned lens
        serves."""
        slots, goods = case.slots, self.stage.market.by_key
        still = {slot: slots[slot].keys[0] for slot in STILL if slot != "lens" and slot in slots and slots[slot].keys}
        never = {clause.never for clause in case.clauses}
        found: list[Clause] = []
        serving = ""
        for key in sorted(slots["lens"].keys, key=lambda key: not goods[key].owned):
            lens = ("lens", key)
            if any(lens in one and one <= {("body", still["body"]), lens} for one in never):
                continue
            if serving and goods[key].owned:
                continue
            if serving:
                found.append(
                    Clause(frozenset({lens}), f"the {goods[serving].item.called} you have frames it", own=True)
                )
                continue
            why = self._no_room(case, still | {"lens": key})
            if why:
                found.append(Clause(frozenset({lens}), why))
            elif goods[key].owned:
                serving = key
        return found

    def usually(self, case: Case) -> tuple[Scene, Scene] | None:
        """A shot without lights in the open and where it usually stands in the room, whatever recipe is checked; None
        where no lens fits."""
        if case.id not in self.usual:
            self.clauses(case)
        return self.usual.get(case.id)

    def _no_room(self, case: Case, part: dict[str, str]) -> str:
        """Why a lens fits the room with none of the backgrounds, each on an ideal holder, narrowest first; nothing
        when it fits with one. What does not fit without any background fits with none."""
        slots = case.slots["backdrop"].keys if "backdrop" in case.slots else (NOTHING,)
        grounds = [self.stage.market.by_key[key].item for key in slots if key != NOTHING]
        held = next((good.item for good in self.stage.market.of("holder")), None)
        options: list[tuple[Item, ...]] = [()]
        if held is not None:
            ranked = sorted(grounds, key=lambda item: value(getattr(item, "width", None)) or 0.0)
            options += [(ground.changed(status="owned"), ideal(held)) for ground in ranked]
        why = "no background goes with it"
        for more in options:
            kit = self.stage.studio.changed(gear=(*self.stage.gear(part), *more), sets=())
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
        opened = self.stage.opened(case, part)
        if opened is not None and case.id not in self.usual:
            gear = gear_of(kit)
            self.usual[case.id] = opened, replace(opened, room=self.stage.studio.room, plan=plan, gear=gear)
