"""Verbs that move several things by a rule, spelt out in the pure language of edits."""

from collections.abc import Iterable
from dataclasses import replace

from evrant.core.base.memo import Memo
from evrant.core.edits import language, paths
from evrant.core.edits.language import Edit, EditRefused, Light, Several, Single, Turn
from evrant.core.edits.paths import NoSuchThing
from evrant.core.place import lighting, rigging
from evrant.core.place.hanging import hung
from evrant.core.space.scene import scene_of
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio

_TRIED: Memo[Studio] = Memo(16_000_000, lambda studio: 20_000)


def change(studio: Studio, edit: Edit) -> Studio:
    """The studio after any edit. Raises EditRefused (or ValidationError for a bad field)."""
    return language.apply(studio, expanded(studio, edit))


def tried(studio: Studio, edit: Edit) -> Studio:
    """As `change`, for what somebody may do next: the very same studio when it is looked at, proposed and done, so that
    what was worked out for one of them is known to all."""
    exact = expanded(studio, edit)
    if isinstance(exact, language.Import):
        return language.apply(studio, exact)
    return _TRIED.get(exact.model_dump_json(), (studio,), lambda: language.apply(studio, exact))


def expanded(studio: Studio, edit: Edit) -> Edit:
    """An edit as what it writes: `Light` and `Turn` become the fields, lights and cards they change.

    Raises EditRefused when nothing stands at its target.
    """
    if isinstance(edit, (Light, Turn)):
        parts = _spelt(studio, edit)
        return parts[0] if len(parts) == 1 else Several(edits=parts, label=language.say(studio, edit)[:120])
    if isinstance(edit, Several) and any(isinstance(one, (Light, Turn)) for one in edit.edits):
        return edit.changed(edits=tuple(_in_turn(studio, edit.edits)))
    return edit


def writes(studio: Studio, edit: Edit) -> frozenset[str]:
    """What an edit writes in this studio: the paths of the fields in which it differs afterwards."""
    return language.differing(studio, change(studio, edit))


def relies_on(studio: Studio, edit: Edit) -> frozenset[str]:
    """What else an edit was made from: places by which `Light` and `Turn` aim, walls a new shape keeps."""
    found: set[str] = set()
    for one in edit.edits if isinstance(edit, Several) else (edit,):
        if isinstance(one, (Light, Turn)):
            found |= {f"{one.target}/{part}" for part in ("mark", "camera", "background", "lights", "shot")}
            plan = paths.find(studio, one.target) if paths.exists(studio, one.target) else None
            found |= {f"shots/{plan.shot}"} if isinstance(plan, SetPlan) else set()
        elif isinstance(one, language.Shift):
            found.add(one.target)
        elif isinstance(one, language.Reshape):
            found.add("room/footprint")
        elif isinstance(one, language.TakeRoom):
            found |= {"room", one.target}
    return frozenset(found)


def _spelt(studio: Studio, edit: Light | Turn) -> tuple[Single, ...]:
    try:
        plan = paths.find(studio, edit.target)
    except NoSuchThing as error:
        raise EditRefused(str(error)) from error
    after = _placed(studio, plan, edit)
    parts = language.between(plan, after, edit.target)
    if parts:
        return parts
    facing = after.mark.facing
    return (language.SetFields(target=f"{edit.target}/mark", fields={"facing": facing}),)


def _placed(studio: Studio, plan: object, edit: Light | Turn) -> SetPlan:
    scene = scene_of(studio, plan) if isinstance(plan, SetPlan) else None
    if scene is None:
        raise EditRefused("Only a set has lights.")
    if isinstance(edit, Turn):
        return lighting.turned(scene, edit.facing)
    placed = lighting.lit(scene, edit.pattern, 1.0 if edit.side == "left" else -1.0, edit.distance)
    scene = replace(scene, plan=placed)
    return rigging.rigged(replace(scene, plan=hung(scene)))


def _in_turn(studio: Studio, edits: Iterable[Single]) -> Iterable[Single]:
    for one in edits:
        parts = _spelt(studio, one) if isinstance(one, (Light, Turn)) else (one,)
        for part in parts:
            studio = language.apply(studio, part)
        yield from parts
