"""A flood of requests: edits, forms, uploads, ids and addresses as nobody would type them, from one seed."""

import json
import math
import random
import secrets
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any, Literal

from evrant.core.base.model import Model
from evrant.core.edits.language import differing
from evrant.core.edits.paths import NoSuchThing, find
from evrant.core.studio.studio import Studio
from evrant.web.forms import Spec, specs

TEXTS = (
    "stand | old",
    "a|b|c",
    'say "so"',
    "it's <b>bold</b>",
    "[x](y) {z}",
    "line\nbreak",
    "tab\there",
    "\u202eright to left",
    "\u05e9\u05dc\u05d5\u05dd",
    "🦔🪨",
    "é" * 80,
    "x" * 81,
    "",
    " ",
    "a\x00b",
    "%00",
    "../../etc",
    "__2",
    "a__3",
    "{{ 7*7 }}",
    "²",
    "9" * 40,
    "1e999",
    "nan",
    "-inf",
    "0",
    "1",
    "-1",
    "2.4 m",
    "2 m 5",
    "1e-49",
    "1e-300",
    "0.2",
    "9999-12-31",
    "0001-01-01",
    "12:00",
    "yes",
)
NUMBERS: tuple[Any, ...] = (
    0,
    1,
    -1,
    0.2,
    2.0,
    9.99,
    40,
    1e9,
    -1e9,
    1e-49,
    1e-300,
    1e300,
    10**30,
    2**63,
    True,
    None,
    "x",
    [],
    {},
    [1, 2],
)
PAGES = (
    "brief",
    "room",
    "shots",
    "kit",
    "best",
    "shopping",
    "stow",
    "survey",
    "lenses",
    "rooms",
    "compare",
    "history",
    "safety",
    "arrange",
)
OF_SETS = ("sets", "light", "support", "power", "safety")
DOWNLOADS = ("studio.json", "shopping.csv", "ledger.csv", "gear.csv", "shopping.xlsx", "raw.json")
PATTERNS = ("butterfly", "loop", "Rembrandt", "split", "clamshell", "rim pair", "hair light", "top light", "nonsense")
EDIT_IDS = ("short", "x" * 64, "x" * 65, "a" * 63 + "\n", "nul\x00nul", "emoji🦔id", "same-edit-id")
DOCUMENTS: tuple[bytes, ...] = (
    b"",
    b"\x00" * 20,
    b"kind,name,quantity\nstand,Stand,inf\n",
    b"kind,name,mass [kg]\nstand,A|B,nan\n",
    b"kind,name,price\nstand,Tall,Infinity\n",
    b"kind,name\nstand,Plain stand\n",
    b"a" * 40_000 + b",kind\n",
    b"[" * 40_000,
    b"kind [" + b" " * 20_000 + b"\nstand\n",
    "kind;name\nflash;Blitz 🦔\n".encode(),
    b"kind,id,name\nstand,stand,Over\n",
    b"IESNA:LM-63-2002\nTILT=NONE\n1 inf 1 2 1 1 2 0 0 0\n1 1 0\n0 90\n0\n100 nan\n",
    b"IESNA:LM-63-2002\nTILT=NONE\n1 1000 1 2 1 1 2 0 0 0\n1 1 0\n0 90\n0\n100 50\n",
    b"IESNA:LM-63-2002\nTILT=NONE\ninf 1 1 inf 1 1 2 0 0 0\n",
    b"IESNA:LM-63-2002\nTILT=INCLUDE\n1 nan\n",
    b"0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n1e999\n0\nENDSEC\n0\nEOF\n",
    b"0\nSECTION\n2\nENTITIES\n0\nEOF\n",
    b'{"format": "evrant-studio", "schema": 1, "name": "From a file"}',
    b'{"format": "evrant-studio", "schema": 2, "name": "New"}',
    b'{"format": "evrant-studio", "schema": 1, "name": "a|b", "shots": [{"id": "s"}, {"id": "s"}]}',
    b'{"name": NaN}',
    b"[]",
)


@dataclass(frozen=True)
class Asked:
    """One request: how, where, and with what."""

    method: Literal["GET", "POST"]
    path: str
    data: dict[str, str] | None = None
    body: bytes | None = None
    file: bytes | None = None
    headers: dict[str, str] = field(default_factory=dict)


class Flood:
    """Requests about one studio, and which of its parts there are to aim at."""

    def __init__(self, seed: int) -> None:
        self.dice = random.Random(seed)

    def paths(self, studio: Studio) -> list[str]:
        """Things of a studio and some that are not there."""
        empty = Studio(name="x")
        found = {path for path in differing(empty, studio) if path not in ("name", "**")}
        for name in ("gear", "shots", "sets"):
            for thing in getattr(studio, name):
                found.add(f"{name}/{thing.id}")
        for plan in studio.sets:
            found |= {path for path, _ in plan.places()}
        for name in ("walls", "doors", "windows", "circuits", "sockets", "boxes", "places", "slopes"):
            found |= {f"room/{name}"} | {f"room/{name}/{thing.id}" for thing in getattr(studio.room, name)}
        found |= {
            "room",
            "brief",
            "studio",
            "room/footprint",
            "room/footprint/corners",
            "gear",
            "sets",
            "shots",
            "none/x",
            "a|b",
        }
        return sorted(found)

    def value(self) -> Any:
        dice = self.dice
        if dice.random() < 0.5:
            return dice.choice(NUMBERS)
        if dice.random() < 0.6:
            return dice.choice(TEXTS)
        return round(dice.uniform(-2, 12), dice.choice((0, 2, 5)))

    def fields_of(self, studio: Studio, path: str) -> dict[str, Any]:
        """Fields that the thing at a path has, mostly, with values that it may take, mostly; extremes among them."""
        try:
            thing = find(studio, path)
        except NoSuchThing:
            thing = None
        if not isinstance(thing, Model) or self.dice.random() < 0.15:
            return {self.dice.choice(("name", "x", "kind", "id")): self.value()}
        known = specs(type(thing))
        if not known:
            return {"name": self.value()}
        chosen = self.dice.sample(known, min(len(known), self.dice.choice((1, 1, 1, 2, 3))))
        return {spec.name: self.fitting(studio, spec) for spec in chosen}

    def fitting(self, studio: Studio, spec: Spec) -> Any:
        dice = self.dice
        if dice.random() < 0.12:
            return self.value()
        if spec.optional and dice.random() < 0.15:
            return None
        kind = spec.quantity
        if kind is not None:
            low, high = kind.low, kind.high
            usual = dice.uniform(low, min(high, low + 4))
            number = dice.choice((low, high, usual, usual, usual, math.sqrt(max(low, 1e-9) * high)))
            return number if dice.random() < 0.7 else {"value": number, "pm": dice.choice((0, number / 3, high))}
        if spec.options:
            return dice.choice(spec.options)
        if spec.source:
            ids = [item.id for item in studio.gear if item.kind in spec.source.split() or spec.source == "any gear"]
            ids += [thing.id for thing in getattr(studio.room, spec.source, ())] or ["none-such"]
            return dice.choice(ids)
        if spec.widget == "check":
            return dice.random() < 0.5
        if spec.money:
            return dice.choice(("0", "12.50", "99999", "1e30"))
        if spec.show == "day":
            return dice.choice(("9999-12-31", "0001-01-01", "2026-02-29", "2027-05-01"))
        if spec.show in ("words", "") and spec.widget in ("text", "area") and not spec.whole:
            return dice.choice((dice.choice(TEXTS), round(dice.uniform(0, 4), 3)))
        return dice.choice((0, 1, 3, 40, round(dice.uniform(-5, 5), 3), round(dice.uniform(0, 1), 4), 90, 360))

    def edit(self, studio: Studio) -> Any:
        dice, paths = self.dice, self.paths(studio)
        target = dice.choice(paths)
        sets = [f"sets/{plan.id}" for plan in studio.sets] or ["sets/none"]
        item = {
            "id": dice.choice(("new", "stand", "key", "x|y")),
            "kind": dice.choice(("stand", "flash", "lamp", "lens", "x")),
        }
        made: list[Any] = [
            {"verb": "set", "target": target, "fields": self.fields_of(studio, target)},
            {"verb": "set", "target": target, "fields": self.fields_of(studio, target)},
            {"verb": "set", "target": target, "fields": self.fields_of(studio, target)},
            {"verb": "remove", "target": target},
            {"verb": "add", "list": target, "item": item | {"name": dice.choice(TEXTS)}},
            {
                "verb": "add",
                "list": dice.choice(("shots", "sets")),
                "item": {"id": "twice", "shot": "twice", "lights": [{"id": "a"}] * 2},
            },
            {"verb": "reorder", "list": target, "order": [dice.choice(TEXTS)]},
            {"verb": "light", "target": dice.choice(sets), "pattern": dice.choice(PATTERNS), "distance": self.value()},
            {"verb": "turn", "target": dice.choice(sets), "facing": self.value()},
            {"verb": "shift", "target": dice.choice(sets), "dx": self.value(), "dy": self.value()},
            {"verb": "reshape", "footprint": {"kind": "rectangle", "length": self.value(), "width": self.value()}},
            {"verb": "reshape", "footprint": {"kind": "alcove", "length": 4, "width": 3}},
            self.value(),
        ]
        return dice.choice(made)

    def asked(self, key: str, studio: Studio, revision: int) -> Asked:
        """The next request about a studio."""
        dice = self.dice
        base = f"/studios/{key}"
        edit_id = dice.choice(EDIT_IDS) if dice.random() < 0.1 else secrets.token_hex(8)
        number = revision if dice.random() < 0.9 else dice.choice((0, 1, -1, 2**70, "²", True))
        page = {
            "HX-Request": "true",
            "X-Evrant-Page": dice.choice((*PAGES, "set", "sets/none", "", "a|b")),
            "X-Evrant-Revision": str(revision),
        }
        page = page if dice.random() < 0.4 else {}
        roll = dice.random()
        if roll < 0.6:
            body = json.dumps({"edit_id": edit_id, "revision": number, "edit": self.edit(studio)})
            verb = "edits" if roll < 0.5 else "preview"
            headers = {**page, "Content-Type": "application/json"}
            return Asked("POST", f"{base}/{verb}", body=body.encode("utf-8", "surrogatepass"), headers=headers)
        if roll < 0.72:
            target = dice.choice(self.paths(studio))
            text = {name: str(value) for name, value in self.fields_of(studio, target).items()}
            return Asked("POST", f"{base}/edits", data={"target": target, "edit_id": edit_id, **text}, headers=page)
        if roll < 0.84:
            where = dice.choice(("footprint", "photometric", "gear-table"))
            lamps = [f"gear/{item.id}" for item in studio.gear if item.kind == "lamp"] or ["gear/none", "a|b"]
            form = {"edit_id": edit_id, "target": dice.choice(lamps)}
            return Asked("POST", f"{base}/{where}", data=form, file=dice.choice(DOCUMENTS), headers=page)
        if roll < 0.92:
            path = dice.choice(
                (
                    f"/studios/{dice.choice(TEXTS)}/brief",
                    f"{base}/sets/{dice.choice(TEXTS)}",
                    f"{base}/survey/{dice.choice(TEXTS)}",
                    f"{base}/light/{dice.choice(TEXTS)}",
                    f"{base}/remedies?revision={dice.choice(TEXTS)}",
                    f"{base}/lenses/{dice.choice(TEXTS)}",
                    f"{base}/download/{dice.choice(TEXTS)}.dxf",
                    f"/?page={dice.choice(TEXTS)}",
                    f"{base}/compare/a+{dice.choice(TEXTS)}",
                )
            )
            return Asked("GET", path)
        form = {
            "edit_id": edit_id,
            "revision": str(number),
            "number": dice.choice(TEXTS),
            "job": dice.choice(TEXTS),
            "phase": dice.choice(TEXTS),
            "budget": dice.choice(TEXTS),
        }
        step = dice.choice(("undo", "redo", "restore", "kit-accept", "best-cancel", "nonsense", "branch"))
        return Asked("POST", f"{base}/{step}", data=form, headers=page)

    def every_page(self, key: str, studio: Studio) -> Iterator[Asked]:
        """The first page, and every page and file of a studio."""
        base = f"/studios/{key}"
        yield Asked("GET", "/")
        for name in PAGES:
            yield Asked("GET", f"{base}/{name}")
        for plan in studio.sets[:2]:
            for name in OF_SETS:
                yield Asked("GET", f"{base}/{name}/{plan.id}")
            yield Asked("GET", f"{base}/download/{plan.id}.svg")
            yield Asked("GET", f"{base}/download/{plan.id}/power.csv")
            yield Asked("GET", f"{base}/download/{plan.id}/leads.csv")
        for name in DOWNLOADS:
            yield Asked("GET", f"{base}/download/{name}")
