"""Keys for what counts as the same while only some of its fields differ."""

from pydantic import BaseModel

from evrant.core.base.memo import Memo


class Alike:
    """One key for all things that are the same objects in every field but those left out: what reads none of these may
    be remembered by it."""

    def __init__(self, leave: frozenset[str]) -> None:
        self._leave = leave
        self._known: Memo[object] = Memo(2_000_000, lambda key: 400)

    def key(self, *things: BaseModel) -> object:
        """The key of some things together."""
        return self._known.get("things", things, lambda: self._by_fields(things))

    def _by_fields(self, things: tuple[BaseModel, ...]) -> object:
        told = [value for thing in things for name, value in vars(thing).items() if name not in self._leave]
        kinds = " ".join(type(thing).__name__ for thing in things)
        return self._known.get(f"fields of {kinds}", tuple(told), object)
