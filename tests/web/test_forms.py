"""Fields as people see and type them: made from the models, and figures read back as they were shown."""

from typing import Any

import pytest
from helpers.studios import demo, one_portrait, parse
from hypothesis import given
from hypothesis import strategies as st

from evrant.catalogue import load
from evrant.core.base.model import Model
from evrant.core.base.quantity import Figure
from evrant.core.base.units import CannotRead
from evrant.core.edits.language import SetFields
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import change as apply
from evrant.core.studio.brief import Brief
from evrant.core.studio.gear import KINDS
from evrant.core.studio.purchases import Purchase, Shop, Upkeep
from evrant.core.studio.room import Box, Door, Finish, Passage, Place, Socket, Window
from evrant.core.studio.sets import BackgroundPlace, CameraPlace, LightPlace, Mark
from evrant.core.studio.shots import Shot, Subject
from evrant.core.studio.words import Say, f_words, power_words
from evrant.web.forms import fields, read_form, show, shown, specs, with_typed
from evrant.web.forms import parse as parse_text
from evrant.web.lines import enter_page, line_of, tape

MODELS: list[type[Model]] = [
    Brief,
    Box,
    Door,
    Finish,
    Passage,
    Place,
    Purchase,
    Shop,
    Upkeep,
    Socket,
    Window,
    Mark,
    CameraPlace,
    BackgroundPlace,
    LightPlace,
    Shot,
    Subject,
    *KINDS.values(),
]


@pytest.mark.parametrize("cls", MODELS, ids=lambda cls: cls.__name__)
def test_every_plain_field_of_a_model_has_a_form_field(cls: type[Model]) -> None:
    named = {spec.name for spec in specs(cls)}
    nested = {"subjects", "schools", "finish", "notes_", "distribution", "known_with"}
    hidden = {"id", "library"} | ({"kind"} if cls not in (Subject, Box, Place, Passage) else set())
    assert named == set(cls.model_fields) - nested - hidden
    assert all(spec.title and spec.title[0].isupper() for spec in specs(cls))


def figures(model: Model) -> list[tuple[str, str, Figure]]:
    return [
        (spec.name, spec.show, value)
        for spec in specs(type(model))
        if isinstance(value := getattr(model, spec.name), Figure)
    ]


@pytest.mark.parametrize("units", ["metric", "imperial"])
@pytest.mark.parametrize("kind", list(KINDS))
def test_every_figure_of_the_catalogue_reads_back_as_shown(kind: str, units: Any) -> None:
    for item in load().by_kind[kind]:
        by_name = {spec.name: spec for spec in specs(type(item))}
        for name, how, figure in figures(item):
            back = parse_text(show(figure.value, how, units), by_name[name], units)
            most = 0.0008 if how == "length" and units == "imperial" else 0.005 if how == "kg" else 1e-4
            share = 0.005 if how == "s" else 0.0
            assert back == pytest.approx(figure.value, abs=most, rel=share), (item.id, name)


@given(st.floats(1 / 8000, 30))
def test_times_read_back(seconds: float) -> None:
    spec = next(s for s in specs(Shot) if s.name == "shutter")
    assert parse_text(show(seconds, "time", "metric"), spec, "metric") == pytest.approx(seconds, rel=0.01, abs=0.0005)


@pytest.mark.parametrize(
    ("cls", "name", "text", "value"),
    [
        (Shot, "shutter", "1/160", 1 / 160),
        (Shot, "shutter", "0.5 s", 0.5),
        (Shot, "aperture", "f/5.6", 5.6),
        (Shot, "aperture", "8", 8.0),
        (Shot, "iso", "400", 400),
        (LightPlace, "power", "1/16", 0.0625),
        (LightPlace, "x", "1,25 m", 1.25),
        (KINDS["lens"], "focal", "50", 0.05),
        (KINDS["lens"], "focal", "5 cm", 0.05),
        (KINDS["flash"], "mass", "1.4", 1.4),
        (KINDS["flash"], "mass", "3 lb", 1.36077711),
        (KINDS["flash"], "price", "49,90", "49.90"),
        (KINDS["modifier"], "loss", "2 stops", 2.0),
        (KINDS["backdrop"], "reflectance", "36 %", 36.0),
        (Shot, "tone", "", None),
        (Subject, "across", "-20 cm", -0.2),
        (KINDS["flash"], "energy", "200 Ws", 200.0),
        (KINDS["flash"], "recycle", "1.3 s", 1.3),
    ],
)
def test_typed_text(cls: type[Model], name: str, text: str, value: Any) -> None:
    spec = next(s for s in specs(cls) if s.name == name)
    got = parse_text(text, spec, "metric")
    assert got == (pytest.approx(value) if isinstance(value, float) else value)


@pytest.mark.parametrize(
    ("cls", "name", "text"),
    [
        (Shot, "shutter", "fast"),
        (Shot, "shutter", "1/0"),
        (Shot, "iso", "1.5"),
        (Shot, "name", ""),
        (KINDS["flash"], "price", "cheap"),
        (Door, "width", "3 kg"),
        (Subject, "across", ""),
        (KINDS["lens"], "focal", "wide"),
    ],
)
def test_text_that_cannot_be_read(cls: type[Model], name: str, text: str) -> None:
    with pytest.raises(CannotRead):
        parse_text(text, next(s for s in specs(cls) if s.name == name), "metric")


def test_spread_and_origin_travel_with_the_value() -> None:
    room = demo().room
    typed = read_form(room, {"height": "2.36 m", "height.pm": "3 mm", "height.origin": "laser"}, "metric")
    assert typed.values == {"height": {"value": 2.36, "pm": 0.003, "origin": "laser"}}
    after = apply(demo(), SetFields(target="room", fields=typed.values))
    field = next(f for f in fields(after, "room", after.room) if f.spec.name == "height")
    assert (field.value, field.pm, field.origin) == ("2.36 m", "0.3 cm", "laser")
    assert read_form(room, {"height": "", "height.pm": "3 mm"}, "metric").values == {"height": None}


def test_a_refused_field_keeps_every_keystroke() -> None:
    spec = next(s for s in specs(type(demo().room)) if s.name == "height")
    field = with_typed(shown(demo(), "room", demo().room, spec), {"height": " 2,3x ", "height.pm": "?"}, "No.")
    assert (field.value, field.pm, field.error) == (" 2,3x ", "?", "No.")


def test_choices_name_what_is_there_and_what_is_gone() -> None:
    studio = demo()
    light = studio.sets[1].lights[0]
    head = next(f for f in fields(studio, "sets/kneeling-a/lights/key", light) if f.spec.name == "head")
    assert ("flash-200", "Compact flash head, 200 Ws") in head.options
    gone = studio.changed(gear=tuple(i for i in studio.gear if i.id != "flash-200"))
    head = next(f for f in fields(gone, "sets/kneeling-a/lights/key", light) if f.spec.name == "head")
    assert ("flash-200", "flash-200 (no longer in the kit)") in head.options
    circuit = next(f for f in fields(studio, "sets/kneeling-a/lights/key", light) if f.spec.name == "circuit")
    assert circuit.options == (("sockets", "Sockets, box room"),)


def test_the_small_tape() -> None:
    lines = ledger_of(parse(one_portrait())).lines
    for margin in lines:
        drawn = tape(margin)
        assert drawn is not None
        assert 0 <= drawn.bar_x <= drawn.bar_x + drawn.bar_width <= 120
        assert 0 <= drawn.band_x <= drawn.band_x + drawn.band_width <= 120
        assert (drawn.bar_x >= 60) == ((margin.margin or 0) >= 0)
    shorts = [m for m in ledger_of(demo()).lines if (m.margin or 0) < 0]
    assert all(t.bar_x < 60 and t.bar_x + t.bar_width == pytest.approx(60) for m in shorts if (t := tape(m)))
    assert tape(next(m for m in ledger_of(demo()).lines if m.margin is None)) is None


@pytest.mark.parametrize(
    ("path", "page"),
    [
        ("room", "room"),
        ("room/circuits/a", "room#card-room-circuits-a"),
        ("gear/x", "kit#card-gear-x"),
        ("brief", "brief"),
        ("shots/x", "shots#card-shots-x"),
        ("sets/a/lights/key", "sets/a#lights-key"),
        ("sets/a/camera", "sets/a#camera"),
    ],
)
def test_where_a_missing_figure_is_entered(path: str, page: str) -> None:
    assert enter_page(path) == page


def test_lines_in_words() -> None:
    ledger, say = ledger_of(demo()), Say.of(demo().brief)
    for margin in ledger.lines:
        shown_as = line_of(margin, ledger, say)
        counted = margin.line.first and margin.unit == "parts"  # "no light" needs no "−1 part" beside it
        assert shown_as.word == margin.verdict.value and bool(shown_as.figure) is not counted
        assert not counted or (shown_as.needs and shown_as.has)
        assert (shown_as.enter is None) == (margin.margin is not None)
    assert say.margin(-0.3, "stop") == "−0.3 stop" and say.margin(1.6, "stop") == "+1.6 stops"
    assert say.margin(-13, "money") == "−13.00 EUR" and say.margin(None, "m") == "?"
    assert Say("imperial", "USD").margin(1.0, "kg") == "+2.2 lb"
    assert (f_words(8), f_words(2.8), f_words(11)) == ("f/8", "f/2.8", "f/11")
    assert (power_words(1), power_words(0.9), power_words(0.5), power_words(1 / 16)) == (
        "full power",
        "nearly full power",
        "1/2",
        "1/16",
    )


def test_a_bare_number_far_too_large_is_told_its_unit() -> None:
    """80 for a door: in metres here; 80 cm if that is meant."""
    spec = next(one for one in specs(Door) if one.name == "width")
    with pytest.raises(CannotRead, match=r"in m here\. Write “80 cm”"):
        parse_text("80", spec, "metric")
    with pytest.raises(CannotRead, match=r"in feet here\. Write “300 inches”"):
        parse_text("300", spec, "imperial")
    assert parse_text("80 cm", spec, "metric") == pytest.approx(0.8)
    assert parse_text("0.8", spec, "metric") == pytest.approx(0.8)
