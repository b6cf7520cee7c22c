"""`frame.coverage`: a lens made for a smaller sensor leaves the corners black."""

import math
from typing import Any

import pytest
from helpers.studios import item, one_portrait, packed, parse

from evrant.catalogue import load
from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.judge.rules.set.coverage import uncovered
from evrant.core.place.moves import change
from evrant.core.studio.gear import Camera, Lens
from evrant.core.studio.studio import Studio

Data = dict[str, Any]


def with_lens(covers: float | None, **shot: Any) -> Data:
    data = one_portrait()
    item(data, "l50")["covers"] = covers
    data["shots"][0] |= shot
    return data


def line(data: Data | Studio) -> Margin | None:
    studio = parse(data) if isinstance(data, dict) else data
    return next((m for m in ledger_of(studio).lines if m.code == "frame.coverage"), None)


def test_a_lens_for_a_smaller_sensor_is_short_by_pythagoras() -> None:
    """Once: a zoom for sensors of 28 mm was bought for a body of 43 mm."""
    found = line(with_lens(0.0284))
    assert found is not None and found.verdict is Verdict.SHORT and found.have is not None
    assert found.have == pytest.approx(100 * 28.4 / math.hypot(36, 24), abs=0.05)


@pytest.mark.parametrize("covers", [None, 0.0455, 0.060])
def test_one_that_covers_it_has_no_line(covers: float | None) -> None:
    assert line(with_lens(covers)) is None


def test_what_is_cropped_away_may_stay_dark() -> None:
    assert line(with_lens(0.0284, kept=0.6)) is None
    found = line(with_lens(0.0284, kept=0.7))
    assert found is not None and found.verdict is Verdict.SHORT


def test_another_lens_or_the_middle_of_the_picture_helps() -> None:
    data = with_lens(0.0284)
    data["gear"].append(packed(dict(item(data, "l50"), id="whole", name="50 mm for all", covers=0.0433)))
    studio = parse(data)
    before = line(studio)
    assert before is not None
    found = {one.label: one for one in remedies_of(studio, before, ledger_of(studio))}
    after = change(studio, EDIT.validate_python(found["Use the 50 mm for all"].edit))
    settled = line(after)
    assert settled is None or settled.verdict is not Verdict.SHORT


def test_lenses_on_offer_say_what_they_cover() -> None:
    """No lens of the library leaves a body dark that the search would put it on."""
    lenses = {one.id: one for one in load().all() if isinstance(one, Lens)}
    bodies = {one.id: one for one in load().all() if isinstance(one, Camera)}
    assert all(lens.covers is not None for lens in lenses.values())
    small = uncovered(bodies["camera-full"], lenses["lens-16-50"])
    assert small is not None and small > 0.3
    for body in ("camera-half", "camera-small"):
        assert (uncovered(bodies[body], lenses["lens-16-50"]) or 0.0) < 0
    assert (uncovered(bodies["phone-large"], lenses["lens-phone-wide"]) or 0.0) < 0
    assert (uncovered(bodies["camera-half"], lenses["lens-phone-wide"]) or 0.0) > 0.5
