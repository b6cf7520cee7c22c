"""The pieces the bounce engine is made of: shells that close, polygons that are cut without loss, set surfaces."""

import math
from typing import Any

import numpy as np
import pytest
from helpers.studios import demo, one_portrait, parse
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import ConvexHull

from evrant.core.base.quantity import Figure
from evrant.core.light.beams import beams_of
from evrant.core.light.bounce.enclosure import direct, enclosure_of
from evrant.core.light.bounce.patches import blockers_of, bodies_of, patches_of
from evrant.core.light.bounce.polygons import area_of, carve, common, convex_parts, grid, normal_of, split
from evrant.core.light.bounce.shell import shell_of
from evrant.core.light.bounce.sources import Source, round_face, spread_over, square_face
from evrant.core.light.bounce.surfaces import Surface, fitted, grey, hull_faces
from evrant.core.light.emission import Missing
from evrant.core.light.surroundings import surroundings
from evrant.core.space.ceiling import ceiling_of
from evrant.core.space.figures import coarse
from evrant.core.space.footprint import plan_of
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.solids import Points, Vector, cuboid, frame_axes
from evrant.core.studio.room import Finish, Room
from evrant.core.studio.shots import Subject
from evrant.demo import demo_studio

ROOMS: dict[str, dict[str, Any]] = {
    "rectangle": {"footprint": {"kind": "rectangle", "length": 3.4, "width": 2.9}, "height": 2.35},
    "ell": {
        "footprint": {"kind": "ell", "length": 4.2, "width": 3.6, "cut_length": 1.8, "cut_width": 1.6},
        "height": 2.5,
    },
    "alcove": {
        "footprint": {
            "kind": "alcove",
            "length": 4.0,
            "width": 3.0,
            "niche_offset": 1.0,
            "niche_length": 1.2,
            "niche_depth": 0.7,
        },
        "height": 2.4,
    },
    "one slope": {
        "footprint": {"kind": "rectangle", "length": 4.0, "width": 3.0},
        "height": 2.3,
        "slopes": [{"id": "s", "wall": "wall-1", "low": 1.2, "run": 1.5}],
    },
    "two slopes that meet": {
        "footprint": {"kind": "rectangle", "length": 4.0, "width": 3.0},
        "height": 2.6,
        "slopes": [
            {"id": "s", "wall": "wall-1", "low": 1.0, "run": 2.0},
            {"id": "t", "wall": "wall-2", "low": 1.2, "run": 2.2},
        ],
    },
    "slope in an ell": {
        "footprint": {"kind": "ell", "length": 4.2, "width": 3.6, "cut_length": 1.8, "cut_width": 1.6},
        "height": 2.5,
        "slopes": [{"id": "s", "wall": "wall-3", "low": 1.5, "run": 1.2}],
    },
    "five corners": {
        "footprint": {
            "kind": "outline",
            "corners": [{"x": x, "y": y} for x, y in ((0.4, 0), (4.4, 0), (4.9, 2.5), (2.4, 3.6), (0, 2.2))],
        },
        "height": 2.4,
    },
}


def centroid_of(polygon: Points) -> Vector:
    """Centre of the area."""
    first = polygon[0]
    a, b = polygon[1:-1] - first, polygon[2:] - first
    weights = np.linalg.norm(np.cross(a, b), axis=1)
    total = weights.sum()
    if total < 1e-15:
        return np.asarray(polygon.mean(axis=0))
    return np.asarray(first + ((a + b) * weights[:, None]).sum(axis=0) / (3 * total))


def polygons_of(room: dict[str, Any]) -> tuple[list[Points], float, float]:
    """Every polygon of the shell, and area and mean height of the floor by sampling."""
    model = Room.model_validate(room)
    plan, roof = plan_of(model), ceiling_of(model)
    assert plan is not None and roof is not None
    shell = shell_of(plan, roof)
    everything = [*shell.floor, *shell.ceiling, *shell.cheeks, *(p for wall in shell.walls for p in wall)]
    low, high = plan.corners.min(axis=0), plan.corners.max(axis=0)
    spots = low + (high - low) * np.random.default_rng(4).random((60_000, 2))
    inside = spots[plan.contains(spots)]
    area = float(np.prod(high - low)) * len(inside) / len(spots)
    return everything, area, float(roof.heights(inside).mean())


@pytest.mark.parametrize("name", sorted(ROOMS))
def test_a_shell_closes_and_holds_its_volume(name: str) -> None:
    """Gauss: ∮ n dA = 0, and ∮ x·n dA / 3 is the volume, here against random points under the ceiling."""
    polygons, area, height = polygons_of(ROOMS[name])
    total, volume = np.zeros(3), 0.0
    for polygon in polygons:
        normal, size = normal_of(polygon), area_of(polygon)
        total += normal * size
        volume -= float(centroid_of(polygon) @ normal) * size / 3
    assert np.abs(total).max() < 1e-3
    assert volume == pytest.approx(area * height, rel=0.02)


@pytest.mark.parametrize("name", sorted(ROOMS))
def test_from_inside_a_shell_everything_is_seen_once(name: str) -> None:
    """Form factors of a closed room sum to one before any scaling, within what sampling costs."""
    polygons, _, _ = polygons_of(ROOMS[name])
    made = enclosure_of([Surface("shell", "", tuple(polygons), grey(0.5), blocks=False)], 400)
    rows = made.exchange.sum(axis=1) / made.patches.areas
    assert rows.mean() == pytest.approx(1.0, abs=0.02)
    assert rows.min() > 0.75 and rows.max() < 1.2


# --- polygons ------------------------------------------------------------------------------------------

SIDE = st.floats(0.05, 3.0)
PLACE = st.floats(-2.0, 2.0)


def rectangle(x: float, y: float, wide: float, high: float) -> Points:
    return np.array([[x, y, 1.0], [x + wide, y, 1.0], [x + wide, y + high, 1.0], [x, y + high, 1.0]])


@settings(max_examples=80, deadline=None)
@given(SIDE, SIDE, PLACE, PLACE, SIDE, SIDE)
def test_carving_takes_away_exactly_what_is_shared(
    wide: float, high: float, x: float, y: float, w: float, h: float
) -> None:
    whole, hole = rectangle(0, 0, wide, high), rectangle(x, y, w, h)
    shared = common(whole, hole)
    rest = carve([whole], hole)
    left = sum(area_of(piece) for piece in rest)
    assert left + (area_of(shared) if shared is not None else 0.0) == pytest.approx(wide * high, abs=2e-4)
    overlap = max(min(wide, x + w) - max(0.0, x), 0.0) * max(min(high, y + h) - max(0.0, y), 0.0)
    assert (area_of(shared) if shared is not None else 0.0) == pytest.approx(overlap, abs=2e-4)


@settings(max_examples=60, deadline=None)
@given(st.floats(0, 2 * math.pi), st.floats(-1.0, 1.0), st.integers(3, 9))
def test_both_sides_of_a_cut_make_the_whole(angle: float, offset: float, corners: int) -> None:
    turns = np.arange(corners) * 2 * math.pi / corners
    ring = np.column_stack([np.cos(turns), np.sin(turns), np.zeros(corners)])
    way = np.array([math.cos(angle), math.sin(angle), 0.0])
    parts = [part for part in split(ring, way * offset, way) if part is not None]
    assert sum(area_of(part) for part in parts) == pytest.approx(area_of(ring), abs=1e-5)
    for part in parts:
        assert float(normal_of(part)[2]) == pytest.approx(1.0)


@settings(max_examples=40, deadline=None)
@given(st.floats(0.05, 1.5), st.integers(3, 8), st.floats(0.3, 3.0))
def test_a_grid_covers_its_polygon(size: float, corners: int, reach: float) -> None:
    turns = np.arange(corners) * 2 * math.pi / corners + 0.1
    ring = np.column_stack([reach * np.cos(turns), reach * np.sin(turns), np.zeros(corners)])
    cells, counts = grid(ring, size)
    total = sum(area_of(cell[:n]) for cell, n in zip(cells, counts, strict=True))
    assert total == pytest.approx(area_of(ring), rel=1e-3, abs=1e-3)


@settings(max_examples=40, deadline=None)
@given(st.integers(3, 24), st.integers(1, 64))
def test_points_are_spread_inside_and_about_the_middle(corners: int, count: int) -> None:
    face = round_face(np.array([1.0, 2.0, 3.0]), np.array([0.0, 1.0, 0.0]), 0.5, corners)
    spots = spread_over(face, count)
    assert np.abs((spots - face[0]) @ normal_of(face)).max() < 1e-9
    assert np.linalg.norm(spots - face.mean(axis=0), axis=1).max() < 0.8
    assert area_of(face) == pytest.approx(math.pi * 0.25, rel=1e-9)


def test_a_bent_outline_falls_into_convex_pieces_of_the_same_area() -> None:
    ring = np.array([[0, 0], [4, 0], [4, 3], [2.5, 3], [2.5, 1.2], [1.0, 1.2], [1.0, 3], [0, 3]], dtype=float)
    parts = convex_parts(ring)
    flat = [np.column_stack([p, np.zeros(len(p))]) for p in parts]
    assert sum(area_of(p) for p in flat) == pytest.approx(4 * 3 - 1.5 * 1.8)


# --- bodies and lights ---------------------------------------------------------------------------------


def test_a_solids_faces_close_and_it_blocks_light() -> None:
    faces = hull_faces(cuboid((1.0, -0.5, -0.5), (1.2, 0.5, 0.5)))
    assert len(faces) == 6 and sum(area_of(f) for f in faces) == pytest.approx(2 * (1 + 0.2 + 0.2))
    wall = Surface("wall", "", tuple(faces), grey(0.2), body="wall")
    forward = np.array([1.0, 0.0, 0.0])
    face = square_face(np.zeros(3), forward, 0.1, 0.1)
    lamp = Source("lamp", face, forward, frame_axes(forward)[0], grey(1.0))
    spots = np.array([[3.0, 0.0, 0.0], [3.0, 2.5, 0.0], [0.8, 0.0, 0.0]])
    ways = np.repeat(-forward[None], 3, axis=0)
    free = direct(lamp, spots, ways, blockers_of([]))
    shaded = direct(lamp, spots, ways, blockers_of(bodies_of([wall])))
    assert shaded[0] == 0.0 and shaded[1] == pytest.approx(free[1]) and shaded[2] == pytest.approx(free[2])


def test_what_stands_on_the_floor_takes_its_place_and_a_sheet_keeps_both_sides() -> None:
    floor = Surface("floor", "", (rectangle(0, 0, 3, 3) - (0, 0, 1.0),), grey(0.3), blocks=False)
    box = Surface("box", "", tuple(hull_faces(cuboid((1, 1, 0), (2, 2, 1)))), grey(0.5), body="box")
    sheet = Surface("sheet", "", (rectangle(0.2, 0.2, 0.5, 0.5),), grey(0.5), back=grey(0.1), through=grey(0.2))
    made = fitted([floor, box, sheet])
    assert made[0].area == pytest.approx(8.0) and made[1].area == pytest.approx(5.0)
    patches = patches_of(made, 0.25)
    twins = patches.twin[patches.surface == 2]
    assert (patches.twin[twins] >= 0).all() and (patches.normals[patches.surface == 2][:, 2] > 0).sum() == len(
        twins
    ) / 2


def test_a_light_moves_with_its_body() -> None:
    studio = demo()
    here = scene_of(studio, studio.sets[0])
    assert here is not None and here.face is not None
    source = beams_of(here)[0][0].source
    there = source.at(source.centre + np.array([0.3, -0.2, 0.1]), here.face)
    assert area_of(there.face) == pytest.approx(area_of(source.face))
    assert float(there.forward @ (here.face - there.centre)) == pytest.approx(
        float(np.linalg.norm(here.face - there.centre))
    )
    before, after = (sum(b.area for b in s.bodies) for s in (source, there))
    assert after == pytest.approx(before)


# --- a set's surfaces ------------------------------------------------------------------------------------


def scene(data: dict[str, Any]) -> Scene:
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def finished() -> dict[str, Any]:
    data = one_portrait()
    data["room"] |= {"floor": "wood", "ceiling": {"lrv": 85, "colour": "#ffffff"}}
    for wall in data["room"]["walls"]:
        wall["finish"] = {"lrv": 60, "colour": "#ffffff"}
    next(g for g in data["gear"] if g["id"] == "paper")["reflectance"] = 36
    return data


def test_a_sets_surfaces_have_the_areas_of_what_they_stand_for() -> None:
    data = finished()
    data["room"]["windows"] = [{"id": "w", "wall": "north", "offset": 1, "width": 1.2, "sill": 0.9, "height": 1.1}]
    found = surroundings(scene(data))
    assert not isinstance(found, Missing)
    areas = {s.name: s.area for s in found.surfaces}
    assert areas["north"] == pytest.approx(5.0 * 2.8 - 1.2 * 1.1) and areas["Window"] == pytest.approx(1.32)
    assert areas["ceiling"] == pytest.approx(20.0)
    legs = coarse(Subject.model_validate(data["shots"][0]["subjects"][0]), 1.7)[-1]
    assert areas["floor"] + areas["background on the floor"] == pytest.approx(20.0 - ConvexHull(legs[:, :2]).volume)


def test_the_same_content_has_the_same_key_and_another_paint_another() -> None:
    one, two = surroundings(scene(finished())), surroundings(scene(finished()))
    other = finished()
    other["room"]["walls"][2]["finish"]["lrv"] = 61
    three = surroundings(scene(other))
    assert not isinstance(one, Missing) and not isinstance(two, Missing) and not isinstance(three, Missing)
    assert one.key == two.key != three.key


def test_blackout_and_darkness_take_a_windows_light_away() -> None:
    data = finished()
    window = {"id": "w", "wall": "north", "offset": 1, "width": 1.2, "sill": 0.9, "height": 1.1, "daylight": 5000}
    data["room"]["windows"] = [window]
    data["shots"][0]["around"] = "daylight"
    by_day, _ = beams_of(scene(data))
    glass = next(b for b in by_day if b.role == "window")
    assert float(glass.source.flux @ [0.2126, 0.7152, 0.0722]) == pytest.approx(5000 * 0.65 * 1.32, rel=1e-6)
    window["blackout"] = "in place"
    assert not [b for b in beams_of(scene(data))[0] if b.role == "window"]
    data["shots"][0]["around"] = "dark"
    window["blackout"] = "not needed"
    assert not [b for b in beams_of(scene(data))[0] if b.role == "window"]


@pytest.mark.parametrize("demo_name", ["adoption-corner", "hands-in-view", "stones-on-file"])
def test_new_paint_leaves_shapes_and_exchange_and_is_as_if_made_anew(demo_name: str) -> None:
    """Every wall and the ceiling in other paint: patch for patch what a fresh enclosure has, from the same exchange;
    tents, sheets and their backs among it."""
    studio = demo_studio(demo_name)
    walls = tuple(wall.changed(finish=Finish(lrv=Figure(30.0, 2.0, "measured"))) for wall in studio.room.walls)
    black = studio.changed(room=studio.room.changed(walls=walls, ceiling=Finish(lrv=Figure(12.0, 1.0, "measured"))))
    for plan in studio.sets:
        before, after = (surroundings(found) for one in (studio, black) if (found := scene_of(one, plan)) is not None)
        assert not isinstance(before, Missing) and not isinstance(after, Missing)
        assert before.key != after.key and before.shape == after.shape
        first, then = before.enclosure(200), after.enclosure(200)
        fresh = enclosure_of(after.surfaces, 200)
        assert then.exchange is first.exchange and then.surfaces == after.surfaces
        for name in ("corners", "counts", "surface", "twin", "reflectance", "through"):
            assert np.array_equal(getattr(then.patches, name), getattr(fresh.patches, name)), name
        assert np.array_equal(then.exchange, fresh.exchange) and np.array_equal(then.weights, fresh.weights)
        assert not np.array_equal(then.patches.reflectance, first.patches.reflectance)
