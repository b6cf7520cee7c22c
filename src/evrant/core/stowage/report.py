"""Where everything goes, as data: places with positions, what finds none, what stays, what would free room."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from evrant.core.space.scene import scene_of
from evrant.core.stowage.packing import Packed, pack
from evrant.core.stowage.pieces import kept, pieces_of, spaces_of, unmeasured
from evrant.core.stowage.striking import BEGINNER, minutes, setting_up, striking
from evrant.core.studio.gear import Item
from evrant.core.studio.studio import Studio

Data = dict[str, Any]


def packed_studio(studio: Studio) -> Packed:
    """Everything struck, into the places described, with what the sets use most to hand."""
    return pack(pieces_of(studio.gear, studio.sets), spaces_of(studio.room.places))


def stow_data(studio: Studio) -> Data:
    """The packing of a studio with every position in metres, and the time to set up and strike each set."""
    packed = packed_studio(studio)
    spaces = spaces_of(studio.room.places)
    places = []
    for space in spaces:
        puts = packed.of(space.id)
        mass = sum(put.piece.mass for put in puts)
        volume = sum(put.piece.volume for put in puts)
        places.append(
            {
                "id": space.id,
                "name": space.name,
                "kind": space.kind,
                "inside": [space.width, space.depth, space.height],
                "load": None if space.load >= 1e6 else space.load,
                "mass": round(mass, 3),
                "filled": round(volume / space.volume, 4),
                "things": [
                    {
                        "item": put.piece.item,
                        "number": put.piece.number,
                        "name": put.piece.name,
                        "at": [round(v, 4) for v in put.at],
                        "size": [round(v, 4) for v in put.size],
                        "mass": put.piece.mass,
                        "fragile": put.piece.fragile,
                        "used": put.piece.used,
                    }
                    for put in puts
                ],
            }
        )
    return {
        "places": places,
        "left": [{"item": one.piece.item, "name": one.piece.name, "why": one.why} for one in packed.left],
        "stays": [item.name for item in kept(studio.gear) if item.stowed == "stays in the room"],
        "unmeasured": [item.name for item in unmeasured(studio)],
        "sets": [_set(studio, plan.id) for plan in studio.sets],
    }


def _set(studio: Studio, key: str) -> Data:
    plan = next(plan for plan in studio.sets if plan.id == key)
    scene = scene_of(studio, plan)
    up = setting_up(scene) if scene else []
    down = striking(scene) if scene else []
    return {
        "id": key,
        "name": plan.name,
        "set_up": [{"words": task.words, "minutes": task.minutes} for task in up],
        "strike": [{"words": task.words, "minutes": round(task.minutes, 1)} for task in down],
        "set_up_minutes": minutes(up),
        "strike_minutes": round(minutes(down), 1),
        "beginner_minutes": round(BEGINNER * (minutes(up) + minutes(down)), 1),
    }


@dataclass(frozen=True)
class Smaller:
    """A library item that does what a kept one does and packs smaller: litres and length it frees."""

    item: Item
    instead: Item
    litres: float
    length: float
    left: int


def smaller(studio: Studio, library: Sequence[Item], most: int = 6) -> list[Smaller]:
    """What a smaller or folding alternative would free, and how many things would then find no place."""
    now = len(packed_studio(studio).left)
    found = []
    for item in kept(studio.gear):
        for other in library:
            if other.kind != item.kind or not _does(other, item):
                continue
            freed = _litres(item) - _litres(other)
            short = (item.packed_length.value if item.packed_length else 0.0) - (
                other.packed_length.value if other.packed_length else 0.0
            )
            if freed > 0.5 or short > 0.1:
                found.append((freed + 20 * max(short, 0.0), item, other, freed, short))
    found.sort(key=lambda row: -row[0])
    best: dict[str, Smaller] = {}
    for _, item, other, freed, short in found:
        if item.id in best or len(best) >= most:
            continue
        swapped = other.changed(id=item.id, status=item.status, quantity=item.quantity)
        gear = tuple(swapped if one.id == item.id else one for one in studio.gear)
        left = len(packed_studio(studio.changed(gear=gear)).left)
        if left <= now:
            best[item.id] = Smaller(item, other, freed, short, left)
    return list(best.values())


def _litres(item: Item) -> float:
    sides = (item.packed_length, item.packed_width, item.packed_height)
    if not all(sides):
        return 0.0
    return 1000 * item.quantity * sides[0].value * sides[1].value * sides[2].value  # type: ignore[union-attr]


SAME = ("use", "form", "system", "surface", "mount", "material", "top", "foot")
"""Words in which an alternative must agree."""
AT_LEAST = ("load", "max_height", "width", "height", "length", "energy", "lumens", "max_width")
"""Figures in which it must be no less, within a tenth."""


def _does(other: Item, item: Item) -> bool:
    """Whether another thing does a thing's work: same kind of thing, and figures within a tenth."""
    for name in SAME:
        if getattr(other, name, None) != getattr(item, name, None):
            return False
    for name in AT_LEAST:
        mine, theirs = getattr(item, name, None), getattr(other, name, None)
        if mine is not None and (theirs is None or theirs.value < 0.9 * mine.value):
            return False
    return True
