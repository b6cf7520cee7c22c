"""Studios as open JSON: read with a clear message and the path of a wrong field, written indented."""

import json
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError
from pydantic_core import from_json

from evrant.core.studio.studio import FORMAT, SCHEMA, Studio

MOST_BYTES = 2_000_000
MOST_LIGHTS = 600
"""In all sets of a file together: more take minutes to judge."""


@dataclass(frozen=True)
class Fault:
    """What is wrong, and at which field (a dotted path)."""

    path: str
    message: str

    def __str__(self) -> str:
        return f"{self.path}: {self.message}" if self.path else self.message


class Refused(ValueError):
    """A file or message that is not taken; nothing was changed."""

    def __init__(self, faults: list[Fault]) -> None:
        super().__init__("; ".join(map(str, faults)))
        self.faults = faults


def read_json(raw: bytes | str) -> Any:
    """JSON data, refused when it is too large, too deep, or has numbers that are none."""
    if len(raw) > MOST_BYTES:
        raise Refused([Fault("", f"This is larger than {MOST_BYTES // 1_000_000} MB; a studio is far smaller.")])
    try:
        return from_json(raw, allow_inf_nan=False)
    except ValueError as error:
        raise Refused([Fault("", f"This is not JSON: {_plain(str(error))}.")]) from error


def read_studio(raw: bytes | str) -> Studio:
    """A studio from its file. Raises Refused with the path of every wrong field."""
    data = read_json(raw)
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise Refused([Fault("format", f"This is not a studio file; its format should be “{FORMAT}”.")])
    if data.get("schema") != SCHEMA:
        raise Refused([Fault("schema", f"This file has schema {data.get('schema')!r}; this version reads {SCHEMA}.")])
    try:
        studio = Studio.model_validate(data)
    except ValidationError as error:
        raise Refused(faults_of(error)) from error
    return judgeable(studio)


def judgeable(studio: Studio) -> Studio:
    """The studio, if it can be judged in good time. Raises Refused."""
    lights = sum(len(plan.lights) for plan in studio.sets)
    if lights > MOST_LIGHTS:
        raise Refused(
            [Fault("sets", f"{lights} lights in all sets together; {MOST_LIGHTS} can be judged in good time.")]
        )
    return studio


def faults_of(error: ValidationError, most: int = 20) -> list[Fault]:
    """Validation errors as paths and plain words."""
    found = []
    for item in error.errors(include_url=False, include_input=False)[:most]:
        path = ".".join(str(part) for part in item["loc"])
        found.append(Fault(path, plain_message(item["type"], item["msg"])))
    return found


def plain_message(kind: str, message: str) -> str:
    """Validation messages in the words of the app."""
    words = {
        "extra_forbidden": "This field is not known here.",
        "missing": "This is missing.",
        "finite_number": "Give an ordinary number.",
        "string_too_short": "This cannot be left empty.",
        "string_unicode": "This text has characters that cannot be stored.",
        "none_required": "Leave this empty.",
    }
    if kind == "string_pattern_mismatch":
        return next((said for pattern, said in PATTERNS.items() if pattern in message), "This is not written so.")
    if kind == "string_too_long":
        return f"At most {''.join(filter(str.isdigit, message))} characters."
    return words.get(kind) or _plain(message)


PATTERNS = {
    "[A-Z]$": "Write one capital letter, A to Z.",
    "[0-9a-fA-F]{6}": "Write a colour as #rrggbb, for instance #808080.",
}
"""What a field that wants a form of writing says, by a part of its pattern."""


def _plain(message: str) -> str:
    return message.removeprefix("Value error, ").removeprefix("Assertion failed, ")


def write_studio(studio: Studio) -> str:
    """A studio as an indented JSON file."""
    return json.dumps(json.loads(studio.dump_json()), indent=1, ensure_ascii=False) + "\n"


def schema() -> str:
    """The JSON Schema of the open format, generated from the models."""
    return json.dumps(Studio.model_json_schema(by_alias=True), indent=1, ensure_ascii=False) + "\n"
