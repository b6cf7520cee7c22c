"""When something on feet tips, and what keeps it standing.

Every function takes whole arrays: masses (…, n) [kg] at places (…, n, 3) [m] on a convex polygon of feet (…, k, 2)
[m], counter-clockwise. Leading axes are variants of the same thing, solved at once.

References: [1] J. L. Meriam, L. G. Kraige, Engineering Mechanics: Statics, equilibrium of rigid bodies and
friction (any edition): a body tips about an edge when the resultant leaves it, and slides when the push
exceeds μ times its weight.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.tables.supports import GRAVITY

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Stability:
    """How something stands: slope that tips it [degrees], push that tips it [N], push that slides it [N], the
    centre of mass (…, 3) [m], the whole mass [kg], and the edge it tips over."""

    angle: Array
    push: Array
    slide: Array
    centre: Array
    mass: Array
    edge: NDArray[np.intp]


def centre_of_mass(masses: Array, places: Array) -> tuple[Array, Array]:
    """Whole mass (…) [kg] and centre (…, 3) [m]. A thing without mass has its centre at the mean place."""
    whole = masses.sum(axis=-1)
    weights = np.where(whole[..., None] > 0, masses, 1.0)
    return whole, np.asarray((weights[..., None] * places).sum(axis=-2) / weights.sum(axis=-1)[..., None])


def feet(spot: Array, radius: Array, count: int, first: float) -> Array:
    """Feet (…, count, 2) on a circle round a place, the first in a plan direction [radians]."""
    turn = first + np.arange(count) * (2 * np.pi / count)
    ring = np.stack([np.cos(turn), np.sin(turn)], axis=-1)
    return np.asarray(spot[..., None, :] + np.asarray(radius)[..., None, None] * ring)


def edge_distances(points: Array, polygon: Array) -> Array:
    """(…, k) distances of points (…, 2) inside each edge of a polygon (…, k, 2); negative beyond an edge."""
    along = np.roll(polygon, -1, axis=-2) - polygon
    length = np.maximum(np.linalg.norm(along, axis=-1), 1e-12)
    away = points[..., None, :] - polygon
    return np.asarray((along[..., 0] * away[..., 1] - along[..., 1] * away[..., 0]) / length)


def restoring_moments(masses: Array, places: Array, polygon: Array) -> Array:
    """(…, k) moments of the weights about each edge that keep it standing [N m]."""
    inside = edge_distances(places[..., :2], polygon[..., None, :, :])
    return np.asarray(GRAVITY * (masses[..., None] * inside).sum(axis=-2))


def stability(masses: Array, places: Array, polygon: Array, push_height: Array, friction: float) -> Stability:
    """How it stands, by its weakest edge."""
    whole, centre = centre_of_mass(masses, places)
    inside = edge_distances(centre[..., :2], polygon)
    edge = inside.argmin(axis=-1)
    near = inside.min(axis=-1)
    angle = np.degrees(np.arctan2(near, np.maximum(centre[..., 2], 1e-9)))
    push = whole * GRAVITY * near / np.maximum(push_height, 1e-9)
    return Stability(angle, push, friction * whole * GRAVITY, centre, whole, edge)


def worst_first(offset: Array, count: int) -> float:
    """Direction of the first foot [radians] that puts an edge square under an offset load."""
    if np.hypot(*offset) < 1e-6:
        return 0.0
    return float(np.arctan2(offset[1], offset[0]) + np.pi / count)


def best_first(offset: Array) -> float:
    """Direction of the first foot [radians] that puts a leg under an offset load."""
    return float(np.arctan2(offset[1], offset[0])) if np.hypot(*offset) >= 1e-6 else 0.0


def bag_needed(
    masses: Array,
    places: Array,
    polygon: Array,
    bag: Array,
    push_height: float,
    angle: float,
    push: float,
) -> float:
    """Least mass of a bag hung at `bag` (3,) that makes it bear a slope [degrees] and a push [N]; infinite
    where no bag there can.

    About every edge e with distances d: Σ m d + b d_b ≥ tan(angle)·(Σ m h + b h_b), and
    g (Σ m d + b d_b) ≥ push × height. Both are linear in b.
    """
    held = restoring_moments(masses, places, polygon) / GRAVITY
    there = edge_distances(bag[:2], polygon)
    slope = np.tan(np.radians(angle))
    lacks = np.concatenate([push * push_height / GRAVITY - held, slope * float(masses @ places[:, 2]) - held])
    gains = np.concatenate([there, there - slope * bag[2]])
    if bool(((lacks > 1e-12) & (gains <= 1e-9)).any()):
        return float("inf")
    return float(np.max(np.where(lacks > 0, lacks / np.maximum(gains, 1e-9), 0.0)))


def hull(points: Array) -> Array:
    """Convex hull (k, 2) of points (n, 2), counter-clockwise (Andrew's monotone chain)."""
    ordered = sorted({(float(x), float(y)) for x, y in points})

    def half(row: list[tuple[float, float]]) -> list[tuple[float, float]]:
        chain: list[tuple[float, float]] = []
        for p in row:
            while len(chain) > 1 and _turn(chain[-2], chain[-1], p) <= 0:
                chain.pop()
            chain.append(p)
        return chain

    return np.array(half(ordered)[:-1] + half(ordered[::-1])[:-1])


def _turn(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> float:
    return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
