"""What a shiny thing mirrors into the lens: rays from the lens to its surface, thrown back by the law of reflection to
the surfaces of the set, to lights, windows and the camera.

A mirror-like thing shows each as it is; a satin one spreads a ray over a cone. Brightness is told against a perfect
white at the subject, so 1 is white and 0.18 a grey card.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull

from evrant.core.light.account import leaving
from evrant.core.light.bodies import prisms
from evrant.core.light.bounce.sources import seen_luminance
from evrant.core.light.bounce.surfaces import TOUCH
from evrant.core.light.colour import LUMINANCE
from evrant.core.light.lit import Lit
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector, unit
from evrant.core.space.stature import extent
from evrant.core.studio.shots import Subject

ROWS = 40
"""Rays across the picture of the thing."""
SATIN, SATIN_RAYS = 9.0, 9
"""A satin surface spreads a mirrored ray so far from it [degrees]; from memory."""
CAMERA = 0.06
"""Radius of what is seen of the camera round its lens [m]."""
DARK, BURNT = 0.1, 2.0
"""Darker than a tenth of white looks black; two times white is burnt out; project choice."""
MARCH = 70
REACH = 3.0
"""How far from a shiny thing its regions are drawn [m]."""
Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Mirrored:
    """A picture (rows, columns) of brightness against white at the subject, NaN beside the thing; the share of its
    surface by what it mirrors; middle direction from it of what is dark (3,), or None."""

    picture: Floats
    shares: tuple[tuple[str, float], ...]
    dark: float
    burnt: float
    camera: float
    dark_by: str
    dark_way: Vector | None


def shiny(scene: Scene) -> Subject | None:
    """The lead subject, where its surface mirrors."""
    lead = scene.shot.lead if scene.shot.subjects else None
    return lead if lead is not None and lead.kind == "object" and lead.shine != "matt" else None


def reflections(scene: Scene, rows: int = ROWS) -> tuple[NDArray[np.bool_], Points, Points, Points] | None:
    """Which pixels (rows, rows) show the shiny thing, its points (n, 3), their normals and the mirrored rays (n, 3)."""
    lead, eye = shiny(scene), scene.eye
    if lead is None or eye is None or scene.mark is None or lead.height is None:
        return None
    outer = extent(lead, lead.height.value)
    centre, turn = _placed(scene, lead, outer.top)
    half = np.array([outer.depth, outer.width, outer.top]) / 2
    ahead = unit(centre - eye)
    right = np.cross(ahead, [0.0, 0.0, 1.0])
    right = unit(right) if np.linalg.norm(right) > 0.02 else np.array([1.0, 0.0, 0.0])
    up = np.cross(right, ahead)
    size = float(np.linalg.norm(half)) if lead.shape in (None, "box") else float(np.hypot(half[:2].max(), half[2]))
    reach = (half.max() if lead.shape == "sphere" else size) / float(np.linalg.norm(centre - eye)) * 1.04
    grid = (np.arange(rows) + 0.5) / rows * 2 - 1
    x, y = np.meshgrid(grid * reach, -grid * reach)
    ways = ahead + x.reshape(-1, 1) * right + y.reshape(-1, 1) * up
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    shape = lead.shape or "box"
    spots, met = _march((eye - centre) @ turn.T, ways @ turn.T, half, shape)
    normals = _normals(spots, half, shape) @ turn
    points, ways = spots @ turn + centre, ways[met]
    away = ways - 2 * (ways * normals).sum(axis=1, keepdims=True) * normals
    return met.reshape(rows, rows), points, normals, away


def _placed(scene: Scene, lead: Subject, tall: float) -> tuple[Vector, Points]:
    """Middle of the thing, and the rows of its own axes (ahead, left, up)."""
    assert scene.mark is not None
    angle = math.radians(scene.facing)
    ahead, left = np.array([math.cos(angle), math.sin(angle), 0.0]), np.array([-math.sin(angle), math.cos(angle), 0.0])
    base = lead.base.value if lead.base else 0.0
    spot = np.array([*scene.mark, base + tall / 2]) + ahead * lead.ahead + left * lead.across
    return spot, np.stack([ahead, left, np.array([0.0, 0.0, 1.0])])


def _march(eye: Vector, ways: Points, half: Vector, shape: str) -> tuple[Points, NDArray[np.bool_]]:
    """Where rays from a point meet the shape, in its own axes, and which do."""
    far, reach = float(np.linalg.norm(eye)), float(np.linalg.norm(half))
    along = np.full(len(ways), max(far - 1.2 * reach, 1e-4))
    close = 1e-4 * reach
    for _ in range(MARCH):
        along = along + _distance(eye + ways * along[:, None], half, shape)
    spots = eye + ways * along[:, None]
    met = (_distance(spots, half, shape) < close * 5) & (along < far + 2 * reach)
    return spots[met], met


def _distance(p: Points, half: Vector, shape: str) -> Floats:
    """Distance of points to a shape that fills a box of half sides (ahead, left, up), negative inside."""
    if shape == "sphere":
        scaled = np.sqrt(((p / half) ** 2).sum(axis=1))
        slope = np.sqrt(((p / half**2) ** 2).sum(axis=1))
        return np.asarray(scaled * (scaled - 1) / np.maximum(slope, 1e-12))
    if shape == "cylinder":
        level = np.sqrt(((p[:, :2] / half[:2]) ** 2).sum(axis=1)) - 1
        out = np.column_stack([level * half[:2].min(), np.abs(p[:, 2]) - half[2]])
    elif shape == "ring":
        thick = min(half[2], half[:2].min() / 2)
        level = np.hypot(p[:, 0], p[:, 1]) - (half[:2].min() - thick)
        return np.asarray(np.hypot(level, p[:, 2]) - thick)
    else:
        out = np.abs(p) - half
    return np.asarray(np.minimum(out.max(axis=1), 0) + np.linalg.norm(np.maximum(out, 0), axis=1))


def _normals(spots: Points, half: Vector, shape: str) -> Points:
    step = 1e-3 * float(half.min())
    found = np.stack(
        [_distance(spots + d, half, shape) - _distance(spots - d, half, shape) for d in np.eye(3) * step], axis=1
    )
    return np.asarray(found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-12))


def mirrored(lit: Lit, rows: int = ROWS) -> Mirrored | None:
    """What the shiny lead subject of a lit set mirrors; None for a matt one, or where room or camera is not known."""
    held: dict[int, Mirrored | None] = lit.__dict__.setdefault("_mirrored", {})
    if rows not in held:
        held[rows] = _mirrored(lit, rows)
    return held[rows]


def _mirrored(lit: Lit, rows: int) -> Mirrored | None:
    found, given, lead = reflections(lit.scene, rows), leaving(lit), shiny(lit.scene)
    if found is None or given is None or lit.settled is None or lead is None or lit.exposed <= 0:
        return None
    shown, points, normals, away = found
    if not len(points):
        return None
    rays = [away] if lead.shine == "mirror-like" else list(_cone(away, normals))
    bright, owners = np.zeros(len(points)), np.empty(len(points), dtype=object)
    for number, ways in enumerate(rays):
        light, names = _traced(lit, given, points + normals * 1e-4, ways)
        bright += light / len(rays)
        owners = names if number == 0 else owners
    bright /= lit.exposed
    picture = np.full(shown.shape, np.nan)
    picture[shown] = bright
    names, counts = np.unique(owners.astype(str), return_counts=True)
    shares = sorted(((str(n), float(c) / len(owners)) for n, c in zip(names, counts, strict=True)), key=lambda s: -s[1])
    dark = bright < DARK
    by, way = "", None
    if dark.any():
        inner, times = np.unique(owners[dark].astype(str), return_counts=True)
        by = str(inner[int(times.argmax())])
        way = unit(away[dark & (owners == by)].mean(axis=0))
    camera = float((owners == "camera").mean())
    return Mirrored(picture, tuple(shares), float(dark.mean()), float((bright > BURNT).mean()), camera, by, way)


def _cone(away: Points, normals: Points) -> Iterable[Points]:
    """Rays spread round mirrored ones, the middle one first; none below the surface."""
    yield away
    side = np.cross(away, normals + np.array([1e-3, 2e-3, 3e-3]))
    side /= np.maximum(np.linalg.norm(side, axis=1, keepdims=True), 1e-12)
    other = np.cross(away, side)
    spread = math.tan(math.radians(SATIN))
    for k in range(SATIN_RAYS - 1):
        angle = 2 * math.pi * k / (SATIN_RAYS - 1)
        reach = spread * (1.0 if k % 2 else 0.6)
        ways = away + reach * (math.cos(angle) * side + math.sin(angle) * other)
        below = (ways * normals).sum(axis=1) < 0.01
        ways[below] = away[below]
        yield ways / np.linalg.norm(ways, axis=1, keepdims=True)


def _traced(lit: Lit, given: Points, points: Points, ways: Points) -> tuple[Floats, NDArray[np.object_]]:
    """Radiosity [lx s] of what each ray meets first, and whose it is."""
    rest, scene = lit.settled, lit.scene
    assert rest is not None and scene.eye is not None
    own = set(rest.own(lit.lead).tolist())
    rings: list[tuple[Points, int, int | None]] = [
        (ring, i, None) for i, ring in enumerate(rest.patches.rings) if i not in own
    ]
    rings += [(foot, UNDER_IT, None) for foot in _feet(scene)]
    faces: list[tuple[Points, int, int | None]] = [(beam.source.face, -1, k) for k, beam in enumerate(lit.beams)]
    near = np.full(len(points), np.inf)
    light, names = np.zeros(len(points)), np.full(len(points), "nothing", dtype=object)
    radiosity = given @ LUMINANCE
    for ring, patch, beam in [*rings, *faces]:
        normal = np.cross(ring[1] - ring[0], ring[2] - ring[0])
        normal = normal / max(float(np.linalg.norm(normal)), 1e-12)
        closing = ways @ normal
        facing = (closing < -1e-9) if beam is None else (np.abs(closing) > 1e-9)
        with np.errstate(divide="ignore", invalid="ignore"):
            far = ((ring[0] - points) @ normal) / closing
        hope = np.flatnonzero(facing & (far > 1e-4) & (far < near + (2e-3 if beam is not None else 0.0)))
        if not hope.size:
            continue
        hits = points[hope] + ways[hope] * far[hope, None]
        edges = np.roll(ring, -1, axis=0) - ring
        turns = np.stack([np.cross(edge, hits - corner) @ normal for edge, corner in zip(edges, ring, strict=True)])
        inner = hope[(turns >= -1e-12).all(axis=0)]
        near[inner] = np.minimum(far[inner], near[inner])
        if patch == UNDER_IT:
            light[inner], names[inner] = 0.0, "its own foot"
            continue
        if beam is None:
            light[inner], names[inner] = radiosity[patch], rest.surfaces[rest.patches.surface[patch]].name
            continue
        source = lit.beams[beam].source
        cosines = -(ways[inner] @ source.forward)
        light[inner] = math.pi * seen_luminance(source, cosines) * float(lit.doses[beam])
        names[inner] = np.where(cosines > 0, lit.beams[beam].name, f"{lit.beams[beam].name}'s back")
    _camera(points, ways, scene.eye, near, light, names)
    return light, names


UNDER_IT = -2
"""Where the thing stands on something, nothing of that is lit."""


def _feet(scene: Scene) -> list[Points]:
    """Where the lead subject touches what it stands on, front up."""
    found = []
    for faces in prisms(scene, scene.shot.lead):
        lowest = min(faces, key=lambda face: float(face[:, 2].mean()))
        if float(np.ptp(lowest[:, 2])) < 1e-6 and abs(float(lowest[0, 2]) - scene.surface) < TOUCH:
            found.append(lowest[::-1])
    return found


def _camera(points: Points, ways: Points, eye: Vector, near: Floats, light: Floats, names: NDArray[np.object_]) -> None:
    """The camera as a black ball round the lens."""
    along = ((eye - points) * ways).sum(axis=1)
    beside = np.linalg.norm(points + ways * along[:, None] - eye, axis=1)
    seen = (along > 0) & (along < near) & (beside < CAMERA)
    light[seen], names[seen] = 0.0, "camera"


def family(scene: Scene, height: float) -> tuple[Points, ...]:
    """Where at a height above the floor anything shows in the shiny thing: a plan outline (n, 2) for each of its
    surfaces, of the mirrored rays that reach that height within 3 m and inside the room. A ball or a ring shows all
    that is round it, so it has none."""
    lead, found = shiny(scene), reflections(scene, 24)
    if found is None or lead is None or lead.shape in ("sphere", "ring"):
        return ()
    _, points, normals, away = found
    facing = np.round(normals @ _placed(scene, lead, 0.0)[1].T, 1)
    faces = [(facing == face).all(axis=1) for face in np.unique(facing, axis=0)] if lead.shape != "cylinder" else []
    regions = [_region(scene, points[face], away[face], height) for face in faces or [np.full(len(points), True)]]
    return tuple(region for region in regions if region is not None)


def _region(scene: Scene, points: Points, away: Points, height: float) -> Points | None:
    with np.errstate(divide="ignore", invalid="ignore"):
        far = (height - points[:, 2]) / away[:, 2]
    good = np.isfinite(far) & (far > 0) & (far < REACH)
    spots = points[good, :2] + away[good, :2] * far[good, None]
    if scene.walls is not None and len(spots):
        spots = spots[scene.walls.contains(spots)]
    if len(spots) < 4 or np.linalg.matrix_rank(spots - spots.mean(axis=0), tol=1e-3) < 2:
        return None
    return np.asarray(spots[ConvexHull(spots).vertices])
