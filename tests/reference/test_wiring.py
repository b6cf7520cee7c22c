"""Conductors, voltage drop and mains against published tables, and ways of leads against a general graph library."""

import math

import networkx
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from evrant.core.base.tables.conductors import IEC_20, JIS_20, TABLE_8, ohms_per_metre
from evrant.core.base.tables.countries import MAINS
from evrant.core.judge.rules.power.heat import gain_of, least_distance
from evrant.core.space.footprint import Plan
from evrant.core.wiring.loads import watts
from evrant.core.wiring.routes import OPEN, Block, Floor, clip, length_inside

# --- conductors -------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("size", "ohms"), [("0.75 mm²", 26.0), ("1.0 mm²", 19.5), ("1.5 mm²", 13.3), ("2.5 mm²", 7.98)]
)
def test_flexible_conductors_are_those_of_the_standard(size: str, ohms: float) -> None:
    """IEC 60228, table 3, class 5, 20 °C [Ω/km]."""
    assert IEC_20[size] == ohms and ohms_per_metre(size, 20.0) * 1000 == pytest.approx(ohms)


@pytest.mark.parametrize(("size", "ohms"), [("18 AWG", 7.95), ("16 AWG", 4.99), ("14 AWG", 3.14), ("12 AWG", 1.98)])
def test_awg_conductors_are_those_of_the_code(size: str, ohms: float) -> None:
    """NFPA 70, chapter 9, table 8, stranded uncoated copper, 75 °C [Ω/kft]."""
    assert TABLE_8[size] == ohms and ohms_per_metre(size, 75.0) * 304.8 == pytest.approx(ohms)


@pytest.mark.parametrize(("size", "ohms"), [("1.25 mm²", 14.7), ("2.0 mm²", 9.5)])
def test_cords_of_japan_are_those_of_their_standard(size: str, ohms: float) -> None:
    """JIS C 3306, 20 °C [Ω/km], from memory; copper of 17.24 Ω mm²/km with 3 to 10 % for stranding and lay."""
    assert JIS_20[size] == ohms and ohms_per_metre(size, 20.0) * 1000 == pytest.approx(ohms)
    assert 1.03 < ohms * float(size.split()[0]) / 17.24 < 1.11


@pytest.mark.parametrize(("size", "circular_mils"), [("18 AWG", 1620), ("14 AWG", 4110), ("12 AWG", 6530)])
def test_both_tables_tell_of_the_same_copper(size: str, circular_mils: float) -> None:
    """Resistivity from either table at 20 °C: 0.0178 to 0.0186 Ω mm²/m (stranded, lay included); one circular mil is
    π/4 × (0.0254 mm)²."""
    area = circular_mils * math.pi / 4 * 0.0254**2
    assert ohms_per_metre(size, 20.0) * area == pytest.approx(0.0178, rel=0.05)
    assert ohms_per_metre("1.5 mm²", 20.0) * 1.5 == pytest.approx(0.0195, rel=0.03)


def test_voltage_drop_of_a_metric_lead() -> None:
    """25 m of 1.5 mm² at 10 A: 2 × 10 × 25 × 0.0133 = 6.65 V at 20 °C, 7.96 V at 70 °C, 3.5 % of 230 V."""
    assert 2 * 10 * 25 * ohms_per_metre("1.5 mm²", 20.0) == pytest.approx(6.65, abs=0.005)
    assert 2 * 10 * 25 * ohms_per_metre("1.5 mm²") == pytest.approx(7.96, abs=0.01)


def test_voltage_drop_of_an_awg_lead() -> None:
    """The textbook form 2 K I L / CM with K = 12.9 Ω cmil/ft at 75 °C (any handbook on the US code; from memory):
    16 A, 100 ft, 12 AWG of 6530 cmil: 6.32 V."""
    assert 2 * 16 * 30.48 * ohms_per_metre("12 AWG", 75.0) == pytest.approx(2 * 12.9 * 16 * 100 / 6530, rel=0.01)


@pytest.mark.parametrize(("size", "millivolts"), [("0.75 mm²", 62), ("1.0 mm²", 46), ("1.5 mm²", 32), ("2.5 mm²", 19)])
def test_voltage_drop_of_flexible_cords(size: str, millivolts: float) -> None:
    """BS 7671, table 4F3B, flexible cables at 60 °C, mV/A/m for two cores (from memory): within 5 %."""
    assert 2000 * ohms_per_metre(size, 60.0) == pytest.approx(millivolts, rel=0.05)


# --- mains and heat -----------------------------------------------------------------------------------


def test_circuits_of_countries() -> None:
    """US: 15 A at 120 V, 80 % for continuous loads (NFPA 70, 210.20(A)); UK: 13 A fused plug (BS 1363) at 230 V;
    much of Europe: 16 A at 230 V; Japan: 15 A plug at 100 V (JIS C 8303). From memory."""
    us, uk, de, jp = (MAINS[country] for country in ("US", "GB", "DE", "JP"))
    assert (us.volts, us.breaker, us.continuous_share) == (120, 15, 0.8)
    assert (uk.volts, uk.plug) == (230, 13)
    assert (de.volts, de.breaker, de.plug) == (230, 16, 16)
    assert (jp.volts, jp.plug) == (100, 15)


def test_a_flash_while_it_recycles() -> None:
    """400 Ws in 1.6 s at 80 % draw 312.5 W; with a modelling lamp of 150 W on 120 V: 3.85 A."""
    assert watts(energy=400, recycle=1.6, modelling=150) / 120 == pytest.approx(3.854, abs=0.001)


def test_heat_agrees_with_what_luminaires_are_marked() -> None:
    """A 500 W flood of 65° keeps about 1 m, a 100 W reflector lamp about half a metre (markings under IEC 60598, from
    memory); a bare 100 W bulb √(90 / (4π 500)) = 12 cm."""
    assert 0.8 < least_distance(500, 0.9, gain_of(65)) < 1.25
    assert 0.35 < least_distance(100, 0.9, gain_of(65)) < 0.6
    assert least_distance(100, 0.9, 1.0) == pytest.approx(0.1197, abs=1e-3)
    assert gain_of(180) == pytest.approx(2.0) and gain_of(None) == 1.0


# --- ways of leads ------------------------------------------------------------------------------------

ROOM = Plan(np.array([[0.0, 0.0], [4.0, 0.0], [4.0, 3.0], [0.0, 3.0]]), ())
ELL = Plan(np.array([[0.0, 0.0], [4.0, 0.0], [4.0, 1.6], [2.4, 1.6], [2.4, 3.0], [0.0, 3.0]]), ())


def box(x: float, y: float, long: float, wide: float, name: str = "box") -> Block:
    return Block(name, name, np.array([[x, y], [x + long, y], [x + long, y + wide], [x, y + wide]]))


DOOR = box(3.0, 0.0, 0.8, 0.8, "door")
STRIP = Block("way", "way", np.array([[3.3, 0.0], [3.7, 0.0], [2.0, 2.2], [1.7, 2.0]]))
FLOORS = {
    "a bare room": Floor(ROOM, ()),
    "a chest in the middle": Floor(ROOM, (box(1.5, 1.0, 1.0, 1.0),)),
    "a door and the way from it": Floor(ROOM, (DOOR, STRIP)),
    "a door, a bed and a chest": Floor(ROOM, (DOOR, box(0.0, 1.2, 1.1, 1.8), box(1.8, 1.2, 0.6, 0.6))),
    "an L with a cupboard": Floor(ELL, (box(0.8, 0.9, 0.9, 0.6),)),
}
STEP = 0.04
MOVES = [(a, b) for a in range(-3, 4) for b in range(-3, 4) if math.gcd(a, b) == 1 and (a, b) > (0, 0)]


def by_grid(floor: Floor, socket: float, device: tuple[float, float]) -> float:
    """Cheapest cost by a general graph library on a grid of 4 cm with 32 ways from each place; along the walls a
    metre counts once, elsewhere OPEN times."""
    hull = shapely.Polygon(floor.walls.corners)
    barred = shapely.union_all([shapely.Polygon(block.outline) for block in floor.blocks]).buffer(-1e-6)
    low, high = floor.walls.corners.min(axis=0), floor.walls.corners.max(axis=0)
    nx, ny = (round(float(v) / STEP) for v in high - low)
    cells = np.stack(np.meshgrid(np.arange(nx + 1), np.arange(ny + 1), indexing="ij"), axis=-1).reshape(-1, 2)
    points = shapely.points(cells * STEP)
    shapely.prepare([hull, barred])
    free = np.asarray(shapely.covers(hull, points) & ~shapely.intersects(barred, points)).reshape(nx + 1, ny + 1)
    wall = np.asarray(shapely.dwithin(hull.boundary, points, 1e-6)).reshape(nx + 1, ny + 1)
    graph = networkx.Graph()
    for move in MOVES:
        ends = cells + move
        keep = ((ends >= 0) & (ends <= (nx, ny))).all(axis=1)
        first, last = cells[keep], ends[keep]
        keep = free[tuple(first.T)] & free[tuple(last.T)]
        first, last = first[keep], last[keep]
        lines = shapely.linestrings(np.stack([first, last], axis=1) * STEP)
        keep = ~shapely.intersects(barred, lines) & shapely.covers(hull, lines)
        first, last = first[keep], last[keep]
        along = wall[tuple(first.T)] & wall[tuple(last.T)] & (move[0] == 0 or move[1] == 0)
        cost = STEP * math.hypot(*move) * np.where(along, 1.0, OPEN)
        graph.add_weighted_edges_from(
            (tuple(p), tuple(q), w) for p, q, w in zip(first.tolist(), last.tolist(), cost.tolist(), strict=True)
        )
    spot = floor.at(socket)
    start = (round(float(spot[0]) / STEP), round(float(spot[1]) / STEP))
    end = (round(device[0] / STEP), round(device[1] / STEP))
    return float(networkx.dijkstra_path_length(graph, start, end))


@pytest.mark.parametrize("name", FLOORS)
def test_ways_are_as_cheap_as_a_fine_grid_says(name: str) -> None:
    """The grid's 32 directions are at most 1.3 % longer than straight, and its places 4 cm apart."""
    floor = FLOORS[name]
    device = (1.4, 2.4) if name != "an L with a cupboard" else (2.0, 2.6)
    socket = 0.52
    (route,) = floor.route(np.array([socket]), np.array(device))
    grid = by_grid(floor, socket, device)
    assert route is not None
    assert route.cost <= grid + 0.06, "never dearer than what the grid found"
    assert grid <= route.cost * 1.025 + 0.12, "and never cheaper than what there is"


@settings(max_examples=60, deadline=None)
@given(
    st.floats(0.05, 13.9),
    st.tuples(st.floats(0.15, 3.85), st.floats(0.15, 2.85)),
    st.tuples(st.floats(0.3, 2.8), st.floats(0.9, 2.0), st.floats(0.3, 1.0), st.floats(0.3, 0.9)),
)
def test_a_way_is_never_shorter_than_straight_and_never_through_a_door(
    socket: float, device: tuple[float, float], chest: tuple[float, float, float, float]
) -> None:
    floor = Floor(ROOM, (DOOR, box(*chest)))
    spot = np.array(device)
    if floor.inside(spot[None])[0]:
        return
    (route,) = floor.route(np.array([socket]), spot)
    if route is None:
        return
    assert route.length >= float(np.linalg.norm(floor.at(socket) - spot)) - 2e-3
    pieces = np.linalg.norm(np.diff(route.points, axis=0), axis=1).sum()
    assert route.length == pytest.approx(float(pieces), abs=2e-3)
    drawn = shapely.LineString(route.points)
    for block in floor.blocks:
        assert not drawn.intersects(shapely.Polygon(block.outline).buffer(-2e-3)), block.name


@settings(max_examples=40, deadline=None)
@given(st.floats(0.2, 2.5), st.tuples(st.floats(0.5, 3.5), st.floats(0.5, 2.5)), st.floats(-0.01, 0.01))
def test_a_way_kept_is_as_long_as_a_way_found_anew(socket: float, device: tuple[float, float], by: float) -> None:
    """A device a centimetre elsewhere: the way that keeps its turns is as long, to second order."""
    floor = FLOORS["a bare room"]
    spot = np.array(device)
    (route,) = floor.route(np.array([socket]), spot)
    (anew,) = floor.route(np.array([socket]), spot + by)
    assert route is not None and anew is not None
    if route.leave.wall == anew.leave.wall and route.leave.slant == anew.leave.slant:
        assert route.length_on(ROOM, socket, spot + by) == pytest.approx(anew.length, abs=1e-3)


def test_a_socket_behind_a_door_has_no_way() -> None:
    floor = Floor(ROOM, (DOOR,))
    assert floor.route(np.array([3.4]), np.array([1.0, 1.0])) == (None,)


def test_what_lies_in_a_strip_is_counted_once() -> None:
    points = np.array([[0.0, 0.0], [4.0, 0.0]])
    boxes = [box(1, -1, 1, 2).outline, box(1.5, -1, 1, 2).outline]
    assert length_inside(points, boxes) == pytest.approx(1.5)
    assert clip(points[0], points[1], box(5, 5, 1, 1).outline) is None


def test_the_part_of_a_piece_inside_equals_shapely() -> None:
    dice = np.random.default_rng(8)
    met = 0
    for _ in range(300):
        cloud = dice.uniform(0, 3, (int(dice.integers(3, 9)), 2))
        hull = shapely.MultiPoint(cloud).convex_hull
        outline = shapely.get_coordinates(shapely.orient_polygons(hull))[:-1]
        start, end = dice.uniform(-0.5, 3.5, (2, 2))
        inside = shapely.LineString([start, end]).intersection(hull).length
        part = clip(start, end, outline)
        assert (0.0 if part is None else (part[1] - part[0]) * math.dist(start, end)) == pytest.approx(inside, abs=1e-6)
        met += part is not None
    assert met > 100
