"""What is equal to something known is made the same object: caches keyed by identity then know it."""

from typing import Any, TypeVar

from evrant.core.base.model import Model

M = TypeVar("M", bound=Model)


def grafted(new: M, known: M) -> M:
    """A model equal to `new` whose parts are those of `known` wherever the two are equal."""
    found: M = _graft(new, known)
    return found


def _graft(new: Any, known: Any) -> Any:
    if new is known or type(new) is not type(known):
        return new
    if isinstance(new, Model):
        return _model(new, known)
    if isinstance(new, tuple):
        return _sequence(new, known)
    return known if new == known else new


def _model(new: Model, known: Model) -> Model:
    parts = {name: _graft(value, getattr(known, name)) for name, value in new}
    if all(value is getattr(known, name) for name, value in parts.items()):
        return known
    moved = {name: value for name, value in parts.items() if value is not getattr(new, name)}
    return new.changed(**moved) if moved else new


def _sequence(new: tuple[Any, ...], known: tuple[Any, ...]) -> tuple[Any, ...]:
    """Things with ids are compared with the one of the same id, others with the one in the same place."""
    by_id = {one.id: one for one in known if hasattr(one, "id")}
    parts = []
    for place, one in enumerate(new):
        other = by_id.get(getattr(one, "id", None)) if by_id else known[place] if place < len(known) else None
        parts.append(_graft(one, other))
    same = len(parts) == len(known) and all(a is b for a, b in zip(parts, known, strict=True))
    return known if same else tuple(parts)
