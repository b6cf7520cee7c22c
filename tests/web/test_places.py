"""Lights and marks put anywhere in their room: the set page and its drawing stand, wherever it was."""

import os
import random
from pathlib import Path

import pytest

from evrant.core.edits.language import SetFields
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import change
from evrant.core.space.footprint import plan_of
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio
from evrant.drawing.sheet import sheet
from evrant.files.document import read_studio

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
PLACES = 4_000 if os.environ.get("EVRANT_LONG") else 400
KNOWN = (
    ("adoption-corner", "sets/kneeling-a/lights/key", 2.39, 0.47),
    ("adoption-corner", "sets/kneeling-a/mark", 1.34, 2.74),
)


def drawn(studio: Studio, set_id: str) -> str:
    plan = next(plan for plan in studio.sets if plan.id == set_id)
    scene = scene_of(studio, plan)
    assert scene is not None
    return sheet(scene, (), 882.0, 700.0)


def example(name: str) -> Studio:
    return read_studio(next(path for path in EXAMPLES if path.stem == name).read_bytes())


@pytest.mark.parametrize(("name", "target", "x", "y"), KNOWN)
def test_places_where_the_union_of_outlines_failed(name: str, target: str, x: float, y: float) -> None:
    moved = change(example(name), SetFields(target=target, fields={"x": x, "y": y}))
    assert "<svg" in drawn(moved, target.split("/")[1])
    assert ledger_of(moved).lines


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda path: path.stem)
def test_anywhere_in_the_room(path: Path) -> None:
    studio = read_studio(path.read_bytes())
    walls = plan_of(studio.room)
    assert walls is not None
    low, high = walls.corners.min(axis=0), walls.corners.max(axis=0)
    targets = [f"sets/{plan.id}/mark" for plan in studio.sets]
    targets += [f"sets/{plan.id}/lights/{light.id}" for plan in studio.sets for light in plan.lights]
    dice = random.Random(7)
    for number in range(PLACES // len(EXAMPLES)):
        target = targets[number % len(targets)]
        x, y = (round(dice.uniform(float(low[i]), float(high[i])), 2) for i in (0, 1))
        moved = change(studio, SetFields(target=target, fields={"x": x, "y": y}))
        picture = drawn(moved, target.split("/")[1])
        assert "<svg" in picture and ">nan" not in picture, (target, x, y)
        if number % 10 == 0:
            assert not [m for m in ledger_of(moved).lines if "fault of the program" in m.sentence], (target, x, y)
