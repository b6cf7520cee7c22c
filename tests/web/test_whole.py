"""All of a studio in one file: taken away, taken in again, and what is refused on the way."""

import io
import json
import zipfile
from typing import Any

import pytest
from conftest import Live
from helpers.photographs import plain_jpeg
from helpers.studios import one_portrait, parse
from PIL import Image
from sqlalchemy import Engine, text

from evrant.core.studio.past import MOST_FRAMES, Whole
from evrant.core.studio.studio import Studio
from evrant.files import whole as file
from evrant.files.document import Refused
from evrant.files.whole import read_any
from evrant.store.repository import Repository

TOLD = {"width": 8, "height": 6, "aperture": 5.6, "iso": 100, "shutter": 0.008, "day": "2026-11-30", "simulated": True}


def height(metres: float) -> dict[str, Any]:
    return {"verb": "set", "target": "room", "fields": {"height": metres}}


@pytest.fixture
def lived(live: Live) -> str:
    """A studio that was worked on: changed, undone, changed otherwise, branched, photographed."""
    key = live.store.create(parse(one_portrait()), label="Test").studio_id
    for revision, change in enumerate((height(2.51), None, height(2.52), height(2.53), None), 1):
        path = f"/studios/{key}/{'edits' if change else 'undo'}"
        live.post(path, revision=revision, **({"edit": change} if change else {})).raise_for_status()
    branch = live.store.branch(key, "a-second-plan").studio_id
    live.post(f"/studios/{branch}/edits", revision=1, edit=height(2.4)).raise_for_status()
    for grey in (40, 200):
        live.store.keep_frame(key, plain_jpeg(8, 6, grey), TOLD)
    return key


def taken(live: Live, key: str) -> bytes:
    answer = live.client.get(f"/studios/{key}/download/whole.zip")
    assert answer.headers["content-type"] == "application/zip" and answer.status_code == 200
    return answer.content


def sent(live: Live, raw: bytes, **form: str) -> Any:
    files = {"file": ("whole.zip", raw, "application/zip")}
    return live.client.post("/studios/import", files=files, data=form, headers={"HX-Request": "true"})


def key_in(answer: Any) -> str:
    assert answer.status_code == 204, answer.text
    return str(answer.headers["HX-Redirect"]).split("/")[2]


def rows(store: Repository, key: str) -> list[dict[str, Any]]:
    return [{name: row[name] for name in ("number", "parent", "cause", "label", "at", "document")}
            for row in store.whole_history(key)]  # fmt: skip


def test_what_is_taken_away_is_taken_in_again(live: Live, lived: str) -> None:
    mine = key_in(sent(live, taken(live, lived)))
    store = live.store
    assert mine != lived and store.plans(mine) == [mine, f"{mine}~b"]
    for letter in ("", "~b"):
        before, after = rows(store, lived + letter), rows(store, mine + letter)
        assert after[:-1] == before, "each revision as it was"
        last = after[-1]
        assert last["document"] == before[-1]["document"] and last["cause"] == "import"
        assert last["label"] == f"Taken in from a file, with {len(before)} revisions"
    assert store.frames(mine, MOST_FRAMES) == store.frames(lived, MOST_FRAMES), "pictures in their order"
    assert [store.frame(mine, name) for name, _ in store.frames(mine)] == [
        store.frame(lived, name) for name, _ in store.frames(lived)
    ]
    assert {line.by for line in store.history(mine)} == {"local"}, "who takes it in is who answers for it"


def test_undo_goes_on_where_it_was(live: Live, lived: str) -> None:
    mine = key_in(sent(live, taken(live, lived)))

    def step(word: str) -> Any:
        newest = live.store.newest(mine).number
        assert live.post(f"/studios/{mine}/{word}", revision=newest).status_code == 200
        return live.store.newest(mine).studio.room.height

    found = live.store.newest(mine).studio.room.height
    assert found is not None and found.value == 2.52
    assert step("undo") == parse(one_portrait()).room.height, "straight to what was before, not to the same again"
    assert live.post(f"/studios/{mine}/undo", revision=live.store.newest(mine).number).status_code == 422
    assert step("redo") == found


def test_sent_twice_it_is_one(live: Live, lived: str) -> None:
    raw = taken(live, lived)
    first, again = (key_in(sent(live, raw, edit_id="take-it-in")) for _ in range(2))
    assert first == again and live.store.count() == 2


def test_an_unreadable_studio_can_be_taken_away(live: Live, lived: str, engine: Engine) -> None:
    with engine.begin() as connection:
        connection.execute(text("UPDATE revision SET document = '{\"name\": \"Old\"}' WHERE plan = 'a'"))
    held = zipfile.ZipFile(io.BytesIO(taken(live, lived)))
    assert json.loads(held.read("studio.json")) == {"name": "Old"} and len(held.namelist()) == 7


# --- what is refused ----------------------------------------------------------------------------


def zipped(**members: Any) -> bytes:
    """A zip of members; what is no text or bytes is written as JSON."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, held in members.items():
            made.writestr(name, held if isinstance(held, (str, bytes)) else json.dumps(held))
    return out.getvalue()


def lines(*changed: dict[str, Any]) -> str:
    """A history of so many revisions, each changed as said."""
    document = one_portrait()
    first = {"cause": "edit", "label": "x", "at": "2026-11-30T10:00:00+00:00", "schema": 1, "document": document}
    made = ({**first, "number": number, "parent": number - 1 or None, **one} for number, one in enumerate(changed, 1))
    return "\n".join(map(json.dumps, made))


STUDIO = {"studio.json": one_portrait()}
PICTURES = {"pictures.json": {"one": TOLD}}
WRONG = {
    "cut": (zipped(**STUDIO)[:400], "not taken", "damaged"),
    "nothing of ours": (zipped(**{"holiday.txt": "sun"}), "not taken", "no studio.json"),
    "a bad field": (zipped(**{"studio.json": one_portrait() | {"name": ""}}), "studio.json: name", "empty"),
    "not JSON": (zipped(**STUDIO, **{"history.jsonl": "{"}), "history.jsonl, line 1", "JSON"),
    "no revision": (zipped(**STUDIO, **{"history.jsonl": ""}), "history.jsonl", "no revision"),
    "an array": (zipped(**STUDIO, **{"history.jsonl": "[]"}), "history.jsonl, line 1", ""),
    "a newer schema": (zipped(**STUDIO, **{"history.jsonl": lines({"schema": 99})}), "line 1: schema", "schema 99"),
    "out of order": (zipped(**STUDIO, **{"history.jsonl": lines({"number": 2})}), "line 1: number", "from 1"),
    "its own parent": (zipped(**STUDIO, **{"history.jsonl": lines({}, {"parent": 2})}), "line 2: number", "earlier"),
    "a bad document": (zipped(**STUDIO, **{"history.jsonl": lines({}, {"document": {}})}), "line 2", "missing"),
    "an unknown cause": (zipped(**STUDIO, **{"history.jsonl": lines({"cause": "magic"})}), "line 1: cause", ""),
    "long ago": (
        zipped(**STUDIO, **{"history.jsonl": lines({"at": "0001-01-01T00:00:00+14:00"})}), "line 1: at", "2000"),
    "more lights than can be judged": (zipped(**STUDIO, **{"history.jsonl": lines(
        {"document": one_portrait() | {"sets": [{"id": f"s-{n}", "shot": "x", "lights": [
            {"id": f"l-{k}"} for k in range(16)]} for n in range(40)]}})}), "line 1: sets", "640 lights"),
    "no time of day": (zipped(**STUDIO, **{"history.jsonl": lines({"at": "Monday"})}), "line 1: at", ""),
    "a picture that is none": (
        zipped(**STUDIO, **PICTURES, **{"pictures/one.jpg": "not a picture"}), "pictures/one.jpg", "not a picture"),
    "a picture that is gone": (zipped(**STUDIO, **PICTURES), "pictures/one.jpg", "not there"),
    "told wrong": (
        zipped(**STUDIO, **{"pictures.json": {"one": {"width": -1}}, "pictures/one.jpg": plain_jpeg(8, 6)}),
        "pictures.json, one: width", ""),
}  # fmt: skip


@pytest.mark.parametrize("name", WRONG)
def test_a_bad_file_is_refused_where_it_is_wrong_and_leaves_nothing(name: str, live: Live, engine: Engine) -> None:
    raw, where, words = WRONG[name]
    before = live.store.count()
    answer = sent(live, raw)
    assert answer.status_code == 422 and f"{where}" in answer.text and words in answer.text
    assert "nothing was changed" in answer.text
    assert live.store.count() == before
    with engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM revision WHERE studio NOT IN (SELECT id FROM studio)")
                                  ).scalar() == 0  # fmt: skip
        assert connection.execute(text("SELECT count(*) FROM frame")).scalar() == 0


def test_a_bomb_is_refused_by_its_size_before_it_is_unpacked(live: Live) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        made.writestr("studio.json", json.dumps(one_portrait()))
        with made.open("history.jsonl", "w") as member:
            for _ in range(26):
                member.write(bytes(10_000_000))
    assert len(out.getvalue()) < 1_000_000
    answer = sent(live, out.getvalue())
    assert answer.status_code == 422 and "larger than 250 MB" in answer.text


def test_a_line_without_an_end_is_read_no_farther_than_a_studio_may_go() -> None:
    raw = zipped(**STUDIO, **{"history.jsonl": "x" * 5_000_000})
    found = read_any(raw)
    assert isinstance(found, Whole)
    with pytest.raises(Refused, match="larger than 2 MB"):
        list(found.plans["a"])


def test_more_revisions_than_can_be_taken_in_are_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(file, "MOST_REVISIONS", 2)
    found = read_any(zipped(**STUDIO, **{"history.jsonl": lines({}, {}, {})}))
    assert isinstance(found, Whole)
    with pytest.raises(Refused, match="more than 2 revisions"):
        list(found.plans["a"])


def test_a_zip_without_a_history_is_what_it_holds(live: Live) -> None:
    mine = key_in(sent(live, zipped(**STUDIO)))
    assert [line.label for line in live.store.history(mine)] == [
        "Taken in from a file, with 1 revision", "As the file has it"]  # fmt: skip


def test_pictures_from_elsewhere_are_made_small_and_lose_what_they_carry() -> None:
    exif = Image.Exif()
    exif[0x010E] = "where I live"
    large = plain_jpeg(2600, 1300, exif=exif)
    found = read_any(zipped(**STUDIO, **PICTURES, **{"pictures/one.jpg": large}))
    assert isinstance(found, Whole)
    (one,) = found.pictures
    assert b"where I live" in large and b"where I live" not in one.picture
    assert max(Image.open(io.BytesIO(one.picture)).size) == 1280


def test_a_plain_studio_is_still_read_as_one() -> None:
    assert isinstance(read_any(json.dumps(one_portrait()).encode()), Studio)


def test_larger_than_other_changes_but_bounded(live: Live) -> None:
    for size, status in ((3_000_000, 422), (46_000_000, 413)):
        assert sent(live, b"PK" + bytes(size)).status_code == status
