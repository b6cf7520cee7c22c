"""Readings against claims: forecasts, their slopes, the update, odd ones, corrections taken into the plan.

The update is checked against the same normal model solved at once by least squares (the information form), which any
text on linear estimation gives; forecasts against the ledger's own light; slopes by finite differences.
"""

import json
import math
import os
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from helpers.studios import demo, one_portrait, parse

from evrant.cli import main
from evrant.core.base.margins import Verdict
from evrant.core.edits.language import EDIT, apply
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.light import photometry as ph
from evrant.core.light.lit import Lit, lit
from evrant.core.log.calibrate import Calibration, calibrate, update
from evrant.core.log.claimed import claim_of, claimed, corrected, finishes_of
from evrant.core.log.corrections import corrections, take
from evrant.core.log.forecast import Forecast, forecast
from evrant.core.log.taken import Said, light_of, said, scene_for, spelt_out
from evrant.core.space.scene import scene_of
from evrant.core.studio.log import Reading
from evrant.core.studio.studio import Studio
from evrant.devices.simulated import meter_for
from evrant.devices.simulated.true_room import TrueRoom
from evrant.web.carrying import reading_edit

SET = "kneeling-a"


def of(studio: Studio, reading: Reading) -> Forecast:
    found = forecast(spelt_out(studio, reading.set), reading)
    assert isinstance(found, Forecast), found
    return found


def lit_set(studio: Studio, key: str) -> Lit:
    plan = next(one for one in studio.sets if one.id == key)
    scene = scene_of(studio, plan)
    assert scene is not None
    state = lit(scene)
    assert isinstance(state, Lit)
    return state


def unread() -> Studio:
    return claimed(demo()).changed(readings=(), as_set=(), sessions=())


def test_a_forecast_is_the_light_the_ledger_judges() -> None:
    studio = unread()
    state = lit_set(studio, SET)
    whole = of(studio, Reading(id="r", set=SET))
    assert 2**whole.stops == pytest.approx(state.total("face"), rel=1e-6)
    apart = [2 ** of(studio, Reading(id="r", set=SET, light=key)).stops for key in ("key", "fill")]
    assert sum(apart) == pytest.approx(2**whole.stops, rel=1e-6)
    assert sum(whole.shares.values()) == pytest.approx(1.0)


def test_a_card_that_faces_the_lens_is_flat_and_a_background_returns_its_share() -> None:
    studio = unread()
    state = lit_set(studio, SET)
    card = of(studio, Reading(id="r", set=SET, kind="grey card in a frame"))
    rows = state.rows.at["face"]
    flat = float((state.whole[rows.start + 1] @ (0.2126, 0.7152, 0.0722)) @ state.doses)
    assert 2**card.stops == pytest.approx(flat, rel=1e-6)
    behind = of(studio, Reading(id="r", set=SET, kind="background in a frame"))
    assert state.ground_reflectance is not None
    assert 2**behind.stops == pytest.approx(state.total("ground") * state.ground_reflectance, rel=1e-6)
    assert behind.slopes["gear/vinyl-150-grey"] > 1.0 > card.slopes["gear/vinyl-150-grey"]


@pytest.mark.parametrize("path", ["room/ceiling", "room/walls/door-wall/finish", "room/floor_finish"])
def test_the_slope_of_a_reflectance_is_its_finite_difference(path: str) -> None:
    studio = spelt_out(unread(), SET)
    reading = Reading(id="r", set=SET, light="key")
    found = of(studio, reading)
    ends = [of(corrected(studio, {path: step}), reading).stops for step in (-0.05, 0.05)]
    assert found.slopes[path] == pytest.approx((ends[1] - ends[0]) / 0.1, rel=0.06, abs=0.002)


@pytest.mark.parametrize("path", ["gear/flash-200", "gear/octa-90"])
def test_the_slope_of_a_claim_is_the_share_of_its_light(path: str) -> None:
    studio = spelt_out(unread(), SET)
    reading = Reading(id="r", set=SET)
    found = of(studio, reading)
    ends = [of(corrected(studio, {path: step}), reading).stops for step in (-0.05, 0.05)]
    assert found.slopes[path] == pytest.approx((ends[1] - ends[0]) / 0.1, rel=0.02)
    assert found.slopes[path] == pytest.approx(found.shares[f"sets/{SET}/lights/key"], rel=1e-6)


def test_what_meters_show_is_turned_into_light_by_their_constants() -> None:
    """N² = H S / C and E = C 2^EV / S with C = 340 (ISO 2720); 1000 lx at ISO 100 are EV 8.2."""
    studio = unread()
    scene = scene_for(studio, Reading(id="r", set=SET))
    assert scene is not None

    def stops(**fields: Any) -> float:
        found = said(scene, Reading(id="r", set=SET, **fields))
        assert isinstance(found, Said)
        return found.stops

    assert 2 ** stops(reads=8.0, iso=100) == pytest.approx(340 * 64 / 100)
    assert stops(reads=8.0, iso=200) == pytest.approx(stops(reads=8.0, iso=100) - 1)
    assert 2 ** stops(kind="meter: lux", reads=1000.0) == pytest.approx(1000)
    assert 2 ** stops(kind="meter: EV at ISO 100", reads=math.log2(1000 / 3.4)) == pytest.approx(1000)
    # 118 of 255 is 18 % of white in sRGB: flat light as C = 250 asks for.
    assert light_of(118) == pytest.approx(0.18, abs=0.002)
    card = stops(kind="grey card in a frame", reads=118.0, aperture=8.0, iso=100)
    assert 2**card == pytest.approx(250 * 64 / 100 * ph.close_up(scene.magnification), rel=0.02)


def test_a_joined_update_is_the_least_squares_solution() -> None:
    """Mean and covariance of five unknowns by seven readings, one by one and all at once in information form."""
    chance = np.random.default_rng(4)
    prior, slopes = chance.uniform(0.1, 1.0, 5), chance.normal(size=(7, 5))
    offs, pms = chance.normal(size=7), chance.uniform(0.05, 0.4, 7)
    mean, spread = np.zeros(5), np.diag(prior**2)
    for slope, off, pm in zip(slopes, offs, pms, strict=True):
        mean, spread = update(mean, spread, slope, float(off), float(pm))
    information = np.diag(prior**-2) + slopes.T @ np.diag(pms**-2) @ slopes
    assert spread == pytest.approx(np.linalg.inv(information))
    assert mean == pytest.approx(np.linalg.solve(information, slopes.T @ (offs / pms**2)))


def test_how_odd_a_reading_is_leaves_it_out() -> None:
    """The closed form against an update by all other readings alone."""
    read, _ = read_in(unread(), 9, *THREE, ("dog-a", "key"), ("cat-a", "key"))
    found = calibrate(read)
    base = claimed(read)
    prior = np.array([one.prior for one in found.unknowns])
    rows = []
    for reading in read.readings:
        told = forecast(base, reading)
        assert isinstance(told, Forecast)
        slope = np.array([told.slopes.get(one.path, 0.0) for one in found.unknowns])
        rows.append((slope, told.own))
    for k, one in enumerate(found.told):
        mean, spread = np.zeros(len(prior)), np.diag(prior**2)
        for j, other in enumerate(found.told):
            if j != k:
                mean, spread = update(mean, spread, rows[j][0], other.off, math.hypot(other.pm, rows[j][1]))
        slope, own = rows[k]
        want = abs(one.off - slope @ mean) / math.sqrt(slope @ spread @ slope + one.pm**2 + own**2)
        assert one.odd == pytest.approx(float(want), rel=1e-6)


def read_in(studio: Studio, seed: int, *which: tuple[str, str | None], **fields: Any) -> tuple[Studio, TrueRoom]:
    meter = meter_for(studio, seed)
    room = TrueRoom(studio, seed)
    for set_id, light in which:
        wanted = Reading(id=f"{set_id}-{light or 'all'}", set=set_id, light=light, **fields)
        values = {"set": set_id, "light": light, "reads": meter.read(wanted), **fields}
        studio = apply(studio, reading_edit(studio, {key: value for key, value in values.items() if value}))
    return studio, room


THREE = ((SET, "key"), (SET, "fill"), (SET, None))


def test_readings_find_the_hidden_rooms_heads_and_narrow_what_was_claimed() -> None:
    read, room = read_in(unread(), 2, *THREE)
    found = calibrate(read)
    off = found.off()
    for head, modifier in (("flash-200", "octa-90"), ("flash-100", "umbrella-85")):
        both = [f"gear/{head}", f"gear/{modifier}"]
        unknowns = {one.path: one for one in found.unknowns}
        truth = sum(room.off(unknowns[path]) for path in both)
        assert sum(off[path] for path in both) == pytest.approx(truth, abs=0.35)
        at = [k for k, one in enumerate(found.unknowns) if one.path in both]
        pair = np.zeros(len(found.unknowns))
        pair[at] = 1.0
        claimed_pm = math.hypot(*(unknowns[path].prior for path in both))
        assert math.sqrt(pair @ found.spread @ pair) < 0.3 * claimed_pm
    assert all(one.counts for one in found.told)
    assert all(one.now_pm < one.before_pm for one in found.told)


def test_a_reading_with_another_light_on_is_asked_about_and_explained() -> None:
    """The fill, read alone, while the key was on as well: over two stops more than it gives."""
    studio = unread()
    read, room = read_in(studio, 2, *THREE, ("dog-a", "key"))
    meter = meter_for(studio, 2)
    wrong = Reading(id="wrong", set=SET, light="fill")
    both = meter.read(Reading(id="x", set=SET))
    found = calibrate(read.changed(readings=(*read.readings, wrong.changed(reads=both))))
    told = found.told[-1]
    assert told.asked and not told.counts and told.odd > 3
    assert any("key was on too" in cause.words for cause in told.because)
    assert [one.counts for one in found.told[:-1]] == [True] * 4
    without = calibrate(read)
    assert found.mean == pytest.approx(without.mean, abs=1e-6), "it was swallowed"
    confirmed = read.changed(readings=(*read.readings, wrong.changed(reads=both, counts="yes")))
    assert calibrate(confirmed).told[-1].counts
    left = read.changed(readings=(*read.readings, wrong.changed(reads=both, counts="no")))
    assert not calibrate(left).told[-1].asked


def test_a_wrong_iso_is_named() -> None:
    read, _ = read_in(unread(), 5, *THREE)
    first = read.readings[0]
    assert first.reads is not None
    wrong = first.changed(id="wrong", reads=first.reads * 2)  # two stops more than it was
    told = calibrate(read.changed(readings=(*read.readings, wrong))).told[-1]
    assert told.asked and any("2 stops" in cause.words for cause in told.because)


def test_what_is_taken_narrows_the_ledger_and_readings_do_not_count_twice() -> None:
    read, _ = read_in(unread(), 2, *THREE)
    before = {m.key: m for m in ledger_of(read).lines}
    found = calibrate(read)
    edit = take(corrections(read, found))
    assert edit is not None
    after = apply(read, edit)
    lines = {m.key: m for m in ledger_of(after).lines}
    key = next(k for k in before if k.startswith("light.power_full") and SET in k and "key" in k)
    now, was = lines[key].uncertainty, before[key].uncertainty
    assert now is not None and was is not None and now < 0.6 * was
    again = calibrate(after)
    assert again.off() == pytest.approx(found.off(), abs=1e-6), "the same readings moved it again"
    assert all(one.taken for one in corrections(after, again))
    head = next(one for one in after.gear if one.id == "flash-200")
    assert getattr(head, "trim").origin == "measured"  # noqa: B009
    assert [one.id for one in getattr(head, "known_with")] == ["octa-90"]  # noqa: B009


def test_a_light_that_stood_elsewhere_is_forecast_from_there() -> None:
    studio = spelt_out(unread(), SET)
    planned = Reading(id="r", set=SET, light="key")
    scene = scene_for(studio, planned)
    assert scene is not None and scene.face is not None
    at = scene.light_at(f"sets/{SET}/lights/key")
    assert at is not None and at.at is not None
    far = float(np.linalg.norm(at.at - scene.face))
    for fields in ({"distance": 1.5 * far}, {"height": 1.5}, {"distance": 1.2 * far, "height": 1.6}):
        moved = scene_for(studio, planned.changed(**fields))
        assert moved is not None and moved.face is not None
        light = moved.light_at(f"sets/{SET}/lights/key")
        assert light is not None and light.at is not None
        if "distance" in fields:
            assert float(np.linalg.norm(light.at - moved.face)) == pytest.approx(fields["distance"])
        if "height" in fields:
            assert light.at[2] == pytest.approx(fields["height"])
    assert of(studio, planned.changed(distance=0.7 * far)).stops > of(studio, planned).stops + 0.5
    half = of(studio, planned.changed(power=lit_set(studio, SET).powers[0] / 2))
    assert half.stops == pytest.approx(of(studio, planned).stops - 1, abs=1e-6)


def test_what_simulated_readings_correct_is_said_in_the_ledger_and_can_be_taken_back() -> None:
    read, _ = read_in(unread(), 2, *THREE, by="simulated light meter")
    edit = take(corrections(read, calibrate(read)))
    assert edit is not None
    after = apply(read, edit)
    before = {m.key for m in ledger_of(read).lines if m.code == "log.simulated"}
    lines = [m for m in ledger_of(after).lines if m.code == "log.simulated"]
    assert not before and {m.verdict for m in lines} == {Verdict.UNKNOWN}
    assert any("flash-200" in m.about[0] for m in lines) and not ledger_of(after).ready
    back = remedies_of(after, next(m for m in lines if "flash-200" in m.about[0]), ledger_of(after))
    assert [one.label for one in back] == ["Take the compact flash head, 200 Ws as claimed again"]
    claims = apply(after, EDIT.validate_python(back[0].edit))
    assert not any("flash-200" in m.about[0] for m in ledger_of(claims).lines if m.code == "log.simulated")
    own, _ = read_in(unread(), 2, *THREE)
    taken = take(corrections(own, calibrate(own)))
    assert taken is not None
    assert not any(m.code == "log.simulated" for m in ledger_of(apply(own, taken)).lines)


def test_a_set_that_was_changed_since_is_forecast_as_it_stood() -> None:
    read, _ = read_in(unread(), 2)
    kept = apply(read, reading_edit(read, {"set": SET, "light": "key", "reads": 8.0}))
    moved = apply(
        kept,
        EDIT.validate_python(
            {"verb": "set", "target": f"sets/{SET}/lights/key", "fields": {"height": 1.6, "power": 0.01}}
        ),
    )
    now, then = calibrate(moved).told[0], calibrate(kept).told[0]
    assert now.off == pytest.approx(then.off, abs=1e-6)
    assert len(kept.as_set) == 1
    more = apply(kept, reading_edit(kept, {"set": SET, "light": "fill", "reads": 4.0}))
    assert len(more.as_set) == 1, "the same copy serves both"


def test_a_wall_read_by_its_return_is_corrected() -> None:
    """A corner lit by bounced light: readings of the background and the face with the lamp known tell the wall."""
    studio = unread()
    for path, finish in finishes_of(studio.room).items():
        claim = claim_of(studio.room, path)
        assert claim is None or 0 <= claim.value <= 100, (path, finish)
    truth = {"room/walls/door-wall/finish": 0.4}
    real = corrected(spelt_out(studio, SET), truth)
    values = []
    for light in ("key", "fill", None):
        wanted = Reading(id=f"r-{light}".lower(), set=SET, light=light, kind="meter: aperture", pm=0.02)
        got = of(real, wanted)
        values.append(wanted.changed(reads=ph.f_number_for(2**got.stops, 100), iso=100))
    found = calibrate(studio.changed(readings=tuple(values)))
    # A dark room's wall moves the mark by hundredths: what is found leans the right way and stays inside its ±.
    at = next(k for k, one in enumerate(found.unknowns) if one.path == "room/walls/door-wall/finish")
    assert 0 < found.mean[at] < 0.4 and found.spread[at, at] < found.unknowns[at].prior ** 2


def test_what_cannot_be_compared_says_why() -> None:
    studio = unread()
    cases = {
        "no figure": Reading(id="a", set=SET),
        "gone": Reading(id="b", set="nowhere", reads=8.0),
        "no lux": Reading(id="c", set=SET, kind="meter: lux", reads=500.0),
        "between 0 and 255": Reading(id="d", set=SET, kind="grey card in a frame", reads=400.0),
        "shines": Reading(id="e", set="standing-a", reads=4.0),
    }
    told = calibrate(studio.changed(readings=tuple(cases.values()))).told
    for words, one in zip(cases, told, strict=True):
        assert words in one.missing, (words, one.missing)
    bare = parse(one_portrait())
    assert (
        "missing"
        in calibrate(bare.changed(readings=(Reading(id="a", set=bare.sets[0].id, reads=8.0),))).told[0].missing
    )


def test_black_and_white_frames_only_bound() -> None:
    studio = unread()
    dark = Reading(id="dark", set=SET, kind="grey card in a frame", reads=1.0)
    told = calibrate(studio.changed(readings=(dark,))).told[0]
    assert told.bound == -1 and not told.counts and told.odd > 3, "a black frame contradicts a lit set"
    bright = calibrate(studio.changed(readings=(dark.changed(reads=254.0),))).told[0]
    assert bright.bound == 1 and not bright.counts


def forecasts(studio: Studio, seed: int) -> tuple[float, float, float]:
    """How far the forecast of another set is off after three readings, its ±, and how far the claims alone are."""
    read, room = read_in(studio, seed, *THREE)
    found: Calibration = calibrate(read)
    new = Reading(id="new", set="dog-a")
    told = found.expects(new)
    real = room.light(new)
    assert not isinstance(told, str) and not isinstance(real, str)
    return real - told[0], told[1], real - of(studio, new).stops


def test_stated_uncertainties_hold_over_many_rooms() -> None:
    """About 68 % within one ± and 95 % within two; the short run takes 24 rooms, the long one 200."""
    count = 200 if os.environ.get("EVRANT_LONG") else 24
    rows = np.array([forecasts(unread(), seed) for seed in range(count)])
    times = np.abs(rows[:, 0] / rows[:, 1])
    slack = 2 * math.sqrt(0.68 * 0.32 / count)
    assert abs(float((times < 1).mean()) - 0.68) < slack + 0.05
    assert float((times < 2).mean()) > 0.95 - 2 * math.sqrt(0.95 * 0.05 / count) - 0.02
    assert rows[:, 0].std() < 0.4 * rows[:, 2].std()


def test_the_command_prints_corrections_and_questions(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "studio.json"
    file.write_text(demo().dump_json())
    assert main(["calibrate", str(file), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    heads = {row["path"]: row for row in told["corrections"]}
    assert heads["gear/flash-200"]["pm"] < heads["gear/flash-200"]["pm_before"]
    asked = [one for one in told["readings"] if one["asked"]]
    assert len(asked) == 1 and asked[0]["because"]
    assert main(["calibrate", str(file)]) == 0
    assert "left out until you confirm it" in capsys.readouterr().out
    file.write_text(unread().dump_json())
    assert main(["calibrate", str(file)]) == 1
