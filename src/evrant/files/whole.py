"""All of a studio in one zip file: its plans, every revision (one JSON document a line) and the pictures of its log.

    studio.json, plan-b.json …          each plan as it is, in the open format
    history.jsonl, history-b.jsonl …    every revision, oldest first
    pictures.json, pictures/….jpg       test frames by name, and what was told with each

It is written as it is read and read a line at a time, so that neither takes more memory than a few revisions.
"""

import io
import json
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from datetime import UTC, datetime
from typing import IO, Annotated, Any

from PIL import Image
from pydantic import AwareDatetime, BaseModel, ConfigDict, Field, ValidationError

from evrant.core.studio.past import MAIN_PLAN, MOST_FRAMES, PLANS, Cause, Past, Picture, Whole
from evrant.core.studio.studio import SCHEMA, Studio
from evrant.files.document import MOST_BYTES, Fault, Refused, faults_of, judgeable, read_json, read_studio
from evrant.files.test_frames import LARGEST, read_frame

MOST_UNPACKED = 250_000_000
MOST_REVISIONS = 4000
MOST_PICTURE = 4_000_000
EARLIEST, LATEST = datetime(2000, 1, 1, tzinfo=UTC), datetime(2200, 1, 1, tzinfo=UTC)
"""Between these a revision may say that it was made."""
Row = dict[str, Any]


# --- writing ----------------------------------------------------------------------------------


def write_whole(
    file: IO[bytes], plans: Mapping[str, tuple[str, Iterable[Row]]], pictures: Iterable[tuple[str, Picture]]
) -> None:
    """Into `file`. `plans`: by letter, its document and its revisions; `pictures`: by name, without “.jpg”."""
    told: dict[str, Row] = {}
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as out:
        for letter, (document, rows) in plans.items():
            out.writestr(_plan_file(letter), document)
            with out.open(_history_file(letter), "w", force_zip64=True) as lines:
                for row in rows:
                    lines.write(json.dumps(row, ensure_ascii=False).encode() + b"\n")
        for name, one in pictures:
            out.writestr(zipfile.ZipInfo(f"pictures/{name}.jpg"), one.picture)
            told[name] = one.told
        out.writestr("pictures.json", json.dumps(told, indent=1))


def _plan_file(letter: str) -> str:
    return "studio.json" if letter == MAIN_PLAN else f"plan-{letter}.json"


def _history_file(letter: str) -> str:
    return "history.jsonl" if letter == MAIN_PLAN else f"history-{letter}.jsonl"


# --- reading ----------------------------------------------------------------------------------


class _Row(BaseModel):
    """A revision as a file writes it; who made it is not taken on trust."""

    model_config = ConfigDict(extra="ignore")
    number: Annotated[int, Field(ge=1, le=MOST_REVISIONS)]
    parent: Annotated[int, Field(ge=1)] | None = None
    cause: Cause = "edit"
    label: Annotated[str, Field(max_length=300)] = ""
    at: Annotated[AwareDatetime, Field(ge=EARLIEST, le=LATEST)]
    schema_: Annotated[int, Field(alias="schema")] = SCHEMA
    document: Row


class _Told(BaseModel):
    """What is told with a picture."""

    model_config = ConfigDict(extra="ignore", allow_inf_nan=False)
    width: Annotated[int, Field(ge=1, le=LARGEST)]
    height: Annotated[int, Field(ge=1, le=LARGEST)]
    aperture: Annotated[float, Field(gt=0, le=200)] | None = None
    iso: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    shutter: Annotated[float, Field(gt=0, le=3600)] | None = None
    day: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")] | None = None
    simulated: bool = False


def read_any(raw: bytes) -> Whole | Studio:
    """What a file holds that is sent to be taken in: a studio, or all of one in a zip. Raises Refused, a zip also
    while its revisions are asked for."""
    if raw.startswith(b"PK"):
        return read_whole(raw)
    return read_studio(raw)


def read_whole(raw: bytes) -> Whole:
    """All of a studio from its zip. Raises Refused, also while the revisions and pictures are asked for."""
    try:
        file = zipfile.ZipFile(io.BytesIO(raw))
    except (zipfile.BadZipFile, ValueError, NotImplementedError, OSError) as error:
        raise Refused([Fault("", "This zip file is damaged.")]) from error
    names = {one.filename: one for one in file.infolist()}
    if sum(one.file_size for one in names.values()) > MOST_UNPACKED:
        raise Refused([Fault("", f"Unpacked it is larger than {MOST_UNPACKED // 1_000_000} MB.")])
    letters = [letter for letter in PLANS if {_plan_file(letter), _history_file(letter)} & set(names)]
    if MAIN_PLAN not in letters:
        raise Refused([Fault("", "There is no studio.json in this zip; it is not all of a studio.")])
    plans = {letter: _plan(file, letter, _history_file(letter) in names) for letter in letters}
    return Whole(plans, _pictures(file, names))


def _plan(file: zipfile.ZipFile, letter: str, known: bool) -> Iterator[Past]:
    """A plan's revisions; where the file has none, what the plan is."""
    if known:
        yield from _history(file, _history_file(letter))
        return
    name = _plan_file(letter)
    try:
        studio = read_studio(_whole(file, name, MOST_BYTES))
    except Refused as refused:
        raise _in(name, refused) from refused
    yield Past(1, None, "import", "As the file has it", datetime.now(UTC), studio)


def _history(file: zipfile.ZipFile, name: str) -> Iterator[Past]:
    number = 0
    for number, line in enumerate(_lines(file, name), 1):
        if number > MOST_REVISIONS:
            raise Refused([Fault(name, f"It has more than {MOST_REVISIONS} revisions; fewer can be taken in.")])
        try:
            yield _past(line, number)
        except Refused as refused:
            raise _in(f"{name}, line {number}", refused) from refused
    if not number:
        raise Refused([Fault(name, "There is no revision in it.")])


def _past(line: bytes, number: int) -> Past:
    """A revision from its line. Raises Refused."""
    data = read_json(line)
    try:
        row = _Row.model_validate(data)
        if row.schema_ != SCHEMA:
            raise Refused([Fault("schema", f"It has schema {row.schema_}; this version reads {SCHEMA}.")])
        studio = judgeable(Studio.model_validate(row.document))
    except ValidationError as error:
        raise Refused(faults_of(error)) from error
    if row.number != number or (row.parent or 0) >= number:
        raise Refused([Fault("number", "Revisions are counted from 1, and each grew from an earlier one.")])
    return Past(number, row.parent, row.cause, row.label, row.at, studio)


def _pictures(file: zipfile.ZipFile, names: dict[str, zipfile.ZipInfo]) -> Iterator[Picture]:
    if "pictures.json" not in names:
        return
    told = read_json(_whole(file, "pictures.json", MOST_BYTES))
    if not isinstance(told, dict) or len(told) > MOST_FRAMES:
        raise Refused([Fault("pictures.json", f"This should tell of at most {MOST_FRAMES} pictures by name.")])
    for name, values in told.items():
        member = f"pictures/{name}.jpg"
        if member not in names:
            raise Refused([Fault(member, "This picture is told of but not there.")])
        try:
            known = _Told.model_validate(values)
            yield Picture(_kept(_whole(file, member, MOST_PICTURE)), known.model_dump())
        except ValidationError as error:
            raise _in(f"pictures.json, {name[:80]}", Refused(faults_of(error))) from error
        except Refused as refused:
            raise _in(member[:100], refused) from refused


def _kept(raw: bytes) -> bytes:
    """A picture as this program keeps them: as it is where it is one of ours, else made so."""
    frame = read_frame(raw)
    image = Image.open(io.BytesIO(raw))
    beside = {name for name, _ in getattr(image, "applist", ())} - {"APP0"}
    return raw if image.format == "JPEG" and max(image.size) <= LARGEST and not beside else frame.picture


# --- members of the zip -----------------------------------------------------------------------


@contextmanager
def _opened(file: zipfile.ZipFile, name: str) -> Iterator[IO[bytes]]:
    """A member to read from; what is wrong with it is told in words."""
    try:
        with file.open(name) as member:
            yield member
    except (zipfile.BadZipFile, zlib.error, EOFError, RuntimeError, NotImplementedError, OSError, KeyError) as error:
        raise Refused(
            [Fault(name, "This part of the zip file is damaged, locked or packed in a way unknown here.")]
        ) from error


def _whole(file: zipfile.ZipFile, name: str, most: int) -> bytes:
    with _opened(file, name) as member:
        raw = member.read(most + 1)
    if len(raw) > most:
        raise Refused([Fault("", f"This is larger than {most // 1_000_000} MB.")])
    return raw


def _lines(file: zipfile.ZipFile, name: str) -> Iterator[bytes]:
    """Its lines, none longer than a studio may be."""
    with _opened(file, name) as member:
        while line := member.readline(MOST_BYTES + 1):
            yield line


def _in(where: str, refused: Refused) -> Refused:
    """The same faults, said of a part of the file."""
    return Refused([Fault(f"{where}: {one.path}" if one.path else where, one.message) for one in refused.faults])
