"""The frame at other crops: as the shot that asks for that crop would be framed."""

import numpy as np
import pytest
from helpers.studios import one_portrait, parse

from evrant.core.picture.crops import Cut, cuts
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.wanted import wanted


def scene(**shot: object) -> Scene:
    data = one_portrait()
    data["shots"][0] |= {"crop": "full length", **shot}
    data["sets"][0]["camera"]["x"] = 4.9
    studio = parse(data)
    found = scene_of(studio, studio.sets[0])
    assert found is not None
    return found


def named(found: list[Cut]) -> dict[str, Cut]:
    return {one.words: one for one in found}


def test_a_crop_holds_what_the_shot_of_that_crop_asks_for() -> None:
    """Its upper and lower edge, put back into the room at the subject, are the asked frame's height apart."""
    here = scene()
    view = here.view
    assert view is not None and here.aim is not None
    found = named(cuts(here))
    for crop in ("head and shoulders", "half length", "three-quarter"):
        cut = found[crop]
        asked = wanted(here.shot.changed(crop=crop))
        assert asked is not None
        ends = np.array([[*here.aim[:2], asked.middle + s * asked.height.value / 2] for s in (1, -1)])
        shown = (1 - view.project(ends)[:, 1]) / 2
        # The camera is level with the middle of the whole figure, so heights are to scale across the picture.
        assert (cut.top, cut.low) == pytest.approx(tuple(shown), abs=0.01)
        assert cut.right - cut.left == pytest.approx(cut.low - cut.top), "of the picture's own shape"
    assert found["head and shoulders"].kept < found["half length"].kept < found["three-quarter"].kept < 1
    assert found["head and shoulders"].fits


def test_a_wider_crop_than_the_picture_does_not_fit() -> None:
    tight = named(cuts(scene(crop="head and shoulders", frame_height=0.6)))
    assert not tight["full length"].fits and tight["full length"].low > 1 and tight["head and shoulders"].fits


@pytest.mark.parametrize(("words", "ratio"), [("1 : 1", 1.0), ("4 : 5", 0.8), ("16 : 9", 16 / 9)])
def test_formats_are_cut_from_the_middle(words: str, ratio: float) -> None:
    for held in ("portrait", "landscape"):
        here = scene(orientation=held)
        assert here.view is not None
        cut = named(cuts(here))[words]
        shape = here.view.across / here.view.upward
        assert (cut.right - cut.left) * shape / (cut.low - cut.top) == pytest.approx(ratio)
        assert cut.left == pytest.approx(1 - cut.right) and cut.fits
        assert max(cut.right - cut.left, cut.low - cut.top) == pytest.approx(1)


def test_from_above_and_without_a_camera_only_formats_or_nothing() -> None:
    data = one_portrait()
    data["sets"][0]["camera"].pop("lens", None)
    studio = parse(data)
    bare = scene_of(studio, studio.sets[0])
    assert bare is not None and cuts(bare) == []
