"""Light on what stands while lights move: what is kept is what a fresh look finds."""

import numpy as np
import pytest
from numpy.typing import NDArray

from evrant.core.light.bounce import again as again_module
from evrant.core.light.bounce import enclosure as enclosures
from evrant.core.light.bounce import kernels
from evrant.core.light.bounce.enclosure import Settled, enclosure_of, settled
from evrant.core.light.bounce.sources import Source, round_face
from evrant.core.light.bounce.surfaces import Surface
from evrant.core.light.spread import everywhere
from evrant.core.space.solids import frame_axes, unit

SIZE = np.array([4.0, 3.0, 2.5])
GREY = np.full(3, 0.5)
STAGES = 14


def wall(*corners: tuple[float, float, float], body: str = "") -> Surface:
    return Surface(body or "wall", body or "wall", (np.array(corners),), GREY, body=body)


def box(low: NDArray[np.float64], high: NDArray[np.float64], *, inward: bool, body: str = "") -> list[Surface]:
    """Six faces, looking in or out."""
    found = []
    for axis in range(3):
        one, other = (axis + 1) % 3, (axis + 2) % 3
        for side, level in ((1, high), (-1, low)):
            corners = np.empty((4, 3))
            for k, (a, b) in enumerate(((low, low), (high, low), (high, high), (low, high))):
                corners[k, axis], corners[k, one], corners[k, other] = level[axis], a[one], b[other]
            if (side > 0) == inward:
                corners = corners[::-1]
            found.append(wall(*map(tuple, corners), body=body))
    return found


ROOM = box(np.zeros(3), SIZE, inward=True)
POST = box(np.array([1.9, 1.2, 0.0]), np.array([2.2, 1.5, 1.7]), inward=False, body="post")


def slab(name: str, front: NDArray[np.float64], back: NDArray[np.float64]) -> Surface:
    """A thin solid between two faces of as many corners, both as seen from before the front."""
    count = len(front)
    sides = [np.array([front[k], back[k], back[(k + 1) % count], front[(k + 1) % count]]) for k in range(count)]
    return Surface(name, name, (front, back[::-1], *sides), GREY, body=name)


def light(dice: np.random.Generator, name: str, cosine: bool) -> Source:
    """A lamp somewhere, aimed somewhere, with a body behind its face."""
    centre = dice.uniform(0.35, 1.0, 3) * (SIZE - 0.7)
    forward = unit(dice.uniform(0.5, 1.5, 3) * SIZE / 2 - centre)
    right, up = frame_axes(forward)
    ring = np.array([up + right, up - right, -up - right, right - up]) * 0.25
    if np.cross(ring[1] - ring[0], ring[2] - ring[1]) @ forward < 0:
        ring = ring[::-1]
    body = slab(name, centre - 0.01 * forward + ring, centre - 0.2 * forward + ring)
    face = round_face(centre, forward, 0.3, 8)
    return Source(name, face, forward, right, np.full(3, 1000.0), None if cosine else everywhere(0.2), (body,))


@pytest.mark.parametrize("seed", range(5))
def test_after_any_moves_it_is_as_if_nothing_were_kept(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """Lights move one by one, or not at all, or come back; an enclosure that remembers and one that is new agree."""
    dice = np.random.default_rng(seed)
    kept = enclosure_of([*ROOM, *POST], 90)
    lights = [light(dice, f"light {n}", n != 1) for n in range(3)]
    before = list(lights)
    looked = []
    real = enclosures.direct

    def counted(source: Source, points: NDArray[np.float64], *rest: object, **more: object) -> NDArray[np.float64]:
        looked.append(len(points))
        return real(source, points, *rest, **more)  # type: ignore[arg-type]

    asked = []
    for stage in range(STAGES):
        if stage % 5 == 4:
            lights = list(before)
        elif stage % 5:
            number = int(dice.integers(3))
            lights[number] = light(dice, f"light {number}", number != 1)
        fresh = settled(enclosure_of([*ROOM, *POST], 90), lights).first_light(lights)
        monkeypatch.setattr(enclosures, "direct", counted)
        looked.clear()
        found = settled(kept, lights).first_light(lights)
        asked.append(sum(looked))
        monkeypatch.undo()
        assert np.abs(found - fresh).max() <= 1e-12 * np.abs(fresh).max()
    assert sum(asked[1:]) < 0.75 * asked[0] * (STAGES - 1), "most of what stays is not looked at again"
    assert len(kept.again.kept) <= again_module.MOST


def test_what_shines_alike_from_elsewhere_is_another() -> None:
    dice = np.random.default_rng(3)
    one = light(dice, "a", True)
    same = Source("b", one.face.copy(), one.forward.copy(), one.right.copy(), one.flux * 7)
    assert one.shape == same.shape, "however strong, and whatever its body"
    others = [
        Source("c", one.face + 1e-9, one.forward, one.right, one.flux),
        Source("d", one.face, one.forward, one.right, one.flux, everywhere(0.2)),
        Source("e", one.face, one.forward, one.right, one.flux, hole=0.3),
        Source("f", one.face[::-1], one.forward, one.right, one.flux),
    ]
    assert len({one.shape, *(other.shape for other in others)}) == 5
    assert one.stands != light(dice, "a", True).stands


def test_a_moved_body_shades_what_stood_in_the_light() -> None:
    """By hand: a sheet put between lamp and floor takes the lamp's light there; taken away, it is back."""
    lamp_spot, down = np.array([2.0, 1.5, 2.3]), np.array([0.0, 0.0, -1.0])
    lamp = Source("lamp", round_face(lamp_spot, down, 0.1, 8), down, np.array([1.0, 0.0, 0.0]), np.full(3, 1000.0))

    def sheet(height: float) -> Source:
        ring = np.array([[0.6, 0.5, 0], [-0.6, 0.5, 0], [-0.6, -0.5, 0], [0.6, -0.5, 0]]) + [2.0, 1.5, height]
        body = slab("sheet", ring, ring - [0, 0, 0.01])
        aside = np.array([0.5, 0.5, 2.0])
        return Source("dark", round_face(aside, down, 0.05, 8), down, np.array([1.0, 0, 0]), np.zeros(3), None, (body,))

    room = enclosure_of(ROOM, 200)

    def below(at: Settled, sources: list[Source]) -> float:
        middle = np.linalg.norm(at.patches.middles - [2.0, 1.5, 0.0], axis=1)[: len(room.patches.counts)].argmin()
        return float(at.first_light(sources)[middle, 0])

    away, there = [lamp, sheet(2.45)], [lamp, sheet(1.0)]
    open_ = below(settled(room, away), away)
    assert open_ > 0.01 and below(settled(room, there), there) == 0.0
    assert below(settled(room, away), away) == open_


@pytest.mark.parametrize("owner", ["", "post"])
def test_receivers_are_remembered_as_they_are_found_anew(owner: str, monkeypatch: pytest.MonkeyPatch) -> None:
    """What patches send to receivers, flat and round, while lights' bodies come between and go."""
    dice = np.random.default_rng(11)
    kept = enclosure_of([*ROOM, *POST], 90)
    points = dice.uniform(0.2, 0.8, (7, 3)) * SIZE
    ways = np.array([*(unit(dice.normal(size=3)) for _ in range(5)), np.zeros(3), np.zeros(3)])
    asked = []
    real = kernels.receive

    def counted(points: NDArray[np.float64], *rest: NDArray[np.float64]) -> None:
        asked.append(len(points))
        real(points, *rest)

    shaded = 0
    for _ in range(6):
        lights = [light(dice, f"light {n}", n != 1) for n in range(3)]
        at_rest = settled(enclosure_of([*ROOM, *POST], 90), lights)
        plain = np.zeros((len(points), at_rest.patches.count))
        real(points, ways, *at_rest.patches.arrays, *at_rest.in_the_way(owner).arrays, plain)
        plain[:, at_rest.own(owner)] = 0.0
        monkeypatch.setattr(kernels, "receive", counted)
        found = settled(kept, lights).reading(points, ways, [owner] * len(points)).factors
        monkeypatch.undo()
        assert np.abs(found - plain).max() <= 1e-12
        stays = kept.patches.count
        shaded += int((np.abs(found[:, :stays] - kept.received(points, ways, owner)) > 1e-6).sum())
    assert asked == [7], "of what stands they are looked at once"
    assert shaded > 50, "the lights' bodies do come between"


def test_no_more_receivers_are_remembered_than_said() -> None:
    kept = enclosure_of([*ROOM, *POST], 90)
    many = np.random.default_rng(2).uniform(0.2, 0.8, (enclosures.MOST_ROWS + 1, 3)) * SIZE
    settled(kept, []).received(many, np.zeros_like(many), "")
    assert not kept.rows, "a picture's are not remembered"
    for first in range(0, len(many), 20):
        few = many[first : first + 20]
        once = kept.received(few, np.zeros_like(few), "")
        assert np.array_equal(once, kept.received(few, np.zeros_like(few), ""))
    assert len(kept.rows) == enclosures.MOST_ROWS
