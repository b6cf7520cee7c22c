"""One cause, one card: each open line under exactly one cause, and what a change is said to settle, it does."""

from helpers.studios import demo, one_portrait, parse
from test_settle import crooked

from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.place.moves import change
from evrant.core.search.causes import NO_REMEDY, causes
from evrant.core.studio.studio import Acceptance


def test_each_open_line_stands_under_one_cause_worst_first() -> None:
    studio = parse(crooked())
    found = causes(studio)
    told = [line.key for cause in found for line in cause.lines]
    assert sorted(told) == sorted(one.key for one in ledger_of(studio).lines if one.verdict is not Verdict.CLEAR)
    assert [cause.order for cause in found] == sorted(cause.order for cause in found)
    assert all(len({line.verdict for line in cause.lines}) == 1 for cause in found)


def test_a_change_settles_what_stands_under_it_and_makes_nothing_else_short() -> None:
    studio = parse(crooked())
    before = {one.key for one in ledger_of(studio).lines if one.verdict is Verdict.SHORT}
    found = [one for one in causes(studio) if one.edit is not None]
    assert found
    for cause in found:
        assert cause.edit is not None
        after = {one.key for one in ledger_of(change(studio, cause.edit)).lines if one.verdict is Verdict.SHORT}
        assert after <= before - {line.key for line in cause.lines}


def test_two_lines_of_one_cause_are_one_card() -> None:
    """A stand without a weight falls on a slope and when pushed: the same bag settles both."""
    data = one_portrait()
    data["sets"][0]["lights"][0] |= {"bag": None, "leg": None}
    data["brief"]["animals"] = True
    found = [one for one in causes(parse(data)) if one.verdict is Verdict.SHORT]
    of_key = [one for one in found if any("/lights/" in line.about[0] for line in one.lines)]
    assert len(of_key) == 1 and of_key[0].edit is not None
    assert {line.code for line in of_key[0].lines} == {"support.push", "support.tipping"}


def test_unknown_lines_stand_under_the_figure_that_is_missing_and_accepted_ones_nowhere() -> None:
    data = one_portrait()
    data["gear"][0]["sensor_width"] = None
    missing = [one for one in causes(parse(data)) if one.verdict is Verdict.UNKNOWN]
    assert missing and all(one.edit is None for one in missing)
    assert len({one.enter or one.words for one in missing}) == len(missing)
    studio = demo()
    tight = [one for one in ledger_of(studio).lines if one.verdict is Verdict.TIGHT]
    accepted = studio.changed(accepted=tuple(Acceptance(id=one.token) for one in tight), sets=studio.sets[:1])
    assert not any(one.verdict is Verdict.TIGHT for one in causes(accepted, stop=lambda: True))


def test_what_no_change_settles_is_said_to_be_so() -> None:
    """Stopped before any remedy is tried, every Short line is under what no change is known for."""
    studio = parse(crooked())
    short = [one for one in causes(studio, stop=lambda: True) if one.verdict is Verdict.SHORT]
    assert short and all(one.words.startswith(NO_REMEDY) and one.edit is None for one in short)
