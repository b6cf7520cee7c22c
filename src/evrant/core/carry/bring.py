"""What a session needs from the cupboard: each thing with its place, in the order it comes out."""

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from evrant.core.stowage.packing import Packed, Put
from evrant.core.stowage.report import packed_studio
from evrant.core.studio.sets import SetPlan, used_by
from evrant.core.studio.studio import Studio, by_id

TOUCH = 1e-4


@dataclass(frozen=True)
class Bring:
    """A thing to bring: how many, from where; `first` names what lies on or before it and comes out first."""

    item: str
    name: str
    count: int
    place: str
    first: tuple[str, ...] = ()


def needed(plans: Iterable[SetPlan]) -> Counter[str]:
    """How many of each thing the sets use at once: the most any of them uses, those that stand together counted
    together."""
    groups: dict[str, Counter[str]] = {}
    for plan in plans:
        groups.setdefault(plan.together or f" {plan.id}", Counter()).update(used_by(plan))
    most: Counter[str] = Counter()
    for used in groups.values():
        most |= used
    return most


def bring(studio: Studio, plans: Sequence[SetPlan]) -> list[Bring]:
    """Everything the sets use, place by place, what lies in front and on top first; what has no place last."""
    packed = packed_studio(studio)
    wanted = needed(plans)
    names = {place.id: place.name for place in studio.room.places}
    found: list[Bring] = []
    taken: Counter[str] = Counter()
    for space in dict.fromkeys(put.space for put in packed.puts):
        for put in _out_of(packed, space):
            key = put.piece.item
            if taken[key] >= wanted[key]:
                continue
            taken[key] += 1
            last = found[-1] if found else None
            over = tuple(
                dict.fromkeys(one.piece.name for one in _over(put, packed.of(space)) if not wanted[one.piece.item])
            )
            if last is not None and last.item == key and last.place == names.get(space, space) and last.first == over:
                found[-1] = Bring(key, last.name, last.count + 1, last.place, over)
            else:
                item = by_id(studio.gear, key)
                found.append(Bring(key, item.name if item else put.piece.name, 1, names.get(space, space), over))
    for key, count in wanted.items():
        item = by_id(studio.gear, key)
        if item is not None and count > taken[key]:
            stays = item.stowed == "stays in the room"
            found.append(Bring(key, item.name, count - taken[key], "the room, where it stays" if stays else ""))
    return found


def _out_of(packed: Packed, space: str) -> list[Put]:
    """What is in a place in the order it comes out: nothing before what lies on it, the front before the back."""
    left, out = list(packed.of(space)), []
    while left:
        free = [put for put in left if not any(_rests(one, put) for one in left if one is not put)]
        put = max(free or left, key=lambda one: (one.at[1] + one.size[1], one.at[2]))
        out.append(put)
        left.remove(put)
    return out


def _over(put: Put, puts: Iterable[Put]) -> list[Put]:
    return [one for one in puts if one is not put and _rests(one, put)]


def _rests(upper: Put, lower: Put) -> bool:
    """Whether one thing lies on another."""
    if upper.at[2] + TOUCH < lower.at[2] + lower.size[2]:
        return False
    return all(
        upper.at[k] < lower.at[k] + lower.size[k] - TOUCH and lower.at[k] < upper.at[k] + upper.size[k] - TOUCH
        for k in (0, 1)
    )
