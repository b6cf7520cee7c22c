"""Distance to a face, whatever the lens."""

from typing import Any

import pytest
from helpers.studios import one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change


def near(distance: float, **shot: Any) -> dict[str, Any]:
    data = one_portrait()
    data["sets"][0]["camera"]["x"] = 2.0 + distance
    data["shots"][0] |= shot
    return data


def line(data: dict[str, Any]) -> Margin | None:
    return next((m for m in ledger_of(parse(data)).lines if m.code == "frame.perspective"), None)


@pytest.mark.parametrize(("distance", "verdict"), [(0.8, Verdict.SHORT), (1.17, Verdict.TIGHT), (1.6, Verdict.CLEAR)])
def test_a_face_is_told_by_its_distance(distance: float, verdict: Verdict) -> None:
    told = line(near(distance))
    assert told is not None and told.verdict is verdict
    height = 1.7 * 0.936  # of the eyes, the lens level with the middle of the frame below them
    assert told.have is not None and distance < told.have < (distance**2 + (height - 1.0) ** 2) ** 0.5


def test_a_whole_figure_a_thing_and_a_flat_lay_are_left_alone() -> None:
    assert line(near(0.8, crop="full length")) is None
    thing = {"id": "p", "name": "Pot", "kind": "object", "height": 0.3}
    assert line(near(0.8, subjects=[thing])) is None
    assert line(near(0.8, angle=90.0)) is None


def test_the_lens_for_the_same_picture_is_named_and_offered() -> None:
    """A head and shoulders of 0.65 m on 36 mm upright from 1.2 m: 1.2 / (1 + 0.65 / 0.036) = 63 mm."""
    data = near(0.8, crop="head and shoulders", frame_height=0.65)
    studio = parse(data)
    ledger = ledger_of(studio)
    told = next(m for m in ledger.lines if m.code == "frame.perspective")
    assert "takes 63 mm" in told.reason
    longer = [r for r in remedies_of(studio, told, ledger) if "85 mm" in r.label]
    assert longer and longer[0].verdict is Verdict.CLEAR


def test_where_the_camera_cannot_go_back_the_sitter_comes_nearer_to_the_background() -> None:
    """0.8 m to be 1.25 m: the set moves by what the camera lacks and the lens stays where it was; light and sitter keep
    their places to each other, and as much of the picture is left as the distances are apart."""
    data = near(0.8, crop="head and shoulders")
    studio = parse(data)
    ledger = ledger_of(studio)
    told = next(m for m in ledger.lines if m.code == "frame.perspective")
    (closer,) = [r for r in remedies_of(studio, told, ledger) if r.label.startswith("Come to ")]
    after = change(studio, EDIT.validate_python(closer.edit))
    then = next(m for m in ledger_of(after).lines if m.code == "frame.perspective")
    assert then.verdict is not Verdict.SHORT
    old, new = (one.model_dump(mode="json")["sets"][0] for one in (studio, after))
    moved = new["mark"]["x"] - old["mark"]["x"]
    assert moved < -0.3 and new["mark"]["y"] == old["mark"]["y"]
    assert new["lights"][0]["x"] - old["lights"][0]["x"] == pytest.approx(moved, abs=0.002)
    assert new["camera"]["x"] == pytest.approx(old["camera"]["x"], abs=0.01)
    far, was = (one["camera"]["x"] - one["mark"]["x"] for one in (new, old))
    assert after.shots[0].kept == pytest.approx((was - 0.05) / (far - 0.05), abs=0.01)
    gap = next(m for m in ledger_of(after).lines if m.code == "fit.backdrop_gap")
    assert new["background"]["x"] == old["background"]["x"] and gap.have == pytest.approx(1.1 + moved, abs=0.002)
    wish = after.shots[0].background_gap
    assert gap.verdict is not Verdict.SHORT and wish is not None and f"{wish.value * 100:.0f} cm" in closer.label


def test_nobody_is_sent_into_the_background() -> None:
    """Half a metre before it there is nothing to come nearer by."""
    data = near(0.8, crop="head and shoulders")
    data["sets"][0]["background"] |= {"x": 1.55}
    studio = parse(data)
    ledger = ledger_of(studio)
    told = next(m for m in ledger.lines if m.code == "frame.perspective")
    assert not [r for r in remedies_of(studio, told, ledger) if r.label.startswith("Come to ")]
