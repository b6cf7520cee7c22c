"""The picture over HTTP: frames, readings, what is tried, the face sheet, what cannot be shown; the command line."""

import html
import io
import json
import re
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any
from urllib.parse import quote

import numpy as np
import pytest
from conftest import Live
from PIL import Image

from evrant import cli
from evrant.core.picture.render import picture
from evrant.demo import demo_studio
from evrant.web.pages.picture.handler import _turn
from evrant.web.pictures import AT_ONCE

DEMO = Path(cli.__file__).parent / "demo" / "hands-in-view.json"
NEAR: dict[str, Any] = {"verb": "set", "target": "sets/lesson-a/lights/key", "fields": {"power": 0.3}}


@pytest.fixture
def filmed(live: Live) -> str:
    return live.store.create(demo_studio("hands-in-view"), label="Filmed").studio_id


def pixels(answer: Any) -> Any:
    assert answer.status_code == 200 and answer.headers["content-type"] == "image/png"
    return np.asarray(Image.open(io.BytesIO(answer.content)), dtype=float)


def test_a_frame_of_any_size_of_each_light_alone_and_with_marks(live: Live, filmed: str) -> None:
    base = f"/studios/{filmed}/picture/lesson-a"
    whole = pixels(live.client.get(f"{base}/frame.png?size=120"))
    assert whole.shape == (80, 120, 3)
    key = pixels(live.client.get(f"{base}/frame.png?size=120&part=only-0"))
    room = pixels(live.client.get(f"{base}/frame.png?size=120&part=without"))
    assert whole.mean() > key.mean() > room.mean() and room.max() == 0
    coarse = pixels(live.client.get(f"{base}/frame.png?size=120&coarse=1"))
    assert abs(coarse - whole).mean() < 4
    marks = pixels(live.client.get(f"{base}/frame.png?size=120&part=without&marks=1"))
    assert (marks == (70, 110, 255)).all()
    close = pixels(live.client.get(f"{base}/frame.png?size=120&close=1"))
    assert close.shape == (120, 102, 3)


def test_a_reading_is_what_the_frame_shows_there(live: Live, filmed: str) -> None:
    base = f"/studios/{filmed}/picture/lesson-a"
    found = live.client.get(f"{base}/reading?x=0.1&y=0.3").json()
    assert found["what"] == "background" and "stops from a grey card" in found["words"]
    frame = pixels(live.client.get(f"{base}/frame.png?size=480"))
    here = frame[int(0.3 * len(frame)), int(0.1 * 480)]
    assert here == pytest.approx(found["values"], abs=3)
    linear = ((here[1] / 255 + 0.055) / 1.055) ** 2.4
    assert np.log2(linear / 0.18) == pytest.approx(found["stops"], abs=0.4)  # its green against its luminance


@pytest.mark.parametrize(
    "query",
    [
        "frame.png?size=9999",
        "frame.png?size=x",
        "frame.png?part=only-99",
        "reading?x=2&y=0",
        "reading?x=a&y=0",
        "reading",
        "frame.png?revision=999",
    ],
)
def test_what_there_is_not_is_said(live: Live, filmed: str, query: str) -> None:
    answer = live.client.get(f"/studios/{filmed}/picture/lesson-a/{query}")
    assert answer.status_code == 404 and len(answer.text) > 10


def test_a_change_is_tried_before_it_is_taken(live: Live, filmed: str) -> None:
    base = f"/studios/{filmed}/picture/lesson-a"
    tried = quote(json.dumps(NEAR))
    before = pixels(live.client.get(f"{base}/frame.png?size=120"))
    after = pixels(live.client.get(f"{base}/frame.png?size=120&edit={tried}"))
    assert after.mean() < before.mean() - 2
    page = live.client.get(f"{base}?edit={tried}").text
    assert "With the change" in page and "picture-slide" in page
    said = live.client.get(f"{base}/verdict?edit={tried}").text
    assert "Short" in said
    assert live.store.newest(filmed).number == 1
    for wrong in ("{", '{"verb":"fly"}', json.dumps(NEAR | {"target": "sets/none/lights/key"})):
        for path in ("frame.png?", "verdict?", "?"):
            answer = live.client.get(f"{base}/{path}edit={quote(wrong)}".replace("/?", "?"))
            assert 400 <= answer.status_code < 500, (path, wrong)


def test_a_set_is_laid_over_one_of_another_plan(live: Live, filmed: str) -> None:
    other = live.store.branch(filmed, "c0ffee00-0000-4000-8000-000000000001").studio_id
    page = live.client.get(f"/studios/{filmed}/picture/lesson-a").text
    keys = re.findall(r'<option value="([^"]+)"', page)
    assert keys == ["close-a", "B-lesson-a"]
    laid = live.client.get(f"/studios/{filmed}/picture/lesson-a?beside=B-lesson-a").text
    address = html.unescape(re.findall(r'id="picture-other"[^>]*src="([^"]+)"', laid)[0])
    assert address.startswith(f"/studios/{other}/picture/lesson-a/frame.png")
    assert pixels(live.client.get(address)).shape[2] == 3


def test_another_thing_in_its_place_is_seen_before_it_is_bought(live: Live, filmed: str) -> None:
    base = f"/studios/{filmed}"
    boxes = ("panel-30-20", "ring-light-45")
    page = live.client.get(f"{base}/gear?compare={boxes[0]}&compare={boxes[1]}").text
    frames = re.findall(r'src="([^"]+instead=[^"]+)"', page)
    assert len(frames) == 2
    one, other = (
        pixels(live.client.get(html.unescape(frame).replace("size=264&coarse=1", "size=120"))) for frame in frames
    )
    assert one.shape == other.shape and abs(one - other).mean() > 0.2
    assert "With the change" in live.client.get(f"{base}/picture/lesson-a?instead={boxes[1]}").text
    assert live.client.get(f"{base}/picture/lesson-a?instead=nothing").status_code == 404


def test_a_picture_follows_a_hand_and_an_older_one_is_given_up(live: Live, filmed: str) -> None:
    address = f"/studios/{filmed}/picture/lesson-a/moving"
    headers = {"X-Evrant-Token": live.token} if hasattr(live, "token") else {}
    answer = live.client.post(address, json={"edit": NEAR}, headers=headers)
    assert pixels(answer).shape[1] == 132
    assert live.store.newest(filmed).number == 1
    assert live.client.post(address, json=["no"], headers=headers).status_code == 422
    first = _turn("somebody")
    assert not first()
    second = _turn("somebody")
    assert first() and not second()


def test_too_many_at_once_are_told_to_wait(live: Live, filmed: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("evrant.web.turns.WAIT", 0.01)
    held = [AT_ONCE.acquire(timeout=1), AT_ONCE.acquire(timeout=1)]
    try:
        answer = live.client.get(f"/studios/{filmed}/picture/lesson-a/frame.png?size=101")
        assert held == [True, True] and answer.status_code == 503 and answer.headers["Retry-After"] == "5"
    finally:
        AT_ONCE.release()
        AT_ONCE.release()


def test_the_page_says_in_words_what_the_picture_shows(live: Live, filmed: str) -> None:
    page = live.client.get(f"/studios/{filmed}/picture/lesson-a").text
    assert "stops from a grey card" in page and "Key alone" in page and "The face under each pattern" in page
    sheet = live.client.get(f"/studios/{filmed}/picture/lesson-a/faces").text
    assert sheet.count("close=1") >= 6 and "Rembrandt" in sheet
    saved = live.client.get(f"/studios/{filmed}/picture/lesson-a/picture.png?size=160")
    kept = Image.open(io.BytesIO(saved.content)).text  # type: ignore[attr-defined]
    assert kept["Aperture"] == "f/4" and "attachment" in saved.headers["content-disposition"]


def test_a_set_without_camera_says_what_is_missing(live: Live, filmed: str) -> None:
    bare = demo_studio("hands-in-view").model_dump(mode="json", by_alias=True, exclude_none=True)
    for plan in bare["sets"]:
        plan["camera"].pop("lens", None)
    key = live.store.create(type(demo_studio("hands-in-view")).model_validate(bare), label="Bare").studio_id
    page = live.client.get(f"/studios/{key}/picture/lesson-a")
    assert page.status_code == 200 and "Choose camera and lens" in page.text
    assert live.client.get(f"/studios/{key}/picture/lesson-a/frame.png").status_code == 404


def test_the_command_writes_a_picture_and_says_what_it_shows(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "lesson.png"
    assert (
        cli.main(["picture", str(DEMO), "--shot", "lesson", "--size", "96x64", "--light", "key", "-o", str(out)]) == 0
    )
    assert Image.open(out).size == (96, 64)
    assert "Background:" in capsys.readouterr().out
    for wrong in (["--size", "9x9"], ["--size", "big"], ["--light", "sun"]):
        assert cli.main(["picture", str(DEMO), "--shot", "lesson", "-o", str(out), *wrong]) == 2
    assert cli.main(["picture", str(DEMO), "--shot", "none", "-o", str(out)]) == 2
    assert len(capsys.readouterr().err.splitlines()) == 4


def test_who_asks_for_what_is_being_made_waits_for_it(live: Live, filmed: str, monkeypatch: pytest.MonkeyPatch) -> None:
    made: list[int] = []

    def counted(*given: Any, **more: Any) -> Any:
        made.append(1)
        return picture(*given, **more)

    monkeypatch.setattr("evrant.web.pictures.picture", counted)
    address = f"/studios/{filmed}/picture/lesson-a/reading?x=0.5&y=0.5"
    with ThreadPoolExecutor(5) as pool:
        found = list(pool.map(lambda _: live.client.get(address).json()["words"], range(5)))
    assert len(set(found)) == 1 and len(made) == 1


def test_the_picture_is_shown_at_a_chosen_crop(live: Live, filmed: str) -> None:
    base = f"/studios/{filmed}/picture/lesson-a"
    plain = live.client.get(base).text
    assert "Cut to" in plain and "picture-cut" not in plain.replace("picture-cuts", "")
    square = live.client.get(f"{base}?crop=1-by-1").text
    assert '<svg class="picture-cut"' in square and "66 % of the pixels" in square
    assert '<svg class="picture-cut"' not in live.client.get(f"{base}?crop=nonsense").text
