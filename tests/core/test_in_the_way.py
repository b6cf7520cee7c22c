"""`light.in_the_way`: who stands between a light or window and the subject."""

from typing import Any

import numpy as np
import pytest
from helpers.studios import one_portrait, parse
from helpers.windows import by_day, the_scene, window
from scipy.spatial import Delaunay

from evrant.core.base.margins import Margin, Verdict
from evrant.core.edits.language import EDIT
from evrant.core.judge.ledger import ledger_of
from evrant.core.judge.remedies import remedies_of
from evrant.core.place.moves import change
from evrant.core.studio.studio import Studio

Data = dict[str, Any]


def lines(data: Data | Studio) -> list[Margin]:
    studio = parse(data) if isinstance(data, dict) else data
    return [m for m in ledger_of(studio).lines if m.code == "light.in_the_way"]


def keyed(**place: float) -> Data:
    data = one_portrait()
    data["sets"][0]["lights"][0] |= place
    return data


def test_a_window_behind_the_photographer_is_hidden_by_as_much_as_rays_say() -> None:
    """Independent: points along lines from the face to places all over the glass, in the photographer's body or not."""
    data = by_day(window("east", 1.35, width=1.2))
    (found,) = lines(data)
    scene = the_scene(data)
    (body,) = (thing for thing in scene.things if thing.kind == "operator")
    assert scene.face is not None
    steps = (np.arange(25) + 0.5) / 25
    places = [np.array([5.0, 1.35 + 1.2 * y, 0.8 + 1.5 * z]) for y in steps for z in steps]
    along = np.linspace(0, 1, 500)[:, None]
    inside = Delaunay(body.cloud)
    share = float(
        np.mean([(inside.find_simplex(scene.face + (place - scene.face) * along) >= 0).any() for place in places])
    )
    assert found.need is not None and found.have is not None
    assert 0.2 < share < 0.9 and found.need / found.have == pytest.approx(share / 0.2, rel=0.08)
    assert (
        found.verdict is Verdict.SHORT and found.sentence == "The photographer stands in the light of the east window."
    )


@pytest.mark.parametrize(
    ("place", "verdict"),
    [
        ({}, None),
        ({"x": 4.7, "y": 1.9, "height": 1.6}, Verdict.SHORT),
        ({"x": 4.7, "y": 1.9, "height": 2.6}, None),
        ({"x": 4.7, "y": 3.4, "height": 1.6}, None),
    ],
)
def test_a_key_behind_the_photographer_is_raised_or_moved(place: Data, verdict: Verdict | None) -> None:
    """Once a key straight behind the photographer lost nothing."""
    found = lines(keyed(**place))
    assert [one.verdict for one in found] == ([] if verdict is None else [verdict])


def test_what_helps() -> None:
    studio = parse(keyed(x=4.4, y=1.9, height=1.75))
    (before,) = lines(studio)
    ways = {one.label: one for one in remedies_of(studio, before, ledger_of(studio))}
    away = change(studio, EDIT.validate_python(ways["Release it from beside the set"].edit))
    assert not lines(away)
    assert any(label.startswith("Move the key") and one.verdict is not Verdict.SHORT for label, one in ways.items())


def test_a_helper_before_the_key_counts_too_and_one_beside_does_not() -> None:
    data = one_portrait()
    data["sets"][0]["people"] = [{"id": "help", "name": "Assistant", "x": 2.35, "y": 2.4}]
    (found,) = lines(data)
    assert found.verdict is Verdict.SHORT and "assistant" in found.sentence
    data["sets"][0]["people"][0] |= {"x": 4.2, "y": 3.2}
    assert not lines(data)


def test_who_is_not_there_hides_nothing() -> None:
    data = by_day(window("east", 1.35, width=1.2))
    data["sets"][0]["camera"]["operator"] = "remote or timer"
    assert not lines(data)
    dark = by_day(window("east", 1.35, width=1.2), around="dark")
    assert not lines(dark)


def test_a_light_sent_back_over_the_photographer_is_not_judged_by_its_head() -> None:
    assert lines(keyed(x=4.3, y=1.9, height=1.7))
    bounced = keyed(x=4.3, y=1.9, height=1.7)
    bounced["sets"][0]["lights"][0] |= {"aim_x": 4.9, "aim_y": 0.3, "aim_height": 2.7}
    assert not lines(bounced)
