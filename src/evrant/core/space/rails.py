"""Rails as lines in the room: those the room has, and the crossbar of a background's holder."""

from dataclasses import dataclass

import numpy as np

from evrant.core.base.quantity import Figure
from evrant.core.space.booms import pivot_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector, unit
from evrant.core.studio.room import value

CLAMPS = "rail or crossbar"
"""The kind of support that needs a rail."""
ON_RAIL = 0.05
"""How near a clamp is to its rail [m]."""
BARS = frozenset({"two stands and crossbar", "floor-to-ceiling poles"})
"""Systems that hold a background by a bar that more can be clamped to."""


@dataclass(frozen=True, eq=False)
class RailLine:
    """A rail from one end to the other (3,) [m], with what is known of it."""

    name: str
    path: str
    start: Vector
    end: Vector
    load: Figure | None
    end_load: Figure | None
    diameter: Figure | None
    thickness: Figure | None
    material: str | None
    lies_on: tuple[str | None, str | None] = (None, None)
    """Paths of the rails its ends lie on."""

    @property
    def span(self) -> float:
        return float(np.linalg.norm(self.end - self.start))

    def nearest(self, spot: Vector) -> tuple[float, float, Vector]:
        """Distance of a point from the rail [m], how far along it the nearest place is [m], and that place."""
        along = (self.end - self.start) / max(self.span, 1e-9)
        place = min(max(float((spot - self.start) @ along), 0.0), self.span)
        there = self.start + along * place
        return float(np.linalg.norm(spot - there)), place, there


def rails_of(scene: Scene) -> tuple[RailLine, ...]:
    """Every rail whose ends are known."""
    found = []
    for rail in scene.room.rails:
        if rail.x is None or rail.y is None or rail.to_x is None or rail.to_y is None or rail.height is None:
            continue
        high = rail.height.value
        start, end = np.array([rail.x.value, rail.y.value, high]), np.array([rail.to_x.value, rail.to_y.value, high])
        if float(np.linalg.norm(end - start)) > 0.05:
            section = (rail.diameter, rail.thickness, rail.material)
            path = f"room/rails/{rail.id}"
            on = tuple(f"room/rails/{key}" if key else None for key in (rail.first_on, rail.second_on))
            found.append(
                RailLine(rail.name.lower(), path, start, end, rail.load, rail.end_load, *section, (on[0], on[1]))
            )
    return (*found, *_crossbar(scene))


def _path(key: str | None) -> str | None:
    return f"room/rails/{key}" if key else None


def _crossbar(scene: Scene) -> tuple[RailLine, ...]:
    holder, ends, height = scene.holder, scene.background_ends, scene.plan.background.height
    if holder is None or ends is None or height is None or scene.bare_wall is not None:
        return ()
    if holder.system not in BARS:
        return ()
    out = value(holder.overhang) or 0.0
    along = unit(ends[1] - ends[0]) * out
    start, end = np.array([*(ends[0] - along), height]), np.array([*(ends[1] + along), height])
    section = (holder.bar_diameter, holder.bar_wall, holder.bar_material)
    name = "background's crossbar"
    return (RailLine(name, f"{scene.path}/background", start, end, holder.load, None, *section),)


def rail_under(scene: Scene, light: Light) -> tuple[RailLine, float, float, Vector] | None:
    """The rail nearest to where a light's clamp is: with its distance [m], the place along it [m] and in the room."""
    spot = pivot_of(light)
    rails = rails_of(scene)
    if spot is None or not rails:
        return None
    best = min(rails, key=lambda rail: rail.nearest(spot)[0])
    return best, *best.nearest(spot)
