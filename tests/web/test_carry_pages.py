"""Set-up, session, steps, log and test frames over HTTP: what is kept, what is refused, files that are no pictures."""

import io
import json
import resource
import struct
import zlib
from typing import Any

import numpy as np
import pypdf
import pytest
from conftest import Live
from PIL import Image, TiffImagePlugin

from evrant.demo import demo_studio
from evrant.files.document import Refused
from evrant.files.test_frames import LARGEST, MOST_PIXELS, read_frame, value_at
from evrant.store.revisions import NotFound


@pytest.fixture
def mine(live: Live) -> str:
    return live.store.create(demo_studio("adoption-corner"), label="Carried").studio_id


def post(live: Live, key: str, **form: Any) -> Any:
    revision = str(live.store.newest(key).number)
    return live.client.post(
        f"/studios/{key}/edits", data=form, headers={"X-Evrant-Revision": revision, "HX-Request": "true"}
    )


def test_every_page_opens_for_every_set(live: Live, mine: str) -> None:
    for plan in live.store.newest(mine).studio.sets:
        page = live.client.get(f"/studios/{mine}/setup/{plan.id}")
        assert page.status_code == 200 and "Set it up now" in page.text
        assert live.client.get(f"/studios/{mine}/sound/{plan.id}").status_code == 200
    for path in ("session", "log", "carry/first-saturday"):
        assert live.client.get(f"/studios/{mine}/{path}").status_code == 200, path
    assert live.client.get(f"/studios/{mine}/carry/none").status_code == 404
    assert live.client.get(f"/studios/{mine}/frame/none").status_code == 404
    assert live.client.get(f"/studios/{mine}/setup/none").status_code == 404


def test_the_sheet_and_the_calendar_are_files(live: Live, mine: str) -> None:
    paper = live.client.get(f"/studios/{mine}/setup/dog-a/sheet.pdf")
    assert paper.headers["content-type"] == "application/pdf"
    assert "Dog, on the floor" in pypdf.PdfReader(io.BytesIO(paper.content)).pages[0].extract_text()
    calendar = live.client.get(f"/studios/{mine}/session/sessions.ics")
    assert calendar.headers["content-type"].startswith("text/calendar") and "VEVENT" in calendar.text


def test_a_session_is_planned_filled_and_carried_out(live: Live, mine: str) -> None:
    assert post(live, mine, action="session").status_code == 200
    made = live.store.newest(mine).studio.sessions[-1]
    assert post(live, mine, action="session-set", session=made.id, set="cat-a").status_code == 200
    assert "cat-a" not in live.store.newest(mine).studio.sessions[-1].only
    assert post(live, mine, action="attendee", session=made.id).status_code == 200
    assert post(live, mine, action="entry", session=made.id, kind="took").status_code == 200
    assert post(live, mine, target=f"sessions/{made.id}", start="9:30").status_code == 200
    wrong = post(live, mine, target=f"sessions/{made.id}", start="half past")
    assert wrong.status_code == 422 and "time of day" in wrong.text
    now = live.store.newest(mine).studio.sessions[-1]
    assert (now.start, len(now.people), now.entries[0].kind) == ("09:30", 1, "took")
    assert post(live, mine, action="done", session=made.id, step="dog-a-clear").status_code == 200
    assert live.store.newest(mine).studio.sessions[-1].done[0].id == "dog-a-clear"
    assert post(live, mine, action="done", session=made.id, step="dog-a-clear", again="yes").status_code == 200
    assert not live.store.newest(mine).studio.sessions[-1].done
    for wrong_form in ({"session": "gone", "step": "x"}, {"session": made.id, "step": "No good name!"}):
        assert post(live, mine, action="done", **wrong_form).status_code == 422


def test_a_change_stays_at_its_step_until_it_is_done(live: Live, mine: str) -> None:
    step = f"{live.base}/studios/{mine}/carry/first-saturday?at=kneeling-a-test-key"
    page = {"X-Evrant-Page": "carry/first-saturday", "HX-Request": "true", "Referer": step}

    def shown(**form: str) -> str:
        headers = page | {"X-Evrant-Revision": str(live.store.newest(mine).number)}
        text: str = live.client.post(f"/studios/{mine}/edits", data=form, headers=headers).text
        return text.split("<h1>")[1].split("</h1>")[0]

    form = {"action": "reading", "set": "kneeling-a", "light": "key", "kind": "meter: aperture", "reads": "5.6"}
    assert shown(**form) == "The key alone"
    assert shown(action="done", session="first-saturday", step="kneeling-a-test-key") == "The fill alone"
    assert shown(action="done", session="first-saturday", step="kneeling-a-test-key", again="yes") == "The key alone"


def test_a_session_whose_sets_are_gone_says_so(live: Live, mine: str) -> None:
    for key in ("kneeling-a", "dog-a"):
        gone = json.dumps({"verb": "remove", "target": f"sets/{key}"})
        assert post(live, mine, edit=gone).status_code == 200
    assert "Nothing to set up" in live.client.get(f"/studios/{mine}/carry/first-saturday").text
    assert live.client.get(f"/studios/{mine}/session").status_code == 200
    log = live.client.get(f"/studios/{mine}/log").text
    assert "a set that is gone" in log


def test_whether_sound_counts_is_chosen_with_the_shot(live: Live) -> None:
    key = live.store.create(demo_studio("hands-in-view"), label="Filmed").studio_id
    page = live.client.get(f"/studios/{key}/shots").text
    assert page.count(">Counts</button>") == sum(one.capture == "video" for one in demo_studio("hands-in-view").shots)
    edit = json.dumps({"verb": "set", "target": "shots/lesson", "fields": {"sound": True}})
    assert post(live, key, edit=edit).status_code == 200
    assert "no microphone" in live.client.get(f"/studios/{key}/sound/lesson-a").text
    stills = live.store.create(demo_studio("stones-on-file"), label="Stills").studio_id
    assert ">Counts</button>" not in live.client.get(f"/studios/{stills}/shots").text


def test_the_last_set_stays_in_a_session(live: Live, mine: str) -> None:
    for key in ("kneeling-a", "dog-a"):
        answer = post(live, mine, action="session-set", session="first-saturday", set=key)
    assert answer.status_code == 422 and "at least one set" in answer.text
    assert post(live, mine, action="session-set", session="first-saturday", set="none").status_code == 422


def test_readings_are_kept_with_the_set_as_it_stood_and_taken_into_the_plan(live: Live, mine: str) -> None:
    before = len(live.store.newest(mine).studio.readings)
    ok = post(live, mine, action="reading", set="kneeling-a", light="fill", kind="meter: aperture", reads="4,5")
    assert ok.status_code == 200
    studio = live.store.newest(mine).studio
    reading = studio.readings[-1]
    assert (reading.reads, reading.iso, len(studio.readings)) == (4.5, 100, before + 1)
    copy = next(one for one in studio.as_set if one.id == reading.as_set)
    assert all(light.power is not None for light in copy.plan.lights)
    for field, value in (("reads", ""), ("reads", "bright"), ("reads", "-3"), ("set", "none"), ("light", "sun")):
        form = {"set": "kneeling-a", "light": "fill", "kind": "meter: aperture", "reads": "4.5"} | {field: value}
        answer = post(live, mine, action="reading", **form)
        assert answer.status_code == 422, (field, value)
    real = {"power": "1/8", "distance": "1.4 m", "height": "1.9 m", "shutter": "1/125", "iso": "200"}
    set_so = {"set": "kneeling-a", "light": "key", "kind": "meter: aperture", "reads": "8"}
    assert post(live, mine, action="reading", **set_so, **real).status_code == 200
    told = live.store.newest(mine).studio.readings[-1]
    assert (told.power, told.distance, told.height, told.shutter, told.iso) == (0.125, 1.4, 1.9, 1 / 125, 200)
    assert len(live.store.newest(mine).studio.readings) == before + 2
    assert "took 75 min to set up" in live.client.get(f"/studios/{mine}/log").text
    assert post(live, mine, action="take-readings", path="gear/flash-200").status_code == 200
    head = next(item for item in live.store.newest(mine).studio.gear if item.id == "flash-200")
    assert getattr(head, "trim") is not None  # noqa: B009
    assert post(live, mine, action="take-readings").status_code == 200
    again = post(live, mine, action="take-readings")
    assert again.status_code == 422 and "already" in again.text


def test_simulated_instruments_say_what_they_are(live: Live, mine: str) -> None:
    assert post(live, mine, action="simulated-reading", set="dog-a", light="key").status_code == 200
    assert live.store.newest(mine).studio.readings[-1].by == "simulated light meter"
    assert "simulated" in live.client.get(f"/studios/{mine}/log").text
    none = post(live, mine, action="simulated-reading", set="standing-a")
    assert none.status_code == 422 and "shines" in none.text
    laser = post(live, mine, action="laser", target="room/footprint", field="length")
    assert laser.status_code == 200
    assert live.store.newest(mine).studio.room.footprint.length.origin == "laser"  # type: ignore[union-attr]
    assert post(live, mine, action="laser", target="room/footprint", field="kind").status_code == 422


def jpeg(size: tuple[int, int] = (300, 200), exif: Any = None, grey: int = 118, fmt: str = "JPEG") -> bytes:
    out = io.BytesIO()
    image = Image.new("RGB", size, (grey, grey, grey))
    image.save(out, fmt, **({"exif": exif, "quality": 95} if exif is not None else {}))
    return out.getvalue()


def settings(f: Any, t: Any, iso: Any, turned: int = 1) -> Any:
    exif = Image.Exif()
    exif[0x0112] = turned
    part = exif.get_ifd(0x8769)
    part[0x829D], part[0x829A], part[0x8827] = f, t, iso
    part[0x9003] = "2026:11:20 10:00:00"
    return exif


RATIONAL = TiffImagePlugin.IFDRational


def test_settings_are_read_as_makers_write_them_and_left_out_where_missing() -> None:
    plain = read_frame(jpeg(exif=settings(RATIONAL(56, 10), RATIONAL(1, 160), 200)))
    assert (plain.aperture, plain.iso, plain.day) == (5.6, 200, "2026-11-20")
    assert plain.shutter == pytest.approx(1 / 160)
    several = read_frame(jpeg(exif=settings(RATIONAL(8, 1), RATIONAL(10, 1250), (100, 0))))
    assert (several.aperture, several.iso) == (8.0, 100) and several.shutter == pytest.approx(0.008)
    broken = read_frame(jpeg(exif=settings(RATIONAL(0, 0), RATIONAL(1, 0), 0)))
    assert (broken.aperture, broken.shutter, broken.iso) == (None, None, None)
    none = read_frame(jpeg())
    assert none.told() == {
        "width": 300,
        "height": 200,
        "aperture": None,
        "iso": None,
        "shutter": None,
        "day": None,
        "simulated": False,
    }


def test_a_turned_frame_is_set_upright_and_nothing_else_of_it_is_kept() -> None:
    raw = read_frame(jpeg(exif=settings(RATIONAL(8, 1), RATIONAL(1, 125), 100, turned=6)))
    assert (raw.width, raw.height) == (200, 300)
    kept = Image.open(io.BytesIO(raw.picture))
    assert not dict(kept.getexif()) and kept.size == (200, 300)
    assert value_at(raw.picture, 0.5, 0.5)[0] == pytest.approx(118, abs=1.5)
    png = read_frame(jpeg(fmt="PNG"))
    assert Image.open(io.BytesIO(png.picture)).format == "JPEG", "a PNG named .jpg is read by what it is"


def test_a_large_picture_is_made_small_within_bounded_memory() -> None:
    raw = jpeg((7400, 5400))
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    frame = read_frame(raw)
    grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before
    assert max(frame.width, frame.height) <= LARGEST and grown < 260_000, "kB"


def bomb(side: int) -> bytes:
    """A PNG of side² pixels in a few hundred bytes."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", side, side, 8, 2, 0, 0, 0)
    body = zlib.compress(b"\0" * 2000)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body) + chunk(b"IEND", b"")


@pytest.mark.parametrize(
    "raw",
    [
        b"",
        b"not a picture",
        b"\xff\xd8\xff\xe0" + b"\0" * 400,
        bomb(100_000),
        bomb(9000),
        bomb(900),
        jpeg()[:600],
        b"GIF89a" + b"\0" * 60,
    ],
    ids=["empty", "text", "broken jpeg", "bomb", "large bomb", "cut png", "cut jpeg", "gif"],
)
def test_what_is_no_picture_is_refused_with_words(raw: bytes) -> None:
    with pytest.raises(Refused) as refused:
        read_frame(raw)
    assert "picture" in refused.value.faults[0].message and MOST_PIXELS < 100_000**2


def upload(live: Live, key: str, raw: bytes, **form: str) -> Any:
    files = {"file": ("frame.jpg", raw, "image/jpeg")}
    return live.client.post(f"/studios/{key}/frames/take", files=files, data=form)


def test_a_frame_is_kept_read_and_becomes_a_reading(live: Live, mine: str) -> None:
    raw = jpeg(exif=settings(RATIONAL(8, 1), RATIONAL(1, 160), 100), grey=100)
    answer = upload(live, mine, raw, set="kneeling-a", light="key", session="first-saturday")
    assert answer.status_code == 204
    where = answer.headers["HX-Redirect"]
    page = live.client.get(where)
    assert page.status_code == 200 and "key alone" in page.text and "f/8" in page.text
    name = where.split("/frame/")[1].split("?")[0]
    picture = live.client.get(f"/studios/{mine}/frames/{name}.jpg")
    assert picture.headers["content-type"] == "image/jpeg" and np.asarray(Image.open(io.BytesIO(picture.content))).any()
    found = live.client.get(f"/studios/{mine}/frames/{name}/value?x=0.5&y=0.5").json()
    assert found["value"] == pytest.approx(100, abs=1.5)
    for wrong in ("x=2&y=0", "x=a&y=0", "x=0.5", "x=-1&y=0", "x=0.5e3&y=0"):
        assert live.client.get(f"/studios/{mine}/frames/{name}/value?{wrong}").status_code == 404, wrong
    form = {"set": "kneeling-a", "light": "key", "kind": "grey card in a frame", "by": "test frame"}
    assert post(live, mine, action="reading", **form, reads="100", aperture="8.0", iso="100").status_code == 200
    assert live.store.newest(mine).studio.readings[-1].by == "test frame"
    other = live.store.create(demo_studio("hands-in-view"), label="Other").studio_id
    assert live.client.get(f"/studios/{other}/frames/{name}.jpg").status_code == 404, "another studio's frame"


def test_a_frame_as_large_as_cameras_write_it_is_taken_and_no_larger(live: Live, mine: str) -> None:
    chance = np.random.default_rng(1).integers(90, 130, (2400, 3200, 3), dtype=np.uint8)
    out = io.BytesIO()
    Image.fromarray(chance).save(out, "JPEG", quality=97)
    assert len(out.getvalue()) > 5_000_000
    assert upload(live, mine, out.getvalue(), set="kneeling-a").status_code == 204
    over = upload(live, mine, out.getvalue() + b"\0" * 46_000_000, set="kneeling-a")
    assert over.status_code == 413 and "45 MB" in over.text
    other = live.client.post(f"/studios/{mine}/edits", content=b"x" * 3_000_000)
    assert other.status_code == 413 and "2 MB" in other.text


def test_frames_that_cannot_be_read_change_nothing(live: Live, mine: str) -> None:
    before = live.store.newest(mine).number
    for raw in (b"", b"text", bomb(100_000)):
        answer = upload(live, mine, raw, set="kneeling-a")
        assert answer.status_code == 422 and "picture" in json.dumps(answer.json())
    assert live.store.newest(mine).number == before
    none = live.client.post(f"/studios/{mine}/frames/simulated", data={"set": "none"})
    assert none.status_code == 422


def test_a_simulated_frame_leads_to_its_page(live: Live, mine: str) -> None:
    data = {"set": "dog-a", "light": "key"}
    answer = live.client.post(f"/studios/{mine}/frames/simulated", data=data)
    assert answer.status_code == 204
    assert "invented room" in live.client.get(answer.headers["HX-Redirect"]).text


def test_a_frame_of_a_background_light_asks_for_the_background(live: Live, mine: str) -> None:
    answer = upload(live, mine, jpeg(), set="kneeling-a", light="fill", kind="background in a frame")
    page = live.client.get(answer.headers["HX-Redirect"]).text
    assert "Point at the background" in page and 'value="background in a frame" selected' in page
    plain = live.client.get(upload(live, mine, jpeg(), set="kneeling-a").headers["HX-Redirect"]).text
    assert "Point at the grey card" in plain and " selected" not in plain


def test_old_frames_go_when_there_are_too_many(live: Live, mine: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("evrant.store.frames.MOST_FRAMES", 3)
    names = [live.store.keep_frame(mine, f"picture {n}".encode(), {"n": n}) for n in range(5)]
    for name in names[:2]:
        with pytest.raises(NotFound, match="not kept"):
            live.store.frame(mine, name)
    assert [live.store.frame(mine, name)[1]["n"] for name in names[2:]] == [2, 3, 4]
