"""The one write path: edits, previews, undo, redo, restore."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from fastapi import APIRouter, Form, Request, Response, UploadFile
from fastapi.responses import HTMLResponse, JSONResponse
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from evrant.core.base.faults import at_work_on
from evrant.core.base.model import Model
from evrant.core.edits.language import EDIT, Edit, EditRefused, Reshape, SetFields, Turn
from evrant.core.edits.paths import NoSuchThing, find
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import tried
from evrant.core.studio.gear import Lamp
from evrant.core.studio.studio import Studio
from evrant.files.document import Fault, Refused, faults_of, read_json
from evrant.files.photometric import read_photometric
from evrant.files.report import ledger_data
from evrant.files.scaled import read_footprint
from evrant.store.changing import Conflict
from evrant.store.revisions import Revision
from evrant.web.actions import action_edit
from evrant.web.answers import conflict_answer, refusal, wants_page
from evrant.web.context import render, repository
from evrant.web.edge import EditId, checked_edit_id, whole_number
from evrant.web.forms import read_form, shown, specs, with_typed
from evrant.web.parts import drawing_of
from evrant.web.registry import specs as pages
from evrant.web.show import page_of, show
from evrant.web.timing import span
from evrant.web.uploads import take_file

router = APIRouter()


@dataclass
class Asked:
    """A change as it arrived: JSON, or a form of the app's pages."""

    edit_id: str
    base: int
    exact: bool
    edit: Any = None
    form: dict[str, str] | None = None

    @classmethod
    async def read(cls, request: Request) -> "Asked":
        """Raises Refused when the body cannot be read."""
        page_base = request.headers.get("x-evrant-revision", "0")
        if request.headers.get("content-type", "").startswith("application/json"):
            data = read_json(await request.body())
            if not isinstance(data, dict):
                raise Refused([Fault("", "Send an object with edit_id, revision and edit.")])
            form = None
        else:
            fields = await request.form()
            form = {key: value for key, value in fields.items() if isinstance(value, str)}
            data = dict(form)
            if "edit" in form:
                data["edit"], form = read_json(form["edit"]), None
        edit_id = checked_edit_id(str(data.get("edit_id") or ""))
        base = whole_number(str(data.get("revision", page_base)))
        if base is None:
            raise Refused([Fault("revision", "Give the number of the revision the edit was made on.")])
        return cls(edit_id, base, str(data.get("exact", "")).lower() in ("true", "1", "yes"), data.get("edit"), form)


async def _asked(request: Request, studio_id: str, answer: Callable[[Request, str, Asked], Response]) -> Response:
    """Read a change and answer it off the event loop; what cannot be read is refused with words."""
    asked = await Asked.read(request)
    return await run_in_threadpool(answer, request, studio_id, asked)


@router.post("/studios/{studio_id}/edits")
async def edits(request: Request, studio_id: str) -> Response:
    """Apply one edit made on the page's revision and answer with what changed."""
    return await _asked(request, studio_id, _edit)


def _edit(request: Request, studio_id: str, asked: Asked) -> Response:
    store = repository(request)
    try:
        if asked.form is not None:
            read = _from_form(request, store.newest(studio_id), asked.form)
            if isinstance(read, Response):
                return read
            edit: Edit = read
        else:
            edit = EDIT.validate_python(asked.edit)
        with span(request, "database"):
            done = store.change(studio_id, asked.base, asked.edit_id, edit, rebase=not asked.exact)
    except ValidationError as error:
        return _invalid(request, studio_id, asked, error)
    except Conflict as conflict:
        return conflict_answer(request, conflict, edit)
    return _answer(request, done)


def _from_form(request: Request, newest: Revision, form: dict[str, str]) -> Edit | Response:
    """An edit from typed fields (`target` and field names) or a named action of the pages."""
    studio = newest.studio
    if "action" in form:
        return action_edit(studio, form)
    target = form.get("target", "")
    try:
        model = find(studio, target)
    except NoSuchThing as error:
        raise EditRefused(str(error)) from error
    if not isinstance(model, Model):
        raise EditRefused("There is nothing to write to here.")
    typed = read_form(model, form, studio.brief.units)
    if typed.errors:
        name, message = next(iter(typed.errors.items()))
        return _field(request, studio, target, model, name, form, message)
    if not typed.values:
        raise EditRefused("Nothing was typed.")
    facing = typed.values.get("facing")
    if target.endswith("/mark") and isinstance(facing, float) and len(typed.values) == 1:
        return Turn(target=target.removesuffix("/mark"), facing=facing)
    return SetFields(target=target, fields=typed.values)


def _field(
    request: Request, studio: Studio, target: str, model: Model, name: str, form: dict[str, str], message: str
) -> Response:
    """The field as the person left it with the message beside it, put in the field's place."""
    spec = next(s for s in specs(type(model)) if s.name == name)
    field = with_typed(shown(studio, target, model, spec), form, message)
    headers = {"HX-Retarget": f"#{field.id}", "HX-Reswap": "outerHTML"}
    if not wants_page(request):
        return JSONResponse({"faults": [{"path": name, "message": message}]}, 422)
    return render(
        "templates/field_alone.html",
        status=422,
        headers=headers,
        field=field,
        base=f"/studios/{request.path_params['studio_id']}",
    )


def _invalid(request: Request, studio_id: str, asked: Asked, error: ValidationError) -> Response:
    faults = faults_of(error)
    if asked.form is not None and "target" in asked.form:
        studio = repository(request).newest(studio_id).studio
        model = find(studio, asked.form["target"])
        names = {spec.name for spec in specs(type(model))} if isinstance(model, Model) else set()
        sent = [name for name in names if name in asked.form]
        for fault in faults:
            name = fault.path.split(".")[0]
            if name in names or sent:
                return _field(
                    request,
                    studio,
                    asked.form["target"],
                    model,
                    name if name in names else sent[0],
                    asked.form,
                    fault.message,
                )
    return refusal(request, faults)


def _answer(request: Request, done: Revision) -> Response:
    """The page the change came from with everything that changed, or its data."""
    if not wants_page(request):
        data = {"revision": done.number, "repeated": done.repeated, "label": done.label}
        with at_work_on(f"studio {done.studio_id}, revision {done.number}"):
            return JSONResponse(data | {"ledger": ledger_data(ledger_of(done.studio))})
    here = request.headers.get("x-evrant-page", "brief")
    page = page_of(request, done, here)
    if here.startswith("sets/") and page.set_id is None:
        return Response(status_code=204, headers={"HX-Redirect": f"{page.base}/shots"})
    return show(page, fragment=True)


@router.post("/studios/{studio_id}/preview")
async def preview(request: Request, studio_id: str) -> Response:
    """What an edit would give, without storing it: drawing and ledger of the page's set; or the drawing alone, which
    follows a hand, where the page asks for no more."""
    return await _asked(request, studio_id, _preview)


def _preview(request: Request, studio_id: str, asked: Asked) -> Response:
    newest = repository(request).newest(studio_id)
    after = tried(newest.studio, EDIT.validate_python(asked.edit))
    if not wants_page(request):
        return JSONResponse({"ledger": ledger_data(ledger_of(after))})
    shown_as = Revision(studio_id, newest.number, after, "preview", "edit")
    page = page_of(request, shown_as, request.headers.get("x-evrant-page", ""))
    if page.set_id is None:
        return Response(status_code=204)
    own = pages()[page.name].drawing
    if own not in (None, drawing_of):
        return render("templates/preview.html", page, drawing=own(page))
    if request.headers.get("x-evrant-part") == "drawing":
        return HTMLResponse(drawing_of(page, _turn(request), judged=False))
    return render("templates/preview.html", page, drawing=drawing_of(page, _turn(request)))


def _turn(request: Request) -> float | None:
    """The sheet keeps its turn while something is dragged."""
    try:
        turn = float(request.headers.get("x-evrant-turn", ""))
    except ValueError:
        return None
    return turn if -720 <= turn <= 720 else None


@router.post("/studios/{studio_id}/branch")
async def branch(request: Request, studio_id: str) -> Response:
    """A further plan that begins as this one."""
    return await _asked(request, studio_id, _branch)


def _branch(request: Request, studio_id: str, asked: Asked) -> Response:
    made = repository(request).branch(studio_id, asked.edit_id)
    return Response(status_code=204, headers={"HX-Redirect": f"/studios/{made.studio_id}/compare"})


@router.post("/studios/{studio_id}/footprint")
def footprint(request: Request, studio_id: str, file: UploadFile, edit_id: EditId = "") -> Response:
    """The room's outline from a DXF drawing."""
    edit = Reshape(footprint=read_footprint(file.file.read()))
    take_file(request, studio_id, edit_id, lambda studio: edit)
    return _on_to(studio_id, "room")


@router.post("/studios/{studio_id}/photometric")
def photometric(
    request: Request, studio_id: str, file: UploadFile, target: str = Form(""), edit_id: EditId = ""
) -> Response:
    """A lamp's measured spread of light from an IES file."""
    table = read_photometric(file.file.read())

    def edit_of(studio: Studio) -> Edit:
        if not isinstance(find(studio, target), Lamp):
            raise EditRefused("A photometric file belongs to a lamp.", "target")
        return SetFields(target=target, fields={"distribution": table.model_dump(mode="json")})

    take_file(request, studio_id, edit_id, edit_of)
    return _on_to(studio_id, "kit")


def _on_to(studio_id: str, page: str) -> Response:
    return Response(status_code=204, headers={"HX-Redirect": f"/studios/{studio_id}/{page}"})


@router.post("/studios/{studio_id}/{step}")
async def step(request: Request, studio_id: str, step: str) -> Response:
    """Undo, redo or restore, accepted only from a page that shows the newest revision."""
    if step not in ("undo", "redo", "restore"):
        return refusal(request, [Fault("", "There is no such change.")], 404)
    return await _asked(request, studio_id, partial(_step, step=step))


def _step(request: Request, studio_id: str, asked: Asked, step: str) -> Response:
    store = repository(request)
    if step == "restore":
        number = whole_number((asked.form or {}).get("number", ""), least=1)
        if number is None:
            raise EditRefused("There is no such revision.", "number")
        store.restore(studio_id, asked.base, asked.edit_id, number)
        return Response(status_code=204, headers={"HX-Redirect": f"/studios/{studio_id}"})
    done = (store.undo if step == "undo" else store.redo)(studio_id, asked.base, asked.edit_id)
    return _answer(request, done)
