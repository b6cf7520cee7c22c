"""Whole rooms for the bounce engine's checks: surfaces, lights and the receivers both engines are asked for."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from evrant.core.light.bounce.shell import shell_of
from evrant.core.light.bounce.sources import Source, square_face
from evrant.core.light.bounce.surfaces import Bands, Surface, fitted, grey, hull_faces
from evrant.core.space.ceiling import ceiling_of
from evrant.core.space.figures import placed_coarse
from evrant.core.space.footprint import plan_of
from evrant.core.space.solids import Points, cuboid, frame_axes, unit
from evrant.core.space.tents import panels
from evrant.core.studio.gear import Tent
from evrant.core.studio.room import Room
from evrant.core.studio.shots import Subject
from helpers.radiance import lit_face

MARK = np.array([1.45, 1.45, 1.25])
CUBE = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], dtype=float)


@dataclass(frozen=True)
class Case:
    """A room with its lights; `hard` where light reaches the mark only by way of walls or a sheet."""

    name: str
    surfaces: list[Surface]
    sources: list[Source]
    mark: Points
    hard: bool = False


def shell(room: dict[str, object], floor: Bands, ceiling: Bands, walls: list[Bands]) -> list[Surface]:
    """The surfaces of an empty room; walls share the last finish given."""
    model = Room.model_validate(room)
    plan, roof = plan_of(model), ceiling_of(model)
    assert plan is not None and roof is not None
    parts = shell_of(plan, roof)
    found = [
        Surface("floor", "floor", parts.floor, floor, blocks=False),
        Surface("ceiling", "ceiling", parts.ceiling, ceiling, blocks=False),
    ]
    for i, polygons in enumerate(parts.walls):
        found.append(Surface(f"wall {i + 1}", "wall", polygons, walls[min(i, len(walls) - 1)], blocks=False))
    if parts.cheeks:
        found.append(Surface("cheeks", "ceiling", parts.cheeks, ceiling, blocks=False))
    return found


def lamp(at: Points, aim: Points, width: float, height: float, flux: float = 1000.0, body: bool = True) -> Source:
    """A rectangular cosine face, black behind and in front."""
    forward = unit(aim - at)
    face = square_face(at, forward, width, height)
    source = Source("lamp", face, forward, frame_axes(forward)[0], grey(flux))
    return Source("lamp", face, forward, source.right, source.flux, bodies=(lit_face(source),) if body else ())


def solid(name: str, low: tuple[float, float, float], high: tuple[float, float, float], value: float) -> Surface:
    return Surface(name, name, tuple(hull_faces(cuboid(low, high))), grey(value), body=name)


def sheet(name: str, corners: list[list[float]], front: Bands, back: Bands, through: Bands | None = None) -> Surface:
    return Surface(name, name, (np.array(corners),), front, back=back, through=through)


BOX: dict[str, object] = {"footprint": {"kind": "rectangle", "length": 3.4, "width": 2.9}, "height": 2.35}
KEY = (np.array([2.3, 0.7, 2.0]), MARK)


def bare_box() -> Case:
    return Case("bare box", shell(BOX, grey(0.6), grey(0.6), [grey(0.6)]), [lamp(*KEY, 0.1, 0.1)], MARK)


def finishes() -> Case:
    walls = [grey(0.7), grey(0.2), grey(0.5), grey(0.85)]
    return Case("finishes", shell(BOX, grey(0.25), grey(0.85), walls), [lamp(*KEY, 0.3, 0.3)], MARK)


def low_slope() -> Case:
    room = {**BOX, "slopes": [{"id": "s", "wall": "wall-3", "low": 1.3, "run": 1.6}]}
    return Case("low slope", shell(room, grey(0.3), grey(0.8), [grey(0.6)]), [lamp(*KEY, 0.4, 0.4)], MARK)


def ell() -> Case:
    room: dict[str, object] = {
        "footprint": {"kind": "ell", "length": 4.2, "width": 3.6, "cut_length": 1.8, "cut_width": 1.6},
        "height": 2.5,
    }
    at = np.array([3.4, 1.0, 1.9])
    return Case("L room", shell(room, grey(0.3), grey(0.8), [grey(0.6)]), [lamp(at, MARK, 0.5, 0.5)], MARK)


def occluder() -> Case:
    """A large background, a wardrobe, and a head fired into the corner behind the camera."""
    panel = sheet(
        "background", [[0.25, 0.4, 0.0], [0.25, 2.4, 0.0], [0.25, 2.4, 2.1], [0.25, 0.4, 2.1]], grey(0.18), grey(0.6)
    )
    wardrobe = solid("wardrobe", (2.2, 2.35, 0.0), (3.2, 2.9, 1.9), 0.4)
    surfaces = fitted([*shell(BOX, grey(0.3), grey(0.85), [grey(0.7)]), panel, wardrobe])
    at = np.array([2.6, 0.9, 1.7])
    return Case("occluder", surfaces, [lamp(at, np.array([3.4, 0.0, 2.35]), 0.2, 0.2)], MARK, hard=True)


def softbox() -> Case:
    return Case("softbox key", shell(BOX, grey(0.3), grey(0.85), [grey(0.7)]), [lamp(*KEY, 0.9, 0.6)], MARK)


def corner() -> Case:
    at = np.array([2.7, 0.6, 1.75])
    surfaces = shell(BOX, grey(0.3), grey(0.85), [grey(0.8)])
    return Case("corner bounce", surfaces, [lamp(at, np.array([3.4, 0.0, 2.35]), 0.2, 0.2)], MARK, hard=True)


def coloured() -> Case:
    green = np.array([0.45, 0.70, 0.45])
    walls = [grey(0.8), green, grey(0.8), np.array([0.7, 0.5, 0.4])]
    return Case("coloured wall", shell(BOX, grey(0.3), grey(0.85), walls), [lamp(*KEY, 0.6, 0.6)], MARK)


def scrim() -> Case:
    at = np.array([2.9, 1.45, 1.6])
    diffuser = sheet(
        "scrim",
        [[2.3, 2.15, 0.7], [2.3, 0.75, 0.7], [2.3, 0.75, 2.1], [2.3, 2.15, 2.1]],
        grey(0.4),
        grey(0.4),
        grey(0.5),
    )
    surfaces = [*shell(BOX, grey(0.3), grey(0.85), [grey(0.7)]), diffuser]
    return Case("scrim", surfaces, [lamp(at, MARK, 0.15, 0.15)], MARK, hard=True)


def subject() -> Case:
    """Someone sits between the mark and the far wall, as the app cuts a person down to prisms."""
    who = Subject(id="who", kind="person", posture="seated")
    solids = placed_coarse(who, 1.72, 0.85, 1.45, 10.0)
    bodies = [Surface("who", "who", tuple(hull_faces(one)), grey(0.3), body=f"who {i}") for i, one in enumerate(solids)]
    surfaces = fitted([*shell(BOX, grey(0.3), grey(0.85), [grey(0.7)]), *bodies])
    return Case("body beside the face", surfaces, [lamp(*KEY, 0.6, 0.6)], MARK)


def bounced_past_a_body() -> Case:
    """A head fired into the corner behind the camera, and someone who stands at the far wall."""
    who = Subject(id="who", kind="person", posture="standing")
    solids = placed_coarse(who, 1.72, 0.8, 1.45, 0.0)
    bodies = [Surface("who", "who", tuple(hull_faces(one)), grey(0.3), body=f"who {i}") for i, one in enumerate(solids)]
    surfaces = fitted([*shell(BOX, grey(0.3), grey(0.85), [grey(0.8)]), *bodies])
    at = np.array([2.7, 0.6, 1.75])
    return Case(
        "corner bounce past a body", surfaces, [lamp(at, np.array([3.4, 0.0, 2.35]), 0.2, 0.2)], MARK, hard=True
    )


def mirror() -> Case:
    """A small mirror at the dark side sends the lamp's beam on."""
    card = sheet("mirror", [[1.4, 2.3, 1.0], [2.0, 2.3, 1.0], [2.0, 2.3, 1.6], [1.4, 2.3, 1.6]], grey(0.9), grey(0.9))
    surfaces = [*shell(BOX, grey(0.1), grey(0.1), [grey(0.1)]), replace(card, gloss=1.0)]
    return Case("mirror to the dark side", surfaces, [lamp(np.array([2.3, 0.6, 1.5]), MARK, 0.1, 0.1)], MARK)


def glowing_table() -> Case:
    """A lamp under a translucent table, the mark above it."""
    top = sheet(
        "table",
        [[1.1, 1.1, 0.75], [1.8, 1.1, 0.75], [1.8, 1.8, 0.75], [1.1, 1.8, 0.75]],
        grey(0.35),
        grey(0.35),
        grey(0.5),
    )
    at = np.array([1.45, 1.45, 0.25])
    top = replace(top, widest=0.16)
    surfaces = [*shell(BOX, grey(0.3), grey(0.85), [grey(0.7)]), top]
    spot = np.array([1.45, 1.45, 0.95])
    return Case("translucent table from below", surfaces, [lamp(at, MARK, 0.05, 0.05)], spot)


def tent(lights: int) -> Case:
    """A box of cloth with a hole to the front, and one lamp outside or two."""
    item = Tent(id="tent", name="Tent", width=0.4, height=0.4, opening=0.14, reflectance=40, through=0.5)
    walls = panels(item, np.array([1.45, 1.45]), 90.0, 0.75, 0.0)
    cloth = [
        Surface(
            "tent",
            "tent",
            (one.outline,),
            grey(0.4),
            grey(0.4),
            None if one.wall == "floor" else grey(0.5),
            str(i),
            widest=0.13,
        )
        for i, one in enumerate(walls)
    ]
    table = solid("table", (1.1, 1.1, 0.0), (1.8, 1.8, 0.75), 0.5)
    surfaces = fitted([*shell(BOX, grey(0.3), grey(0.85), [grey(0.7)]), table, *cloth])
    spot = np.array([1.45, 1.45, 0.87])
    ends = [np.array([1.45, y, 1.0]) for y in (0.75, 2.15)]
    sources = [lamp(at, spot, 0.05, 0.05) for at in ends[:lights]]
    return Case(f"tent, {lights} lamps", surfaces, sources, spot)


def tent_one() -> Case:
    return tent(1)


def tent_two() -> Case:
    return tent(2)


CASES: tuple[Callable[[], Case], ...] = (
    bare_box,
    finishes,
    low_slope,
    ell,
    occluder,
    softbox,
    corner,
    coloured,
    scrim,
    subject,
    bounced_past_a_body,
    mirror,
    glowing_table,
    tent_one,
    tent_two,
)


def receivers(case: Case, across: int = 5) -> tuple[Points, Points, list[slice]]:
    """Six faces at the mark, then `across`² points on each wall, ceiling and floor: points, normals, and the
    slice of each surface."""
    points, ways, slices = [np.repeat(case.mark[None], 6, axis=0)], [CUBE], []
    here = 6
    for surface in case.surfaces:
        if surface.blocks or surface.name == "cheeks":
            continue
        spots, normals = _over(surface, across)
        points.append(spots)
        ways.append(normals)
        slices.append(slice(here, here + len(spots)))
        here += len(spots)
    return np.vstack(points), np.vstack(ways), slices


def _over(surface: Surface, across: int) -> tuple[Points, Points]:
    """Cell middles of a lattice over the surface's own rectangle, those that lie on it, just off it."""
    from evrant.core.light.bounce.polygons import normal_of

    spots, normals = [], []
    for polygon in surface.polygons:
        up = normal_of(polygon)
        edge = unit(polygon[1] - polygon[0])
        side = np.cross(up, edge)
        u, v = (polygon - polygon[0]) @ edge, (polygon - polygon[0]) @ side
        for a in (np.arange(across) + 0.5) / across:
            for b in (np.arange(across) + 0.5) / across:
                x, y = u.min() + a * (u.max() - u.min()), v.min() + b * (v.max() - v.min())
                point = polygon[0] + x * edge + y * side
                ring = np.roll(polygon, -1, axis=0) - polygon
                if (np.cross(ring, point - polygon) @ up > 1e-9).all():
                    spots.append(point + up * 1e-3)
                    normals.append(up)
    return np.array(spots), np.array(normals)
