"""Distance to a face, whatever the lens."""

from typing import Any

import pytest
from helpers.studios import one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of


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
