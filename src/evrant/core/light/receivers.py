"""Where light is asked for in a set: the subject as meter, cheeks and a cube see it, down its front, the background."""

from dataclasses import dataclass

import numpy as np

from evrant.core.light.beams import Beam, key_side
from evrant.core.light.bodies import own_body
from evrant.core.light.face import nose_of, to_lens, turned
from evrant.core.light.ground import Ground, ground_of
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, Vector, unit
from evrant.core.space.stature import extent

SIDE = 45.0
"""The two normals contrast is told by: so far round from the nose line, to the key's side and away [degrees]."""


@dataclass(frozen=True, eq=False)
class Rows:
    """Receivers with names: each is a row, or several, of the reading."""

    points: Points
    ways: Points
    at: dict[str, slice]
    owners: tuple[str, ...]
    """By row: the subject whose own body neither shades it nor lights it; empty on the background."""
    ground: Ground | None
    """What is behind the subject, where the picture shows anything."""


def rows_of(scene: Scene, beams: tuple[Beam, ...]) -> Rows:
    """Where light is asked for in a set."""
    assert scene.face is not None
    points: list[Vector] = []
    ways: list[Vector] = []
    owners: list[str] = []
    at: dict[str, slice] = {}
    lead = own_body(scene.shot.lead.id) if scene.shot.subjects else ""

    def put(name: str, spots: list[Vector], normals: list[Vector], owner: str = lead) -> None:
        at[name] = slice(len(points), len(points) + len(spots))
        points.extend(spots)
        ways.extend(normals)
        owners.extend([owner] * len(spots))

    face, lens, nose = scene.face, to_lens(scene), nose_of(scene)
    none, up = np.zeros(3), np.array([0.0, 0.0, 1.0])

    def dome(name: str, spot: Vector, owner: str = lead) -> None:
        put(name, [spot] * 3, [none, lens, -lens], owner)

    dome("face", face)
    side = key_side(scene, beams)
    put("key side", [face], [turned(nose, SIDE * side)])
    put("shadow side", [face], [turned(nose, -SIDE * side)])
    left = turned(nose, 90)
    put("cube", [face] * 6, [nose, -nose, left, -left, up, -up])
    for beam in beams:
        if beam.light is not None and beam.light.at is not None:
            put(f"to {beam.path}", [face], [unit(beam.light.at - face)])
    for name, spot in body_points(scene):
        dome(name, spot, own_body(name.removeprefix("subject ")) if name.startswith("subject ") else lead)
    ground = ground_of(scene)
    if ground is not None:
        put("ground", [*ground.points], [ground.normal] * len(ground.points), "")
    return Rows(np.array(points), np.array(ways), at, tuple(owners), ground)


def body_points(scene: Scene) -> list[tuple[str, Vector]]:
    """Top to bottom of what is in the frame, and each further subject of a group."""
    found: list[tuple[str, Vector]] = []
    if scene.face is None or scene.wanted is None:
        return found
    low = max(scene.wanted.top - scene.wanted.height.value, 0.0)
    low = max(low, min((s.base.value if s.base else 0.0 for s in scene.shot.subjects), default=0.0)) + 0.02
    lead = scene.shot.lead
    if lead.height is not None and not scene.overhead:
        edge = (lead.base.value if lead.base else 0.0) + extent(lead, lead.height.value).top
        high = max(min(edge, scene.wanted.top) - 0.02, float(scene.face[2]))
        found.append(("top", np.array([scene.face[0], scene.face[1], high])))
    for i, share in enumerate((0.25, 0.5, 0.75, 1.0)):
        spot = np.array([scene.face[0], scene.face[1], scene.face[2] + (low - scene.face[2]) * share])
        found.append((f"down {i + 1}", spot))
    for one in scene.shot.subjects:
        face = scene.face_of(one)
        if face is not None and one is not lead:
            found.append((f"subject {one.id}", face))
    return found
