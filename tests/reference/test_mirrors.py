"""Light by way of mirrors and foils: against the image of the lamp behind the mirror (law of reflection, any book on
geometrical optics), and against what the foil takes in; whole rooms against the reference engine stand in
`test_bounce.py`. Bodies in the solve: what they change, and what they must not."""

from dataclasses import replace

import numpy as np
import pytest
from helpers.rooms import BOX, CUBE, MARK, lamp, sheet, shell
from helpers.studios import demo

from evrant.core.light import account
from evrant.core.light.bounce.enclosure import direct, enclosure_of, settled
from evrant.core.light.bounce.patches import blockers_of
from evrant.core.light.bounce.sources import Source, round_face
from evrant.core.light.bounce.surfaces import Surface, grey
from evrant.core.light.lit import Lit, lit
from evrant.core.light.spread import beam, both_ways
from evrant.core.space.scene import scene_of

LAMP = lamp(np.array([2.3, 0.6, 1.5]), np.array([1.8, 2.6, 1.3]), 0.1, 0.1, body=False)


def card(x0: float, x1: float, *, rough: float = 0.0, share: float = 0.9) -> Surface:
    corners = [[x0, 2.6, 0.3], [x1, 2.6, 0.3], [x1, 2.6, 2.2], [x0, 2.6, 2.2]]
    return replace(sheet("mirror", corners, grey(share), grey(share)), gloss=1.0, rough=rough)


@pytest.mark.parametrize("table", [None, beam(60)])
def test_a_wide_mirror_gives_what_the_lamp_behind_it_would(table: np.ndarray | None) -> None:
    source = replace(LAMP, table=table)
    surfaces = [*shell(BOX, grey(0.0), grey(0.0), [grey(0.0)]), card(0.1, 3.3)]
    state = settled(enclosure_of(surfaces, 200), [source])
    flip, shift = np.array([1.0, -1.0, 1.0]), np.array([0.0, 5.2, 0.0])
    image = replace(
        source,
        face=(source.face * flip + shift)[::-1],
        forward=source.forward * flip,
        right=source.right * flip,
    )
    points, ways = np.repeat(MARK[None], 7, axis=0), np.vstack([CUBE, np.zeros(3)])
    wanted = 0.9 * direct(image, points, ways, blockers_of([]))
    assert state.thrown([source], points, ways)[:, 0] == pytest.approx(wanted, rel=0.01, abs=3e-4)
    assert wanted.max() > 0.02


def test_a_mirror_throws_light_only_through_its_own_outline() -> None:
    """From the mark, the lamp's image (2.3, 4.6, 1.5) is seen through the mirror's plane at x = 1.76."""
    for x0, x1, seen in ((1.6, 1.9, True), (2.0, 3.0, False), (0.3, 1.6, False)):
        surfaces = [*shell(BOX, grey(0.0), grey(0.0), [grey(0.0)]), card(x0, x1)]
        state = settled(enclosure_of(surfaces, 200), [LAMP])
        got = state.thrown([LAMP], MARK[None], np.array([[0.0, 1.0, 0.0]]))[0, 0]
        assert (got > 1e-3) == seen


@pytest.mark.parametrize("rough", [0.0, 60.0])
def test_what_a_mirror_takes_in_it_gives_on(rough: float) -> None:
    """In a black room all that leaves the mirror lands on the walls: the share of it that is not absorbed."""
    surfaces = [*shell(BOX, grey(0.0), grey(0.0), [grey(0.0)]), card(0.9, 2.4, rough=rough)]
    state = settled(enclosure_of(surfaces, 900), [LAMP])
    dark = settled(enclosure_of([*surfaces[:-1], replace(surfaces[-1], gloss=0.0)], 900), [LAMP])
    own = state.patches.surface == len(surfaces) - 1
    falls = float((dark.first_light([LAMP])[:, 0] * dark.patches.areas)[own].sum())
    spots, owner = state.patches.spots
    thrown = state.thrown([LAMP], spots, state.patches.normals[owner])[:, 0]
    mean = np.bincount(owner, thrown) / state.patches.counts
    assert float((mean * state.patches.areas)[~own].sum()) == pytest.approx(0.9 * falls, rel=0.05)


def test_a_foil_grows_into_a_mirror_as_it_is_smoothed() -> None:
    way = np.array([[0.0, 1.0, 0.0]])
    found = []
    for rough in (0.0, 4000.0, 400.0, 20.0):
        surfaces = [*shell(BOX, grey(0.0), grey(0.0), [grey(0.0)]), card(0.6, 3.0, rough=rough)]
        state = settled(enclosure_of(surfaces, 200), [LAMP])
        steps = np.linspace(-0.3, 0.3, 7)
        spread = np.array([MARK + (dx, 0.0, dz) for dx in steps for dz in steps])
        found.append(state.thrown([LAMP], spread, np.repeat(way, len(spread), axis=0))[:, 0].mean())
    assert found[1] == pytest.approx(found[0], rel=0.25) and found[2] == pytest.approx(found[0], rel=0.15)
    assert found[3] < found[2]


def test_a_closed_tent_that_takes_nothing_is_as_bright_inside_as_outside() -> None:
    """What passes in passes out: the mean illuminance of the two sides is the same, whatever the room."""
    low, high = np.array([1.2, 1.2, 0.5]), np.array([1.7, 1.7, 1.0])
    faces = []
    for axis in range(3):
        for value in (low[axis], high[axis]):
            a, b = (k for k in range(3) if k != axis)
            ring = np.empty((4, 3))
            ring[:, axis] = value
            ring[:, a] = [low[a], high[a], high[a], low[a]]
            ring[:, b] = [low[b], low[b], high[b], high[b]]
            faces.append(ring)
    cloth = [Surface("cloth", "", (ring,), grey(0.0), grey(0.0), grey(1.0), str(i)) for i, ring in enumerate(faces)]
    source = lamp(np.array([2.9, 0.5, 2.0]), np.array([1.45, 1.45, 0.75]), 0.1, 0.1)
    bare = shell(BOX, grey(0.3), grey(0.8), [grey(0.6)])
    state = settled(enclosure_of([*bare, *cloth], 600), [source])
    arriving = state.incident(state.first_light([source]), [source])[:, 0]
    patches, middle = state.patches, (low + high) / 2
    of_tent = (patches.surface >= len(bare)) & (patches.surface < len(bare) + len(cloth))
    inward = ((middle - patches.middles) * patches.normals).sum(axis=1) > 0
    inside, outside = (
        float((arriving * patches.areas)[of_tent & side].sum() / patches.areas[of_tent & side].sum())
        for side in (inward, ~inward)
    )
    assert inside == pytest.approx(outside, rel=1e-3)
    # And nothing is lost in it: the room absorbs all of the lamp.
    kept = 1 - patches.reflectance[:, 0] - np.where(patches.twin >= 0, patches.through[:, 0], 0.0)
    assert float((kept * arriving * patches.areas).sum()) == pytest.approx(1000, rel=0.005)


# --- bodies ------------------------------------------------------------------------------------------


@pytest.mark.parametrize("number", range(4))
def test_a_body_leaves_the_direct_light_on_itself_and_darkens_what_is_behind_it(number: int) -> None:
    studio = demo()
    here = scene_of(studio, studio.sets[number])
    assert here is not None
    with_body, without = lit(here), lit(here, bodies=False)
    assert isinstance(with_body, Lit) and isinstance(without, Lit)
    rows = [k for k, owner in enumerate(with_body.rows.owners) if owner == with_body.lead]
    if len(here.shot.subjects) == 1:
        assert with_body.direct[rows] == pytest.approx(without.direct[rows], rel=1e-9)
    changed = account.own_shade(with_body)
    assert all(-1.5 < stops < 0.1 for stops in changed.values())
    assert not changed or min(changed.values()) < -0.005


def test_a_white_coat_returns_more_than_a_black_one() -> None:
    studio = demo()
    plan = studio.sets[1]
    shot = next(s for s in studio.shots if s.id == plan.shot)
    found = []
    for share in (4.0, 85.0):
        data = [s.model_dump(mode="json") | {"reflectance": share} for s in shot.subjects]
        dressed = shot.changed(subjects=tuple(type(shot.subjects[0]).model_validate(one) for one in data))
        here = scene_of(studio.changed(shots=tuple(dressed if s.id == shot.id else s for s in studio.shots)), plan)
        assert here is not None
        state = lit(here)
        assert isinstance(state, Lit)
        found.append(float(state.whole[state.rows.at["ground"]].sum()))
    assert found[0] < found[1]


# --- rings -------------------------------------------------------------------------------------------


@pytest.mark.parametrize("hole", [0.35, 0.7])
@pytest.mark.parametrize("far", [0.3, 0.6, 1.5])
def test_a_ring_is_a_disc_less_its_hole(hole: float, far: float) -> None:
    """On the axis a disc of luminance L gives π L R² / (R² + d²) (Howell B-12); a ring the difference of two."""
    face = round_face(np.zeros(3), np.array([0.0, 0.0, 1.0]), 0.225, 24)
    table = both_ways(1.0, 0.0)
    source = Source("ring", face, np.array([0.0, 0.0, 1.0]), np.array([1.0, 0.0, 0.0]), grey(1.0), table, (), hole)
    got = direct(source, np.array([[0.0, 0.0, far]]), np.array([[0.0, 0.0, -1.0]]), blockers_of([]))[0]
    outer, inner = 0.225, 0.225 * hole
    bright = 1 / (np.pi * np.pi * (outer**2 - inner**2))
    wanted = np.pi * bright * (outer**2 / (outer**2 + far**2) - inner**2 / (inner**2 + far**2))
    assert got == pytest.approx(wanted, rel=0.02)
    assert (np.linalg.norm(source.fine, axis=1) > inner * 0.98).all()
