"""What the lines of a set are remembered by: the parts of a studio that a rule reads, each by an object that stays the
same while nothing of it changes that the rule may look at."""

from functools import cached_property

from evrant.core.base.alike import Alike
from evrant.core.base.model import Model
from evrant.core.judge.rules.rule import Reads
from evrant.core.space.scene import Scene
from evrant.core.studio.brief import MEANS
from evrant.core.studio.gear import WARES
from evrant.core.studio.sets import RUNNING, SetPlan, used_by
from evrant.core.studio.shots import EXPOSURE, WANTED, Shot
from evrant.core.studio.studio import Studio

_BRIEFS, _ITEMS, _PLANS = Alike(MEANS), Alike(WARES), Alike(RUNNING | {"lights"})
_SHOTS, _UNEXPOSED = Alike(WANTED), Alike(WANTED | EXPOSURE)


class Keys:
    """The keys of one set. No rule of a set looks at what things cost, where they are kept, what can be
    spent, or how much a shot is wanted."""

    def __init__(self, studio: Studio, scene: Scene) -> None:
        self._studio, self._scene = studio, scene
        self._known: dict[tuple[frozenset[Reads], bool], tuple[object, ...]] = {}

    def of(self, reads: frozenset[Reads], whole_kit: bool) -> tuple[object, ...]:
        """What stands for the parts that are read."""
        asked = reads, whole_kit
        if asked not in self._known:
            self._known[asked] = tuple(self._parts(reads, whole_kit))
        return self._known[asked]

    def _parts(self, reads: frozenset[Reads], whole_kit: bool) -> list[object]:
        scene, plan, parts = self._scene, self._scene.plan, list[object]()
        if "room" in reads:
            parts.append(scene.room)
        if "brief" in reads:
            parts.append(_BRIEFS.key(scene.brief))
        if "shot" in reads:
            parts.append((_SHOTS if "exposure" in reads else _UNEXPOSED).key(scene.shot))
        if "set" in reads:
            parts.append(plan if "running" in reads else _PLANS.key(plan, *plan.lights))
        elif "places" in reads:
            parts += [plan.id, plan.mark, plan.camera, plan.background, plan.props, plan.aside, plan.doors]
        parts += self._beside
        if whole_kit:
            parts += self._kit
        elif "gear" in reads:
            parts += self._used
        return parts

    @cached_property
    def _beside(self) -> list[object]:
        whole = (SetPlan, Shot)
        parts = self._scene.parts_beside
        return [_ITEMS.key(one) if isinstance(one, Model) and not isinstance(one, whole) else one for one in parts]

    @cached_property
    def _kit(self) -> list[object]:
        return [_ITEMS.key(item) for item in self._studio.gear]

    @cached_property
    def _used(self) -> list[object]:
        gear = self._scene.gear
        return [_ITEMS.key(gear[key]) for key in used_by(self._scene.plan) if key in gear]
