"""What is owned, planned and considered; small parts; tables."""

from dataclasses import dataclass
from typing import Any

from fastapi import APIRouter, Form, Request, Response, UploadFile

from evrant.catalogue import load
from evrant.core.buying.costs import planned
from evrant.core.edits.language import EDIT, Add, Remove, SetFields, Several
from evrant.core.judge.rules.kit.budget import total, used
from evrant.core.search.kit.parts import parts_wanted
from evrant.core.studio.gear import KINDS, Item
from evrant.core.studio.studio import Studio, by_id
from evrant.files.document import Refused
from evrant.files.gear_table import read_gear, write_gear
from evrant.web.answers import file_answer
from evrant.web.context import Page, render, repository
from evrant.web.edge import EditId
from evrant.web.forms import fields
from evrant.web.naming import slug
from evrant.web.parts import Card
from evrant.web.registry import Context, PageSpec, Row
from evrant.web.uploads import take_file

router = APIRouter()


@dataclass(frozen=True)
class GearCard(Card):
    """A thing of the kit, and whether a set uses it."""

    item: Item
    used: bool


@dataclass(frozen=True)
class KitForms(Context):
    """What its template shows."""

    groups: list[Row]
    catalogue: list[tuple[str, tuple[Item, ...]]]
    kinds: list[str]
    total: str
    buying: int
    budget: str | None


def kit_forms(page: Page) -> KitForms:
    studio = page.studio
    needed = used(studio)
    groups = []
    for kind in KINDS:
        items = [item for item in studio.gear if item.kind == kind]
        if items:
            groups.append(
                {
                    "kind": kind,
                    "rows": [
                        GearCard(
                            f"gear/{item.id}",
                            item.name,
                            fields(studio, f"gear/{item.id}", item),
                            item=item,
                            used=item.id in needed,
                        )
                        for item in items
                    ],
                }
            )
    catalogue = [(kind, items) for kind, items in load().by_kind.items() if items]
    return KitForms(
        groups=groups,
        catalogue=catalogue,
        kinds=list(KINDS),
        total=page.say.money(float(total(studio))),
        buying=len(planned(studio)),
        budget=page.say.money(float(studio.brief.budget)) if studio.brief.budget is not None else None,
    )


CSV = "text/csv; charset=utf-8"


@dataclass(frozen=True)
class KitDesk(KitForms):
    """The forms, and the small parts the sets need."""

    parts: list[Row]


def kit_page(page: Page) -> KitDesk:
    """The kit's forms, and the small parts the sets need."""
    return KitDesk(**kit_forms(page).values(), parts=wanted_parts(page))


def wanted_parts(page: Page) -> list[Row]:
    """Small parts the sets need, each with the edit that adds what is missing."""
    rows = []
    for one in parts_wanted(page.studio, load().all()):
        edit: Add | SetFields | None = None
        if one.lacks and one.item is not None:
            held = by_id(page.studio.gear, one.item.id)
            if held is not None:
                owned = held.quantity if held.status != "considered" else 0
                fields = {"quantity": owned + one.lacks} | ({} if owned else {"status": "planned"})
                edit = SetFields(target=f"gear/{held.id}", fields=fields)
            else:
                item = one.item.model_dump(mode="json", exclude_none=True)
                edit = Add(list="gear", item=item | {"quantity": one.lacks, "status": "planned", "notes": one.why})
        rows.append({"one": one, "edit": EDIT.dump_python(edit, mode="json") if edit else None})
    return rows


@router.post("/studios/{studio_id}/gear-table")
def take_gear(
    request: Request, studio_id: str, file: UploadFile, status: str = Form(""), edit_id: EditId = ""
) -> Response:
    """Gear from CSV, whole or not at all; what is wrong is said by line and column."""
    raw = file.file.read()

    def edit_of(studio: Studio) -> Several:
        taken = {item.id for item in studio.gear}
        edits: list[Any] = []
        for item in read_gear(raw, sorted(taken), studio.brief.currency):
            if item.id in taken:
                edits.append(Remove(target=f"gear/{item.id}"))
            as_asked = item.changed(status=status) if status in ("owned", "planned", "considered") else item
            edits.append(Add(list="gear", item=as_asked.model_dump(mode="json", exclude_none=True)))
        count = sum(isinstance(one, Add) for one in edits)
        return Several(edits=tuple(edits), label=f"Take {count} things from a table")

    try:
        take_file(request, studio_id, edit_id, edit_of)
    except Refused as refused:
        return render("pages/kit/faults.html", status=422, faults=refused.faults, base=f"/studios/{studio_id}")
    return Response(status_code=204, headers={"HX-Redirect": f"/studios/{studio_id}/kit"})


@router.get("/studios/{studio_id}/download/gear.csv")
def gear_csv(request: Request, studio_id: str) -> Response:
    studio = repository(request).newest(studio_id).studio
    return file_answer(write_gear(studio.gear), f"{slug(studio.name)}-gear.csv", CSV)


@router.get("/studios/{studio_id}/download/catalogue.csv")
def catalogue_csv(request: Request, studio_id: str) -> Response:
    """The catalogue in the same form: to change in a spreadsheet and take back as one's own."""
    return file_answer(write_gear(load().all()), "catalogue.csv", CSV)


SPEC = PageSpec("kit", kit_page, word="Kit", order=8, router=router)
