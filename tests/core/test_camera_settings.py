"""`frame.aperture` and `frame.iso`: what a lens and a camera can be set to at all."""

from typing import Any

import pytest
from helpers.studios import one_portrait, parse

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT, SetFields, apply
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of

Data = dict[str, Any]


def line(data: Data, code: str) -> Margin | None:
    return next((m for m in ledger_of(parse(data)).lines if m.code == code), None)


def with_lens(stop: float, **lens: float) -> Data:
    data = one_portrait()
    next(item for item in data["gear"] if item["id"] == "l50").update(lens)
    data["shots"][0]["aperture"] = stop
    return data


@pytest.mark.parametrize(
    ("stop", "lens", "verdict", "stops"),
    [
        (8, {"widest": 1.8, "narrowest": 1.8}, Verdict.SHORT, -4.3),
        (1.8, {"widest": 1.8, "narrowest": 1.8}, Verdict.CLEAR, None),
        (2.0, {"widest": 2.8, "narrowest": 22}, Verdict.SHORT, -0.97),
        (22, {"widest": 1.8, "narrowest": 16}, Verdict.SHORT, -0.92),
        (8, {"widest": 1.8, "narrowest": 16}, None, None),
        (8, {}, None, None),
        (5.6, {"widest": 5.6}, None, None),
    ],
)
def test_an_aperture_the_lens_does_not_have(
    stop: float, lens: dict[str, float], verdict: Verdict | None, stops: float | None
) -> None:
    """Stops by hand: 2 log₂ of the ratio of f-numbers; f/8 to f/1.8 is 4.3."""
    found = line(with_lens(stop, **lens), "frame.aperture")
    assert (found.verdict if found else None) is verdict
    if stops is not None:
        assert found is not None and found.margin == pytest.approx(stops, abs=0.01)


def test_it_is_mended_by_the_aperture_it_has() -> None:
    studio = parse(with_lens(8, widest=1.8, narrowest=1.8))
    short = next(m for m in ledger_of(studio).lines if m.code == "frame.aperture")
    (first, *_) = [one for one in remedies_of(studio, short, ledger_of(studio)) if one.label == "Set f/1.8"]
    after = apply(studio, EDIT.validate_python(first.edit))
    assert after.shots[0].aperture is not None and after.shots[0].aperture.value == 1.8


def test_iso_under_what_the_camera_has() -> None:
    data = one_portrait()
    data["shots"][0]["iso"] = 50
    found = line(data, "frame.iso")
    assert found is not None and found.verdict is Verdict.SHORT and found.margin == pytest.approx(-1.0)
    after = apply(parse(data), SetFields(target="shots/half", fields={"iso": 100}))
    assert not [m for m in ledger_of(after).lines if m.code == "frame.iso"]
