"""Paths into a studio: `room`, `room/doors/door`, `sets/kneeling/lights/key`."""

from collections.abc import Callable
from typing import Any

from evrant.core.base.model import Model
from evrant.core.studio.studio import Studio


class NoSuchThing(LookupError):
    """A path leads to nothing in this studio."""


def steps(path: str) -> list[str]:
    return [] if path in ("", "studio") else path.split("/")


def find(studio: Studio, path: str) -> Any:
    """The model or list at `path`. Raises NoSuchThing."""
    here: Any = studio
    for step in steps(path):
        here = _step(here, step, path)
    return here


def exists(studio: Studio, path: str) -> bool:
    try:
        find(studio, path)
    except NoSuchThing:
        return False
    return True


def replace(studio: Studio, path: str, make: Callable[[Any], Any]) -> Studio:
    """The studio with the thing at `path` replaced by `make(thing)`; all else is shared."""
    changed = _replace(studio, steps(path), make, path)
    assert isinstance(changed, Studio)
    return changed


def _step(here: Any, step: str, path: str) -> Any:
    if isinstance(here, tuple):
        for thing in here:
            if getattr(thing, "id", None) == step:
                return thing
    elif isinstance(here, Model) and step in type(here).model_fields:
        return getattr(here, step)
    raise NoSuchThing(f"There is no “{path}” in this studio (any more).")


def _replace(here: Any, rest: list[str], make: Callable[[Any], Any], path: str) -> Any:
    if not rest:
        return make(here)
    child = _replace(_step(here, rest[0], path), rest[1:], make, path)
    if isinstance(here, tuple):
        return tuple(child if thing.id == rest[0] else thing for thing in here)
    return here.changed(**{rest[0]: child})
