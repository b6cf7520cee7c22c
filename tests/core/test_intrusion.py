"""How far outside the picture a thing is: where its outline comes nearest to the frame, seen by sampling."""

from itertools import combinations

import numpy as np
import pytest

from evrant.core.judge.rules.set import intrusion
from evrant.core.judge.rules.set.intrusion import margins
from evrant.core.space.scene import Scene, scene_of
from evrant.core.space.things import Thing
from evrant.demo import demo_studio

DEMOS = ("adoption-corner", "hands-in-view", "stones-on-file")
PIECES = 400


def sampled(scene: Scene, thing: Thing, part: int, turn: int) -> tuple[float, float]:
    """Least distance to the frame of points along every line between two corners of a part [m on the sensor], and the
    distance along the lens axis of the point that shows it [m]."""
    view = scene.view
    assert view is not None
    seen = intrusion._seen(scene, view, intrusion._turned(scene, thing, thing.parts[part], turn))
    share = np.linspace(0, 1, PIECES)[:, None]
    points = np.vstack([a + (b - a) * share for a, b in combinations(seen, 2)])
    beyond = np.abs(view.picture(points)) - (view.across / 2, view.upward / 2)
    away = np.hypot(*np.maximum(beyond, 0.0).T)
    nearest = int(away.argmin())
    return float(away[nearest]), float(view.depth(points)[nearest])


@pytest.mark.parametrize("name", DEMOS)
def test_a_gap_is_carried_back_to_where_the_outline_is_nearest(name: str) -> None:
    """Between two feet it is neither the near one's distance nor the far one's."""
    studio, tried = demo_studio(name), 0
    for scene in filter(None, (scene_of(studio, plan) for plan in studio.sets)):
        for thing in scene.around if scene.view is not None else ():
            if thing.kind != "light" or (found := intrusion.nearest(scene, thing)) is None or found.gap <= 0.02:
                continue
            if len(thing.parts[found.part].solid) > 40:
                continue  # too many lines to sample
            away, far = sampled(scene, thing, found.part, found.turn)
            assert scene.view is not None
            assert found.gap == pytest.approx(away * far / scene.view.image, rel=0.02), thing.path
            tried += 1
    assert tried


def test_what_is_nearest_between_two_feet_is_no_more_unsure_than_where_they_are() -> None:
    """The fill of somebody kneeling: its two feet are 56 cm apart in depth and as near to the frame; which of them
    counted hung on rounding, and the gap was 28 or 53 cm, unsure by as much."""
    studio = demo_studio("adoption-corner")
    scene = scene_of(studio, next(plan for plan in studio.sets if plan.id == "kneeling-a"))
    assert scene is not None
    line = next(m for m in margins(scene) if m.about[0].endswith("lights/fill"))
    assert line.margin == pytest.approx(0.42, abs=0.01)
    assert line.uncertainty is not None and line.uncertainty < 0.05
