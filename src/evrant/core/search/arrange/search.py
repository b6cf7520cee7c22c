"""The search: best first over formations and poses, by bounds no ledger can exceed.

A pose is judged by the ledger's own rules, in full, only while its bound is above the best set found; when
none is left, that set has the best worst margin of the whole grid, and an empty result is proved for it.
"""

import heapq
from collections.abc import Callable, Sequence
from contextlib import nullcontext
from dataclasses import dataclass, replace

import numpy as np

from evrant.core.base.clock import Clock, standing_still
from evrant.core.base.memo import plain
from evrant.core.light.cards import without_idle
from evrant.core.light.hours import open_windows
from evrant.core.place.hanging import MOST_SLID, hung
from evrant.core.place.rigging import rigged
from evrant.core.search.arrange.bounds import Body, Site, coarse, fine
from evrant.core.search.arrange.formations import Draft, Formation, Offer, drafts, put
from evrant.core.search.arrange.judge import (
    Judged,
    judged_anew,
    judged_by_place,
    judged_in_the_open,
    judged_plainly,
    judged_within,
    rules_of_places,
)
from evrant.core.search.arrange.poses import Grid, Poses, poses
from evrant.core.space.scene import Scene, gear_of
from evrant.core.studio.gear import Item
from evrant.core.studio.sets import BackgroundPlace, SetPlan
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio


@dataclass(frozen=True)
class Found:
    """A set that was judged: the plan, its geometry, what tells it from others, and whether its lens is so near a face
    that it draws it otherwise than it is."""

    plan: SetPlan
    judged: Judged
    kind: tuple[str, ...]
    strained: bool = False

    @property
    def worst(self) -> float:
        return self.judged.worst


@dataclass(frozen=True)
class Result:
    """What a search found: the best distinct sets that fit, best first; else the nearest miss. Those that leave a face
    its proportions come before all others.

    `proved`: the grid was searched to the end, so nothing on it is better (or fits at all).
    """

    sets: tuple[Found, ...]
    nearest: Found | None
    proved: bool
    candidates: int
    looked_at: int
    missing: str = ""
    first_s: float | None = None
    but_near: bool = False
    """Whether places were left out of the comparison since the lens would be too near a face there."""

    @property
    def fits(self) -> bool:
        return bool(self.sets)


CHUNK = 96
Bound = Callable[[Scene], float]
"""At least the worst severity of lens and background by themselves, wherever they are put."""


class _Pool:
    """One formation, looked into only as far as its bound calls for: its lights are placed and judged by
    themselves, then its poses get their bounds by walls, then, a chunk at a time, their finer ones."""

    def __init__(self, site: Site, grid: Grid, draft: Draft, *, plainly: bool = False) -> None:
        """`plainly`: its bounds need only tell what fits, not how well."""
        self.site, self.grid, self.draft = site, grid, draft
        self.inner = draft.bound
        self.formation: Formation | None = None
        self.sharp = plainly
        self.body: Body | None = None
        self.where = Poses(np.zeros((0, 2)), np.zeros(0), np.zeros(0, dtype=np.intp))
        self.bounds = np.zeros(0)
        self.order = np.zeros(0, dtype=np.intp)
        self.next = 0
        self.ready: list[tuple[float, int]] = []
        self.rules = rules_of_places()

    @property
    def waiting(self) -> float:
        """Bound of the best pose without finer bounds; before there are poses, of all of them."""
        if self.body is None:
            return float("inf")
        return float(self.bounds[self.order[self.next]]) if self.next < len(self.order) else -np.inf

    @property
    def top(self) -> float:
        """What the best pose left can be at best."""
        return min(max(self.waiting, -self.ready[0][0] if self.ready else -np.inf), self.inner)

    @property
    def progress(self) -> int:
        """How far it has been looked into: of equals the furthest goes first."""
        return (self.formation is not None) + self.sharp + (self.body is not None) + bool(self.ready)

    @property
    def settled(self) -> bool:
        """Whether the best pose left has all its bounds."""
        return self.body is not None and bool(self.ready) and self.waiting <= -self.ready[0][0]

    def advance(self, floor: float) -> None:
        """One step further: lights, then poses, then finer bounds. Gives up what lies below `floor`."""
        if self.formation is None:
            self.formation = self.draft.build()
            if self.draft.lights:
                self.inner = min(self.inner, judged_in_the_open(self.formation.scene, floor))
        elif not self.sharp:
            self.sharp = True
            self.inner = min(self.inner, judged_within(self.formation.scene, floor))
        elif self.body is None:
            self._pose(self.formation)
        else:
            self._refine(self.body)

    def _pose(self, formation: Formation) -> None:
        choice, overhead = formation.choice, formation.scene.overhead
        at_walls = _at_walls(formation)
        self.where = poses(
            self.site.walls, self.grid, choice.gap, formation.behind, at_walls=at_walls, overhead=overhead
        )
        self.body = Body.of(formation)
        self.bounds = coarse(self.site, self.body, self.where)
        self.order = np.argsort(-self.bounds, kind="stable")

    def _refine(self, body: Body) -> None:
        part = self.order[self.next : self.next + CHUNK]
        self.next += len(part)
        finer = np.minimum(self.bounds[part], fine(self.site, body, self.where.only(part)))
        for index, value in zip(part.tolist(), finer.tolist(), strict=True):
            heapq.heappush(self.ready, (-value, index))

    def pop(self) -> int:
        return heapq.heappop(self.ready)[1]


def arrange(
    studio: Studio,
    shot: Shot,
    *,
    offer: Offer | None = None,
    grid: Grid | None = None,
    budget: float | None = 1.5,
    most: int = 4,
    misses: int = 3,
    first: bool = False,
    clock: Clock = standing_still,
) -> Result:
    """The best few distinctly different sets of a shot, or the nearest miss.

    `budget` [s] by `clock` ends the search early (None: never); the result then
    says it is not proved. `misses` is of how
    many formations the nearest miss is looked for when nothing fits. `first` ends it with the first set that fits;
    the nearest miss is then told without the ± of its lines.
    """
    start = clock()
    site = _site(studio, shot)
    if isinstance(site, str):
        return Result((), None, False, 0, 0, site)
    pools = _pools(studio, shot, site, offer or Offer(), grid or Grid())
    if not pools:
        return Result((), None, False, 0, 0, _why_none(studio, shot))
    chosen = offer is not None and offer.geared is not None
    search = _Search(studio, shot, pools, lambda: clock() - start, budget, chosen=chosen)
    search.best_first(misses, first=first)
    if not first:
        search.others(most)
    return search.result(most)


def _site(studio: Studio, shot: Shot) -> Site | str:
    scene = Scene(studio.room, studio.brief, shot, SetPlan(id="empty", shot=shot.id), {})
    if not shot.subjects or scene.wanted is None:
        return "Say who or what is in the picture, with their height."
    if scene.walls is None:
        return "Measure the room's walls first."
    if studio.room.height is None:
        return "Measure the ceiling's height first."
    if shot.pattern == "window and reflector" and not open_windows(scene):
        return "No window lets daylight in: enter one under Room, or choose a pattern with lights."
    site = Site.of(scene)
    return site if site is not None else "Measure the room's walls first."


def _why_none(studio: Studio, shot: Shot) -> str:
    kinds = {item.kind for item in studio.gear if item.at_hand}
    for kind, words in (("camera", "a camera"), ("lens", "a lens")):
        if kind not in kinds:
            return f"Enter {words} under Kit first."
    return "No background and holder in the kit go together, or no lens frames this."


def _pools(studio: Studio, shot: Shot, site: Site, offer: Offer, grid: Grid) -> list[_Pool]:
    return [_Pool(site, grid, draft) for draft in drafts(studio, shot, offer, _base_bound)]


def fits(
    studio: Studio,
    shot: Shot,
    *,
    offer: Offer,
    grid: Grid,
    bound: Bound = judged_in_the_open,
    late: Callable[[], bool] = lambda: False,
) -> bool | None:
    """Whether any set of a shot fits, as `arrange` would find one: no set is told, and no miss. None when it became
    `late` before that was known. `bound` bounds lens and background by themselves; below zero when they do not fit."""
    site = _site(studio, shot)
    if isinstance(site, str):
        return False
    pools = [_Pool(site, grid, draft, plainly=True) for draft in drafts(studio, shot, offer, bound)]
    gear = gear_of(studio)
    while pools:
        if late():
            return None
        pool = max(pools, key=lambda p: (round(p.top, 6), p.progress))
        if pool.top < 0:
            return False
        if not pool.settled:
            pool.advance(0.0)
        elif plainly(pool, posed(studio, shot, gear, pool, pool.pop()), 0.0) >= 0:
            return True
    return False


def _base_bound(scene: Scene) -> float:
    """Bound of lens and background by themselves: plainly everything, in full what no place changes."""
    worst = judged_in_the_open(scene)
    return worst if worst < 0 else min(worst, judged_within(scene, 0.0))


def _at_walls(formation: Formation) -> bool:
    holder = formation.choice.holder
    return formation.choice.wall or (holder is not None and holder.system in ("wall brackets", "tape or pins"))


def posed(studio: Studio, shot: Shot, gear: dict[str, Item], pool: _Pool, index: int) -> Scene:
    """A formation at one of its poses."""
    assert pool.formation is not None
    x, y = (round(float(v), 3) for v in pool.where.marks[index])
    plan = put(pool.formation.plan, x, y, float(pool.where.turns[index]))
    wall = int(pool.where.walls[index])
    if pool.draft.choice.wall and wall >= 0:
        plan = plan.changed(background=BackgroundPlace(wall=studio.room.edges(wall + 1)[wall].id))
    scene = Scene(studio.room, studio.brief, shot, plan, gear)
    return replace(scene, plan=hung(scene, MOST_SLID)) if pool.formation.hung else scene


def plainly(pool: _Pool, scene: Scene, floor: float) -> float:
    """A pose judged plainly: only by what its place changes, unless lights came to hang there."""
    hangs = pool.formation is not None and pool.formation.hung
    return judged_plainly(scene, floor) if hangs else judged_by_place(scene, floor, pool.rules)


class _Search:
    """State of one search; what its sets are made of may be `chosen` before, and then they keep all of it."""

    def __init__(
        self,
        studio: Studio,
        shot: Shot,
        pools: list[_Pool],
        spent: Clock,
        budget: float | None,
        *,
        chosen: bool = False,
    ) -> None:
        self.studio, self.shot, self.pools, self.spent, self.budget = studio, shot, pools, spent, budget
        self.first: float | None = None
        self.gear = gear_of(studio)
        self.best = -np.inf
        self.found: dict[tuple[str, ...], Found] = {}
        self.nearest: Found | None = None
        self.looked = 0
        self.done = False
        self.chosen = chosen

    def late(self) -> bool:
        return self.budget is not None and self.spent() > self.budget

    @property
    def floor(self) -> float:
        return max(self.best, 0.0)

    def best_first(self, misses: int, *, first: bool = False) -> None:
        """Look into poses in the order of their bounds until none can beat the best; into those with the lens too near
        a face only where no other fits."""
        for near in (False, True):
            pools = [pool for pool in self.pools if pool.draft.strained is near]
            self.done = not pools or self._among(pools, first=first)
            if self.found or not self.done:
                break
        if not self.found:
            with plain() if first else nullcontext():
                self._nearest_miss(misses)

    def _among(self, pools: Sequence[_Pool], *, first: bool) -> bool:
        """Whether nothing better is left among some pools."""
        while not self.late() and not (first and self.found):
            pool = max(pools, key=lambda p: (round(p.top, 6), p.progress))
            if pool.top <= self.best + 1e-6 or pool.top < 0:
                return True
            if pool.settled:
                self._look(pool)
            else:
                pool.advance(self.floor)
        return False

    def _look(self, pool: _Pool) -> None:
        """The next pose of a pool, judged plainly by its place first and in full where that may still win."""
        scene = self._scene(pool, pool.pop())
        self.looked += 1
        if plainly(pool, scene, self.floor) >= self.floor:
            self._keep(pool, scene)

    def _rigged(self, found: Found, name: str) -> SetPlan:
        """A set that was found, with the bags, parts and leads it needs; of what is at hand, without reflectors that do
        nothing there."""
        scene = Scene(self.studio.room, self.studio.brief, self.shot, found.plan.changed(id=name), gear_of(self.studio))
        return rigged(scene if self.chosen else replace(scene, plan=without_idle(scene)))

    def _keep(self, pool: _Pool, scene: Scene) -> Found:
        judged = judged_anew(scene)
        found = Found(scene.plan, judged, self._kind(pool, scene), pool.draft.strained)
        if judged.fits:
            self.best = max(self.best, judged.worst)
            self.first = self.spent() if self.first is None else self.first
            held = self.found.get(found.kind)
            if held is None or held.worst < judged.worst:
                self.found[found.kind] = found
        elif self.nearest is None or judged.worst > self.nearest.worst:
            self.nearest = found
        return found

    def _kind(self, pool: _Pool, scene: Scene) -> tuple[str, ...]:
        """What makes sets distinctly different: lens, background, and which way the lens looks."""
        choice = pool.draft.choice
        axis = scene.axis
        sector = 0 if axis is None else round(float(np.degrees(np.arctan2(axis[1], axis[0]))) / 45) % 8
        return (self._lens(pool), choice.background, str(sector))

    @staticmethod
    def _lens(pool: _Pool) -> str:
        choice = pool.draft.choice
        return f"{choice.lens.id} {choice.focal.value * 1000:.0f}" if choice.focal else choice.lens.id

    def _scene(self, pool: _Pool, index: int) -> Scene:
        return posed(self.studio, self.shot, self.gear, pool, index)

    def others(self, most: int) -> None:
        """Good sets of other kinds than those found: other lenses and backgrounds first, then other ways."""
        if not self.found:
            return
        for pool in sorted(self.pools, key=self._novelty):
            if self.late() or len(self.found) >= most:
                return
            self._other_kinds(pool)

    def _novelty(self, pool: _Pool) -> tuple[bool, bool, float]:
        """Pools of a lens and background not found yet come first, then by their bounds; the lens too near, last."""
        choice = pool.draft.choice
        known = {kind[:2] for kind in self.found}
        return (pool.draft.strained, (self._lens(pool), choice.background) in known, -pool.top)

    def _other_kinds(self, pool: _Pool) -> None:
        """One set of a kind not seen yet, among the pool's best poses."""
        tried: dict[tuple[str, ...], int] = {}
        while not self.late() and pool.top >= 0 and len(tried) < 6:
            if not pool.settled:
                pool.advance(0.0)
                continue
            scene = self._scene(pool, pool.pop())
            kind = self._kind(pool, scene)
            if kind in self.found or tried.get(kind, 0) >= 2:
                continue
            tried[kind] = tried.get(kind, 0) + 1
            self.looked += 1
            if plainly(pool, scene, 0.0) >= 0 and self._keep(pool, scene).judged.fits:
                return

    def _nearest_miss(self, misses: int) -> None:
        """Nothing fits: judge in full the poses whose bounds miss by least, of the formations that do."""
        for pool in sorted(self.pools, key=lambda p: (-round(p.top, 6), -p.progress))[:misses]:
            if self.late() and self.nearest is not None:
                return
            for _ in range(5):
                if not pool.settled and (pool.body is None or pool.next < len(pool.order)):
                    pool.advance(-np.inf)
            for _ in range(min(2 if misses > 1 else 1, len(pool.ready))):
                self.looked += 1
                self._keep(pool, self._scene(pool, pool.pop()))

    def result(self, most: int) -> Result:
        ranked = sorted(self.found.values(), key=lambda found: (found.strained, -found.worst))
        sets = tuple(replace(f, plan=self._rigged(f, f"arranged-{i}")) for i, f in enumerate(ranked[:most], start=1))
        posed = [len(pool.where) for pool in self.pools if pool.body is not None]
        candidates = round(sum(posed) / max(len(posed), 1) * len(self.pools))
        nearest, near = None if sets else self.nearest, any(pool.draft.strained for pool in self.pools)
        return Result(
            *(sets, nearest, self.done, candidates, self.looked),
            first_s=self.first,
            but_near=near and bool(sets) and not ranked[0].strained,
        )


def every_candidate(studio: Studio, shot: Shot, offer: Offer, grid: Grid) -> Sequence[Scene]:
    """All sets of a grid, for proving a search against looking at each of them."""
    site = _site(studio, shot)
    if isinstance(site, str):
        return []
    pools = _pools(studio, shot, site, offer, grid)
    search = _Search(studio, shot, pools, lambda: 0.0, None)
    found = []
    for pool in pools:
        while pool.body is None:
            pool.advance(-np.inf)
        found += [search._scene(pool, index) for index in range(len(pool.where))]
    return found
