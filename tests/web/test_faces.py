"""The faces of the light patterns: made by the app's own light, and shown where one chooses."""

import sys
from importlib import import_module
from pathlib import Path

import numpy as np
import pytest
from conftest import Live
from helpers.studios import demo, parse
from PIL import Image

from evrant.core.place.patterns import PATTERNS
from evrant.web.actions import suited

sys.path.insert(0, str(Path(__file__).parents[2] / "tools"))
faces = import_module("faces")


@pytest.mark.parametrize(("pattern", "thing"), [("loop", False), ("split", False), ("side", True)])
def test_a_shipped_picture_is_what_the_light_makes_now(pattern: str, thing: bool) -> None:
    made = faces.face(pattern, thing=thing)
    name = f"{'ball-' if thing else ''}{pattern}.png"
    shipped = np.asarray(Image.open(faces.FOLDER / name), dtype=int)
    assert made is not None and made.shape == shipped.shape
    assert np.abs(made.astype(int) - shipped).mean() < 1.0


def halves(name: str) -> tuple[float, float]:
    """Mean brightness of the left and right half of a face."""
    pixels = np.asarray(Image.open(faces.FOLDER / f"{name}.png"), dtype=float)
    light = pixels[..., :3].mean(axis=2) * (pixels[..., 3] / 255)
    middle = light.shape[1] // 2
    return float(light[:70, :middle].mean()), float(light[:70, middle:].mean())


def test_the_faces_show_what_their_patterns_are() -> None:
    """Split is dark on one side, butterfly even, Rembrandt between (common practice, no source)."""
    dark = {name: min(halves(name)) / max(halves(name)) for name in ("butterfly", "loop", "rembrandt", "split")}
    assert dark["butterfly"] > 0.9 > dark["loop"] > dark["rembrandt"] > dark["split"] and dark["split"] < 0.4


def test_patterns_are_chosen_by_their_pictures(live: Live) -> None:
    key = live.store.create(demo(), label="Demo").studio_id
    shown = live.client.get(f"/studios/{key}/shots").text
    for name in ("butterfly", "loop", "rembrandt"):
        assert f"/static/faces/{name}.png" in shown
        assert live.client.get(f"/static/faces/{name}.png").headers["content-type"] == "image/png"
    assert {path.stem.removeprefix("ball-") for path in faces.FOLDER.glob("*.png")} <= {
        name.replace(" ", "-").replace(",", "").lower() for name in PATTERNS
    }
    bottle = {"id": "b", "name": "Bottle", "kind": "object", "height": 0.3, "width": 0.08}
    things = parse({"name": "T", "shots": [{"id": "s", "name": "S", "subjects": [bottle], "pattern": "loop"}]})
    other = live.store.create(things, label="Things").studio_id
    shown = live.client.get(f"/studios/{other}/shots").text
    assert "faces/ball-side.png" in shown and "faces/ball-loop.png" in shown and "faces/side.png" not in shown


def test_a_shot_and_a_set_are_copied_under_names_of_their_own(live: Live) -> None:
    key = live.store.create(demo(), label="Demo").studio_id
    studio = live.store.newest(key).studio
    for number in (1, 2):
        headers = {"HX-Request": "true", "X-Evrant-Page": "shots", "X-Evrant-Revision": str(number)}
        done = live.client.post(
            f"/studios/{key}/edits", data={"action": "copy-shot", "shot": studio.shots[0].id}, headers=headers
        )
        assert done.status_code == 200
    names = [shot.name for shot in live.store.newest(key).studio.shots]
    assert names[-2:] == [f"{studio.shots[0].name} copy", f"{studio.shots[0].name} copy 2"]
    plan = studio.sets[0]
    headers = {"HX-Request": "true", "X-Evrant-Page": f"sets/{plan.id}", "X-Evrant-Revision": "3"}
    assert (
        live.client.post(
            f"/studios/{key}/edits", data={"action": "copy-set", "set": plan.id}, headers=headers
        ).status_code
        == 200
    )
    copied = live.store.newest(key).studio.sets[-1]
    assert copied.name == f"{plan.name} copy" and copied.lights == plan.lights and copied.id != plan.id
    gone = live.client.post(f"/studios/{key}/edits", data={"action": "copy-shot", "shot": "none"}, headers=headers)
    assert gone.status_code == 422


def test_a_usual_shot_takes_an_aperture_the_lens_at_hand_has() -> None:
    """A telephone at its only aperture; a slow zoom at its widest; none at hand, as usual."""
    usual = {"name": "x", "aperture": 8.0}

    def with_lens(**fields: float) -> float:
        lens = {"kind": "lens", "id": "l", "name": "L", "status": "owned", "focal": 0.005, **fields}
        return float(suited(usual, parse({"name": "S", "gear": [lens]}))["aperture"])

    assert with_lens(widest=1.8, narrowest=1.8) == 1.8
    assert with_lens(widest=2.8, narrowest=5.6) == 5.6
    assert with_lens(widest=11.0) == 11.0
    assert with_lens(widest=1.4, narrowest=16.0) == 8.0
    assert suited(usual, parse({"name": "S"}))["aperture"] == 8.0 and suited({"name": "x"}, demo()) == {"name": "x"}
