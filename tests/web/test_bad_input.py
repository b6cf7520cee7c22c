"""Bad input: a clear message, a 4xx, nothing stored, never a 5xx."""

import json
from typing import Any

import pytest
from conftest import Live
from helpers.studios import demo, one_portrait

from evrant.files.document import write_studio

HTML = {"HX-Request": "true"}


@pytest.fixture
def studio_id(live: Live) -> str:
    return live.store.create(demo(), label="Demo").studio_id


def unchanged(live: Live, studio_id: str) -> bool:
    return live.store.newest(studio_id).number == 1 and live.store.newest(studio_id).studio == demo()


def deep(levels: int) -> str:
    return "[" * levels + "]" * levels


EDITS: list[tuple[str, Any]] = [
    ("five millimetre room", {"verb": "set", "target": "room/footprint", "fields": {"length": 0.005}}),
    ("negative height", {"verb": "set", "target": "room", "fields": {"height": -2}}),
    ("kilometre box", {"verb": "set", "target": "room/boxes/pipe", "fields": {"length": 1000}}),
    (
        "bow-tie footprint",
        {
            "verb": "reshape",
            "footprint": {
                "kind": "outline",
                "corners": [{"x": 0, "y": 0}, {"x": 3, "y": 3}, {"x": 3, "y": 0}, {"x": 0, "y": 3}],
            },
        },
    ),
    ("unknown verb", {"verb": "explode", "target": "room"}),
    ("unknown kind", {"verb": "add", "list": "gear", "item": {"kind": "smoke machine", "id": "x", "name": "x"}}),
    ("unknown field", {"verb": "set", "target": "room", "fields": {"colour": "red"}}),
    ("unknown member", {"verb": "set", "target": "room", "fields": {"height": 2}, "extra": 1}),
    ("negative price", {"verb": "set", "target": "gear/octa-90", "fields": {"price": -3}}),
    ("price of fractions", {"verb": "set", "target": "gear/octa-90", "fields": {"price": "1.2345"}}),
    ("no target", {"verb": "set", "target": "gear/none", "fields": {"price": 3}}),
    ("path out of the studio", {"verb": "set", "target": "../secret", "fields": {"price": 3}}),
    ("dunder path", {"verb": "set", "target": "__class__", "fields": {"price": 3}}),
    ("list as edit", ["set"]),
    ("text as edit", "set"),
    ("null as edit", None),
    ("control character", {"verb": "set", "target": "studio", "fields": {"name": "a\u0007b"}}),
    ("null character", {"verb": "set", "target": "studio", "fields": {"name": "a\u0000b"}}),
    ("line break in a name", {"verb": "set", "target": "studio", "fields": {"name": "a\nb"}}),
    ("empty name", {"verb": "set", "target": "studio", "fields": {"name": "  "}}),
    ("huge integer", {"verb": "set", "target": "room", "fields": {"height": 10**30}}),
    ("bool as figure", {"verb": "set", "target": "room", "fields": {"height": True}}),
    ("bad id", {"verb": "add", "list": "room/boxes", "item": {"id": "../x", "name": "x"}}),
    ("taken id", {"verb": "add", "list": "room/boxes", "item": {"id": "pipe", "name": "x"}}),
    ("a studio inside an import", {"verb": "import", "document": {"format": "evrant-studio", "schema": 1}}),
    ("coordinates away", {"verb": "shift", "target": "sets/cat-a", "dx": 1e6, "dy": 0}),
]


@pytest.mark.parametrize(("name", "edit"), EDITS, ids=[e[0] for e in EDITS])
@pytest.mark.parametrize("headers", [{}, HTML], ids=["data", "page"])
def test_a_bad_edit_is_refused_with_words(
    live: Live, studio_id: str, name: str, edit: Any, headers: dict[str, str]
) -> None:
    body = {"edit_id": "bad-edit-1", "revision": 1, "edit": edit}
    answer = live.client.post(f"/studios/{studio_id}/edits", json=body, headers=headers)
    assert 400 <= answer.status_code < 500, answer.text
    assert answer.text.strip() and "Traceback" not in answer.text
    if not headers:
        assert answer.json()["faults"][0]["message"]
    assert unchanged(live, studio_id)
    again = live.client.post(f"/studios/{studio_id}/preview", json=body, headers=headers)
    assert 400 <= again.status_code < 500


RAW = [
    b"",
    b"{",
    b"\xff\xfe",
    b"nonsense",
    deep(10_000).encode(),
    b'{"a": NaN}',
    b'{"edit": {"verb": "set", "target": "room", "fields": {"height": Infinity}}, "revision": 1}',
    b'{"edit": {"verb": "set", "target": "room", "fields": {"height": 1e400}}, "revision": 1}',
    b'{"edit": {"verb": "set", "target": "room", "fields": {"height": -1e400}}, "revision": 1}',
    b'{"edit": {"verb": "set", "target": "sets/cat-a/camera", "fields": {"x": 1e400}}, "revision": 1}',
    b'{"edit": {"verb": "set", "target": "studio", "fields": {"name": "a\\ud800b"}}, "revision": 1}',
    b'{"edit": {"verb": "set", "target": "studio", "fields": {"name": "a\\u0000b"}}, "revision": 1}',
    b'{"edit": {"verb": "set", "target": "room", "fields": {"height": 2}}, "revision": "one"}',
    b'{"edit": {"verb": "set", "target": "room", "fields": {"height": 2}}, "revision": 1, "edit_id": "x y"}',
    b'{"edit": {"verb": "set", "target": "room", "fields": {"height": ' + deep(3000).encode() + b'}}, "revision": 1}',
    b"[1, 2]",
]


@pytest.mark.parametrize("raw", RAW, ids=range(len(RAW)))
def test_raw_nonsense_is_refused(live: Live, studio_id: str, raw: bytes) -> None:
    for path in ("edits", "preview", "undo"):
        answer = live.client.post(
            f"/studios/{studio_id}/{path}", content=raw, headers={"Content-Type": "application/json"}
        )
        assert 400 <= answer.status_code < 500, (path, answer.text)
    assert unchanged(live, studio_id)


def test_ten_megabytes_are_refused_early(live: Live, studio_id: str) -> None:
    answer = live.client.post(
        f"/studios/{studio_id}/edits",
        content=b"[" + b"1," * 5_000_000 + b"1]",
        headers={"Content-Type": "application/json"},
    )
    assert answer.status_code == 413 and "2 MB" in answer.text

    def pieces() -> Any:
        for _ in range(100):
            yield b" " * 100_000

    chunked = live.client.post(
        f"/studios/{studio_id}/edits", content=pieces(), headers={"Content-Type": "application/json"}
    )
    assert chunked.status_code == 413
    assert unchanged(live, studio_id)


def bad_files() -> list[tuple[str, bytes, str]]:
    good = json.loads(write_studio(demo()))

    def changed(path: list[Any], value: Any) -> bytes:
        data = json.loads(json.dumps(good))
        here = data
        for step in path[:-1]:
            here = here[step]
        here[path[-1]] = value
        return json.dumps(data).encode()

    return [
        ("not JSON", b"hello", "not JSON"),
        ("other format", b'{"format": "something"}', "format"),
        ("newer schema", changed(["schema"], 99), "schema"),
        ("wrong figure deep inside", changed(["gear", 3, "mass"], -1), "gear.3"),
        ("unknown field", changed(["room", "smell"], 1), "room.smell"),
        ("unknown kind", changed(["gear", 0, "kind"], "dragon"), "gear.0"),
        ("id twice", changed(["gear", 1, "id"], "camera-full"), "twice"),
        ("NaN", write_studio(demo()).replace("2.35", "NaN", 1).encode(), "not JSON"),
        ("too deep", deep(10_000).encode(), "not JSON"),
        ("cut in half", write_studio(demo()).encode()[:2000], "not JSON"),
        ("missing name", changed(["name"], None), "name"),
    ]


@pytest.mark.parametrize(("name", "raw", "words"), bad_files(), ids=[f[0] for f in bad_files()])
def test_a_bad_file_is_refused_with_the_path(live: Live, name: str, raw: bytes, words: str) -> None:
    answer = live.client.post("/studios/import", files={"file": ("studio.json", raw, "application/json")})
    assert answer.status_code == 422 and words in answer.text and "nothing was changed" in answer.text
    assert live.store.studios() == []


def test_a_script_in_a_name_is_only_text(live: Live, studio_id: str) -> None:
    evil = "<script>alert(1)</script>"
    for target, field in (
        ("studio", "name"),
        ("gear/octa-90", "name"),
        ("room/boxes/pipe", "name"),
        ("shots/cat", "name"),
    ):
        newest = live.store.newest(studio_id).number
        edit = {"verb": "set", "target": target, "fields": {field: evil}}
        assert live.post(f"/studios/{studio_id}/edits", revision=newest, edit=edit).status_code == 200
    for page in ("brief", "room", "shots", "kit", "history", "sets/cat-a", "sets/kneeling-a"):
        shown = live.client.get(f"/studios/{studio_id}/{page}")
        assert shown.status_code == 200 and "<script>alert" not in shown.text and "&lt;script&gt;" in shown.text.lower()
    assert "<script>alert" not in live.client.get("/").text


def test_a_spreadsheet_formula_is_defused(live: Live, studio_id: str) -> None:
    edit = {"verb": "set", "target": "gear/octa-90", "fields": {"name": "=1+1"}}
    live.post(f"/studios/{studio_id}/edits", revision=1, edit=edit)
    rows = live.client.get(f"/studios/{studio_id}/download/shopping.csv").text
    assert "'=1+1" in rows


@pytest.mark.parametrize(
    ("field", "typed", "words"),
    [
        ("height", "banana", "cannot be read"),
        ("height", "5 mm", "lies between"),
        ("height", "3 kg", "not a unit"),
    ],
)
def test_a_typed_field_answers_beside_itself_and_keeps_the_text(
    live: Live, studio_id: str, field: str, typed: str, words: str
) -> None:
    answer = live.client.post(
        f"/studios/{studio_id}/edits",
        data={"target": "room", field: typed},
        headers=HTML | {"X-Evrant-Revision": "1", "X-Evrant-Page": "room"},
    )
    assert answer.status_code == 422 and words in answer.text
    assert answer.headers["HX-Retarget"] == "#f-room-height" and f'value="{typed}"' in answer.text
    assert unchanged(live, studio_id)


def test_a_rule_of_a_whole_thing_answers_at_the_field_that_was_typed(live: Live, studio_id: str) -> None:
    shape = {"kind": "ell", "length": 4, "width": 3, "cut_length": 1, "cut_width": 1}
    live.post(f"/studios/{studio_id}/edits", revision=1, edit={"verb": "reshape", "footprint": shape})
    answer = live.client.post(
        f"/studios/{studio_id}/edits",
        data={"target": "room/footprint", "cut_length": "3.9 m"},
        headers=HTML | {"X-Evrant-Revision": "2", "X-Evrant-Page": "room"},
    )
    assert answer.status_code == 422 and "less than 30 cm" in answer.text
    assert answer.headers["HX-Retarget"] == "#f-room-footprint-cut_length"


def test_a_set_moved_out_of_range_is_refused(live: Live) -> None:
    made = live.store.create(demo().changed(name=one_portrait()["name"]), label="x")
    answer = live.post(
        f"/studios/{made.studio_id}/edits",
        revision=1,
        edit={"verb": "shift", "target": "sets/cat-a", "dx": 39, "dy": 0},
    )
    assert answer.status_code == 422
