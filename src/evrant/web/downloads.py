"""Files to take away: the studio, the shopping list, the ledger."""

from urllib.parse import quote

from fastapi import APIRouter, Request, Response

from evrant.core.ledger import ledger_of
from evrant.files.document import write_studio
from evrant.files.lists import ledger_table, shopping_list
from evrant.web.actions import slug
from evrant.web.context import repository

router = APIRouter()


@router.get("/studios/{studio_id}/download/studio.json")
def studio_file(request: Request, studio_id: str) -> Response:
    studio = repository(request).newest(studio_id).studio
    return _file(write_studio(studio), f"{slug(studio.name)}.json", "application/json")


@router.get("/studios/{studio_id}/download/shopping.csv")
def shopping(request: Request, studio_id: str) -> Response:
    studio = repository(request).newest(studio_id).studio
    return _file(shopping_list(studio), f"{slug(studio.name)}-shopping.csv", "text/csv; charset=utf-8")


@router.get("/studios/{studio_id}/download/ledger.csv")
def ledger(request: Request, studio_id: str) -> Response:
    studio = repository(request).newest(studio_id).studio
    return _file(ledger_table(ledger_of(studio)), f"{slug(studio.name)}-ledger.csv", "text/csv; charset=utf-8")


def _file(content: str, name: str, kind: str) -> Response:
    return Response(
        content, media_type=kind, headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    )
