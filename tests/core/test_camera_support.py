"""What holds the camera: how high it goes, how far its arm reaches, what it carries, and who sees into it."""

from typing import Any

import pytest
from helpers.products import product
from helpers.studios import item, line, one_portrait, packed, parse
from helpers.windows import at_hand

from evrant.core.base.margins import Remedy, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.place.starting_set import starting_set
from evrant.core.search.arrange.search import arrange
from evrant.core.studio.studio import Studio

Data = dict[str, Any]
CAMERA = "sets/s/camera"
LOW = {"kind": "stand", "id": "low", "name": "Low tripod", "use": "tripod", "min_height": 0.15, "max_height": 1.3}
LOW |= {"foot_radius": 0.45, "load": 4.0, "mass": 1.6}
TALL = LOW | {"id": "tall", "name": "Tall tripod", "min_height": 0.4, "max_height": 1.8, "load": 6.0}
ARM = {"kind": "stand", "id": "arm", "name": "Overhead arm", "use": "copy arm", "min_height": 0.6, "max_height": 2.2}
ARM |= {"foot_radius": 0.5, "load": 4.0, "mass": 2.8, "reach": 0.7, "tail": 0.25, "shortest": 0.4, "boom_mass": 0.7}


def on(*stands: Data, support: str | None = "low", film: bool = False, **camera: Any) -> Data:
    """The portrait with its camera on something."""
    data = one_portrait()
    data["gear"] += [packed(dict(one)) for one in stands]
    item(data, "cam")["mass"], item(data, "l50")["mass"] = 0.7, 0.2
    data["sets"][0]["camera"] |= {"support": support} | camera
    if film:
        data["shots"][0] |= {"capture": "video", "frames": "25", "shutter": 0.02}
    return data


def overhead(*stands: Data, **camera: Any) -> Data:
    """A plate taken straight down."""
    data = product()
    data["shots"][0]["angle"] = 90.0
    data["gear"] += [packed(dict(one)) for one in stands]
    item(data, "cam")["mass"], item(data, "l50")["mass"] = 0.7, 0.2
    support = stands[0]["id"] if stands else None
    data["sets"][0]["camera"] |= {"support": support, "x": 2.0, "y": 1.9, "height": 1.4} | camera
    return data


def codes(data: Data | Studio) -> dict[str, Verdict]:
    studio = parse(data) if isinstance(data, dict) else data
    return {m.code: m.verdict for m in ledger_of(studio).lines if m.code.startswith("support.camera")}


def remedies(data: Data, code: str) -> dict[str, Remedy]:
    studio = parse(data)
    return {one.label: one for one in remedies_of(studio, line(studio, code), ledger_of(studio))}


@pytest.mark.parametrize(
    ("height", "verdict", "spare"),
    [
        (1.0, Verdict.CLEAR, 1.3 - 0.94),
        (1.36, Verdict.TIGHT, 0.0),
        (1.5, Verdict.SHORT, 1.3 - 1.44),
        (2.3, Verdict.SHORT, 1.3 - 2.24),
    ],
)
def test_a_tripod_is_as_high_as_it_goes(height: float, verdict: Verdict, spare: float) -> None:
    """Once: a lens 2.3 m up on a tripod of 1.3 m read Clear. Its plate is 6 cm under the lens axis."""
    found = line(parse(on(LOW, height=height)), "support.camera")
    assert found.verdict is verdict and found.margin == pytest.approx(spare, abs=1e-9)


def test_it_may_stand_too_high() -> None:
    found = line(parse(on(TALL, support="tall", height=0.3)), "support.camera")
    assert found.verdict is Verdict.SHORT and "does not go that low" in found.sentence
    assert found.margin == pytest.approx(0.24 - 0.4)


def test_another_tripod_or_a_lower_lens_helps() -> None:
    found = remedies(on(LOW, TALL, height=1.6), "support.camera")
    assert found["Put the camera on the tall tripod"].verdict is Verdict.CLEAR
    lower = next(one for label, one in found.items() if label.startswith("Put the lens"))
    assert lower.verdict in (Verdict.CLEAR, Verdict.TIGHT) and lower.edit["fields"]["height"] < 1.36
    assert any("tripod 1.6 m with a head" in label for label in found), "one to buy besides"


@pytest.mark.parametrize(
    "data",
    [
        on(support=None, film=True),
        on(support=None, operator="remote or timer"),
        on(support=None, operator="oneself, seen on a screen"),
        on(support=None, film=True, height=1.2),
        overhead(),
    ],
)
def test_a_film_a_self_portrait_and_a_view_from_above_want_something_that_stands(data: Data) -> None:
    """Once: a film without any tripod was ready to buy."""
    found = line(parse(data), "support.camera")
    assert found.verdict is Verdict.UNKNOWN and found.sentence == "Nothing holds the camera yet."


def test_a_portrait_is_taken_by_hand() -> None:
    assert "support.camera" not in codes(on(support=None))
    thing = product()
    thing["sets"][0]["camera"]["operator"] = "photographer behind it"
    assert "support.camera" not in codes(thing)


def test_what_to_hold_it_with_is_offered_and_bought() -> None:
    data = on(support=None, film=True)
    (bought,) = remedies(data, "support.camera").values()
    after = change(parse(data), EDIT.validate_python(bought.edit))
    assert codes(after)["support.camera"] is Verdict.CLEAR
    tripod = next(one for one in after.gear if one.id == after.sets[0].camera.support)
    assert tripod.status == "planned" and tripod.price


@pytest.mark.parametrize(
    ("height", "verdict"),
    [(1.45, None), (1.6, Verdict.CLEAR), (1.75, Verdict.TIGHT), (2.1, Verdict.SHORT)],
)
def test_nobody_looks_into_a_camera_over_the_head(height: float, verdict: Verdict | None) -> None:
    """By hand as well as on a tripod; who releases from afar need not look into it."""
    data = on(TALL | {"max_height": 2.6}, support="tall", height=height)
    assert codes(data).get("support.camera_sight") is verdict
    assert codes(on(support=None, height=height)).get("support.camera_sight") is verdict
    away = on(TALL, support="tall", height=height, operator="remote or timer")
    assert "support.camera_sight" not in codes(away)


def test_an_arm_reaches_over_and_carries_less_drawn_out() -> None:
    """The moment about the pivot as at the rated 40 cm: 4 kg there, by hand at 70 cm."""
    data = overhead(ARM, arm_length=0.7)
    boom = 0.7 / (0.7 + 0.25)
    carries = (4.0 * 0.4 + boom * (0.4**2 - 0.7**2) / 2) / 0.7
    item(data, "cam")["mass"], item(data, "l50")["mass"] = 1.2, 0.4
    found = line(parse(data), "support.camera_load")
    assert found.have == pytest.approx(carries, rel=1e-6) and found.need == pytest.approx(1.6)
    assert found.verdict is Verdict.CLEAR
    item(data, "cam")["mass"] = 2.2
    assert line(parse(data), "support.camera_load").verdict is Verdict.SHORT
    assert line(parse(data), "support.camera_arm").verdict is Verdict.TIGHT
    data["sets"][0]["camera"]["arm_length"] = 0.9
    short = line(parse(data), "support.camera_arm")
    assert short.verdict is Verdict.SHORT and short.margin == pytest.approx(-0.2)
    drawn = next(iter(remedies(data, "support.camera_arm").values()))
    assert drawn.edit["fields"] == {"arm_length": 0.7} and drawn.verdict is Verdict.TIGHT


def test_its_arm_is_above_the_lens() -> None:
    data = overhead(ARM)
    high = line(parse(data), "support.camera")
    data["sets"][0]["camera"]["height"] = 2.05
    assert high.verdict is Verdict.CLEAR
    assert line(parse(data), "support.camera").margin == pytest.approx(2.2 - 2.15)
    data["sets"][0]["camera"]["height"] = 2.3
    assert line(parse(data), "support.camera").verdict is Verdict.SHORT


def test_a_tripod_without_an_arm_is_not_taken_for_one() -> None:
    found = line(parse(overhead(LOW)), "support.camera_arm")
    assert found.verdict is Verdict.UNKNOWN and found.enter == "gear/low"


def test_what_is_not_known_is_said() -> None:
    data = on({key: value for key, value in LOW.items() if key != "load"})
    found = line(parse(data), "support.camera_load")
    assert found.verdict is Verdict.UNKNOWN and found.enter == "gear/low"
    hung = on(LOW | {"use": "ceiling bracket"}, film=True)
    assert line(parse(hung), "support.camera").verdict is Verdict.UNKNOWN


def test_arrange_takes_the_tripod_that_reaches() -> None:
    """Not the first of the kit."""
    data = on(LOW | {"max_height": 0.6}, TALL, support=None, film=True)
    studio = at_hand(data)
    found = arrange(studio, studio.shots[0], budget=None, most=1)
    assert found.fits and found.sets[0].plan.camera.support == "tall"


def test_a_first_set_has_what_its_camera_stands_on() -> None:
    data = on(LOW | {"max_height": 0.6}, TALL, support=None, film=True)
    studio = parse(data)
    assert starting_set(studio, studio.shots[0], "new").camera.support == "tall"
    still = parse(on(LOW, support=None))
    assert starting_set(still, still.shots[0], "new").camera.support is None
    data["shots"][0] |= {"name": "Self-portrait", "capture": "stills"}
    alone = parse(data)
    place = starting_set(alone, alone.shots[0], "new").camera
    assert place.operator == "oneself, seen on a screen" and place.support == "tall"


HOLDER = {"kind": "part", "id": "holder", "name": "Telephone holder", "use": "telephone holder"}


@pytest.mark.parametrize(("parts", "verdict"), [([], Verdict.SHORT), ([HOLDER], Verdict.CLEAR)])
def test_a_telephone_is_clamped(parts: list[Data], verdict: Verdict) -> None:
    data = on(LOW, *parts, height=1.0)
    item(data, "cam")["screws"] = "nothing, it is clamped"
    assert codes(data)["support.camera_holder"] is verdict
    if verdict is Verdict.SHORT:
        (bought,) = remedies(data, "support.camera_holder").values()
        assert bought.verdict is Verdict.CLEAR
    item(data, "cam")["screws"] = "1/4 inch thread"
    assert "support.camera_holder" not in codes(data)
    item(data, "cam")["screws"] = "nothing, it is clamped"
    data["sets"][0]["camera"]["support"] = None
    assert "support.camera_holder" not in codes(data), "held in the hand"
