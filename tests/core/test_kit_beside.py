"""Kit: two lights in each other's way wherever a set is put; asked again of the room, and of a linear programme."""

import random
from itertools import product

import numpy as np
import pytest
from helpers.kits import spare_room
from scipy.optimize import linprog

from evrant.catalogue import load
from evrant.core.place.lighting import key_distance, lit, sided
from evrant.core.search.kit.beside import NO_HEADS, WHOLE
from evrant.core.search.kit.brightness import NEAR, pairs_of
from evrant.core.search.kit.case import Case, Clause
from evrant.core.search.kit.casting import case_of
from evrant.core.search.kit.check import LENSES, Checker
from evrant.core.search.kit.market import market
from evrant.core.space.scene import Scene
from evrant.core.space.things import Thing
from evrant.core.studio.shots import Pattern

OWNED = ("camera-full", "lens-35", "lens-50", "lens-85", "tripod-160", "table-fold-80")
HEADSHOTS, SMALL = "Business headshots in series", "Small collectable, close"
GARMENT, SWEEP = "Garment on a hanger", "Product on a sweep"


def cast(name: str, pattern: Pattern | None = None) -> tuple[Checker, Case]:
    """A checker of its own over the whole catalogue, and the one shot as a case whose lenses are known."""
    studio = spare_room(80.0, name, owned=OWNED)
    if pattern is not None:
        studio = studio.changed(shots=(studio.shots[0].changed(pattern=pattern),))
    shelf = market(studio, load().all())
    checker, case = Checker(studio, shelf), case_of(studio, studio.shots[0], shelf)
    checker.report(case, {}, LENSES)
    return checker, case


def two_lights(case: Case, choose: random.Random, lens: str) -> dict[str, str]:
    """Both lights of a case with what they light, by chance; no arm on a stand."""
    part = {slot: case.slots[slot].keys[0] for slot in ("body", "tripod", "table") if slot in case.slots} | {
        "lens": lens
    }
    for name in case.lights():
        head, modifier = choose.choice(pairs_of(case, name))
        stands = [key for key in case.slots[f"{name}.support"].keys if key.startswith(("stand-", "boom-"))]
        part |= {f"{name}.head": head, f"{name}.modifier": modifier, f"{name}.support": choose.choice(stands)}
        if f"{name}.stands_on" in case.slots:
            part[f"{name}.stands_on"] = ""
    return part


def opened(checker: Checker, case: Case, part: dict[str, str]) -> Scene:
    found = checker.stage.opened(case, {slot: key for slot, key in part.items() if "." not in slot})
    assert found is not None
    return found


def told(checker: Checker, case: Case, choose: random.Random, tries: int) -> list[Clause]:
    """Pairs of lights that are said never to go together, of some by chance."""
    found: list[Clause] = []
    for _ in range(tries):
        part = two_lights(case, choose, "lens-50")
        clause = checker.lights.beside.fault(case, part, opened(checker, case, part), NEAR)
        found += [*checker.lessons.take()[0], *([clause] if clause else [])]
    return [clause for clause in found if "lens" not in dict(clause.never)]


def meet(one: Thing, other: Thing) -> bool:
    """Whether a point lies in a part of both, by a linear programme over the corners of each two parts."""
    for a, b in product(one.parts, other.parts):
        n, m = len(a.solid), len(b.solid)
        same = np.hstack([a.solid.T, -b.solid.T])
        sums = np.zeros((2, n + m))
        sums[0, :n], sums[1, n:] = 1.0, 1.0
        answer = linprog(np.zeros(n + m), A_eq=np.vstack([same, sums]), b_eq=[0.0, 0.0, 0.0, 1.0, 1.0], method="highs")
        if answer.status == 0:
            return True
    return False


@pytest.mark.parametrize(("name", "pattern"), [(HEADSHOTS, None), ("Head and shoulders, seated", "clamshell")])
def test_two_lights_told_never_to_go_together_fit_nowhere_in_the_room(name: str, pattern: Pattern | None) -> None:
    """The search of the room, which knows nothing of pairs, finds no place for them with any lens, at any distance."""
    checker, case = cast(name, pattern)
    choose = random.Random(name)
    clauses = told(checker, case, choose, 12)
    assert len(clauses) >= 4
    for clause in choose.sample(clauses, 4):
        part = two_lights(case, choose, choose.choice(("lens-35", "lens-50", "lens-85"))) | dict(clause.never)
        assert not checker._fits(case, part), clause


@pytest.mark.parametrize(
    ("name", "still", "stands"),
    [
        (HEADSHOTS, {"lens": "lens-85", "fill.modifier": "umbrella-110-white"}, ("boom-light-180", "stand-floor")),
        (SMALL, {"lens": "lens-90-close"}, ("stand-180", "stand-180")),
        (SWEEP, {"lens": "lens-35"}, ("stand-180", "stand-180")),
        (GARMENT, {"lens": "lens-50", "table": "hanger-hook"}, ("stand-180", "stand-180")),
    ],
)
def test_lights_that_find_room_are_not_told_to_be_in_each_others_way(
    name: str, still: dict[str, str], stands: tuple[str, str]
) -> None:
    checker, case = cast(name)
    choose, fitted = random.Random(name), 0
    for _ in range(4):
        part = two_lights(case, choose, "lens-50")
        for light, stand in zip(case.lights(), stands, strict=True):
            modifier = choose.choice(("umbrella-85", "umbrella-110-white", "softbox-60-60"))
            part |= {f"{light}.head": "flash-hot-60", f"{light}.modifier": modifier, f"{light}.support": stand}
        part |= still
        for spot in NEAR:
            if checker._fits_at(case, part, spot, frozenset()):
                fitted += 1
                assert checker.lights.beside.fault(case, part, opened(checker, case, part), [spot]) is None
    assert fitted


def test_lights_in_each_others_way_have_a_point_in_common() -> None:
    """On both sides of the face, at every distance; and those that are not have none on one side."""
    checker, case = cast(HEADSHOTS)
    choose, clash, clear = random.Random(3), 0, 0
    for number in range(12):
        part = two_lights(case, choose, "lens-85")
        part |= {"key.support": "boom-light-180", "fill.support": "stand-floor"} if number % 2 else {}
        bare, spot, names = opened(checker, case, part), choose.choice(NEAR), ("key", "fill")
        for spared in (NO_HEADS, WHOLE):
            made = {one: checker.stage.made(part, one, spared) for one in names}
            scene = bare.with_gear(bare.gear | {key: item for _, gear in made.values() for key, item in gear.items()})
            both = []
            for side in (1.0, -1.0) if sided(case.pattern) else (1.0,):
                geared = {one: place for one, (place, _) in made.items()}
                plan = lit(scene, case.pattern, side, key_distance(scene) * spot[0], spot[1], geared)
                key, fill = (
                    thing
                    for thing in Scene(bare.room, bare.brief, bare.shot, plan, scene.gear).things
                    if thing.kind == "light"
                )
                both.append(meet(key, fill))
            why = checker.lights.beside._at(case, part, names, bare, spot, spared)
            assert (why is not None) == all(both), (part, spot, spared)
            clash, clear = clash + (why is not None), clear + (why is None)
    assert clash >= 2 and clear >= 2
