"""Figures with ± and origin, and lengths typed in metric or feet and inches."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.quantity import ROOM_LENGTH, Figure, RoomLength
from evrant.core.base.tables.money import amount
from evrant.core.base.units import CannotRead, read_length, show_gap, show_length
from evrant.core.space.figures import parts
from evrant.core.space.stature import posed_top
from evrant.core.studio.shots import Subject
from evrant.core.studio.words import Say

LENGTH: TypeAdapter[Figure] = TypeAdapter(RoomLength)


def test_a_bare_number_takes_the_usual_spread_of_a_tape() -> None:
    figure = LENGTH.validate_python(3.4)
    assert (figure.value, figure.pm, figure.origin) == (3.4, 0.01, "tape")
    assert figure.dump() == 3.4


def test_origin_and_pm_can_be_stated() -> None:
    assert LENGTH.validate_python({"value": 3.4, "origin": "laser"}).pm == 0.003
    assert LENGTH.validate_python({"value": 3.4, "origin": "guess"}).pm == pytest.approx(0.34)
    stated = LENGTH.validate_python({"value": 3.4, "pm": 0.02})
    assert (stated.pm, stated.origin, stated.dump()) == (0.02, "tape", {"value": 3.4, "pm": 0.02})


@pytest.mark.parametrize(
    "raw",
    [
        0.005,
        31,
        -1,
        math.nan,
        math.inf,
        10**400,
        "3.4",
        True,
        None,
        {"pm": 1},
        {"value": 3, "origin": "hearsay"},
        {"value": 3, "pm": -1},
        {"value": 3, "pm": math.nan},
        {"value": 3, "colour": 1},
        [3],
    ],
)
def test_nonsense_is_refused(raw: object) -> None:
    with pytest.raises(ValidationError):
        LENGTH.validate_python(raw)


def test_the_range_is_told() -> None:
    with pytest.raises(ValidationError, match=r"lies between 0\.5 and 30"):
        LENGTH.validate_python(0.005)
    assert ROOM_LENGTH.figure(0.5).value == 0.5


@pytest.mark.parametrize(
    ("text", "metres"),
    [
        ("3.2 m", 3.2),
        ("3,2 m", 3.2),
        ("320cm", 3.2),
        ("3200 mm", 3.2),
        ("3.2", 3.2),
        ("10' 6\"", 3.2004),
        ("10 ft 6 in", 3.2004),
        ("10′ 6″", 3.2004),
        ("6' 2 1/2\"", 1.8923),
        ("10'6", 3.2004),
        ('1/2"', 0.0127),
        ("1 m 20 cm", 1.2),
        ("-5 cm", -0.05),
        ("11 1/4 in", 0.28575),
    ],
)
def test_lengths_as_people_type_them(text: str, metres: float) -> None:
    """The inch is 25.4 mm exactly (international yard and pound agreement, 1959)."""
    assert read_length(text) == pytest.approx(metres, abs=1e-9)


def test_a_lone_number_is_feet_where_feet_are_used() -> None:
    assert read_length("8", "imperial") == pytest.approx(2.4384)


@pytest.mark.parametrize("text", ["", "banana", "3 kg", "3 m of cloth", "1/0 m", "'", "--", "9" * 80, "3 m; drop"])
def test_what_cannot_be_read_is_said(text: str) -> None:
    with pytest.raises(CannotRead):
        read_length(text)


@given(st.floats(0.02, 29))
def test_shown_lengths_read_back(metres: float) -> None:
    assert read_length(show_length(metres)) == pytest.approx(metres, abs=0.0051)
    assert read_length(show_length(metres, "imperial"), "imperial") == pytest.approx(metres, abs=0.0254 / 16 + 1e-9)


def test_words_for_gaps() -> None:
    assert show_gap(-0.09) == "−9 cm"
    assert show_gap(0.004) == "+4 mm"
    assert show_gap(-0.0889, "imperial") == '−3 1/2"'
    assert show_length(3.4) == "3.40 m"
    assert show_length(2.4384, "imperial") == "8' 0\""


def test_shares_add_in_quadrature_and_name_the_largest() -> None:
    """JCGM 100:2008, 5.1.2, independent inputs: u² = Σ (∂f/∂x · u_x)²."""
    a, b = Figure(3.0, 0.03, "tape"), Figure(2.0, 0.04, "tape")
    result = estimate(lambda long_side, short_side: long_side - 2 * short_side, long_side=a, short_side=b)
    assert result.value == pytest.approx(-1.0)
    assert result.uncertainty == pytest.approx(math.hypot(0.03, 0.08))
    assert result.largest is not None and result.largest.label == "short side"
    assert Estimate(1.0).largest is None
    assert Estimate(1.0, (Share("x", 3.0), Share("y", 4.0))).uncertainty == 5.0


@pytest.mark.parametrize(
    ("posture", "top"),
    # Shares of stature after Drillis and Contini (1966), from memory: knee 0.285, sitting height 0.52.
    [("standing", 1.70), ("kneeling", 1.2155), ("seated", 0.45 + 0.884)],
)
def test_heights_of_postures(posture: str, top: float) -> None:
    subject = Subject.model_validate({"id": "p", "posture": posture, "height": 1.7})
    assert posed_top(subject, 1.7) == pytest.approx(top)
    highest = max(float(part[:, 2].max()) for part in parts(subject, 1.7))
    assert highest == pytest.approx(top, abs=0.01)
    assert min(float(part[:, 2].min()) for part in parts(subject, 1.7)) > -0.04


@pytest.mark.parametrize(
    ("text", "one", "other"),
    [
        ("2 m 5", "2 m 5 cm", "2.5 m"),
        ("4 5", "4 m 5 cm", "4.5 m"),
        ("12 6", "12 m 6 cm", "12.6 m"),
        ("3 m 405", "3 m 405 cm", "3.405 m"),
        ("3.40.1", "340.1", "3.401"),
        ("3,4,5", "34.5", "3.45"),
        ("1,234.5", "1234.5", "1.2345"),
    ],
)
def test_a_length_with_two_readings_is_refused_with_both(text: str, one: str, other: str) -> None:
    with pytest.raises(CannotRead) as refused:
        read_length(text)
    assert one in str(refused.value) and other in str(refused.value)


@pytest.mark.parametrize("text", ["12 6", "2 5", "4 5"])
def test_bare_numbers_side_by_side_are_refused_in_feet_too(text: str) -> None:
    feet, inches = text.split()
    with pytest.raises(CannotRead, match="could be") as refused:
        read_length(text, "imperial")
    assert f"{feet}' {inches}\"" in str(refused.value) and f"{feet}.{inches}'" in str(refused.value)


@pytest.mark.parametrize(
    ("text", "metres"), [("3 m 40", 3.4), ("3 m 40 cm", 3.4), ("3,40", 3.4), ("10' 6", 3.2004), ("5 1/2 m", 5.5)]
)
def test_what_has_one_reading_is_taken(text: str, metres: float) -> None:
    assert read_length(text) == pytest.approx(metres)


@pytest.mark.parametrize(
    ("text", "words"), [("1.5e3", "1500"), ("2E-1", "0.2"), ("3 cm 2 m", "no order"), ("2 m 3 m", "no order")]
)
def test_what_is_no_plain_length_is_answered_kindly(text: str, words: str) -> None:
    with pytest.raises(CannotRead, match=words):
        read_length(text)


@pytest.mark.parametrize(
    ("sum_", "currency", "words"), [(23200, "JPY", "23 200"), (23200, "EUR", "23 200.00"), (9.5, "GBP", "9.50")]
)
def test_money_has_the_places_of_its_currency(sum_: float, currency: str, words: str) -> None:
    """ISO 4217: the yen has no smaller unit."""
    assert amount(sum_, currency) == words
    assert Say("metric", currency).money(sum_) == f"{words} {currency}"
