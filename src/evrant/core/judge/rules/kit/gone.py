"""Is all that a set names still there? Code kit.gone."""

from collections.abc import Iterable

from evrant.core.base.margins import Basis, Line, Margin, unknown
from evrant.core.edits.language import Remove, SetFields
from evrant.core.judge.rules.rule import Proposal, StudioRule
from evrant.core.space.scene import Scene
from evrant.core.studio.studio import Gone, Studio, by_id, gone

GONE = Line(
    "kit.gone",
    "What a set names is there",
    "parts",
    Basis("gear and things of the room that a set names and that are not there: none", "Looking them up", "declared"),
    asks="Is all that a set names still there?",
    step="kit",
    goes=True,
)


def margins(studio: Studio) -> Iterable[Margin]:
    """A line for every name of a set that leads nowhere."""
    for one in gone(studio):
        what, where = _named(studio, one.path), "kit" if one.gear else "room"
        yield unknown(
            GONE,
            (one.path, f"{one.path}/{one.field}"),
            f"“{one.title}” of the {what} names “{one.key}”, which is not in the {where} any more.",
            "Until it is chosen again everything is worked out without it.",
            title=f"{one.title}: the {what}",
            subject=f"{one.path}/{one.field}",
        )


def _named(studio: Studio, path: str) -> str:
    """What a part of a set is called in words."""
    _, key, part, *rest = path.split("/")
    plan = by_id(studio.sets, key)
    light = by_id(plan.lights, rest[0]) if plan is not None and part == "lights" else None
    if plan is not None and light is not None:
        return plan.name_of(light)
    return rest[0].replace("-", " ") if rest else part


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """The field left empty; furniture that is gone taken off the set's list."""
    found = next((one for one in gone(studio) if f"{one.path}/{one.field}" in margin.about), None)
    if found is not None:
        yield Proposal("Do without it", _without(found))


def _without(one: Gone) -> Remove | SetFields:
    if one.path.split("/")[2] == "aside":
        return Remove(target=one.path)
    return SetFields(target=one.path, fields={one.field: None})


RULE = StudioRule("gone", margins, (GONE,), propose, places=False)
