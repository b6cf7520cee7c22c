"""Lights on the mains: each with its leads and the way they run."""

from dataclasses import dataclass

from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash, Lamp, Lead
from evrant.core.wiring.floor import Found, routes

Mains = Flash | Lamp


@dataclass(frozen=True)
class Fed:
    """A light on the mains: its head, leads from the head to the wall, and what is known of its way."""

    light: Light
    head: Mains
    leads: tuple[Lead, ...]
    found: Found | None

    @property
    def path(self) -> str:
        return self.light.path


def fed(scene: Scene) -> list[Fed]:
    """Lights of a set that are fed by the mains, each with the way that suits it best."""
    found = []
    for light in scene.lights:
        head = light.head
        if head is None or head.supply != "mains":
            continue
        leads = tuple(
            item
            for key in (light.place.lead, light.place.lead_on)
            if key and isinstance(item := scene.gear.get(key), Lead)
        )
        ways = routes(scene, light)
        found.append(Fed(light, head, leads, ways[0] if ways else None))
    return found
