"""The Light page over HTTP: figures, measures, power sheets, photometric files, previews; the command line."""

import csv
import io
import json
import math
import re
from pathlib import Path

import pytest
from conftest import Live
from helpers.studios import demo

from evrant import cli
from evrant.demo import demo_studio
from evrant.files.photometric import read_photometric
from evrant.store.revisions import Revision

ROOT = Path(__file__).parents[2]
HTML = {"HX-Request": "true"}
IES = (
    "IESNA:LM-63-2002\nTILT=NONE\n1 1000 1 4 1 1 2 0.3 0.3 0\n1 1 60\n0 30 60 90\n0\n"
    + " ".join(f"{2000 * max(math.cos(math.radians(a)), 0):.1f}" for a in (0, 30, 60, 90))
    + "\n"
)


@pytest.fixture
def studio_id(live: Live) -> str:
    return live.store.create(demo(), label="Demo").studio_id


@pytest.fixture
def filmed(live: Live) -> str:
    return live.store.create(demo_studio("hands-in-view"), label="Filmed").studio_id


@pytest.mark.parametrize(
    "path", ["light/kneeling-a", "light/standing-a", "light/kneeling-a/power", "light/kneeling-a/measures"]
)
def test_light_pages_answer_with_a_strict_policy(live: Live, studio_id: str, path: str) -> None:
    answer = live.client.get(f"/studios/{studio_id}/{path}")
    assert answer.status_code == 200
    assert "unsafe" not in answer.headers["Content-Security-Policy"]
    assert not re.search(r"\sstyle=|\shx-on|\bon(click|load|error)=", answer.text)
    ids = re.findall(r'\sid="([^"]+)"', answer.text)
    assert len(ids) == len(set(ids)), "ids are unique"


def test_the_page_tells_contrast_return_and_every_light(live: Live, studio_id: str) -> None:
    text = live.client.get(f"/studios/{studio_id}/light/kneeling-a").text
    for words in ("Contrast", "Returned to the", "All lights together", "Tint there", "door wall", "Power × distance"):
        assert words in text, words
    assert "data-pixels=" in text and 'class="iso iso-0"' in text and 'class="lit-wall"' in text
    assert "stops between the top and the lowest part" in text
    assert "The frame looks past" not in text, "only light lines stand beside the light"


def test_a_set_without_lights_says_what_comes_first(live: Live, studio_id: str) -> None:
    text = live.client.get(f"/studios/{studio_id}/light/standing-a").text
    assert "No light yet" in text and "Choose a pattern" in text
    assert "Nothing to change yet" in live.client.get(f"/studios/{studio_id}/light/standing-a/measures").text


def test_a_gone_set_is_not_found(live: Live, studio_id: str) -> None:
    for path in ("light/none", "light/none/sheet", "light/none/measures", "light/none/power"):
        assert live.client.get(f"/studios/{studio_id}/{path}").status_code == 404, path


def test_measures_are_edits_with_what_they_give(live: Live, studio_id: str) -> None:
    text = live.client.get(f"/studios/{studio_id}/light/kneeling-a/measures").text
    raw = re.findall(r"hx-vals='([^']+)'", text)
    assert len(raw) >= 5 and "stops" in text
    edit = json.loads(json.loads(raw[0].replace("&#34;", '"'))["edit"])
    done = live.post(f"/studios/{studio_id}/edits", revision=1, edit=edit)
    assert done.status_code == 200


def test_power_sheets_to_print_and_as_csv(live: Live, filmed: str, studio_id: str) -> None:
    page = live.client.get(f"/studios/{studio_id}/light/kneeling-a/power").text
    assert "full power" in page and "guide number" in page
    answer = live.client.get(f"/studios/{studio_id}/download/kneeling-a/power.csv")
    rows = list(csv.reader(io.StringIO(answer.text)))
    assert rows[0][:2] == ["light", "power"] and {r[0] for r in rows[1:] if r[0] != "light"} == {"key", "fill"}
    full = [float(v) for v in rows[1][2:]]
    half = [float(v) for v in rows[2][2:]]
    assert full == sorted(full, reverse=True)
    assert all(a / b == pytest.approx(math.sqrt(2), abs=0.03) for a, b in zip(full, half, strict=True) if b > 3)
    assert "1/50 s" in live.client.get(f"/studios/{filmed}/light/lesson-a/power").text


def test_a_preview_on_the_light_page_redraws_contours_and_bust(live: Live, studio_id: str) -> None:
    edit = {"verb": "set", "target": "sets/kneeling-a/lights/key", "fields": {"x": 2.1, "y": 1.0}}
    headers = {**HTML, "X-Evrant-Page": "light/kneeling-a", "X-Evrant-Turn": "0"}
    before = live.client.get(f"/studios/{studio_id}/light/kneeling-a/sheet").text
    body = {"edit_id": "preview-1", "revision": 1, "edit": edit}
    answer = live.client.post(f"/studios/{studio_id}/preview", json=body, headers=headers)
    assert answer.status_code == 200 and "data-pixels=" in answer.text and "preview-lines" in answer.text
    for part in (r'<path d="[^"]*" class="iso iso-0"', r'data-pixels="[^"]*"', r'stroke="#[0-9a-f]{6}"'):
        assert re.findall(part, before) and re.findall(part, before) != re.findall(part, answer.text), part
    assert live.store.newest(studio_id).number == 1


def test_an_ies_file_is_kept_with_its_lamp_and_a_broken_one_refused(live: Live, filmed: str) -> None:
    def send(content: bytes, target: str = "gear/panel-60-30") -> tuple[int, str]:
        answer = live.client.post(
            f"/studios/{filmed}/photometric",
            files={"file": ("lamp.ies", content)},
            data={"target": target},
            headers=HTML,
        )
        return answer.status_code, answer.text

    status, words = send(IES.encode()[:80])
    assert status == 422 and "too early" in words
    assert send(IES.encode(), "gear/tripod-160")[0] == 422
    assert live.store.newest(filmed).number == 1
    assert send(IES.encode())[0] == 204
    newest: Revision = live.store.newest(filmed)
    lamp = next(i for i in newest.studio.gear if i.id == "panel-60-30")
    assert lamp.kind == "lamp" and lamp.distribution is not None
    assert lamp.distribution.lumens == pytest.approx(math.pi * 2000, rel=0.05)
    assert "lm are kept" in live.client.get(f"/studios/{filmed}/kit").text
    back = live.client.get(f"/studios/{filmed}/download/panel-60-30.ies")
    assert read_photometric(back.content).lumens == pytest.approx(lamp.distribution.lumens, rel=1e-4)
    assert live.client.get(f"/studios/{filmed}/download/tripod-160.ies").status_code == 404


# --- the command line ----------------------------------------------------------------------------------


def light(capsys: pytest.CaptureFixture[str], name: str, shot: str) -> tuple[int, dict[str, object]]:
    status = cli.main(["light", str(ROOT / f"examples/{name}.json"), "--shot", shot, "--json"])
    return status, json.loads(capsys.readouterr().out)


def test_every_figure_in_absolute_units(capsys: pytest.CaptureFixture[str]) -> None:
    status, data = light(capsys, "adoption-corner", "cat")
    assert status == 0 and data["patches"] >= 1000  # type: ignore[operator]
    for key in (
        "lights",
        "face",
        "key_side",
        "shadow_side",
        "cube",
        "contrast_stops",
        "contrast_ratio",
        "returned_by",
        "tint",
        "background",
        "ambient",
        "measures",
        "down_the_body_stops",
        "needed_lx_s",
    ):
        assert data[key] is not None, key
    face, cube = data["face"], data["cube"]
    assert isinstance(face, dict) and isinstance(cube, dict)
    total = face["direct_lx_s"] + face["returned_lx_s"]
    assert total == pytest.approx(data["needed_lx_s"], rel=0.12), "the key is set to a step near what is needed"
    assert sum(p["share"] for p in data["returned_by"]["shadow side"]) == pytest.approx(1, abs=0.01)  # type: ignore[index]
    assert set(cube) == {"nose", "back", "left", "right", "up", "down"}


def test_what_is_missing_is_said_and_sets_the_status(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    data = json.loads((ROOT / "examples/adoption-corner.json").read_text())
    data["room"]["walls"][0]["finish"] = {}
    file = tmp_path / "x.json"
    file.write_text(json.dumps(data))
    assert cli.main(["light", str(file), "--shot", "cat", "--json"]) == 1
    assert "door wall" in json.loads(capsys.readouterr().out)["missing"][0]["what"]
    assert cli.main(["light", str(file), "--shot", "none"]) == 2
    assert "cat" in capsys.readouterr().err
    assert cli.main(["light", str(ROOT / "examples/hands-in-view.json"), "--shot", "lesson"]) == 0
    assert "contrast 1:" in capsys.readouterr().out
