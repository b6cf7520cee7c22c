"""Kit and stow in the browser: the best kit, the shopping list with what was bought, and where it all goes."""

from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Any

from fastapi import APIRouter, Form, Request, Response, UploadFile
from starlette.responses import JSONResponse

from evrant.catalogue import load
from evrant.core.base.memo import Memo
from evrant.core.base.units import CannotRead
from evrant.core.buying import costs
from evrant.core.edits.language import EDIT, Add, EditRefused, Remove, SetFields, Several
from evrant.core.search.kit.accept import accept
from evrant.core.search.kit.leave import leave_it
from evrant.core.search.kit.parts import parts_wanted
from evrant.core.search.kit.shopping import last_day, reminders, shopping
from evrant.core.space.scene import scene_of
from evrant.core.stowage.packing import Packed
from evrant.core.stowage.pieces import kept, spaces_of, unmeasured
from evrant.core.stowage.report import packed_studio, smaller
from evrant.core.stowage.striking import BEGINNER, Task, minutes, setting_up, striking
from evrant.core.studio.gear import KINDS
from evrant.core.studio.studio import Studio, by_id
from evrant.drawing.frontier import frontier_chart
from evrant.drawing.places import place_drawing
from evrant.files.document import Refused
from evrant.files.gear_table import read_gear, rows_of, write_gear
from evrant.files.lists import shopping_rows
from evrant.files.workbook import write_workbook
from evrant.jobs.kit import KIND, ask_for_kit
from evrant.store.jobs import Jobs, LongJob
from evrant.store.repository import NotFound
from evrant.web.actions import slug
from evrant.web.answers import file_answer
from evrant.web.context import Page, render, repository
from evrant.web.edge import EditId
from evrant.web.forms import read_money
from evrant.web.pages import card
from evrant.web.pages import kit as kit_forms
from evrant.web.uploads import take_file

router = APIRouter()
_PACKED: Memo[Packed] = Memo(8_000_000, lambda packed: 600 * (1 + len(packed.puts) + len(packed.left)))
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
CSV = "text/csv; charset=utf-8"


def jobs_of(request: Request) -> Jobs:
    found: Jobs = request.app.state.jobs
    return found


def today() -> date:
    return datetime.now(UTC).date()


# --- the best kit ------------------------------------------------------------------------------------


def best_page(page: Page) -> dict[str, Any]:
    """The question, the job that works on it, and its answer so far."""
    job = jobs_of(page.request).newest(page.revision.studio_id, KIND)
    budget = page.studio.brief.budget
    return {
        "typed": f"{budget:f}" if budget is not None else "",
        "problem": "",
        "leave": leave_it(page.studio),
        **_of_job(page, job),
    }


def _of_job(page: Page, job: LongJob | None) -> dict[str, Any]:
    found: dict[str, Any] = {"job": job, "answer": None, "chart": "", "why_kinds": []}
    if job is None or job.answer is None:
        return found
    answer = job.answer
    whys: dict[str, list[dict[str, Any]]] = {}
    for one in answer["why_not"]:
        whys.setdefault(one["kind"] or "other", []).append(one)
    found["answer"] = answer
    found["chart"] = frontier_chart(answer["frontier"], answer["budget"], answer["currency"], len(answer["shots"]))
    found["why_kinds"] = [(kind, whys[kind]) for kind in (*KINDS, "other") if kind in whys]
    taken = {item.id for item in page.studio.gear if item.status != "considered"}
    found["taken"] = [step["number"] for step in answer["phases"] if step["buy"] and set(step["buy"]) <= taken]
    found["months"] = [_month(page.studio, step["month"]) for step in answer["phases"]]
    return found


def _month(studio: Studio, number: int | None) -> str:
    """When a phase is paid for, by what is put aside each month."""
    if number is None:
        return ""
    start = date.fromisoformat(studio.brief.start) if studio.brief.start else today()
    year, month = divmod(start.year * 12 + start.month - 1 + number - 1, 12)
    return f"{date(year, month + 1, 1):%B %Y}"


@router.post("/studios/{studio_id}/kit-search")
def ask(request: Request, studio_id: str, budget: str = Form(""), lonely: str = Form("")) -> Response:
    """Queue the search for the best kit; the page then follows it."""
    newest = repository(request).newest(studio_id)
    page = Page(request, newest, "best", repository(request).can_undo_redo(newest))
    try:
        amount = read_money(budget)
        if not 0 < amount <= 10_000_000:
            raise CannotRead("Give a sum above zero.")
        if not newest.studio.shots:
            raise CannotRead("Say first what you will shoot.")
    except CannotRead as error:
        page.extra |= best_page(page) | {"typed": budget, "problem": str(error)}
        return render("pages/best/ask.html", page, 422, {"HX-Retarget": "#ask-kit", "HX-Reswap": "outerHTML"})
    ask_for_kit(jobs_of(request), studio_id, newest.studio, float(amount), lonely == "yes")
    page.extra |= best_page(page)
    return render("pages/best/found.html", page)


@router.get("/studios/{studio_id}/best/found")
def found(request: Request, studio_id: str) -> Response:
    """How far the search is, and its answer so far."""
    newest = repository(request).newest(studio_id)
    page = Page(request, newest, "best", repository(request).can_undo_redo(newest))
    page.extra |= best_page(page)
    return render("pages/best/found.html", page)


@router.post("/studios/{studio_id}/kit-cancel")
def cancel(request: Request, studio_id: str, job: str = Form("")) -> Response:
    jobs_of(request).cancel(job)
    return found(request, studio_id)


@router.get("/studios/{studio_id}/best.json")
def best_data(request: Request, studio_id: str) -> Response:
    """The answer of the newest search as data."""
    repository(request).newest(studio_id)
    job = jobs_of(request).newest(studio_id, KIND)
    if job is None or job.answer is None:
        raise NotFound("There is no answer yet.")
    return JSONResponse(job.answer)


@router.post("/studios/{studio_id}/kit-accept")
def take_phase(
    request: Request, studio_id: str, job: str = Form(""), phase: int = Form(0), edit_id: EditId = ""
) -> Response:
    """A phase of the answer as one edit: its things and the sets they make possible."""
    held = jobs_of(request).find(job)
    if held is None or held.answer is None or held.studio != studio_id:
        raise EditRefused("That answer is no longer there; ask again.")
    answer = held.answer
    if not any(step["number"] == phase for step in answer["phases"]):
        raise EditRefused("There is no such phase.", "phase")
    take_file(request, studio_id, edit_id, lambda studio: accept(answer, phase, studio))
    return Response(status_code=204, headers={"HX-Redirect": f"/studios/{studio_id}/shopping"})


# --- gear as a table ---------------------------------------------------------------------------------


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


@router.get("/studios/{studio_id}/download/shopping.xlsx")
def shopping_xlsx(request: Request, studio_id: str) -> Response:
    """The list, what was bought, and the gear, as a workbook."""
    studio = repository(request).newest(studio_id).studio
    sheets = {"to buy": shopping_rows(studio), "bought": _bought_rows(studio), "gear": rows_of(studio.gear)}
    return file_answer(write_workbook(sheets), f"{slug(studio.name)}-shopping.xlsx", XLSX)


def _bought_rows(studio: Studio) -> list[list[Any]]:
    rows: list[list[Any]] = [
        [
            "what",
            "count",
            "shop",
            "bought",
            "planned",
            "paid",
            "delivery",
            "arrived",
            "checked",
            "send back by",
            "sent back",
            "warranty until",
        ]
    ]
    for one in costs.against_plan(studio):
        bought = one.purchase
        shop, last = by_id(studio.shops, bought.shop), last_day(studio, bought)
        rows.append(
            [
                one.item.name if one.item else bought.item,
                bought.count,
                shop.name if shop else "",
                bought.bought or "",
                one.planned,
                bought.paid,
                bought.delivery,
                bought.arrived or "",
                "yes" if bought.checked else "",
                last.isoformat() if last else "",
                bought.returned or "",
                bought.warranty or "",
            ]
        )
    return rows


# --- the shopping list -------------------------------------------------------------------------------


def shopping_page(page: Page) -> dict[str, Any]:
    """By phase what to look for; shops and their orders; what was bought; what it costs to run."""
    studio, say = page.studio, page.say
    phases: dict[int, list[dict[str, Any]]] = {}
    for one in shopping(studio):
        price = None if one.item.price is None else one.item.price * one.item.quantity
        row = {
            "item": one.item,
            "price": "" if price is None else f"{price:.2f}",
            "figures": one.figures,
            "id": f"buy-{one.item.id}",
        }
        phases.setdefault(one.phase, []).append(row)
    orders = [
        {
            "name": order.shop.name if order.shop else "no shop yet",
            "count": len(order.items),
            "goods": say.money(float(order.goods)),
            "tax": say.money(float(order.tax)) if order.tax else "",
            "delivery": say.money(float(order.delivery)) if order.delivery else "",
            "to_free": say.money(float(order.to_free)) if order.to_free else "",
            "total": say.money(float(order.total)),
        }
        for order in costs.orders(studio)
    ]
    bought = [_bought(page, one) for one in costs.against_plan(studio)]
    budget = studio.brief.budget
    left = None if budget is None else float(budget) - float(costs.spent(studio)) - float(costs.to_spend(studio))
    each = costs.per_session(studio)
    return {
        "phases": sorted(phases.items()),
        "orders": orders,
        "bought": bought,
        "reminders": reminders(studio, today()),
        "sums": {
            "spent": say.money(float(costs.spent(studio))),
            "planned": say.money(float(costs.to_spend(studio))),
            "left": None if left is None else say.money(abs(left)),
            "over": left is not None and left < 0,
        },
        "running": [(one.word, say.money(float(one.yearly)), one.why) for one in costs.running(studio)],
        "yearly": say.money(float(sum((one.yearly for one in costs.running(studio)), Decimal(0)))),
        "each": say.money(float(each)) if each is not None else "",
        "sessions": costs.sessions(studio),
        "shops": [card(page, f"shops/{shop.id}", shop) for shop in studio.shops],
        "upkeep": [card(page, f"upkeep/{one.id}", one) for one in studio.upkeep],
        "today": today().isoformat(),
    }


def _bought(page: Page, one: costs.Actual) -> dict[str, Any]:
    made = card(page, f"purchases/{one.purchase.id}", one.purchase)
    last = last_day(page.studio, one.purchase)
    dearer = one.dearer
    words = ""
    if dearer is not None and dearer != 0:
        words = f"{page.say.money(abs(float(dearer)))} {'more' if dearer > 0 else 'less'} than planned"
    return made | {
        "name": one.item.name if one.item else one.purchase.item,
        "purchase": one.purchase,
        "paid": "" if one.paid is None else page.say.money(float(one.paid)),
        "words": words,
        "last": last.isoformat() if last else "",
        "item": one.item,
    }


# --- kit ---------------------------------------------------------------------------------------------


def kit_page(page: Page) -> dict[str, Any]:
    """The kit's forms, and the small parts the sets need."""
    return kit_forms(page) | {"parts": wanted_parts(page)}


def wanted_parts(page: Page) -> list[dict[str, Any]]:
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


# --- stow --------------------------------------------------------------------------------------------


def stow_page(page: Page) -> dict[str, Any]:
    """Each place drawn with what goes where; what finds none; what stays; times; what would free room."""
    studio, say = page.studio, page.say
    parts = (studio.gear, studio.room.places, studio.sets)
    packed = _PACKED.get("stow", parts, lambda: packed_studio(studio))
    places = []
    for space in spaces_of(studio.room.places):
        puts = sorted(packed.of(space.id), key=lambda put: (put.at[2], put.at[1], put.at[0]))
        numbers = {put.piece.key: number for number, put in enumerate(puts, start=1)}
        mass = sum(put.piece.mass for put in puts)
        limit = "" if space.load >= 1e6 else f" of {say.mass(space.load)}"
        places.append(
            {
                "space": space,
                "drawing": place_drawing(space, puts, numbers, say),
                "things": [
                    (numbers[p.piece.key], p.piece.name, say.mass(p.piece.mass), _where(p.at, p.size, space.depth))
                    for p in puts
                ],
                "filled": f"{sum(p.piece.volume for p in puts) / space.volume * 100:.0f} %",
                "mass": f"{say.mass(mass)}{limit}",
            }
        )
    return {
        "places": places,
        "left": packed.left,
        "stays": [item for item in kept(studio.gear) if item.stowed == "stays in the room"],
        "unmeasured": unmeasured(studio),
        "described": bool(studio.room.places),
        "smaller": [
            {
                "one": one,
                "litres": say.litres(max(one.litres, 0.0)),
                "length": say.length(one.length) if one.length > 0.01 else "",
            }
            for one in smaller(studio, load().all())
        ],
        "sets": [_times(studio, plan.id) for plan in studio.sets],
        "summary": [],
    }


def _where(at: tuple[float, float, float], size: tuple[float, float, float], deep: float) -> str:
    """Where a thing lies, in words."""
    high = "on the floor" if at[2] < 0.01 else f"{at[2] * 100:.0f} cm up"
    front = at[1] + size[1]
    return f"{high}, {'front' if front > 0.66 * deep else 'back' if front < 0.45 * deep else 'middle'}"


def _times(studio: Studio, key: str) -> dict[str, Any]:
    plan = by_id(studio.sets, key)
    scene = scene_of(studio, plan) if plan else None
    up: list[Task] = setting_up(scene) if scene else []
    down: list[Task] = striking(scene) if scene else []
    return {
        "name": plan.name if plan else key,
        "up": up,
        "down": down,
        "up_minutes": f"{minutes(up):.0f}",
        "down_minutes": f"{minutes(down):.0f}",
        "beginner": f"{BEGINNER * (minutes(up) + minutes(down)):.0f}",
    }


KIT_PAGES = {"kit": kit_page, "best": best_page, "shopping": shopping_page, "stow": stow_page}
