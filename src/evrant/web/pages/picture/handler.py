"""The picture before the purchase: what a set's camera would take, as large as wanted, with readings, each light alone,
and beside another set or what a remedy would make of it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from threading import Lock
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, Request, Response
from fastapi.responses import JSONResponse
from starlette.concurrency import run_in_threadpool

from evrant.catalogue import load
from evrant.core.base.margins import Verdict
from evrant.core.base.memo import Memo
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.light.lit import Lit
from evrant.core.picture.crops import Cut, cuts
from evrant.core.picture.render import Stopped
from evrant.core.picture.told import Part, described, parts_of, settings_of, spot_at
from evrant.core.place.moves import change
from evrant.core.place.patterns import PATTERNS, TOLD_BY_ANGLE
from evrant.core.search.shelf import in_its_place
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.shots import Pattern
from evrant.core.studio.studio import Studio, by_id
from evrant.files.document import Refused, read_json
from evrant.files.pictures import marked, png
from evrant.store.revisions import NotFound, split
from evrant.web.answers import file_answer
from evrant.web.context import Page, render, repository
from evrant.web.edge import whole_number
from evrant.web.naming import slug
from evrant.web.parts import set_of
from evrant.web.pictures import columns_of, computed, gone, read_for, state_in
from evrant.web.registry import Context, PageSpec
from evrant.web.show import page_of_set
from evrant.web.timing import span

router = APIRouter()
LEAST, MOST, USUAL, MOVING = 80, 1600, 960, 132
"""Pixels along a picture's longer side: what may be asked for, a large one's, and of one that follows a hand."""
_FILES: Memo[bytes] = Memo(24_000_000, len)


@dataclass(frozen=True)
class Taken(Context):
    """What the page's template shows; `beside` are other sets it can be laid over, by id and name; `over` the address
    of the picture laid over it, with words for both; `tried` the change, as an address says it."""

    plan: SetPlan
    choices: list[Part] = field(default_factory=list)
    chosen: str = "all"
    sentences: list[str] = field(default_factory=list)
    beside: list[tuple[str, str]] = field(default_factory=list)
    other: str = ""
    over: str = ""
    before_words: str = ""
    over_words: str = ""
    tried: str = ""
    why_not: str = ""
    settings: dict[str, str] = field(default_factory=dict)
    faces: bool = False
    cuts: list[Cut] = field(default_factory=list)
    cut: Cut | None = None
    wide: int = 960
    tall: int = 640


def taken(page: Page) -> Taken:
    """The page: a large picture, its lights one by one, what it shows in words."""
    plan, _ = set_of(page)
    state = state_in(page.studio, plan.id)
    asked = page.request.query_params
    others = _others(page, plan)
    empty = Taken(plan=plan, beside=[(key, words) for key, words, _ in others])
    if isinstance(state, str):
        return replace(empty, why_not=state)
    choices = parts_of(state)
    chosen = next((one.key for one in choices if one.key == asked.get("part")), "all")
    with span(page.request, "picture"):
        small = computed(state, 160, chosen, fine=False)
    wide = columns_of(state, USUAL)
    crops = cuts(state.scene)
    found = replace(
        empty,
        choices=choices,
        chosen=chosen,
        sentences=[*described(small), *small.missing],
        settings=settings_of(small),
        faces=state.scene.shot.of_person,
        cuts=crops,
        cut=next((one for one in crops if one.key == asked.get("crop") and one.fits), None),
        wide=wide,
        tall=round(wide * small.seen.rows / small.seen.columns),
    )
    edit, instead = asked.get("edit", ""), asked.get("instead", "")
    if edit or instead:
        after = state_in(_after(page.studio, asked), plan.id)
        tried = f"edit={quote(edit)}" if edit else f"instead={quote(instead)}"
        over = f"{page.base}/picture/{plan.id}/frame.png?revision={page.revision.number}&{tried}"
        if not isinstance(after, str) and chosen in [one.key for one in parts_of(after)]:
            over += f"&part={chosen}"
        return replace(found, over=over, before_words="As it is", over_words="With the change", tried=tried)
    for key, words, over in others:
        if key == asked.get("beside"):
            return replace(found, other=key, over=over, before_words=plan.name, over_words=words)
    return found


def _others(page: Page, plan: SetPlan) -> list[tuple[str, str, str]]:
    """What a picture can be laid over: other sets, and sets of other plans of the studio; key, words and address."""
    here = f"{page.base}/picture"
    number = page.revision.number
    found = [
        (one.id, one.name, f"{here}/{one.id}/frame.png?revision={number}")
        for one in page.studio.sets
        if one.id != plan.id
    ]
    store = repository(page.request)
    for key in store.plans(page.revision.studio_id):
        if key == page.revision.studio_id:
            continue
        letter = split(key)[1].upper()
        held = store.newest(key)
        found += [
            (
                f"{letter}-{one.id}",
                f"{one.name} of plan {letter}",
                f"/studios/{key}/picture/{one.id}/frame.png?revision={held.number}",
            )
            for one in held.studio.sets
            if one.shot == plan.shot
        ]
    return found


def _asked(request: Request, studio_id: str, set_id: str) -> tuple[Lit, int, str]:
    """State, size and part that an address asks for. Raises NotFound where there is no such picture."""
    given = request.query_params
    store = repository(request)
    number = whole_number(given.get("revision", ""), least=1)
    held = store.at(studio_id, number) if number is not None else store.newest(studio_id)
    state = state_in(_after(held.studio, given), set_id)
    if isinstance(state, str):
        raise NotFound(state)
    size = whole_number(given.get("size", str(USUAL)))
    if size is None or not LEAST <= size <= MOST:
        raise NotFound(f"A picture is {LEAST} to {MOST} pixels long.")
    return state, size, given.get("part", "all")


def _after(studio: Studio, given: Mapping[str, str]) -> Studio:
    """The studio with the change that an address tries: an `edit`, or a thing `instead` of what is used."""
    if edit := given.get("edit", ""):
        return _tried(studio, edit)
    if key := given.get("instead", ""):
        item = by_id(studio.gear, key) or load().find(key)
        if item is None:
            raise NotFound("There is no such thing.")
        return in_its_place(studio, item)[0]
    return studio


def _tried(studio: Studio, edit: str) -> Studio:
    """The studio with a change that is only tried. Raises EditRefused or ValidationError where it cannot be made."""
    return change(studio, EDIT.validate_python(read_json(edit.encode())))


@router.get("/studios/{studio_id}/picture/{set_id}/frame.png")
def frame(request: Request, studio_id: str, set_id: str) -> Response:
    """The picture as it is stored, or of one revision of it; coarse, of the face alone, or with over- and underexposure
    marked."""
    state, size, part = _asked(request, studio_id, set_id)
    coarse, marks, close = (request.query_params.get(name) == "1" for name in ("coarse", "marks", "close"))

    def made() -> bytes:
        found = computed(state, size, part, fine=not coarse, close=close, stop=partial(gone, request))
        return png(marked(found) if marks else found.pixels, settings_of(found), quick=True)

    try:
        content = _FILES.get(f"{size} {part} {coarse} {marks} {close}", read_for(state), made)
    except Stopped:
        return Response(status_code=204)
    return Response(content, media_type="image/png")


@router.get("/studios/{studio_id}/picture/{set_id}/picture.png")
def save(request: Request, studio_id: str, set_id: str) -> Response:
    """The large picture to take away, with its figures written in it."""
    state, size, part = _asked(request, studio_id, set_id)
    found = computed(state, size, part)
    name = f"{slug(state.scene.shot.name)}-{slug(set_id)}.png"
    return file_answer(png(found.pixels, settings_of(found)), name, "image/png")


@router.get("/studios/{studio_id}/picture/{set_id}/reading")
def reading(request: Request, studio_id: str, set_id: str) -> Response:
    """What one place of the picture reads: `x` and `y` as shares of its width and height."""
    state, _, part = _asked(request, studio_id, set_id)
    try:
        x, y = (float(request.query_params.get(name, "")) for name in ("x", "y"))
    except ValueError:
        raise NotFound("A place is two shares of the picture, x and y.") from None
    if not (0 <= x <= 1 and 0 <= y <= 1):
        raise NotFound("A place is two shares of the picture, each 0 to 1.")
    spot = spot_at(computed(state, 480, part), x, y)
    stops = "no light" if spot.stops == float("-inf") else f"{spot.stops:+.1f} stops from a grey card".replace("-", "−")
    words = f"{spot.what}: {stops}, values {spot.red} {spot.green} {spot.blue} of 255"
    return JSONResponse(
        {
            "words": words,
            "stops": None if stops == "no light" else round(spot.stops, 3),
            "values": [spot.red, spot.green, spot.blue],
            "what": spot.what,
            "away_m": round(spot.away, 3),
        }
    )


@router.get("/studios/{studio_id}/picture/{set_id}/faces")
def faces(request: Request, studio_id: str, set_id: str) -> Response:
    """The face under each pattern that is told by it, as a contact sheet."""
    page = page_of_set(request, studio_id, "picture", set_id)
    plan, _ = set_of(page)
    state = state_in(page.studio, plan.id)
    rows = [
        {"name": name, "says": recipe.says, "edit": _in_pattern(plan, name)}
        for name, recipe in PATTERNS.items()
        if name in TOLD_BY_ANGLE
    ]
    page.extra |= {"plan": plan, "rows": rows, "why_not": state if isinstance(state, str) else ""}
    return render("templates/whole.html", page, body="pages/picture/faces.html")


def _in_pattern(plan: SetPlan, name: Pattern) -> dict[str, Any]:
    """The edit that places a set's lights in a pattern and asks for it."""
    light = {"verb": "light", "target": f"sets/{plan.id}", "pattern": name}
    wish = {"verb": "set", "target": f"shots/{plan.shot}", "fields": {"pattern": name}}
    return {"verb": "several", "edits": [wish, light], "label": f"Light: {name}"}


@router.get("/studios/{studio_id}/picture/{set_id}/verdict")
def verdict(request: Request, studio_id: str, set_id: str, edit: str = "") -> Response:
    """What the ledger says of a set after a change that is only tried."""
    page = page_of_set(request, studio_id, "picture", set_id)
    after = ledger_of(_tried(page.studio, edit))
    lines = [line for line in after.of_set(set_id) if line.verdict is Verdict.SHORT]
    before = sum(line.verdict is Verdict.SHORT for line in page.ledger.of_set(set_id))
    worst = lines[0].sentence if lines else ""
    return render("pages/picture/verdict.html", page, short=len(lines), before=before, worst=worst)


_TURNS: dict[str, int] = {}
_TURNING = Lock()
MOST_TURNS = 512


def _turn(key: str) -> Callable[[], bool]:
    """Begins a computation for a page; what it gives says whether a newer one has begun since."""
    with _TURNING:
        if len(_TURNS) > MOST_TURNS:
            _TURNS.clear()
        mine = _TURNS[key] = _TURNS.get(key, 0) + 1

    def over() -> bool:
        return _TURNS.get(key) != mine

    return over


@router.post("/studios/{studio_id}/picture/{set_id}/moving")
async def moving(request: Request, studio_id: str, set_id: str) -> Response:
    """What an edit would make of the picture, coarse and without storing it; given up when a newer one is asked for."""
    data = read_json(await request.body())
    if not isinstance(data, dict):
        raise Refused([])
    return await run_in_threadpool(_moving, request, studio_id, set_id, data.get("edit"))


def _moving(request: Request, studio_id: str, set_id: str, edit: Any) -> Response:
    over = _turn(f"{studio_id} {set_id} {request.client.host if request.client else ''}")
    after = change(repository(request).newest(studio_id).studio, EDIT.validate_python(edit))
    state = state_in(after, set_id)
    if isinstance(state, str) or over():
        return Response(status_code=204)
    try:
        with span(request, "picture"):
            close = request.query_params.get("close") == "1"
            found = computed(state, MOVING, "all", fine=False, close=close, stop=over)
    except Stopped:
        return Response(status_code=204)
    return Response(png(found.pixels, quick=True), media_type="image/png")


SPEC = PageSpec("picture", taken, under="set", of_set="picture", ledger=("light",), router=router)
