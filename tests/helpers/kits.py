"""A small market and a plain studio to search for kits in."""

from evrant.catalogue import load
from evrant.core.studio.gear import Item
from evrant.core.studio.studio import Studio
from helpers.studios import one_portrait, parse

FEW = (
    "paper-210-grey",
    "paper-135-grey",
    "bg-stands-26",
    "tension-rod-32",
    "flash-200",
    "flash-600",
    "softbox-60-90",
    "octa-90",
    "stand-180",
    "stand-260",
    "trigger-one",
    "sandbag-10",
    "lead-5",
)


def few() -> list[Item]:
    return [found for key in FEW if (found := load().find(key)) is not None]


def plain(*kinds: str) -> Studio:
    """The portrait's room and shot with only camera and lenses owned."""
    studio = parse(one_portrait())
    gear = tuple(one.changed(status="owned") for one in studio.gear if one.kind in ("camera", "lens", *kinds))
    return studio.changed(gear=gear, sets=())
