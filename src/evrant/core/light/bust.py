"""A head and shoulders seen from the lens, shaded by the light that reaches each point of its skin.

The bust is ellipsoids joined softly, of one skin; direct light is exact at every pixel's point and shaded by the head
itself from points on the source, so shadow edges are as soft as the source is large; returned light comes
from every patch by its vector configuration factor at the face.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.memo import Memo
from evrant.core.light.account import leaving
from evrant.core.light.bounce import kernels
from evrant.core.light.bounce.enclosure import direct
from evrant.core.light.bounce.patches import Blockers, blockers_of
from evrant.core.light.bounce.surfaces import hull_faces
from evrant.core.light.colour import LUMINANCE, SKIN, coded
from evrant.core.light.face import nose_of, to_lens
from evrant.core.light.lit import Lit
from evrant.core.space.solids import Points, Vector, ball, unit
from evrant.core.space.stature import USUAL, extent

HALF_WIDTH, HALF_HEIGHT, MIDDLE = 0.16, 0.19, 0.030
"""What the picture shows, and how far its middle lies under the eyes [m]."""
BROW = 0.78
# Ellipsoids in the face's own axes (ahead, left, up), about the eyes' middle: centre, radii [m], from the body
# proportions the drawings use, and how softly each runs into the rest [m].
Ellipsoid = tuple[tuple[float, float, float], tuple[float, float, float], float]
PARTS: tuple[Ellipsoid, ...] = (
    ((-0.088, 0.0, 0.030), (0.098, 0.076, 0.100), 0.010),
    ((-0.066, 0.0, -0.052), (0.070, 0.058, 0.066), 0.020),
    ((-0.022, 0.0, -0.100), (0.026, 0.024, 0.018), 0.022),
    ((0.004, 0.0, -0.040), (0.020, 0.013, 0.012), 0.012),
    ((-0.008, 0.0, -0.014), (0.014, 0.009, 0.030), 0.012),
    ((-0.020, 0.028, 0.024), (0.018, 0.026, 0.010), 0.020),
    ((-0.020, -0.028, 0.024), (0.018, 0.026, 0.010), 0.020),
    ((-0.011, 0.0, -0.067), (0.013, 0.020, 0.005), 0.010),
    ((-0.013, 0.0, -0.078), (0.013, 0.016, 0.006), 0.010),
    ((-0.040, 0.038, -0.034), (0.036, 0.028, 0.030), 0.034),
    ((-0.040, -0.038, -0.034), (0.036, 0.028, 0.030), 0.034),
    ((-0.102, 0.0, -0.160), (0.046, 0.044, 0.090), 0.020),
    ((-0.120, 0.0, -0.300), (0.096, 0.205, 0.112), 0.035),
)
SOCKETS: tuple[Ellipsoid, ...] = (
    ((0.008, 0.031, 0.002), (0.012, 0.015, 0.008), 0.012),
    ((0.008, -0.031, 0.002), (0.012, 0.015, 0.008), 0.012),
)
SHADING = (0, 1, 2, 3, 4, 5, 6, 11, 12)
"""Parts that shade others."""


@dataclass(frozen=True)
class Model:
    """What is shown: its parts, what is taken out of them, which of them shade, and the window on it [m]."""

    parts: tuple[Ellipsoid, ...]
    sockets: tuple[Ellipsoid, ...]
    shading: tuple[int, ...]
    half_width: float
    half_height: float
    middle: float
    colour: tuple[float, float, float]

    @property
    def reach(self) -> float:
        """Half the depth the rays are followed through [m]."""
        return 2.2 * self.half_height


PERSON = Model(PARTS, SOCKETS, SHADING, HALF_WIDTH, HALF_HEIGHT, MIDDLE, (SKIN[0], SKIN[1], SKIN[2]))


def model_of(lit: Lit) -> Model:
    """A bust for a person; a pale ball of the subject's size for anything else."""
    lead = lit.scene.shot.lead
    if lead.kind == "person":
        return PERSON
    tall = lead.height.value if lead.height else USUAL[lead.kind]
    size = extent(lead, tall)
    r = round(max(min(size.top, size.width) / 2, 0.005), 3)
    return Model((((0.0, 0.0, 0.0), (r, r, r), r * 0.01),), (), (), 1.3 * r, 1.3 * r, 0.0, (0.6, 0.6, 0.6))


STEPS = 40
_CAST: Memo[tuple[Points, Points, NDArray[np.bool_]]] = Memo(8_000_000, lambda found: found[0].nbytes * 3)


@dataclass(frozen=True, eq=False)
class Bust:
    """Red, green and blue (rows, columns, 3) 0–255, and which pixels show the bust."""

    pixels: NDArray[np.uint8]
    shown: NDArray[np.bool_]

    def smoothed(self) -> NDArray[np.uint8]:
        """Red, green, blue and cover (rows, columns, 4), its outline softened over three pixels."""
        cover = self.shown.astype(float)
        near = np.dstack([_blurred(self.pixels[..., k] * cover) for k in range(3)])
        soft = _blurred(cover)
        around = near / np.maximum(soft, 1e-6)[..., None]
        colour = np.where(self.shown[..., None], self.pixels, around)
        return np.dstack([colour, 255 * soft]).clip(0, 255).astype(np.uint8)


def _blurred(image: NDArray[np.float64]) -> NDArray[np.float64]:
    """Mean of three by three pixels."""
    wide = np.pad(image, 1)
    rows = wide[:-2] + wide[1:-1] + wide[2:]
    return np.asarray((rows[:, :-2] + rows[:, 1:-1] + rows[:, 2:]) / 9)


def bust(lit: Lit, rows: int = 84) -> Bust | None:
    """The bust under the lit set's light, exposed for the face."""
    if lit.key is None or lit.scene.face is None:
        return None
    model = model_of(lit)
    columns = int(rows * model.half_width / model.half_height)
    points, normals, shown = _cast(lit, model, rows, columns)
    exposure = _direct(lit, model, points, normals) + _returned(lit, normals)
    white = lit.total("face") * 250 / 340
    balance = lit.beams[lit.key].source.flux
    relative = exposure / max(white, 1e-12) / (balance / (balance @ LUMINANCE))
    skin = np.array(model.colour) * relative
    out = np.zeros((rows * columns, 3))
    out[shown] = coded(np.clip(skin * 1.05, 0.0, 1.0))
    return Bust((out * 255 + 0.5).astype(np.uint8).reshape(rows, columns, 3), shown.reshape(rows, columns))


def _axes(lit: Lit) -> tuple[Vector, Vector, Vector]:
    ahead = nose_of(lit.scene)
    return ahead, np.array([-ahead[1], ahead[0], 0.0]), np.array([0.0, 0.0, 1.0])


def _cast(lit: Lit, model: Model, rows: int, columns: int) -> tuple[Points, Points, NDArray[np.bool_]]:
    """Points and normals of what parallel rays from the lens meet first, and which pixels meet any; remembered
    for a view of the face in its own axes."""
    assert lit.scene.face is not None
    lens = to_lens(lit.scene)
    turn = np.stack(_axes(lit))
    view = np.round(turn @ lens, 4)
    key = f"{view.tolist()} {rows} {columns} {model.half_height}"
    local, normals, near = _CAST.get_by(key, lambda: _march(model, unit(view), rows, columns))
    lift = 8e-3 * model.half_height
    return local @ turn + lit.scene.face + normals @ turn * lift, normals @ turn, near


def _march(model: Model, lens: Vector, rows: int, columns: int) -> tuple[Points, Points, NDArray[np.bool_]]:
    """A march along the distance to the softly joined parts, in the face's own axes."""
    side = np.cross(np.array([0.0, 0.0, 1.0]), lens)
    side = unit(side) if np.linalg.norm(side) > 0.05 else np.array([0.0, 1.0, 0.0])
    up = np.cross(lens, side)
    x = ((np.arange(columns) + 0.5) / columns * 2 - 1) * model.half_width
    y = (1 - (np.arange(rows) + 0.5) / rows * 2) * model.half_height - model.middle
    grid_x, grid_y = np.meshgrid(x, y)
    here = grid_x.ravel()[:, None] * side + grid_y.ravel()[:, None] * up + lens * model.reach * 0.77
    alive = np.arange(len(here))
    near = np.zeros(len(here), dtype=bool)
    close = 5e-3 * model.half_height
    for _ in range(STEPS):
        step = _distance(model, here[alive])
        here[alive] -= lens * (step * 0.9)[:, None]
        near[alive] = step < close
        alive = alive[(step >= close) & (here[alive] @ lens > -model.reach)]
        if not alive.size:
            break
    local = here[near]
    steps = np.eye(3) * close
    slope = np.stack([_distance(model, local + d) - _distance(model, local - d) for d in steps], axis=1)
    return local, slope / np.maximum(np.linalg.norm(slope, axis=1, keepdims=True), 1e-12), near


def _distance(model: Model, points: Points) -> NDArray[np.float64]:
    """About how far points are from the bust [m], negative inside; the parts joined softly."""
    found = np.full(len(points), 1.0)
    for part in model.parts:
        found = _joined(found, _ellipsoid(points, part), part[2])
    for part in model.sockets:
        found = -_joined(-found, _ellipsoid(points, part), part[2])
    return found


def _ellipsoid(points: Points, part: Ellipsoid) -> NDArray[np.float64]:
    centre, radii, _ = part
    scaled = (points - centre) / radii
    out = np.sqrt((scaled**2).sum(axis=1))
    slope = np.sqrt(((scaled / radii) ** 2).sum(axis=1))
    return np.asarray(out * (out - 1.0) / np.maximum(slope, 1e-9))


def _joined(one: NDArray[np.float64], other: NDArray[np.float64], soft: float) -> NDArray[np.float64]:
    """The lesser of two distances with a rounded seam."""
    share = np.clip(0.5 + 0.5 * (one - other) / soft, 0.0, 1.0)
    return np.asarray(one + (other - one) * share - soft * share * (1 - share))


def _shades(lit: Lit, model: Model) -> Blockers:
    """The head's larger parts as solids that shade it."""
    assert lit.scene.face is not None
    turn = np.stack(_axes(lit))
    bodies = []
    for i in model.shading:
        centre, radii, _ = model.parts[i]
        inner = tuple(r * 0.95 for r in radii)
        cloud = ball(centre, (inner[0], inner[1], inner[2])) @ turn + lit.scene.face
        bodies.append((hull_faces(np.asarray(cloud)), True))
    return blockers_of(bodies)


def _direct(lit: Lit, model: Model, points: Points, normals: Points) -> NDArray[np.float64]:
    """Exposure (n, 3) straight from the lights, shaded by the head and by what stands in the set."""
    head = _shades(lit, model)
    sources = [b.source for b in lit.beams]
    found = np.zeros((len(points), 3))
    for i, source in enumerate(sources):
        before = head if lit.settled is None else lit.settled.before(sources, i, lit.lead).plus(head)
        facing = ((source.face[None] - points[:, None]) * normals[:, None]).sum(axis=2).max(axis=1) > 0
        if facing.any():
            light = direct(source, points[facing], normals[facing], before)
            found[facing] += light[:, None] * source.flux * float(lit.doses[i])
    if lit.settled is not None and lit.settled.glossy:
        thrown = lit.settled.thrown(sources, points, normals, lit.lead)
        found += np.einsum("ps,sb->pb", thrown * lit.doses, np.array([source.flux for source in sources]))
    return found


def _returned(lit: Lit, normals: Points) -> NDArray[np.float64]:
    """Exposure (n, 3) by way of the room, for receivers at the face with those normals."""
    rest, out = lit.settled, leaving(lit)
    if rest is None or out is None or lit.scene.face is None:
        return np.zeros((len(normals), 3))
    ways, angles = np.zeros((rest.patches.count, 3)), np.zeros(rest.patches.count)
    p = rest.patches
    kernels.surround(
        np.ascontiguousarray(lit.scene.face, dtype=float),
        *(p.corners, p.counts, p.normals, p.middles, p.spread),
        *rest.in_the_way(lit.lead).arrays,
        ways,
        angles,
    )
    ways[rest.own(lit.lead)] = 0.0
    seen = np.maximum(normals @ ways.T, 0.0) * _brow(normals)[:, None]
    return np.asarray(seen @ out)


def _brow(normals: Points) -> NDArray[np.float64]:
    """Less of the room reaches what looks down, under chin and brow."""
    down = np.maximum(-normals[:, 2], 0.0)
    return np.asarray(1 - (1 - BROW) * down)
