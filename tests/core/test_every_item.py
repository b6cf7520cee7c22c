"""Everything of the catalogue in use: no rule breaks on it, whatever it says of it."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.products import product
from helpers.studios import one_portrait, parse
from scipy.spatial import ConvexHull

from evrant.catalogue import load
from evrant.core.judge.ledger import lines_of_set
from evrant.core.light.surroundings import Surroundings, surroundings
from evrant.core.space.scene import scene_of
from evrant.core.studio.gear import Item, Table

Data = dict[str, Any]
PLACES = {
    "flash": ("light", "head"),
    "lamp": ("light", "head"),
    "modifier": ("light", "modifier"),
    "gel": ("light", "gel"),
    "stand": ("light", "support"),
    "lead": ("light", "lead"),
    "camera": ("camera", "body"),
    "lens": ("camera", "lens"),
    "backdrop": ("background", "backdrop"),
    "holder": ("background", "holder"),
}
THING = {"id": "p", "name": "Thing", "kind": "object", "height": 0.3, "width": 0.2, "depth": 0.2, "base": 0.75}
GOWN = {"id": "p", "name": "Gown", "kind": "garment", "height": 1.2, "base": 0.3}


def using(item: Item) -> Data:
    """The portrait's set with one thing of the catalogue in the place it is for, beside what it usually stands with."""
    plain, data = one_portrait(), product()
    data |= {"shots": plain["shots"], "sets": plain["sets"]}
    told = item.model_dump(mode="json", exclude_none=True) | {"id": "new", "status": "owned"}
    data["gear"].append(told)
    plan = data["sets"][0]
    light = plan["lights"][0]
    if item.kind in ("table", "tent", "board", "microphone"):
        plan["props"] = [{"id": "new", "item": "new", "x": 2.0, "y": 1.9, "turn": 30}]
        worn = getattr(item, "form", "") in ("dress form", "hanger hook")
        if item.kind != "microphone":
            data["shots"][0] |= {"crop": "whole subject", "subjects": [GOWN if worn else THING]}
    elif item.kind == "part":
        light |= {"joint": "new", "ring": "new"}
    else:
        where, part = PLACES[item.kind]
        (light if where == "light" else plan[where])[part] = "new"
        light |= {"modifier": None} if part == "head" else {}
    return data


@pytest.mark.parametrize("item", load().all(), ids=lambda item: item.id)
def test_no_rule_breaks_on_it(item: Item) -> None:
    studio = parse(using(item))
    lines = lines_of_set(studio, studio.sets[0])
    assert len(lines) > 15 and not [line.title for line in lines if line.title.startswith("A fault")]


def test_a_dress_form_shades_and_returns_light_as_wide_as_it_is() -> None:
    """Its body of eight sides has the area of its sixteen: ½ n r² sin(2π/n)."""
    form = next(one for one in load().all() if isinstance(one, Table) and one.form == "dress form")
    studio = parse(using(form))
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None
    around = surroundings(scene)
    assert isinstance(around, Surroundings)
    body = [one for one in around.surfaces if one.path == "sets/s/props/new"]
    assert body and max(len(polygon) for one in body for polygon in one.polygons) == 8
    corners = np.vstack([polygon[:, :2] for one in body for polygon in one.polygons])
    assert form.length and form.width
    radius = min(form.length.value, form.width.value) / 2
    assert ConvexHull(corners).volume == pytest.approx(8 * radius**2 * math.sin(math.pi / 8), rel=1e-6)
