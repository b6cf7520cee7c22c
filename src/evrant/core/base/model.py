"""The base of every described thing: frozen, closed to unknown fields, free of NaN and infinity."""

import unicodedata
from collections import Counter
from typing import Annotated, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, StringConstraints, model_validator
from pydantic_core import PydanticCustomError


class Model(BaseModel):
    """A frozen part of a studio. Unknown fields, NaN and infinities are refused."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def changed(self, **fields: object) -> Self:
        """A copy with `fields` replaced by values that are already validated."""
        return self.model_copy(update=fields)


class Keeper(Model):
    """A model that keeps lists of things with ids: an id stands once in its list."""

    @model_validator(mode="after")
    def _ids_once(self) -> Self:
        self.check_ids()
        return self

    def check_ids(self) -> None:
        """Raises (as pydantic does) when an id stands twice in a list."""
        for name in type(self).model_fields:
            things = getattr(self, name)
            if not isinstance(things, tuple) or not things or not hasattr(things[0], "id"):
                continue
            twice = [key for key, count in Counter(thing.id for thing in things).items() if count > 1]
            if twice:
                raise PydanticCustomError("id_twice", f"{name}: the id “{twice[0]}” is used twice.")


def _printable(text: str) -> str:
    for character in text:
        category = unicodedata.category(character)
        if category in ("Cc", "Cs") and character not in "\n\t":
            raise PydanticCustomError(
                "control_character", "Take out the control character; it cannot be shown or printed."
            )
    return text


def _single_line(text: str) -> str:
    if "\n" in text or "\t" in text:
        raise PydanticCustomError("line_break", "Keep this on one line.")
    return _printable(text)


Name = Annotated[
    str,
    StringConstraints(strip_whitespace=True, min_length=1, max_length=80),
    AfterValidator(_single_line),
]
Note = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000), AfterValidator(_printable)]
Slug = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,47}$")]
"""Identifier of a thing in a studio: lower-case letters, digits and hyphens."""
