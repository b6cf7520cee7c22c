"""How a result depends on figures: those that make the picture (subjects, wanted frame, lens, sensor),
those of gear, and those of the room. Each is moved by its ± and the result taken again."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.memo import is_plain
from evrant.core.base.quantity import Figure
from evrant.core.space.room_twins import room_twins
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Item


def picture_shares(scene: Scene, value: Callable[[Scene], float | None]) -> tuple[Share, ...]:
    """Shares of those figures in `value` of the scene, in its unit, by moving each by its ±."""
    here = value(scene)
    if here is None:
        return ()
    shares = []
    for label, twin in scene.picture_twins:
        there = value(twin)
        if there is not None and abs(there - here) > 1e-9:
            shares.append(Share(label, abs(there - here)))
    return tuple(shares)


def picture_estimate(scene: Scene, value: Callable[[Scene], float | None]) -> Estimate | None:
    """The value with those shares, or None where it cannot be had."""
    here = value(scene)
    return None if here is None else Estimate(here, picture_shares(scene, value))


def gear_shares(
    scene: Scene, items: Sequence[Item | None], fields: Iterable[str], value: Callable[[Scene], float | None]
) -> tuple[Share, ...]:
    """Shares of some figures of some gear in `value` of the scene."""
    if is_plain():
        return ()
    here = value(scene)
    names = tuple(fields)
    shares = []
    for item in {item.id: item for item in items if item is not None}.values():
        for name in names:
            figure = getattr(item, name, None)
            if here is None or not isinstance(figure, Figure) or figure.pm == 0:
                continue
            moved = item.changed(**{name: figure.moved()})
            there = value(scene.with_gear({**scene.gear, item.id: moved}))
            if there is not None and abs(there - here) > 1e-9:
                shares.append(Share(f"{name.replace('_', ' ')} of the {item.called}", abs(there - here)))
    return tuple(shares)


def room_shares(scene: Scene, value: Callable[[Scene], float | None]) -> tuple[Share, ...]:
    """Shares of the measures of the room's outline in `value` of the scene."""
    if is_plain():
        return ()
    here = value(scene)
    shares = []
    for label, room in room_twins(scene.room):
        there = value(replace(scene, room=room))
        if here is not None and there is not None and abs(there - here) > 1e-9:
            shares.append(Share(label, abs(there - here)))
    return tuple(shares)
