"""Things rebuilt with one figure moved: how sizes shape an outline and so add to a margin's ±."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Share
from evrant.core.base.memo import Memo, is_plain
from evrant.core.base.quantity import Figure
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.space.things import Thing, ThingKind
from evrant.core.studio.gear import Item
from evrant.core.studio.studio import by_id

SIZES: dict[str, tuple[str, ...]] = {
    "flash": ("diameter", "length"),
    "lamp": ("diameter", "length", "width", "height"),
    "modifier": ("width", "height", "depth"),
    "stand": ("foot_radius",),
    "backdrop": ("width", "roll_diameter"),
    "holder": ("foot_radius", "overhang"),
    "table": ("length", "width", "height"),
    "board": ("width", "height"),
    "tent": ("width", "depth", "height", "opening", "opening_at"),
}
"""Figures of an item that shape its outline, by kind."""


_TWINS: Memo[tuple[tuple[str, Thing], ...]] = Memo(
    64_000_000, lambda found: 600 + sum(60 * len(twin.cloud) for _, twin in found)
)


def size_shares(scene: Scene, things: list[Thing], way: Vector) -> tuple[Share, ...]:
    """Shares of the things' own sizes: each is rebuilt with one figure moved by its ±."""
    flat = np.array([way[0], way[1], 0.0])
    shares: dict[str, float] = {}
    reaches = [float((thing.cloud @ flat).min()) for thing in things]
    nearest = int(np.argmin(reaches))
    for label, twin in twins(scene, things[nearest]):
        moved = float((twin.cloud @ flat).min())
        shares[label] = abs(moved - reaches[nearest])
    return tuple(Share(label, amount) for label, amount in shares.items() if amount > 1e-9)


def twins(scene: Scene, thing: Thing) -> tuple[tuple[str, Thing], ...]:
    """`_resized`, built once for a thing: what shapes it shapes its twins alike."""
    if is_plain():
        return ()
    return _TWINS.get("twins", (thing,), lambda: tuple(_resized(scene, thing)))


def _resized(scene: Scene, thing: Thing) -> Iterable[tuple[str, Thing]]:
    """(label, the thing with one of its figures moved by its ±) for every figure that shapes it."""
    for item in _items(scene, thing):
        for field in SIZES.get(item.kind, ()):
            figure = getattr(item, field, None)
            if isinstance(figure, Figure) and figure.pm > 0:
                moved = item.changed(**{field: figure.moved()})
                twin = scene.with_gear({**scene.gear, item.id: moved}).rebuilt(thing)
                if twin is not None:
                    yield f"{field.replace('_', ' ')} of the {item.called}", twin
    if scene.owns(thing) and thing.kind in ("subject", "light", "camera", "operator"):
        for label, scene_twin in scene.picture_twins:
            twin = scene_twin.rebuilt(thing) if _moves(scene, scene_twin, thing.kind) else None
            if twin is not None:
                yield label, twin


def _moves(scene: Scene, twin: Scene, kind: ThingKind) -> bool:
    """Whether a twin can have this kind of thing elsewhere or in another shape."""
    if kind == "subject":
        return twin.shot is not scene.shot
    if kind == "light":
        return twin.wanted is None or scene.wanted is None or _aims(twin) != _aims(scene)
    return twin.lens_height != scene.lens_height


def _aims(scene: Scene) -> tuple[float, ...]:
    """What lights are aimed at: the face or faces, and the middle of the frame on the background."""
    assert scene.wanted is not None
    face = () if scene.lit_spot is None else tuple(float(part) for part in scene.lit_spot)
    return (*face, scene.wanted.middle)


def _items(scene: Scene, thing: Thing) -> list[Item]:
    owner = scene if scene.owns(thing) else next((one for one in scene.beside if one.owns(thing)), scene)
    plan = owner.plan
    key = thing.path.split("/")[-1]
    match thing.kind:
        case "light":
            place = by_id(plan.lights, key)
            names = [place.head, place.modifier, place.support, place.stands_on] if place else []
        case "holder" | "backdrop":
            names = [plan.background.backdrop, plan.background.holder]
        case "camera":
            names = [plan.camera.support]
        case "prop":
            prop = by_id(plan.props, key)
            names = [prop.item, prop.support] if prop else []
        case _:
            names = []
    return [scene.gear[name] for name in names if name and name in scene.gear]
