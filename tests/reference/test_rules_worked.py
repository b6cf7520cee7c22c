"""Each rule against a worked example: the number is computed here by other means than the rule's."""

import math
from typing import Any

import numpy as np
import pytest
import shapely
from helpers.studios import demo, item, line, one_portrait, parse

from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.rules.set.backdrop import floor_reach
from evrant.core.space.footprint import plan_of
from evrant.core.space.framing import hits
from evrant.core.space.scene import Scene, scene_of
from evrant.core.studio.studio import Studio
from evrant.core.wiring.loads import watts


def scene(studio: Studio, index: int = 0) -> Scene:
    found = scene_of(studio, studio.sets[index])
    assert found is not None
    return found


def margin_of(data: dict[str, Any], code: str, about: str = "") -> float:
    found = line(parse(data), code, about).margin
    assert found is not None
    return found


# --- framing --------------------------------------------------------------------------------------


def test_room_for_the_lens() -> None:
    """Half length of 1.70 m is 0.60 × 1.70 = 1.02 m high; d = 0.05 (1 + 1.02/0.036) = 1.4667 m by hand. Wide:
    0.32 × 1.70 = 0.544 m on 24 mm asks 1.1833 m. Behind the lens 0.60 m; from x = 2.0 to the wall at 5.0."""
    assert line(parse(one_portrait()), "frame.distance").need == pytest.approx(1.4667 + 0.60, abs=2e-4)
    assert margin_of(one_portrait(), "frame.distance") == pytest.approx(3.0 - 2.0667, abs=2e-4)


def test_landscape_is_ruled_by_the_short_side() -> None:
    """1.02 m on 24 mm: 0.05 (1 + 1.02/0.024) = 2.175 m."""
    data = one_portrait()
    data["shots"][0]["orientation"] = "landscape"
    assert line(parse(data), "frame.distance").need == pytest.approx(2.175 + 0.60, abs=2e-4)


def test_a_zoom_is_used_at_its_setting() -> None:
    data = one_portrait()
    data["gear"].append({"kind": "lens", "id": "zoom", "name": "zoom", "focal": 0.024, "focal_long": 0.07})
    data["sets"][0]["camera"] |= {"lens": "zoom", "focal": 0.05}
    assert margin_of(data, "frame.distance") == pytest.approx(margin_of(one_portrait(), "frame.distance"))


def test_furniture_ends_the_step_back() -> None:
    data = one_portrait()
    data["room"]["boxes"] = [
        {"id": "bed", "name": "Bed", "x": 4.2, "y": 1.0, "length": 0.8, "width": 2.0, "height": 0.5}
    ]
    assert margin_of(data, "frame.distance") == pytest.approx(4.2 - 2.0 - 2.0667, abs=2e-4)
    data["room"]["boxes"][0] |= {"y": 2.3, "width": 1.0}  # beside the strict half metre of the photographer
    assert margin_of(data, "frame.distance") == pytest.approx(3.0 - 2.0667, abs=2e-4)
    data["room"]["boxes"][0] |= {"y": 1.0, "width": 2.0, "base": 1.9, "height": 0.3}  # a shelf overhead
    assert margin_of(data, "frame.distance") == pytest.approx(3.0 - 2.0667, abs=2e-4)


def test_frame_where_the_camera_stands() -> None:
    """At 1.60 m a 50 mm shows 0.036 (1.6/0.05 − 1) = 1.116 m on the long side."""
    crop = line(parse(one_portrait()), "frame.crop")
    assert crop.have == pytest.approx(1.116, abs=1e-4)
    assert crop.margin == pytest.approx(1.116 - 1.02, abs=1e-4)


def test_depth_of_field_of_the_set() -> None:
    """H = 0.05²/(8 × 30 µm) + 0.05 = 10.4667 m; at 1.60 m near 1.3941 m, far 1.8803 m: 0.4862 m sharp; the
    face of a 1.70 m person is 0.11 × 1.70 = 0.187 m deep."""
    hyper = 0.05**2 / (8 * 30e-6) + 0.05
    near = 1.6 * (hyper - 0.05) / (hyper + 1.6 - 0.1)
    far = 1.6 * (hyper - 0.05) / (hyper - 1.6)
    assert line(parse(one_portrait()), "frame.depth").have == pytest.approx(far - near, abs=1e-6)
    assert margin_of(one_portrait(), "frame.depth") == pytest.approx(far - near - 0.187, abs=1e-4)


def test_background_for_a_level_camera_follows_w_d_plus_b_over_d() -> None:
    """Camera at the frame's middle height looks level: w (d + b)/d, d = 1.60, b = 1.10 m, w = 24/36 × 1.116."""
    width = 1.116 * 24 / 36 * (1.60 + 1.10) / 1.60
    assert line(parse(one_portrait()), "frame.backdrop_width").need == pytest.approx(width, abs=1e-4)
    top = line(parse(one_portrait()), "frame.backdrop_height").need
    found = scene(parse(one_portrait())).wanted
    assert found is not None
    assert top == pytest.approx(found.middle + 1.116 / 2 * (1.60 + 1.10) / 1.60, abs=1e-4)


def test_background_for_a_tilted_camera_by_solving_the_ray_and_the_plane() -> None:
    data = one_portrait()
    data["sets"][0]["camera"]["height"] = 1.9
    data["sets"][0]["background"]["facing"] = 10
    here = scene(parse(data))
    assert here.view is not None and here.line is not None
    found = hits(here.view, here.line)
    assert found is not None
    spot, way = here.line
    for ray, along, height in zip(here.view.rays(), *found, strict=True):
        # eye + t ray = spot + a (across) + z up, three equations in t, a, z
        across = np.array([-way[1], way[0], 0.0])
        matrix = np.column_stack([ray, -across, [0, 0, -1.0]])
        _, a, z = np.linalg.solve(matrix, np.array([*spot, 0.0]) - here.view.eye)
        assert (along, height) == pytest.approx((a, z), abs=1e-9)


def test_sweep_over_the_floor() -> None:
    """A low camera's bottom ray meets the floor where similar triangles say."""
    data = one_portrait()
    data["shots"][0] |= {"crop": "full length"}
    data["sets"][0]["camera"] |= {"x": 4.3, "height": 1.0}
    here = scene(parse(data))
    assert here.view is not None and here.wanted is not None
    lowest = min(here.view.rays(), key=lambda ray: float(ray[2]))
    run = 1.0 / -float(lowest[2]) * float(np.hypot(lowest[0], lowest[1]))
    reach = floor_reach(here)
    bottom_x = 4.3 + float(lowest[0]) / float(np.hypot(lowest[0], lowest[1])) * run
    assert reach == pytest.approx(max(bottom_x - 0.9, 0.0), abs=1e-6)
    data["shots"][0]["subjects"][0]["base"] = 0.5
    assert floor_reach(scene(parse(data))) == 0.0


# --- fit, against Shapely on the same outlines ------------------------------------------------------


@pytest.mark.parametrize("index", [0, 1])
def test_walls_of_the_demo_equal_shapely(index: int) -> None:
    here = scene(demo(), index)
    walls = plan_of(here.room)
    assert walls is not None
    ring = shapely.Polygon(walls.corners)
    for path in {thing.path for thing in here.things if thing.kind in ("light", "subject", "holder")}:
        cloud = np.vstack([t.cloud for t in here.things if t.path == path])
        points = [shapely.Point(x, y) for x, y, _ in cloud]
        signed = min((1 if ring.contains(p) else -1) * ring.exterior.distance(p) for p in points)
        code = "fit.holder_wall" if path.endswith("background") else "fit.wall"
        found = next(m for m in ledger_of(demo()).lines if m.code == code and m.about[0] == path)
        assert found.margin == pytest.approx(signed, abs=1e-6)


@pytest.mark.parametrize("index", [0, 1])
def test_top_of_each_light_equals_its_outline(index: int) -> None:
    here = scene(demo(), index)
    for light in here.lights:
        thing = next(t for t in here.things if t.path == light.path)
        top = max(float(part.solid[:, 2].max()) for part in thing.parts)
        found = next(m for m in ledger_of(demo()).lines if m.code == "fit.ceiling" and m.about[0] == light.path)
        assert found.need == pytest.approx(top, abs=1e-6)


def test_the_door_of_the_demo_equals_shapely() -> None:
    here = scene(demo(), 1)
    leaf = next(t for t in here.things if t.kind == "door")
    sweep = shapely.MultiPoint(leaf.cloud[:, :2]).convex_hull
    near = [part for t in here.things if t.kind in ("light", "holder", "subject", "camera") for part in t.parts]
    low = [p for p in near if p.solid[:, 2].min() < leaf.cloud[:, 2].max()]
    gaps = [shapely.MultiPoint(part.solid[:, :2]).convex_hull.distance(sweep) for part in low]
    found = next(m for m in ledger_of(demo()).of_set("kneeling-a") if m.code == "fit.door")
    assert found.margin is not None and found.margin <= min(gaps) + 0.003
    assert found.margin == pytest.approx(min(gaps), abs=0.003)


def test_a_thing_beside_a_reflex_corner() -> None:
    """In an L a stand may have every leg inside while the corner is among them."""
    data = one_portrait()
    data["room"]["footprint"] = {
        "kind": "ell",
        "length": 5.0,
        "width": 4.0,
        "cut_length": 2.0,
        "cut_width": 0.9,
        "cut_corner": "C",
    }
    data["sets"][0]["lights"][0] |= {"x": 2.75, "y": 3.0}
    walls = plan_of(parse(data).room)
    assert walls is not None
    here = scene(parse(data))
    thing = next(t for t in here.things if t.kind == "light")
    hull = shapely.MultiPoint(thing.cloud[:, :2]).convex_hull
    assert hull.contains(shapely.Point(3.0, 3.1))
    assert line(parse(data), "fit.wall", "lights/key").verdict is Verdict.SHORT


# --- support, power, stow, money --------------------------------------------------------------------


def test_height_of_the_mount() -> None:
    """The key aims down at the face: the mount is depth × sin(tilt) above the face's middle."""
    here = scene(parse(one_portrait()))
    light, face = here.lights[0], here.face
    assert face is not None and light.at is not None
    tilt = math.atan2(float(light.at[2] - face[2]), float(np.hypot(*(light.at - face)[:2])))
    assert line(parse(one_portrait()), "support.reach").need == pytest.approx(2.1 + 0.30 * math.sin(tilt), abs=1e-6)


def test_a_stand_that_cannot_go_low_enough() -> None:
    data = one_portrait()
    data["sets"][0]["lights"][0]["height"] = 0.5
    low = line(parse(data), "support.reach")
    assert low.verdict is Verdict.SHORT and "that low" in low.sentence


def test_mains_current_of_the_set() -> None:
    """200 W s every 1.3 s at 80 % is 192.3 W and at cos φ 0.65 295.9 VA, with a 100 W modelling lamp and 100 W of other
    things on 230 V."""
    assert watts(energy=200, recycle=1.3, modelling=100) == pytest.approx(192.31 + 100, abs=0.01)
    circuit = line(parse(one_portrait()), "power.circuit")
    assert circuit.need == pytest.approx((295.858 + 100 + 100) / 230, abs=1e-4)
    assert circuit.have == 16


@pytest.mark.parametrize(
    ("country", "volts", "share"), [("US", 120, 0.8), ("JP", 100, 0.8), ("GB", 230, 1.0), ("AU", 230, 1.0)]
)
def test_mains_by_country(country: str, volts: float, share: float) -> None:
    """Nominal voltages of IEC 60038; continuous-load shares as the table names them."""
    data = one_portrait()
    data["brief"]["country"] = country
    circuit = line(parse(data), "power.circuit")
    assert circuit.need == pytest.approx((295.858 + 200) / volts, abs=1e-4)
    assert circuit.have == pytest.approx(16 * share)
    assert circuit.basis.source


def test_the_worst_set_of_a_circuit_counts() -> None:
    data = one_portrait()
    twin = dict(data["sets"][0], id="two", name="two heads")
    twin["lights"] = [*twin["lights"], dict(twin["lights"][0], id="fill", role="fill", y=0.9)]
    data["sets"].append(twin)
    circuit = line(parse(data), "power.circuit")
    assert circuit.need == pytest.approx((2 * 395.858 + 100) / 230, abs=1e-4) and "two heads" in circuit.reason


def test_a_battery_head_needs_no_circuit() -> None:
    data = one_portrait()
    item(data, "head")["supply"] = "battery"
    assert not [m for m in ledger_of(parse(data)).lines if m.code == "power.circuit"]


def test_the_space_diagonal() -> None:
    """1.0 × 0.6 × 2.2 m: √6.2 = 2.48998 m."""
    stow = line(parse(one_portrait()), "stow.length")
    assert stow.have == pytest.approx(math.sqrt(6.2)) and stow.margin == pytest.approx(math.sqrt(6.2) - 1.37)


def test_money_counts_what_is_planned() -> None:
    data = one_portrait()
    assert line(parse(data), "budget.total").need == 39 + 90 + 215 + 38 + 49 + 48
    item(data, "box")["quantity"] = 3
    item(data, "paper")["status"] = "considered"
    item(data, "stand")["status"] = "owned"
    assert line(parse(data), "budget.total").need == 90 + 215 + 3 * 38 + 48
    item(data, "box")["currency"] = "USD"
    assert line(parse(data), "budget.total").verdict is Verdict.UNKNOWN


# --- exposure ---------------------------------------------------------------------------------------


def dome_over_square(here: Scene, luminance: float, side: float = 0.6, n: int = 200) -> float:
    """Exposure on an ideal dome to the lens from a uniform diffuse square, added up in n × n pieces:
    L cos θ (1 + cos φ)/2 dA / r²."""
    light, face, eye = here.lights[0], here.face, here.eye
    assert face is not None and light.at is not None and light.forward is not None and eye is not None
    cells = (np.arange(n) + 0.5) / n * side - side / 2
    u, v = (grid.ravel() for grid in np.meshgrid(cells, cells))
    right = np.cross(light.forward, [0.0, 0.0, 1.0])
    right /= np.linalg.norm(right)
    up = np.cross(right, light.forward)
    spots = light.at + u[:, None] * right + v[:, None] * up
    rays = spots - face
    far = np.linalg.norm(rays, axis=1)
    leaving = -(rays @ light.forward) / far
    lens = (eye - face) / np.linalg.norm(eye - face)
    response = (1 + rays @ lens / far) / 2
    return float((luminance * leaving * response / far**2).sum()) * (side / n) ** 2


def nearness(here: Scene) -> float:
    """What the exposure grows by, for a thin lens: image distance v from 1/f = 1/u + 1/v, light as v²."""
    assert here.focal is not None and here.distance is not None
    f, u = here.focal.value, here.distance
    v, usual = 1 / (1 / f - 1 / u), 1 / (1 / f - 1 / (80 * f))
    return (v / usual) ** 2


def test_flash_by_guide_number() -> None:
    """N² = H S/C: luminance of the face from GN 52 at ISO 100 (C 250), two stops of modifier loss and half a stop
    under the claim; C = 340 for the dome; a lens nearer than 80 focal lengths asks for ((1 + m) 79/80)² as much."""
    here = scene(parse(one_portrait()))
    exposure = dome_over_square(here, 250 * 52**2 / 100 / 2**2.5 / 0.36)
    stops = math.log2(exposure / (340 * 8**2 / 100 * nearness(here)))
    assert margin_of(one_portrait(), "light.power_full") == pytest.approx(stops, abs=3e-3)
    assert margin_of(one_portrait(), "light.power_lowest") == pytest.approx(6 - stops, abs=3e-3)


def test_flash_by_energy_against_integration_over_the_square() -> None:
    """37.5 lm·s per W·s, a third let through, from a uniform diffuse square: L = Φ / (π A)."""
    data = one_portrait()
    del item(data, "head")["guide_number"]
    here = scene(parse(data))
    exposure = dome_over_square(here, 200 * 37.5 * 0.34 / (math.pi * 0.36))
    asked = 340 * 64 / 100 * nearness(here)
    assert margin_of(data, "light.power_full") == pytest.approx(math.log2(exposure / asked), abs=3e-3)


def test_an_own_measurement_is_surer_than_a_claim() -> None:
    data = one_portrait()
    claimed = line(parse(data), "light.power_full")
    item(data, "head")["guide_measured"] = True
    measured = line(parse(data), "light.power_full")
    more = 0.5 + math.log2(340 / 250)  # half a stop of claim, and a dome read is a dome put in
    assert (measured.margin or 0) - (claimed.margin or 0) == pytest.approx(more)
    assert (measured.uncertainty or 1) < (claimed.uncertainty or 0) - 0.2


def test_iso_and_aperture_move_the_window_by_whole_stops() -> None:
    data = one_portrait()
    base = margin_of(data, "light.power_full")
    data["shots"][0]["iso"] = 400
    assert margin_of(data, "light.power_full") == pytest.approx(base + 2)
    data["shots"][0] |= {"iso": 100, "aperture": 4}
    assert margin_of(data, "light.power_full") == pytest.approx(base + 2)


def test_fall_off_from_head_to_feet() -> None:
    """A uniform face summed point by point on a dome toward the lens: L ∫ cos θ (1 + cos γ)/2 dA / r²."""
    here = scene(parse(one_portrait()))
    light, face, asked, eye = here.lights[0], here.face, here.wanted, here.eye
    assert light.at is not None and light.forward is not None and face is not None and eye is not None
    assert asked is not None
    right = np.cross(light.forward, [0, 0, 1.0])
    right /= np.linalg.norm(right)
    up = np.cross(right, light.forward)
    grid = (np.arange(60) + 0.5) / 60 * 0.6 - 0.3
    spots = light.at + np.array([a * right + b * up for a in grid for b in grid])

    def dome(z: float) -> float:
        point = np.array([face[0], face[1], z])
        rays = spots - point
        r = np.linalg.norm(rays, axis=1)
        lens = (eye - face) / np.linalg.norm(eye - face)
        leaves = -(rays @ light.forward) / r
        return float((leaves * (1 + rays @ lens / r) / 2 / r**2).sum())

    low = asked.top - asked.height.value + 0.02
    heights = [min(1.7, asked.top) - 0.02, *(face[2] + (low - face[2]) * s for s in (0, 0.25, 0.5, 0.75, 1))]
    levels = [math.log2(dome(z)) for z in heights]
    found = line(parse(one_portrait()), "light.falloff")
    assert found.need == pytest.approx(max(levels) - min(levels), abs=0.02)
    assert found.have == 1.5, "a crop to the waist"
