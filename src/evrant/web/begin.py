"""Begin here: five questions on one page, and the studio and proposals they make."""

from collections import defaultdict
from functools import cache
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request, Response
from fastapi.responses import HTMLResponse
from pydantic import BaseModel, ValidationError

from evrant.catalogue.bundles import offered, things
from evrant.core.base.tables.countries import MAINS
from evrant.core.base.units import CannotRead, Units, read_length
from evrant.core.search.begin.answers import MOST_SHOTS, Answers, studio_of
from evrant.core.studio.presets import PRESETS
from evrant.core.studio.room import Room
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio
from evrant.core.studio.typical import TYPICAL, typical_room
from evrant.drawing.card import room_card, shot_card
from evrant.files.document import faults_of
from evrant.jobs.plan import ask_for_plan
from evrant.web.context import jobs_of, render, repository
from evrant.web.edge import EditId
from evrant.web.forms import read_money

router = APIRouter()
CARD, ROOM = (112.0, 96.0), (128.0, 92.0)
"""Sizes of the drawings."""
FEET = ("US",)
"""Countries where rooms are measured in feet."""
LENGTHS = ("length", "width", "height")


class Typed(BaseModel):
    """The form as typed; what is wrong with it is said by the answers."""

    take: list[str] = []
    like: str = ""
    shape: str = "rectangle"
    length: str = ""
    width: str = ""
    height: str = ""
    window: str = ""
    have: list[str] = []
    spend: str = ""
    struck: str = "yes"
    drill: str = "no drilling"
    country: str = "other"
    units: str = ""
    edit_id: EditId = ""


@cache
def pictures() -> list[tuple[str, list[tuple[str, str]]]]:
    """What can be taken, by group: names with their drawings."""
    groups: dict[str, list[tuple[str, str]]] = {}
    for one in PRESETS:
        shot = Shot.model_validate({**one.shot, "id": "shot", "name": one.name})
        groups.setdefault(one.group, []).append((one.name, shot_card(shot, *CARD)))
    return list(groups.items())


@cache
def rooms() -> list[tuple[str, str, str]]:
    """Usual rooms: key, words and drawing."""
    return [(key, one.words, room_card(Room.model_validate(typical_room(key)), *ROOM)) for key, one in TYPICAL.items()]


def country_of(request: Request) -> str:
    """The country a browser's language names, where mains are known for it."""
    for part in request.headers.get("accept-language", "").split(","):
        region = part.split(";")[0].strip().partition("-")[2].upper()
        if region in MAINS:
            return region
    return "other"


def _page(request: Request, typed: Typed, faults: dict[str, str] | None = None, status: int = 200) -> HTMLResponse:
    return render(
        "pages/begin/page.html",
        status=status,
        token=request.state.token,
        pictures=pictures(),
        rooms=rooms(),
        offered=offered(),
        countries=[(code, mains.name) for code, mains in MAINS.items()],
        typed=typed,
        faults=defaultdict(str, faults or {}),
        most=MOST_SHOTS,
    )


@router.get("/begin")
def begin(request: Request) -> HTMLResponse:
    """The five questions."""
    return _page(request, Typed(country=country_of(request)))


@router.post("/begin")
def answered(request: Request, typed: Annotated[Typed, Form()]) -> Response:
    """A studio from the answers, with what else is usual, and its proposals; or what is wrong, where it is."""
    faults: dict[str, str] = {}
    studio = _studio(typed, faults)
    if studio is None:
        return _page(request, typed, faults, status=422)
    made = repository(request).create(studio, label="Begin", edit_id=typed.edit_id)
    ask_for_plan(jobs_of(request), made.studio_id, studio)
    return Response(status_code=204, headers={"HX-Redirect": f"/studios/{made.studio_id}/proposals"})


def _units(typed: Typed) -> str:
    """As chosen, else what the country measures in."""
    return typed.units or ("imperial" if typed.country in FEET else "metric")


def _studio(typed: Typed, faults: dict[str, str]) -> Studio | None:
    """The studio of what was typed; None where something is wrong with it, said by field in `faults`."""
    asked = {
        "take": typed.take,
        "where": _where(typed, faults),
        "have": typed.have,
        "spend": _spend(typed, faults),
        "struck": typed.struck == "yes",
        "units": _units(typed),
        **{name: getattr(typed, name) for name in ("drill", "country")},
    }
    if not typed.take:
        faults["take"] = "Choose at least one kind of picture."
    if not typed.like:
        faults["like"] = "Choose the room that is most like yours."
    try:
        answers = Answers.model_validate(asked)
        studio = studio_of(answers, things(answers.have))
    except ValidationError as error:
        for fault in faults_of(error):
            faults.setdefault(_field(fault.path), fault.message)
        return None
    except KeyError:
        faults["have"] = "Something ticked here is not in the catalogue any more."
        return None
    return None if faults else studio


def _field(path: str) -> str:
    """The field on the page a path in the answers is about."""
    steps = [step for step in path.split(".") if not step.isdigit()]
    return steps[-1] if steps[0] == "where" else steps[0]


def _where(typed: Typed, faults: dict[str, str]) -> dict[str, Any]:
    """The room as answered, lengths in metres."""
    system: Units = "imperial" if _units(typed) == "imperial" else "metric"
    where: dict[str, Any] = {"like": typed.like, "shape": typed.shape}
    where |= {"window": typed.window} if typed.window else {}
    for name in LENGTHS:
        try:
            where |= {name: read_length(getattr(typed, name), system)} if getattr(typed, name).strip() else {}
        except CannotRead as error:
            faults[name] = str(error)
    return where


def _spend(typed: Typed, faults: dict[str, str]) -> str:
    """The sum as typed; 0 where it cannot be read."""
    if not typed.spend.strip():
        faults["spend"] = "Say what you can spend; 0 is an answer too."
        return "0"
    try:
        return str(read_money(typed.spend))
    except CannotRead as error:
        faults["spend"] = str(error)
        return "0"
