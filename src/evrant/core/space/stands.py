"""What carries a light: a stand by itself, or a boom arm with the stand it is put on."""

from collections.abc import Mapping

from evrant.core.base.memo import Memo
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.supports import CARD_STANDS
from evrant.core.studio.gear import Item, Stand
from evrant.core.studio.sets import LightPlace

ARM = "boom arm"
"""The kind of support that is put on a stand."""
OF_COLUMN = ("min_height", "max_height", "foot_radius", "legs", "castors")
_JOINED: Memo[Stand] = Memo(1_000_000, lambda stand: 3000)


def stand_of(gear: Mapping[str, Item], place: LightPlace) -> Stand | None:
    """What carries a light as one stand; a boom arm on a stand is a boom stand with the figures of both."""
    found = gear.get(place.support or "")
    if not isinstance(found, Stand):
        return None
    column = column_of(gear, place)
    return found if column is None else _JOINED.get("joined", (found, column), lambda: _joined(found, column))


def column_of(gear: Mapping[str, Item], place: LightPlace) -> Stand | None:
    """The stand a light's boom arm is put on."""
    arm, column = gear.get(place.support or ""), gear.get(place.stands_on or "")
    held = isinstance(arm, Stand) and arm.use == ARM and isinstance(column, Stand) and column.use != ARM
    return column if held and isinstance(column, Stand) else None


def holds_at(stand: Stand, middle: float) -> bool:
    """Whether a card whose middle is so high [m] can be clamped to a stand."""
    low, high = stand.min_height.value if stand.min_height else 0.0, stand.max_height.value if stand.max_height else 0.0
    return stand.use in CARD_STANDS and low <= middle <= high


def _joined(arm: Stand, column: Stand) -> Stand:
    """Both as one: feet and heights of the stand, reach and load of the arm; named after the one that lacks figures."""
    mass = None
    if arm.mass is not None and column.mass is not None:
        mass = Figure(
            value=arm.mass.value + column.mass.value,
            pm=(arm.mass.pm**2 + column.mass.pm**2) ** 0.5,
            origin=max((arm.mass, column.mass), key=lambda figure: figure.pm).origin,
        )
    lacks = column.mass is None or any(getattr(column, name) is None for name in OF_COLUMN)
    of_column = {name: getattr(column, name) for name in OF_COLUMN}
    return arm.changed(
        id=column.id if lacks else arm.id,
        name=f"{arm.name} on {column.name}"[:80],
        use="boom stand",
        mass=mass,
        boom_mass=arm.boom_mass or arm.mass,
        **of_column,
    )
