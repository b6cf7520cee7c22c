"""Twelve wishes of people who begin: unlike each other in what is taken, where, with what and for how much."""

from typing import Any

Wish = dict[str, Any]


def _wish(take: str | list[str], like: str, have: list[str], spend: int, **more: Any) -> Wish:
    where = {"like": like} | more.pop("where", {})
    return {"take": [take] if isinstance(take, str) else take, "where": where, "have": have, "spend": spend} | more


WISHES: tuple[Wish, ...] = (
    _wish("Food from the side, at a window", "living-room corner", ["telephone", "table-fold-80"], 150, country="DE"),
    _wish("Food straight down", "empty room", ["camera-half", "lens-35", "table-fold-80"], 500, country="NL"),
    _wish("Garment on a hanger", "garage", ["camera-full", "lens-50"], 500, country="US", units="imperial"),
    _wish("Shiny object in a tent", "empty room", ["camera-half", "lens-50"], 450, country="FR"),
    _wish("Pet on a table", "small bedroom", ["telephone"], 300, country="DE"),
    _wish("Dog on the floor", "living-room corner", ["camera-full", "lens-35"], 600, country="AT"),
    _wish("Couple, half-length", "empty room", ["camera-full", "lens-35"], 700, country="DE", drill="owned"),
    _wish("Audition tape", "living-room corner", [], 1400, country="GB"),
    _wish("Self-portrait, half-length", "attic", ["camera-half", "lens-24"], 500, country="DE", struck=False),
    _wish(
        "Small collectable, close", "small bedroom", ["camera-half", "lens-90-close", "tripod-160"], 400, country="DE"
    ),
    _wish(
        ["Head and shoulders, seated", "Product on a sweep"],
        "empty room",
        ["camera-half", "lens-50"],
        700,
        country="IE",
        where={"length": 4.4, "width": 3.3},
    ),
    _wish("Half-length, standing", "garage", ["telephone"], 300, country="DE", where={"window": "no"}),
)
