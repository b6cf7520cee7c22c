"""Outlines, clearances and separations against Shapely and SciPy-free closed forms."""

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from evrant.core.space.footprint import clearance, first_wall, plan_of, reflex_corners
from evrant.core.space.gaps import to_prism
from evrant.core.space.solids import (
    ball,
    coarse_separations,
    cuboid,
    directions,
    flat_separation,
    separation,
    supports,
    turned,
    upright,
)
from evrant.core.space.things import door_swing
from evrant.core.studio.room import Door, Ell, Outline, Rectangle, Room, first_crossing

ELLS = [
    Room(
        footprint=Ell.model_validate(
            {"length": 4.2, "width": 3.6, "cut_length": 1.4, "cut_width": 1.1, "cut_corner": corner}
        )
    )
    for corner in "ABCD"
]


def ring(room: Room) -> shapely.Polygon:
    plan = plan_of(room)
    assert plan is not None
    return shapely.Polygon(plan.corners)


@pytest.mark.parametrize("room", ELLS, ids="ABCD")
def test_ell_is_a_simple_counter_clockwise_polygon(room: Room) -> None:
    plan, polygon = plan_of(room), ring(room)
    assert plan is not None and polygon.is_valid and polygon.exterior.is_ccw
    assert polygon.area == pytest.approx(4.2 * 3.6 - 1.4 * 1.1)
    assert len(reflex_corners(plan)) == 1
    assert polygon.bounds == pytest.approx((0, 0, 4.2, 3.6))


def test_the_cut_is_where_it_was_said() -> None:
    for room, corner in zip(ELLS, [(0, 0), (4.2, 0), (4.2, 3.6), (0, 3.6)], strict=True):
        assert ring(room).distance(shapely.Point(corner)) > 0.5


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(range(4)), st.lists(st.tuples(st.floats(-1, 5), st.floats(-1, 5)), min_size=1, max_size=12))
def test_clearance_of_points_equals_shapely(which: int, points: list[tuple[float, float]]) -> None:
    room = ELLS[which]
    plan, polygon = plan_of(room), ring(room)
    assert plan is not None
    signed = [
        (1 if polygon.contains(shapely.Point(p)) else -1) * polygon.exterior.distance(shapely.Point(p)) for p in points
    ]
    assert clearance(plan, np.array(points)).value == pytest.approx(min(signed), abs=1e-9)


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(range(4)), st.floats(0.1, 4.0), st.floats(0.1, 3.4), st.floats(0, 6.28))
def test_first_wall_equals_shapely(which: int, x: float, y: float, angle: float) -> None:
    room = ELLS[which]
    plan, polygon = plan_of(room), ring(room)
    start = shapely.Point(x, y)
    if plan is None or not polygon.contains(start) or polygon.exterior.distance(start) < 0.01:
        return
    way = np.array([np.cos(angle), np.sin(angle)])
    ray = shapely.LineString([(x, y), (x + 20 * way[0], y + 20 * way[1])])
    hit = first_wall(plan, np.array([x, y]), way)
    assert hit is not None
    assert hit[0] == pytest.approx(start.distance(ray.intersection(polygon.exterior)), abs=1e-6)


@settings(max_examples=40, deadline=None)
@given(st.floats(-2, 2), st.floats(-2, 2), st.floats(0, 90))
def test_plan_separation_of_boxes_equals_shapely(x: float, y: float, turn: float) -> None:
    """Boxes that overlap in height are apart by the distance of their plans."""
    first = cuboid((-0.4, -0.3, 0), (0.4, 0.3, 1))
    second = turned(cuboid((x - 0.5, y - 0.2, 0), (x + 0.5, y + 0.2, 1)), turn, (x, y))
    a = shapely.MultiPoint(first[:, :2]).convex_hull
    b = shapely.MultiPoint(second[:, :2]).convex_hull
    apart, way = separation(first, second)
    assert abs(float(np.linalg.norm(way)) - 1) < 1e-9
    if a.distance(b) > 0.01:
        assert apart == pytest.approx(a.distance(b), abs=0.002)
        assert apart <= a.distance(b) + 1e-9
    elif a.intersection(b).area > 1e-4:
        assert apart < 0


def test_depth_of_overlap_of_axis_aligned_boxes() -> None:
    """The shallowest way out: 12 cm down rather than 34 cm aside."""
    octabox, pipe = cuboid((0, 0, 1.5), (0.9, 0.4, 2.22)), cuboid((-3, 0.06, 2.10), (3, 0.4, 2.35))
    apart, way = separation(octabox, pipe)
    assert apart == pytest.approx(-0.12, abs=1e-6)
    assert way == pytest.approx([0, 0, 1], abs=1e-6)


def test_spheres_are_apart_by_their_radii() -> None:
    """Inscribed polyhedra of radius 0.5 and 0.3, centres 2 m apart in an odd direction."""
    way = np.array([0.36, 0.48, 0.8])
    apart, _ = separation(ball((0, 0, 0), (0.5,) * 3), ball(way * 2, (0.3,) * 3))
    assert apart == pytest.approx(1.2, abs=0.03)


def test_the_coarse_search_never_overstates_and_comes_near() -> None:
    rng = np.random.default_rng(3)
    for _ in range(30):
        pair = [
            upright(rng.uniform(0, 2), rng.uniform(0, 2), 0, rng.uniform(0.5, 2), 0.2),
            ball(rng.uniform(0, 3, 3), (0.3, 0.2, 0.4)),
        ]
        coarse = float(coarse_separations(supports(pair[:1]), supports(pair[1:]))[0, 0])
        fine = separation(*pair)[0]
        assert coarse <= fine + 1e-9
        assert fine - coarse < 0.06
    assert directions().shape[0] % 2 == 0


def test_compiled_loops_equal_the_plain_formulas() -> None:
    """Reaches, coarse gaps and the start of a separation, written out with arrays."""
    rng = np.random.default_rng(5)
    ways = directions()
    for _ in range(20):
        bodies = [rng.uniform(0, 2, (rng.integers(4, 60), 3)) for _ in range(3)]
        reach = np.stack([(ways @ body.T).max(axis=1) for body in bodies])
        assert supports(bodies) == pytest.approx(reach, abs=1e-12)
        half = len(ways) // 2
        mirrored = np.hstack([reach[:, half:], reach[:, :half]])
        gaps = (-mirrored[None] - reach[:, None]).max(axis=2)
        assert coarse_separations(reach, reach) == pytest.approx(gaps, abs=1e-12)
        moved = bodies[1] + (1.5, 0.0, 0.0)
        apart, way = separation(bodies[0], moved)
        assert np.linalg.norm(way) == pytest.approx(1.0)
        assert apart == pytest.approx(float((moved @ way).min() - (bodies[0] @ way).max()), abs=1e-12)
        sampled = (moved @ ways.T).min(axis=0) - (bodies[0] @ ways.T).max(axis=0)
        assert apart >= float(sampled.max()) - 1e-12


def test_points_to_a_prism_as_shapely_has_it() -> None:
    """Beside an outline its distance, above it the height, inside the least way out; of several points the least."""
    rng = np.random.default_rng(9)
    outline = np.array([[0.0, 0.0], [1.2, 0.1], [1.0, 0.9], [0.2, 0.8]])
    polygon, low, high = shapely.Polygon(outline), 0.2, 0.9
    for _ in range(200):
        spots, heights = rng.uniform(-1, 2, (1, 3, 2)), rng.uniform(0, 1.2, 3)
        gaps = []
        for spot, height in zip(spots[0], heights, strict=True):
            point = shapely.Point(spot)
            inside = polygon.contains(point)
            flat = -polygon.exterior.distance(point) if inside else polygon.distance(point)
            rise = max(low - height, height - high)
            outside = flat > 0 or rise > 0
            gaps.append(np.hypot(max(flat, 0.0), max(rise, 0.0)) if outside else max(flat, rise))
        assert to_prism(outline, low, high, spots, heights)[0] == pytest.approx(min(gaps), abs=1e-9)


def test_door_sweeps_a_quarter_circle_into_the_room() -> None:
    room = Room(footprint=Rectangle.model_validate({"length": 3.4, "width": 2.9}), height=None)
    walls = [w.id for w in room.edges(4)]
    for index, wall in enumerate(walls):
        door = Door.model_validate(
            {"id": "d", "wall": wall, "offset": 0.5, "width": 0.8, "height": 2.0, "hinge": "end"}
        )
        swing = door_swing(room, plan_of(room), door)
        assert swing is not None
        flat = shapely.MultiPoint(swing[:, :2]).convex_hull
        assert flat.area == pytest.approx(np.pi * 0.64 / 4, rel=0.01)
        assert ring(room).buffer(1e-6).contains(flat), index


def test_crossing_outlines_are_found_as_shapely_finds_them() -> None:
    rng = np.random.default_rng(11)
    for _ in range(200):
        points = [tuple(p) for p in rng.uniform(0, 4, (rng.integers(4, 8), 2)).tolist()]
        assert (first_crossing(points) is None) == shapely.LinearRing(points).is_simple


def test_outline_refuses_a_bow_tie() -> None:
    bow = [{"x": 0, "y": 0}, {"x": 3, "y": 3}, {"x": 3, "y": 0}, {"x": 0, "y": 3}]
    with pytest.raises(ValueError, match="cross"):
        Outline.model_validate({"corners": bow})


SPOT = st.tuples(*(st.floats(-1, 1).map(lambda value: round(value, 9)) for _ in "xy"))
ASIDE = st.floats(0, 2.5).map(lambda value: round(value, 9))


@settings(max_examples=300, deadline=None)
@example([(0.0, 0.0), (0.0, -1.0)], [(3.5e-92, 0.0), (-1.0, -1.0), (0.0, 0.0), (1.0, 0.0)], 0.0)
@example([(-1.0, 0.0)], [(0.0, 0.0), (0.0, 1.0), (9.7e-48, 0.0), (-1.0, -1.0)], 0.0)
@example([(0.0, -1.0), (-1.0, 0.0)], [(0.0, 0.0), (0.0, 1.0), (9.7e-48, 0.0), (-1.0, -1.0)], 0.0)
@given(st.lists(SPOT, min_size=1, max_size=30), st.lists(SPOT, min_size=1, max_size=30), ASIDE)
def test_gaps_of_outlines_in_a_plane_equal_shapely(
    first: list[tuple[float, float]], second: list[tuple[float, float]], aside: float
) -> None:
    """Apart by the distance of the hulls; over one another by the least way from the origin out of the hull of all
    differences of their points (Minkowski)."""
    one, other = np.array(first), np.array(second) + (aside, 0.0)
    a, b = shapely.MultiPoint(one).convex_hull, shapely.MultiPoint(other).convex_hull
    gap, way = flat_separation(one, other)
    if a.distance(b) > 1e-9:
        assert gap == pytest.approx(a.distance(b), abs=1e-9)
        assert float((other @ way).min() - (one @ way).max()) == pytest.approx(gap, abs=1e-6)
        return
    differences = shapely.MultiPoint((other[:, None] - one[None]).reshape(-1, 2)).convex_hull
    depth = differences.exterior.distance(shapely.Point(0, 0)) if isinstance(differences, shapely.Polygon) else 0.0
    assert gap == pytest.approx(-depth, abs=1e-7)
    if depth > 1e-6:
        assert float((other @ way).min() - (one @ way).max()) == pytest.approx(gap, abs=1e-7)
