"""The bodies of those in the picture as the light meets them: prisms with their faces."""

from functools import lru_cache

from evrant.core.base.memo import Memo
from evrant.core.light.bounce.patches import Blockers, blockers_of
from evrant.core.light.bounce.surfaces import hull_faces
from evrant.core.space.figures import placed_coarse
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points
from evrant.core.studio.shots import Subject

Faces = tuple[tuple[Points, ...], ...]


ALL_BODIES = "subject "
"""How the names of all of them begin."""


def own_body(subject: str) -> str:
    """What the bodies of a subject are called among the surfaces."""
    return f"{ALL_BODIES}{subject}:"


def prisms(scene: Scene, who: Subject) -> Faces:
    """The faces of each prism of a subject, fronts outward; none without a place or a height."""
    if scene.mark is None or who.height is None:
        return ()
    return _faces(who, who.height.value, float(scene.mark[0]), float(scene.mark[1]), scene.facing)


@lru_cache(maxsize=256)
def _faces(who: Subject, height: float, x: float, y: float, facing: float) -> Faces:
    return tuple(tuple(hull_faces(solid)) for solid in placed_coarse(who, height, x, y, facing))


def shading(scene: Scene) -> Blockers:
    """All of them, as what hides things from the lens."""
    bodies = tuple(prisms(scene, who) for who in scene.shot.subjects)
    return _SHADING.get("", bodies, lambda: blockers_of((faces, True) for body in bodies for faces in body))


_SHADING: Memo[Blockers] = Memo(1_000_000, lambda found: 400 + found.corners.nbytes)
