"""A recipe, or part of one, put on the stage: its things as owned gear, and the shot with them in the open room."""

from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from evrant.core.base.quantity import GEAR_LENGTH, LOAD, MASS
from evrant.core.place.hanging import HANGS
from evrant.core.search.arrange.formations import Offer, drafts
from evrant.core.search.kit.case import NOTHING, PARTS_OF_LIGHT, Case, Recipe
from evrant.core.search.kit.market import Market
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash, Holder, Item, Lamp, Modifier, Stand
from evrant.core.studio.sets import LightPlace, SetPlan
from evrant.core.studio.studio import Studio

GAPS = (0.03, 0.30)
PLAIN_STANDS = ("light stand", "rolling stand", "floor stand")
STILL = ("body", "lens", "tripod", "table")
"""Slots that stand as they are whatever light is chosen."""


@dataclass
class Stage:
    """A studio and its market, with the open scenes already made."""

    studio: Studio
    market: Market
    open: dict[tuple[object, ...], Scene | None] = field(default_factory=dict)

    def look(self, key: str) -> str:
        """What geometry, light and load see of a thing."""
        return "" if key == NOTHING else self.market.by_key[key].look

    def looks(self, part: Mapping[str, str], spared: Iterable[str] = ()) -> tuple[tuple[str, str], ...]:
        """Part of a recipe by the look of its things, of those in `spared` slots by what is left of it when they are
        ideal."""
        return tuple(
            sorted((slot, self._left(key) if slot in spared else self.look(key)) for slot, key in part.items())
        )

    def _left(self, key: str) -> str:
        """What can be seen of an ideal thing: of a stand only what it is used for, of a head nothing but its form."""
        item = self.market.by_key[key].item
        if isinstance(item, Stand) and item.use in PLAIN_STANDS:
            return f"ideal {item.use}"
        if isinstance(item, (Flash, Lamp)):
            return f"ideal {getattr(item, 'form', '')}"
        return f"ideal {self.look(key)}"

    def gear(self, part: Mapping[str, str]) -> Iterable[Item]:
        """What a recipe names, as owned, with its counts; the camera's support first."""
        counts = Counter(key for key in part.values() if key != NOTHING)
        for key in sorted(counts, key=lambda key: key != part.get("tripod")):
            yield self.market.by_key[key].item.changed(status="owned", quantity=counts[key])

    def cards(self, part: Mapping[str, str]) -> Mapping[str, Item]:
        """Boards of part of a recipe, as owned, by key."""
        keys = [part[slot] for slot in cards_in(part)]
        return {key: self.market.by_key[key].item.changed(status="owned") for key in keys}

    def shelf(self) -> Iterable[Item]:
        """Leads at hand: all there are, several of each."""
        for good in self.market.of("lead"):
            yield good.item.changed(status="owned", quantity=6)

    def opened(self, case: Case, part: Mapping[str, str]) -> Scene | None:
        """Part of a recipe in the open room, without lights and background."""
        key = (case.id, self.looks(part))
        if key not in self.open:
            kit = self.studio.changed(gear=tuple(self.gear(part)), sets=())
            offer = Offer(bare=True, geared={}, gaps=GAPS[:1])
            made = next(iter(drafts(kit, case.shot, offer, lambda scene: 0.0)), None)
            self.open[key] = None if made is None else made.base
        return self.open[key]

    def hangs(self, recipe: Mapping[str, str], name: str) -> bool:
        """Whether a light hangs from something of the room, so that only there its place is known."""
        key = recipe.get(f"{name}.support", NOTHING)
        item = self.market.by_key[key].item if key != NOTHING else None
        return isinstance(item, Stand) and item.use in HANGS

    def made(
        self, recipe: Mapping[str, str], name: str, spared: Iterable[str] = ()
    ) -> tuple[LightPlace, Mapping[str, Item]]:
        """One light of a recipe and its things; of its `spared` parts, a modifier is left out, others are ideal. Spared
        the `size` of its modifier, the stand is where it would be without it: at the back of the modifier."""
        fields: dict[str, str] = {}
        gear: dict[str, Item] = {}
        for part in PARTS_OF_LIGHT:
            key = recipe.get(f"{name}.{part}", NOTHING)
            if key == NOTHING or (part == "modifier" and part in spared):
                continue
            fields[part] = key
            item = self.market.by_key[key].item
            free = part in spared or (part == "stands_on" and "support" in spared)
            gear[key] = ideal(item) if free or (part == "modifier" and "size" in spared) else item
        return LightPlace(id=name).changed(**fields), gear


def cards_in(part: Mapping[str, str]) -> list[str]:
    """Slots of part of a recipe that hold boards."""
    return [slot for slot, key in part.items() if slot.startswith("card-") and key != NOTHING]


def ideal(item: Item) -> Item:
    """The same thing where nothing of its size could be in the way. A modifier is as deep as it was, for its depth puts
    the stand where it is; an umbrella that light is thrown into, whose width does so, stays as it is."""
    tiny = GEAR_LENGTH.figure(0.02)
    if isinstance(item, Modifier) and item.umbrella not in (None, "shoot-through"):
        return item
    if isinstance(item, Stand):
        fields: dict[str, object] = {
            "min_height": GEAR_LENGTH.figure(0.02),
            "max_height": GEAR_LENGTH.figure(6.0),
            "foot_radius": tiny,
            "load": LOAD.figure(1000.0),
        }
        if item.use in HANGS:
            fields |= {"use": "ceiling bracket", "reach": None}
        return item.changed(**fields)
    if isinstance(item, Holder):
        return item.changed(
            status="owned",
            system="two stands and crossbar",
            min_height=tiny,
            max_height=GEAR_LENGTH.figure(6.0),
            min_width=tiny,
            max_width=GEAR_LENGTH.figure(6.0),
            overhang=GEAR_LENGTH.figure(0.001),
            foot_radius=tiny,
            load=LOAD.figure(1000.0),
            mass=MASS.figure(50.0),
        )
    sizes = {name: tiny for name in ("diameter", "length", "width", "height") if getattr(item, name, None) is not None}
    return item.changed(**sizes, mass=MASS.figure(0.01))


def geared(case: Case, part: Mapping[str, str]) -> dict[str, LightPlace]:
    """What each light is made of, by name, for the lights that are in."""
    found = {}
    for name in case.lights():
        if part.get(f"{name}.head", NOTHING) == NOTHING:
            continue
        fields = {
            slot.rpartition(".")[2]: key for slot, key in part.items() if slot.startswith(f"{name}.") and key != NOTHING
        }
        found[name] = LightPlace(id=name).changed(**fields)
    return found


def renamed(plan: SetPlan, recipe: Recipe) -> SetPlan:
    """A kept set with this recipe's keys in place of those it was found with."""

    def key(slot: str) -> str | None:
        return recipe.get(slot) or None

    lights = []
    for light in plan.lights:
        fields = {part: key(f"{light.id}.{part}") for part in PARTS_OF_LIGHT}
        lights.append(light.changed(**fields))
    props = [prop.changed(item=key(prop.id)) if prop.id in recipe else prop for prop in plan.props]
    return plan.changed(
        camera=plan.camera.changed(body=key("body"), lens=key("lens"), support=key("tripod")),
        background=plan.background.changed(backdrop=key("backdrop"), holder=key("holder")),
        lights=tuple(lights),
        props=tuple(props),
    )
