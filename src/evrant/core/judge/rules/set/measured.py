"""Is everything that stands in the set measured? Code fit.size."""

from collections.abc import Iterable

from evrant.core.base.margins import Basis, Line, Margin, unknown
from evrant.core.judge.rules.rule import FRAMED, SetRule
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Board, Item, Table, Tent

SIZE = Line(
    "fit.size",
    "Size of the …",
    "m",
    Basis(
        "length, width and height of a table, width and height of a board or a tent are given",
        "What has no size is drawn nowhere and in nobody's way",
        "declared",
    ),
    asks="Is everything that stands in the set measured?",
    goes=True,
)


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for each table, board and tent of the set of which a measure is missing."""
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        missing = [name for name in _sides(item) if getattr(item, name) is None]
        if item is None or not missing:
            continue
        path = f"{scene.path}/props/{place.id}"
        yield unknown(
            SIZE,
            (f"gear/{item.id}", path),
            f"The {' and the '.join(missing)} of the {item.called} {'is' if len(missing) == 1 else 'are'} missing.",
            "Until it is measured it is drawn nowhere, and whether it is in the way is not known.",
            title=f"Size of the {item.called}",
            subject=path,
        )


def _sides(item: Item | None) -> tuple[str, ...]:
    """The measures without which a thing has no body."""
    if isinstance(item, Table):
        return ("length", "width", "height")
    return ("width", "height") if isinstance(item, (Board, Tent)) else ()


RULE = SetRule("measured", margins, (SIZE,), reads=FRAMED)
