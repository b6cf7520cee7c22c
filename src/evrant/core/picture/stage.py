"""What stands before the lens: the surfaces of the solve, the shining faces, those in the picture and what the solve
leaves out (stands, booms, rolls), each with what it returns."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.tables import finishes
from evrant.core.light.bodies import own_body
from evrant.core.light.bounce.polygons import area_of, normal_of
from evrant.core.light.bounce.surfaces import Bands, Surface, grey, hull_faces
from evrant.core.light.colour import SKIN, luminance, paint
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit
from evrant.core.light.surroundings import surroundings
from evrant.core.space import rounds as shapes
from evrant.core.space.rounds import LIMB, Round, placed_rounds, table_of
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector
from evrant.core.space.stature import USUAL
from evrant.core.space.things import Part, Thing
from evrant.core.studio.gear import Backdrop
from evrant.core.studio.room import value
from evrant.core.studio.shots import Subject

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]
HAIR, EYE, TOP, TROUSERS = grey(0.035), grey(0.36), np.array([0.23, 0.25, 0.29]), np.array([0.055, 0.06, 0.075])
METAL, STAND = grey(0.35), grey(0.06)
FUR = {"cat": np.array([0.30, 0.24, 0.18]), "dog": np.array([0.36, 0.25, 0.15])}
"""Reflectances of hair, eyes, clothes, fur, metal and stands; usual ones, from memory."""
SHINES = {"satin": (0.10, 40.0), "mirror-like": (0.85, 0.0)}
"""Of a thing's surface: share of its reflectance that leaves as from a mirror, and how rough it is: the power of a lobe
round the mirrored ray, 0 for a flat mirror."""
GLAZE, LENS = 0.03, 0.08
"""Share that a wet eye throws back as from a mirror, Fresnel's of water and cornea at right angles, and what
the two faces of an uncoated spectacle lens do; from memory."""
MOST = 26


@dataclass(frozen=True, eq=False)
class Faces:
    """Flat faces: corners (f, 26, 3) with counts, normals and offsets; which show both sides; what front and back
    return and what passes (f, 3); what shines as π times luminance by source (f, or −1) and how; names."""

    corners: Points
    counts: Whole
    normals: Points
    offsets: Floats
    both: NDArray[np.bool_]
    front: Bands
    back: Bands
    through: Bands
    gloss: Floats
    rough: Floats
    source: Whole
    names: tuple[str, ...]
    paths: tuple[str, ...]

    def numbers(self, name: str) -> list[int]:
        """The faces of that name."""
        return [k for k, one in enumerate(self.names) if one == name]


@dataclass(frozen=True, eq=False)
class Stage:
    """Faces, smooth bodies as a table with groups (g, 6), what each of their rows returns (n, 3), how it shines (n, 2),
    what each group is called, and by group the subject it is the body of."""

    faces: Faces
    parts: Floats
    groups: Floats
    returns: Bands
    shines: Floats
    names: tuple[str, ...]
    owners: tuple[str, ...]
    seam: tuple[Vector, Vector] | None

    @cached_property
    def group_of(self) -> Whole:
        """The group of each row."""
        return np.searchsorted(self.groups[:, 1], np.arange(len(self.parts)), side="right")


def stage_of(lit: Lit) -> Stage:
    """Everything that a picture of the set may show."""
    scene, alone = lit.scene, surroundings(lit.scene, bodies=False)
    named = [] if isinstance(alone, Missing) else list(alone.surfaces)
    named += [body for beam in lit.beams for body in beam.source.bodies]
    extra = [*_on_the_table(scene)]
    heads = [s for thing in scene.things for s in _heads(thing)]
    faces = faces_of([*named, *extra, *heads], lit)
    groups: list[tuple[str, str, list[tuple[Round, Bands, tuple[float, float]]]]] = []
    for who in scene.shot.subjects:
        groups += [(who.name.lower(), own_body(who.id), list(_body(scene, who)))]
    for thing in scene.things:
        bars = [(one, STAND, (0.0, 0.0)) for part in thing.parts for one in _bars(thing, part)]
        if bars:
            groups.append((thing.name, "", bars))
    rows = [row for _, _, parts in groups for row in parts]
    table = table_of([one for one, _, _ in rows])
    return Stage(
        faces,
        table,
        _groups(table, [len(parts) for _, _, parts in groups]),
        np.array([bands for _, bands, _ in rows]).reshape(-1, 3),
        np.array([shine for _, _, shine in rows]).reshape(-1, 2),
        tuple(name for name, _, _ in groups),
        tuple(owner for _, owner, _ in groups),
        _seam(scene),
    )


def finish_of(stage: Stage, face: Whole, part: Whole, normals: Points) -> tuple[Bands, Floats, Floats]:
    """What each point returns (n, 3), the share of it as from a mirror, and how rough that is."""
    faces = stage.faces
    at, row = np.maximum(face, 0), np.maximum(part, 0)
    front = np.einsum("nc,nc->n", faces.normals[at], normals) > 0
    returns = np.where(front[:, None], faces.front[at], faces.back[at])
    gloss, rough = faces.gloss[at].copy(), faces.rough[at].copy()
    smooth = part >= 0
    if smooth.any():
        returns[smooth] = stage.returns[row[smooth]]
        gloss[smooth], rough[smooth] = stage.shines[row[smooth], 0], stage.shines[row[smooth], 1]
    return returns, gloss, rough


def _groups(table: Floats, sizes: Sequence[int]) -> Floats:
    """First row, row after the last and a ball round each run of rows."""
    found = np.zeros((len(sizes), 6))
    start = 0
    for row, size in zip(found, sizes, strict=True):
        balls = table[start : start + size, 11:15]
        centre = (balls[:, :3].min(axis=0) + balls[:, :3].max(axis=0)) / 2
        reach = float((np.linalg.norm(balls[:, :3] - centre, axis=1) + balls[:, 3]).max())
        row[:] = (start, start + size, *centre, reach)
        start += size
    return found


def faces_of(surfaces: Iterable[Surface], lit: Lit) -> Faces:
    """Faces of surfaces, and after them those that shine."""
    rings: list[Points] = []
    rows: list[tuple[bool, Bands, Bands, Bands, float, float, int]] = []
    names: list[str] = []
    paths: list[str] = []
    none = grey(0.0)

    def put(ring: Points, surface: Surface | None, name: str, path: str, source: int) -> None:
        if len(ring) > MOST or len(ring) < 3:
            return
        rings.append(ring)
        names.append(name)
        paths.append(path)
        if surface is None:
            rows.append((False, none, none, none, 0.0, 0.0, source))
            return
        through = surface.through if surface.through is not None else none
        back = surface.back if surface.back is not None else none
        rows.append((surface.back is not None, surface.reflectance, back, through, surface.gloss, surface.rough, -1))

    for surface in surfaces:
        for ring in surface.polygons:
            put(ring, surface, surface.name, surface.path, -1)
    for number, beam in enumerate(lit.beams):
        source = beam.source
        if area_of(source.face) > 1e-8:
            put(source.face + source.forward * 2e-4, None, beam.name, beam.path, number)
    corners, counts = np.zeros((len(rings), MOST, 3)), np.zeros(len(rings), dtype=np.int64)
    for k, ring in enumerate(rings):
        counts[k] = len(ring)
        corners[k, : len(ring)] = ring
        corners[k, len(ring) :] = ring[-1]
    normals = np.array([normal_of(ring) for ring in rings]).reshape(-1, 3)
    both, front, back, through, gloss, rough, source_of = zip(*rows, strict=True) if rows else ((),) * 7
    return Faces(
        corners,
        counts,
        normals,
        np.einsum("kc,kc->k", normals, corners[:, 0]),
        np.array(both, dtype=np.bool_),
        np.array(front).reshape(-1, 3),
        np.array(back).reshape(-1, 3),
        np.array(through).reshape(-1, 3),
        np.array(gloss, dtype=float),
        np.array(rough, dtype=float),
        np.array(source_of, dtype=np.int64),
        tuple(names),
        tuple(paths),
    )


def _body(scene: Scene, who: Subject) -> Iterator[tuple[Round, Bands, tuple[float, float]]]:
    """The smooth parts of a subject, what each returns and how it shines."""
    if scene.mark is None:
        return
    height = who.height.value if who.height else USUAL[who.kind]
    own = who.reflectance.value / 100 if who.reflectance else None
    skin = SKIN if own is None or who.kind != "person" else np.minimum(SKIN * own / luminance(SKIN), 0.97)
    usual = finishes.SUBJECTS[who.kind] if own is None else own
    fur = FUR.get(who.kind, HAIR)
    covers = {
        shapes.SKIN: skin,
        shapes.HAIR: HAIR,
        shapes.EYE: EYE,
        shapes.IRIS: HAIR,
        shapes.TOP: TOP,
        shapes.TROUSERS: TROUSERS,
        shapes.FUR: fur if own is None else np.minimum(fur * own / luminance(fur), 0.97),
        shapes.THING: grey(usual),
        shapes.METAL: METAL,
        shapes.RIM: STAND,
    }
    shine = SHINES.get(who.shine, (0.0, 0.0))
    for one in placed_rounds(who, height, float(scene.mark[0]), float(scene.mark[1]), scene.facing):
        thing = one.cover == shapes.THING and who.kind == "object"
        yield (
            one,
            covers[one.cover],
            shine if thing else (GLAZE, 0.0) if one.cover in (shapes.EYE, shapes.IRIS) else (0.0, 0.0),
        )


def _bars(thing: Thing, part: Part) -> Iterator[Round]:
    """Columns, booms, crossbars and the legs of stands as round bars."""
    if thing.kind not in ("light", "holder", "backdrop") or len(part.solid) < 4:
        return
    if part.kind in ("column", "boom", "roll"):
        half = len(part.solid) // 2
        a, b = part.solid[:half].mean(axis=0), part.solid[half:].mean(axis=0)
        radius = float(np.linalg.norm(part.solid[:half] - a, axis=1).mean())
        if part.kind != "roll" and np.linalg.norm(b - a) > 0.02 and radius < 0.08:
            yield Round(LIMB, _triple(a), _triple(b), (radius, radius), 0.0)
    elif part.kind == "legs":
        apex, ring = part.solid[-1], part.solid[:-1]
        for k in (0, len(ring) // 3, 2 * len(ring) // 3):
            yield Round(LIMB, _triple(apex), _triple(ring[k] + (0.0, 0.0, 0.012)), (0.011, 0.011), 0.0)


def _triple(point: Vector) -> tuple[float, float, float]:
    return float(point[0]), float(point[1]), float(point[2])


def _heads(thing: Thing) -> Iterator[Surface]:
    """Heads of lights and rolls of paper as solids."""
    for number, part in enumerate(thing.parts):
        if (thing.kind == "light" and part.kind == "head") or part.kind == "roll":
            faces = tuple(hull_faces(part.solid))
            yield Surface(thing.name, thing.path, faces, STAND, body=f"{thing.path} {part.kind} {number}")


def _on_the_table(scene: Scene) -> Iterator[Surface]:
    """The part of a background that runs on over a table, which the solve takes for the table's top."""
    ends, height, item = scene.background_ends, scene.plan.background.height, scene.backdrop
    if ends is None or height is None or item is None or item.reflectance is None or scene.line is None:
        return
    if scene.lands != "on the table":
        return
    low = scene.surface + 1.5e-3
    run = (value(item.length) or 0.0) - (height - low)
    if run <= 0.05:
        return
    left, right = (np.array([*end, low]) for end in ends)
    ahead = np.array([*scene.line[1], 0.0]) * min(run, ON_TABLE)
    ring = np.array([left, left + ahead, right + ahead, right])
    returns = paint(item.reflectance.value, item.colour)
    yield Surface("background on the table", f"{scene.path}/background", (ring,), returns, blocks=False)


ON_TABLE = 0.8
"""How far at most a background lies forward over a table [m]."""


def _seam(scene: Scene) -> tuple[Vector, Vector] | None:
    """Where a background that runs on over floor or table bends: a point of the line and the way into the room."""
    item: Backdrop | None = scene.backdrop
    if item is None or scene.line is None or scene.lands == "hangs free" or scene.background_ends is None:
        return None
    low = scene.surface if scene.lands == "on the table" else 0.0
    spot, way = scene.line
    return np.array([*spot, low]), np.array([*way, 0.0])
