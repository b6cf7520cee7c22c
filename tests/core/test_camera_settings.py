"""`frame.aperture` and `frame.iso`: what a lens and a camera can be set to at all."""

from typing import Any

import pytest
from helpers.studios import one_portrait, parse

from evrant.catalogue.bundles import things
from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT, SetFields, apply
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.search.begin.answers import Answers, studio_of
from evrant.core.search.kit.settings import by_window
from evrant.core.space.framing import cleanest_iso

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


def test_under_a_lamp_a_higher_iso_comes_with_a_shorter_time() -> None:
    """ISO 50 for 1/30 s is ISO 100 for 1/60 s; a flash is as short as it is, and gets no other time."""
    lit = at_iso(50, lamp=True, shutter=1 / 30)
    labels = {}
    for name, data in (("lamp", lit), ("flash", at_iso(50, shutter=1 / 125))):
        studio = parse(data)
        ledger = ledger_of(studio)
        short = next(m for m in ledger.lines if m.code == "frame.iso")
        labels[name] = {one.label: one.edit for one in remedies_of(studio, short, ledger)}
    assert set(labels["flash"]) == {"Set ISO 100"}
    after = apply(parse(lit), EDIT.validate_python(labels["lamp"]["Set ISO 100 and expose for 1/60 s"]))
    assert after.shots[0].iso == 100 and after.shots[0].shutter == pytest.approx(1 / 60)


@pytest.mark.parametrize(("shutter", "code"), [(1 / 2000, "light.shutter"), (30.0, "light.power_lowest")])
def test_a_lamp_too_weak_or_too_strong_is_exposed_for_another_time(shutter: float, code: str) -> None:
    """Longer where it is too weak, shorter where it is too strong; the line is settled by it."""
    studio = parse(at_iso(100, lamp=True, shutter=shutter, aperture=5.6))
    ledger = ledger_of(studio)
    short = next(m for m in ledger.lines if m.code == code and m.verdict is Verdict.SHORT)
    (first, *_) = [one for one in remedies_of(studio, short, ledger) if one.label.startswith("Expose for")]
    after = apply(studio, EDIT.validate_python(first.edit))
    assert after.shots[0].shutter is not None
    assert (after.shots[0].shutter > shutter) is (code == "light.shutter")
    found = ledger_of(after).find(short.key)
    assert found is not None and found.verdict is not Verdict.SHORT


# --- how clean the picture is at an ISO ---------------------------------------------------------------


def at_iso(iso: int, width: float = 0.036, height: float = 0.024, lamp: bool = False, **shot: Any) -> Data:
    data = one_portrait()
    next(item for item in data["gear"] if item["id"] == "cam").update({"sensor_width": width, "sensor_height": height})
    if lamp:
        head = next(item for item in data["gear"] if item["id"] == "head")
        bare = {key: head[key] for key in ("id", "name", "status") if key in head}
        head.clear()
        head.update(bare | {"kind": "lamp", "power": 60, "lumens": 6000, "kelvin": 5600, "dims_to": 0.1, "mass": 1.0})
    data["shots"][0] |= {"iso": iso, **shot}
    return data


@pytest.mark.parametrize(
    ("iso", "width", "height", "stops"),
    [
        (6400, 0.036, 0.024, 1.0),
        (25600, 0.036, 0.024, -1.0),
        (3200, 0.0235, 0.0156, 0.763),
        (12800, 0.0235, 0.0156, -1.237),
        (800, 0.0098, 0.0073, 0.406),
        (1600, 0.0098, 0.0073, -0.594),
        (800, 0.0235, 0.0156, None),
    ],
)
def test_grain_goes_by_the_light_on_the_whole_sensor(
    iso: int, width: float, height: float, stops: float | None
) -> None:
    """By hand: log2(12 800 × area / 864 mm² / ISO); said only from two stops below on."""
    found = line(at_iso(iso, width, height), "frame.grain")
    if stops is None:
        assert found is None
        return
    assert found is not None and found.margin == pytest.approx(stops, abs=0.001)
    assert found.verdict is (Verdict.SHORT if stops < 0 else Verdict.TIGHT)
    assert f"ISO {iso}" in found.reason


def test_half_the_sensor_at_half_the_iso_is_as_clean() -> None:
    whole, half = line(at_iso(6400), "frame.grain"), line(at_iso(3200, 0.036, 0.012), "frame.grain")
    assert whole is not None and half is not None and whole.margin == pytest.approx(half.margin)


@pytest.mark.parametrize("lamp", [False, True])
def test_a_lower_iso_comes_with_what_makes_up_for_it(lamp: bool) -> None:
    data = at_iso(25600, lamp=lamp, aperture=8.0)
    studio = parse(data)
    ledger = ledger_of(studio)
    found = ledger.find(next(m.key for m in ledger.lines if m.code == "frame.grain"))
    assert found is not None and found.verdict is Verdict.SHORT
    offers = remedies_of(studio, found, ledger)
    assert len(offers) >= 3
    for offer in offers:
        after = apply(studio, EDIT.validate_python(offer.edit)).shots[0]
        assert after.iso is not None and after.iso < 25600 and after.aperture is not None
        light = after.aperture.value**2 / after.iso
        if lamp:
            assert light == pytest.approx(8.0**2 / 25600, rel=0.2), "the same exposure by a wider aperture"
        else:
            assert after.aperture.value == 8.0, "the flash gives more"


def test_nothing_is_proposed_at_an_iso_that_is_grainy() -> None:
    """A window that would take ISO 12 800 at f/4 with a small sensor is not asked for it."""
    for have in ("camera-half", "camera-full"):
        answers = Answers.model_validate(
            {"take": ["Head and shoulders, seated"], "spend": 100, "where": {"like": "small bedroom"},
             "have": [have, "lens-50"]}
        )  # fmt: skip
        studio = studio_of(answers, things(answers.have))
        window = studio.room.windows[0]
        dim = window.changed(daylight=window.daylight.moved() if window.daylight else None)
        studio = studio.changed(room=studio.room.changed(windows=(dim,)))
        body = next(item for item in studio.gear if item.kind == "camera")
        assert body.sensor_width and body.sensor_height
        most = cleanest_iso(body.sensor_width.value, body.sensor_height.value)
        ways = list(by_window(studio, studio.shots[0]))
        assert ways
        for way in ways:
            for edit in way.edits:
                if isinstance(edit, SetFields) and "iso" in edit.fields:
                    assert int(str(edit.fields["iso"])) <= most


@pytest.mark.parametrize(
    ("take", "words"),
    [
        ("Product lit from below", "by the window, not lit from below"),
        ("Shiny object in a tent", "by the window, without its tent"),
        ("Interior by small lamps", "by the window, without lamps in the picture"),
        ("Product on a sweep", "by the window"),
    ],
)
def test_what_a_picture_loses_by_the_window_is_said(take: str, words: str) -> None:
    """Once: what was to be lit from below was offered by the window and nothing said that it is another picture."""
    asked = {"take": [take], "spend": 300, "where": {"like": "small bedroom"}, "have": ["camera-half", "lens-50"]}
    answers = Answers.model_validate(asked)
    ways = list(by_window(studio := studio_of(answers, things(answers.have)), studio.shots[0]))
    assert ways and all(way.light == words and way.words[0].endswith(words) for way in ways)
