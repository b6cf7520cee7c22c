"""A studio in feet and pounds is spoken to in feet and pounds."""

import pytest
from helpers.feet import in_feet, metric_in

from evrant.catalogue import load
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.search.kit.leave import leave_it
from evrant.core.search.kit.optimum import proof_words
from evrant.core.search.kit.parts import parts_wanted
from evrant.core.studio.words import Say
from evrant.demo import NAMES, demo_studio


@pytest.mark.parametrize("name", NAMES)
def test_lines_and_remedies(name: str) -> None:
    """Every line of every demo studio, and what is offered for those that are Short."""
    studio = in_feet(demo_studio(name))
    ledger = ledger_of(studio)
    said = [text for line in ledger.lines for text in (line.title, line.sentence, line.reason or "", line.enter or "")]
    for line in ledger.lines:
        if line.verdict.value == "Short":
            said += [one.label for one in remedies_of(studio, line, ledger)]
    assert len(said) > 300
    assert [found for text in said for found in metric_in(text, studio)] == []


@pytest.mark.parametrize("name", NAMES)
def test_what_to_leave_and_what_small_parts_it_takes(name: str) -> None:
    studio = in_feet(demo_studio(name))
    said = [one.why for one in leave_it(studio)] + [one.why for one in parts_wanted(studio, load().all())]
    said.append(proof_words(Say.of(studio.brief).length))
    assert [found for text in said for found in metric_in(text, studio)] == []


def test_areas_volumes_and_warmth() -> None:
    """By hand: 2 m² are 2 / 0.3048² = 21.5 sq ft, 23 m³ are 23 / 0.3048³ = 812 cu ft, 1.9 K are 1.9 · 1.8 = 3.4 °F."""
    feet, metres = Say("imperial", "USD"), Say("metric", "EUR")
    assert (feet.area(2.0), metres.area(2.0)) == ("22 sq ft", "2 m²")
    assert (feet.area(0.5), feet.volume(23.0), metres.volume(23.04)) == ("5.4 sq ft", "812 cu ft", "23 m³")
    assert (feet.warmer(1.9), metres.warmer(1.9)) == ("3.4 °F", "1.9 K")
    assert (feet.fine(0.0019), metres.fine(0.0019), feet.fine(0.05)) == ('0.07"', "1.9 mm", '1.97"')
    assert (feet.margin(-1.9, "K"), metres.margin(1.9, "K")) == ("−3.4 °F", "+1.9 K")
