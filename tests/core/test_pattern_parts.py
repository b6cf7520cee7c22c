"""`light.pattern_parts`: a pattern whose lights, scrim, tent or window are not in the set is not made."""

from typing import Any, get_args

import pytest
from helpers.products import IN_TENT, TENT, product
from helpers.studios import item, one_portrait, packed, parse
from helpers.windows import by_day, window

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.studio.shots import Pattern
from evrant.core.studio.studio import Studio

Data = dict[str, Any]


def line(data: Data | Studio) -> Margin | None:
    studio = parse(data) if isinstance(data, dict) else data
    return next((m for m in ledger_of(studio).lines if m.code == "light.pattern_parts"), None)


def wanting(pattern: str | None, *roles: str, **shot: Any) -> Data:
    """The portrait with a pattern wished for, its key and a light for each further role."""
    data = one_portrait()
    data["shots"][0] |= {"pattern": pattern} | shot
    key = data["sets"][0]["lights"][0]
    for number, role in enumerate(roles):
        more = {"id": f"more-{number}", "role": role, "x": 1.4, "y": 2.9 - 2.0 * (number % 2)}
        data["sets"][0]["lights"].append(key | more)
    item(data, "head")["quantity"] = item(data, "stand")["quantity"] = item(data, "box")["quantity"] = 1 + len(roles)
    return data


@pytest.mark.parametrize(
    ("pattern", "roles", "lacks"),
    [
        ("loop", (), None),
        ("clamshell", (), "fill"),
        ("clamshell", ("fill",), None),
        ("rim pair", (), "rim"),
        ("rim pair", ("rim",), None),
        ("hair light", (), "hair light"),
        ("hair light", ("hair light",), None),
        ("background pair", (), "light on the background"),
        ("background pair", ("background light",), "second light on the background"),
        ("background pair", ("background light", "background light"), None),
        ("even pair", (), "second key"),
        ("ring", (), "ring round the lens"),
        ("ring", ("ring light",), None),
        ("bounced", (), "head to send back into wall and ceiling"),
        ("scrim", (), "scrim"),
        ("gobo", ("background light",), "shape in the light on the background"),
        ("practicals", (), "practical"),
        ("silhouette", ("background light", "background light"), None),
        ("window and reflector", (), "window that lets daylight in"),
    ],
)
def test_what_a_pattern_takes_is_there_or_missing(pattern: str, roles: tuple[str, ...], lacks: str | None) -> None:
    """Once only angles were judged, and a light that was not there had none: every one of these was Clear."""
    found = line(wanting(pattern, *roles))
    if lacks is None:
        assert found is None, found and found.sentence
    else:
        assert found is not None and found.verdict is Verdict.SHORT
        assert found.sentence.startswith(f"For {pattern} there is no ") and f"no {lacks}" in found.sentence


def test_a_bounced_head_a_scrim_a_shape_and_a_tent_count() -> None:
    data = wanting("bounced")
    data["sets"][0]["lights"][0] |= {"aim_x": 4.9, "aim_y": 3.9, "aim_height": 2.7}
    assert line(data) is None
    data = wanting("scrim")
    data["gear"].append(packed({"kind": "board", "id": "sheet", "name": "Sheet", "surface": "translucent"}))
    data["sets"][0]["props"] = [{"id": "sheet", "item": "sheet", "x": 2.4, "y": 2.4}]
    assert line(data) is None
    data = wanting("gobo", "background light")
    data["gear"].append(packed({"kind": "modifier", "id": "shape", "name": "Shape", "form": "gobo holder"}))
    data["sets"][0]["lights"][1]["modifier"] = "shape"
    assert line(data) is None
    assert line(product((TENT,), (IN_TENT,), lights=2) | {}) is None
    for props, short in (((IN_TENT,), False), ((), True)):
        tented = product((TENT,), props, lights=2)
        tented["shots"][0]["pattern"] = "tent"
        assert (line(tented) is not None) == short


def test_a_key_that_looks_away_makes_no_loop() -> None:
    """Once its angle counted though its light came off wall and ceiling."""
    data = wanting("loop")
    data["sets"][0]["lights"][0] |= {"aim_x": 4.9, "aim_y": 3.9, "aim_height": 2.7}
    found = line(data)
    assert found is not None and found.sentence == "For loop there is no key." and "Now it is: bounced" in found.reason


def test_by_day_a_window_is_one_light_and_no_more() -> None:
    daylight = by_day(window("north"))
    for pattern, short in (("loop", False), ("window and reflector", False), ("rim pair", True), ("ring", True)):
        daylight["shots"][0]["pattern"] = pattern
        assert (line(daylight) is not None) == short, pattern
    daylight["shots"][0] |= {"pattern": "window and reflector", "around": "dark"}
    found = line(daylight)
    assert found is not None and "window" in found.sentence
    studio = parse(daylight)
    let_in = {one.label: one for one in remedies_of(studio, found, ledger_of(studio))}["Let the daylight in"]
    assert line(change(studio, EDIT.validate_python(let_in.edit))) is None


def test_the_pattern_is_placed_anew_or_the_one_there_is_asked_for() -> None:
    studio = parse(wanting("clamshell"))
    found = line(studio)
    assert found is not None
    ways = {one.label: one for one in remedies_of(studio, found, ledger_of(studio))}
    asked = next(one for label, one in ways.items() if label.startswith("Ask for"))
    assert line(change(studio, EDIT.validate_python(asked.edit))) is None


def test_every_pattern_is_read() -> None:
    """None raises, with lights and without."""
    for pattern in get_args(Pattern):
        for data in (wanting(pattern), by_day(window("north"), pattern=pattern)):
            found = line(data)
            assert found is None or found.sentence.startswith("For ")
