"""Rooms, slopes, ways out, bodies, overhead pictures and drawings against independent means.

Shapely 2 for polygons (computed); DIN 33402-2:2005 (from memory) for bodies; a matrix camera built here;
ezdxf for drawings opened again (computed).
"""

import io
import math

import ezdxf.filemanagement as dxf
import numpy as np
import pytest
import shapely
from helpers.products import product
from helpers.studios import demo, one_portrait, parse
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from evrant.core.base.tables.bodies import BODIES, REACH_UP
from evrant.core.judge.rules.set.way_out import IN_THE_WAY, way_out
from evrant.core.space import stature
from evrant.core.space.ceiling import ceiling_of
from evrant.core.space.footprint import plan_of
from evrant.core.space.framing import View, blur_disc, image_distance
from evrant.core.space.passage import closest, draw, joined, lasting
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.strokes import views
from evrant.core.space.things import Thing, door_place
from evrant.core.space.way import Obstacle, gaps, obstacles
from evrant.core.studio.room import Alcove, Room, Traverse, closed_round
from evrant.core.studio.shots import Subject
from evrant.files.document import Refused
from evrant.files.scaled import read_footprint, write_dxf, write_pdf, write_svg

# --- rooms -------------------------------------------------------------------------------------


def room(**fields: object) -> Room:
    return Room.model_validate(fields)


def test_an_alcove_is_the_rectangle_and_the_niche() -> None:
    shape = {
        "kind": "alcove",
        "length": 4,
        "width": 3,
        "niche_wall": "C–D",
        "niche_offset": 1,
        "niche_length": 1.2,
        "niche_depth": 0.5,
    }
    plan = plan_of(room(footprint=shape))
    assert plan is not None
    expected = shapely.union_all([shapely.box(0, 0, 4, 3), shapely.box(4 - 1 - 1.2, 3, 3, 3.5)])
    assert shapely.Polygon(plan.corners).symmetric_difference(expected).area < 1e-12
    assert isinstance(Alcove.model_validate(shape), Alcove)


def legs(*pairs: tuple[float, float]) -> list[dict[str, object]]:
    return [{"id": f"w{i}", "length": long, "turn": turn} for i, (long, turn) in enumerate(pairs)]


def test_a_round_of_walls_closes_by_the_compass_rule() -> None:
    """Worked by hand: 4 × 3 m walked with a first wall 6 cm too long misses by 6 cm in x; each corner takes back
    its share of the length walked."""
    corners, (x, y), turned = closed_round([4.06, 3.0, 4.0, 3.0], [90.0] * 4)
    assert x == pytest.approx(0.06) and y == pytest.approx(0.0, abs=1e-12) and turned == 0.0
    total = 14.06
    for corner, walked, raw in zip(
        corners, (0, 4.06, 7.06, 11.06), ((0, 0), (4.06, 0), (4.06, 3), (0.06, 3)), strict=True
    ):
        assert corner[0] == pytest.approx(raw[0] - 0.06 * walked / total) and corner[1] == pytest.approx(raw[1])
    plan = plan_of(room(footprint={"kind": "walls", "legs": legs((4.06, 90), (3, 90), (4, 90), (3, 90))}))
    assert plan is not None and np.allclose(plan.corners, corners)


def test_turns_that_miss_360_are_shared_and_a_last_wall_is_found() -> None:
    _, _, missed = closed_round([4.0, 3.0, 4.0, 3.0], [91.0, 91.0, 91.0, 91.0])
    assert missed == pytest.approx(4.0)
    open_end = [*legs((4, 90), (3, 90), (2, -90), (1, 90), (2, 90))[:5], {"id": "last", "turn": 90.0}]
    plan = plan_of(room(footprint={"kind": "walls", "legs": open_end}))
    assert plan is not None
    assert shapely.Polygon(plan.corners).area == pytest.approx(4 * 3 + 2 * 1)


@pytest.mark.parametrize(
    "bad", [legs((4, -90), (3, -90), (4, -90), (3, -90)), legs((4, 90), (3, 90), (6, 90), (1, 90), (3, 90))]
)
def test_rounds_that_cannot_be_are_refused_with_words(bad: list[dict[str, object]]) -> None:
    with pytest.raises(ValueError, match=r"cross or touch|left"):
        Traverse.model_validate({"legs": bad})


ATTIC = {
    "footprint": {"kind": "rectangle", "length": 4.0, "width": 3.0},
    "height": 2.2,
    "walls": [{"id": w, "name": w} for w in ("s", "e", "n", "w")],
    "slopes": [{"id": "r", "name": "Roof", "wall": "s", "low": 1.4, "run": 1.6}],
}


@settings(max_examples=30, deadline=None)
@given(st.floats(0.01, 3.99), st.floats(0.01, 2.99))
def test_a_slope_is_linear_interpolation(x: float, y: float) -> None:
    ceiling = ceiling_of(room(**ATTIC))
    assert ceiling is not None
    assert ceiling.height(x, y) == pytest.approx(float(np.interp(y, [0, 1.6, 3.0], [1.4, 2.2, 2.2])))


# --- ways --------------------------------------------------------------------------------------

ANY = Thing("any", "any", "box", ())
CORNER = st.tuples(st.floats(-2, 2), st.floats(-2, 2))


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(CORNER, st.floats(0.05, 0.6)), min_size=2, max_size=5))
def test_gaps_between_outlines_equal_shapely(circles: list[tuple[tuple[float, float], float]]) -> None:
    blocks = []
    for (x, y), radius in circles:
        angles = np.linspace(0, 2 * np.pi, 9)[:-1] + 0.1
        ring = np.column_stack([x + radius * np.cos(angles), y + radius * np.sin(angles), np.zeros(8)])
        blocks.append(Obstacle("c", ring, ANY, 0))
    found, near, far = gaps(blocks)
    for i in range(len(blocks)):
        for j in range(i + 1, len(blocks)):
            one, other = (shapely.Polygon(blocks[k].points[:, :2]) for k in (i, j))
            assert found[i, j] == pytest.approx(one.distance(other), abs=1e-9) or one.intersects(other)
            if not one.intersects(other):
                assert math.dist(near[i, j], far[i, j]) == pytest.approx(found[i, j], abs=1e-9)


def passes(scene: Scene, width: float, start: np.ndarray) -> bool:
    """Whether a disc gets from start to a door: the floor shrunk by its radius keeps both in one piece."""
    assert scene.walls is not None
    pieces = [shapely.Polygon(scene.walls.corners)]
    exits = []
    for door in scene.room.doors:
        place = door_place(scene.room, scene.walls, door)
        assert place is not None
        out = -scene.walls.inward(place[2])
        pieces.append(shapely.Polygon([place[0], place[1], place[1] + out * 3, place[0] + out * 3]))
        exits.append(shapely.Point((place[0] + place[1]) / 2 + out * 1.5))
    blocks = obstacles(t for t in scene.things if t.kind in IN_THE_WAY)
    solid = shapely.union_all([shapely.MultiPoint(b.points[:, :2]).convex_hull for b in blocks])
    free = shapely.union_all(pieces).difference(solid).buffer(-width / 2 + 1e-6, quad_segs=64)
    near = min(shapely.get_parts(free), key=lambda piece: piece.distance(shapely.Point(start)), default=None)
    return near is not None and any(near.buffer(1e-6).contains(one) for one in exits)


@settings(max_examples=25, deadline=None)
@given(st.floats(2.4, 3.4), st.floats(0.4, 1.4), st.floats(0.3, 1.2), st.floats(0.3, 1.0))
def test_the_way_out_equals_the_shrunk_floor_of_shapely(x: float, y: float, long: float, wide: float) -> None:
    data = one_portrait()
    data["room"]["boxes"] = [{"id": "b", "name": "Box", "x": x, "y": y, "length": long, "width": wide, "height": 0.8}]
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None and scene.mark is not None
    found = way_out(scene)
    assert found is not None
    if found.width > 0.08:
        assert passes(scene, found.width - 0.02, scene.mark)
        assert not passes(scene, found.width + 0.02, scene.mark)


@settings(max_examples=25, deadline=None)
@given(st.floats(0.9, 4.0), st.floats(0.9, 2.8), st.floats(0.3, 1.6), st.floats(0.3, 1.2))
def test_whoever_tends_a_thing_gets_out_from_its_best_side(x: float, y: float, long: float, wide: float) -> None:
    """A thing on a table, the camera released from afar, a box by chance: discs start 75 cm off it, all round."""
    data = product()
    data["room"]["boxes"] = [{"id": "b", "name": "Box", "x": x, "y": y, "length": long, "width": wide, "height": 0.8}]
    studio = parse(data)
    scene = scene_of(studio, studio.sets[0])
    assert scene is not None and scene.mark is not None and scene.walls is not None
    found = way_out(scene)
    assert found is not None
    blocks = obstacles(t for t in scene.things if t.kind in IN_THE_WAY)
    solid = shapely.union_all([shapely.MultiPoint(b.points[:, :2]).convex_hull for b in blocks])
    starts = [scene.mark + 0.75 * np.array([math.cos(a), math.sin(a)]) for a in np.arange(16) * math.pi / 8]
    free = [one for one in starts if scene.walls.contains(one[None])[0] and not solid.contains(shapely.Point(one))]
    if found.width > 0.08 and free:
        assert not any(passes(scene, found.width + 0.02, one) for one in free)
    if free:
        assert any(passes(scene, found.width - 0.02, one) for one in free) or found.width < 0.08


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10_000), st.integers(3, 40), st.integers(3, 30), st.floats(0.3, 0.95))
def test_what_stays_open_longest_equals_labels_of_scipy(seed: int, wide: int, deep: int, open_: float) -> None:
    """Floors by chance, bars of every rank: closed one after another until scipy's labels part begin and ends."""
    dice = np.random.default_rng(seed)
    floor = dice.random((wide, deep)) < open_
    ranks = dice.integers(0, 30, (wide, deep)).astype(np.intp)
    begin = np.array([dice.integers(wide), dice.integers(deep)], dtype=np.intp)
    ends = np.column_stack([dice.integers(wide, size=3), dice.integers(deep, size=3)]).astype(np.intp)

    def joined_at(rank: int) -> bool:
        labels, _ = ndimage.label(floor & (ranks >= rank))
        return any(labels[tuple(end)] == labels[tuple(begin)] != 0 for end in ends)

    expected = max((rank for rank in range(30) if joined_at(rank)), default=-1)
    assert lasting(floor, ranks, begin, ends) == expected
    labels, _ = ndimage.label(floor)
    from_ends = np.isin(labels, [labels[tuple(end)] for end in ends if floor[tuple(end)]]) & floor
    assert np.array_equal(joined(floor, ends), from_ends)
    low, step, spot = np.array([0.5, -1.0]), np.array([0.04, 0.05]), dice.uniform(-1, 2, 2)
    cells = np.argwhere(floor)
    far = [math.dist(low + (cell + 0.5) * step, spot) for cell in cells]
    found = closest(floor, low, step, spot)
    if not len(cells):
        assert found.tolist() == [-1, -1]
    else:
        assert math.dist(low + (found + 0.5) * step, spot) == pytest.approx(min(far), abs=1e-12)


def test_a_piece_is_drawn_over_every_cell_that_shapely_says_it_runs_through() -> None:
    """But for those it cuts by less than it is looked at; each cell keeps the least number of what runs over it."""
    dice = np.random.default_rng(4)
    low, step, shape = np.zeros(2), np.full(2, 0.04), (30, 20)
    starts, ends = dice.uniform(0.02, 0.78, (12, 2)), dice.uniform(0.02, 0.78, (12, 2))
    drawn = np.full(shape, 99, dtype=np.intp)
    draw(starts, ends, low, step, 0.02, drawn)
    cells = [[shapely.box(x * 0.04, y * 0.04, x * 0.04 + 0.04, y * 0.04 + 0.04) for y in range(20)] for x in range(30)]
    for x, row in enumerate(cells):
        for y, cell in enumerate(row):
            run = [shapely.LineString([a, b]).intersection(cell).length for a, b in zip(starts, ends, strict=True)]
            through = [number for number, long in enumerate(run) if long > 0.029]
            touched = [number for number, long in enumerate(run) if long > 0]
            assert drawn[x, y] == 99 or drawn[x, y] in touched
            assert not through or drawn[x, y] <= through[0]


# --- bodies ------------------------------------------------------------------------------------


@pytest.mark.parametrize("body", BODIES, ids=lambda b: b.name)
def test_drawn_bodies_agree_with_the_table(body: object) -> None:
    """DIN 33402-2:2005 (from memory): eye, shoulder and sitting heights within 3 % of stature."""
    from evrant.core.base.tables.bodies import Body

    assert isinstance(body, Body)
    s = body.stature
    assert stature.EYE * s == pytest.approx(body.eye, abs=0.03 * s)
    assert stature.SHOULDER * s == pytest.approx(body.shoulder, abs=0.03 * s)
    assert stature.SITTING_HEIGHT * s == pytest.approx(body.sitting, abs=0.03 * s)
    seated = stature.extent(Subject(id="p", posture="seated"), s)
    assert seated.top == pytest.approx(stature.SEAT + body.sitting, abs=0.03 * s)
    assert seated.face == pytest.approx(stature.SEAT + body.sitting_eye, abs=0.03 * s)


@pytest.mark.parametrize(("stature", "grip"), [(1.750, 2.075), (1.625, 1.940)])
def test_the_reach_up_is_the_tables(stature: float, grip: float) -> None:
    assert REACH_UP * stature == pytest.approx(grip, abs=0.015)


# --- pictures ----------------------------------------------------------------------------------


def test_a_camera_overhead_projects_like_a_matrix_camera() -> None:
    """An independent camera: rotation rows right, down, forward and image distance f (1 + m)."""
    eye, aim, focal = np.array([1.0, 2.0, 1.9]), np.array([1.0, 2.0, 0.1]), 0.05
    view = View.aimed(eye, aim, focal, 0.036, 0.024, level=np.array([0.0, 1.0]))
    rotation = np.array([[1.0, 0, 0], [0, -1.0, 0], [0, 0, -1.0]])
    points = np.array([[1.2, 2.1, 0.1], [0.7, 1.8, 0.3], [1.0, 2.0, 0.1]])
    local = (points - eye) @ rotation.T
    image = focal * (1 + focal / (1.8 - focal))
    assert image == pytest.approx(image_distance(1.8, focal))
    x, y = image * local[:, 0] / local[:, 2] / 0.018, -image * local[:, 1] / local[:, 2] / 0.012
    assert np.allclose(view.project(points), np.column_stack([x, y]))


def test_blur_disc_worked() -> None:
    """By similar triangles: 85 mm at f/2, 2 m away, 1 m behind: 42.5 mm · 1/3 = 14.17 mm."""
    assert blur_disc(0.085, 2.0, 2.0, 1.0) == pytest.approx(0.014167, abs=1e-5)


# --- drawings ----------------------------------------------------------------------------------


def test_a_dxf_opened_again_has_the_rooms_lengths() -> None:
    studio = demo()
    scene = scene_of(studio, studio.sets[1])
    assert scene is not None
    text = write_dxf(views(scene))
    document = dxf.read(io.StringIO(text))
    assert document.header["$INSUNITS"] == 6 and not document.audit().errors
    walls = [e for e in document.modelspace().query("LWPOLYLINE") if e.dxf.layer == "walls"]
    points = np.array([p[:2] for p in walls[0].get_points("xy")])  # type: ignore[attr-defined]
    assert np.allclose(np.ptp(points, axis=0), [3.4, 2.9]) and len(walls) == 3
    outline = read_footprint(text.encode())
    assert [(c.x.value, c.y.value) for c in outline.corners] == [(0, 0), (3.4, 0), (3.4, 2.9), (0, 2.9)]


def test_a_footprint_in_millimetres_comes_in_metres_from_its_lowest_corner() -> None:
    document = dxf.new("R2000")
    document.header["$INSUNITS"] = 4
    ring = [(1000, 1000), (1000, 4000), (5000, 4000), (5000, 2500), (3500, 2500), (3500, 1000)]
    document.modelspace().add_lwpolyline(ring, close=True)
    document.modelspace().add_lwpolyline([(0, 0), (100, 0), (100, 100)], close=True)
    out = io.StringIO()
    document.write(out)
    corners = [(c.x.value, c.y.value) for c in read_footprint(out.getvalue().encode()).corners]
    assert corners == [(0, 0), (2.5, 0), (2.5, 1.5), (4, 1.5), (4, 3), (0, 3)]


@pytest.mark.parametrize("raw", [b"", b"no drawing at all", b"0\nSECTION\n2\nENTITIES\n0\nENDSEC\n0\nEOF\n"])
def test_a_file_that_is_no_drawing_is_refused_with_words(raw: bytes) -> None:
    with pytest.raises(Refused, match=r"DXF|closed polyline"):
        read_footprint(raw)


def test_svg_and_pdf_are_in_true_scale() -> None:
    studio = demo()
    scene = scene_of(studio, studio.sets[1])
    assert scene is not None
    found = views(scene)
    svg = write_svg(found, "A & B <test>", 20)
    assert "A &amp; B &lt;test&gt;" in svg
    first = svg.split('class="walls" points="')[1].split('"')[0]
    points = np.array([[float(v) for v in pair.split(",")] for pair in first.split()])
    assert np.allclose(np.ptp(points, axis=0), [3400 / 20, 2900 / 20], atol=0.01)
    pdf = write_pdf(found, "test")
    assert pdf.startswith(b"%PDF") and len(pdf) > 2000


@pytest.mark.parametrize(("x", "y", "widest"), [(4.4, 0.3, 0.25), (4.4, 0.45, 0.30), (4.4, 1.9, 0.80)])
def test_a_stand_in_the_doorway_is_in_the_way_though_the_door_opens_outward(x: float, y: float, widest: float) -> None:
    """A stand with legs of 0.5 m before a door 0.8 m wide from 4.0: at most what is free beside the circle."""
    data = one_portrait()
    data["room"]["doors"][0]["swing"] = "out"
    data["sets"][0]["lights"][0] |= {"x": x, "y": y, "height": 1.5}
    scene = scene_of(parse(data), parse(data).sets[0])
    assert scene is not None
    found = way_out(scene)
    assert found is not None and found.width <= widest
    assert (found.width < 0.5) == (y < 1.0)
