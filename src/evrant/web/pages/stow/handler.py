"""Where everything goes when the room is struck."""

from dataclasses import dataclass
from typing import Any

from evrant.catalogue import load
from evrant.core.base.memo import Memo
from evrant.core.space.scene import scene_of
from evrant.core.stowage.packing import Left, Packed
from evrant.core.stowage.pieces import kept, spaces_of, unmeasured
from evrant.core.stowage.report import packed_studio, smaller
from evrant.core.stowage.striking import BEGINNER, Task, minutes, setting_up, striking
from evrant.core.studio.gear import Item
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say
from evrant.drawing.places import place_drawing
from evrant.web.context import Page
from evrant.web.registry import Context, PageSpec, Row

_PACKED: Memo[Packed] = Memo(8_000_000, lambda packed: 600 * (1 + len(packed.puts) + len(packed.left)))


@dataclass(frozen=True)
class Places(Context):
    """What its template shows."""

    places: list[Row]
    left: tuple[Left, ...]
    stays: list[Item]
    unmeasured: list[Item]
    described: bool
    smaller: list[Row]
    sets: list[Row]


def stow_page(page: Page) -> Places:
    """Each place drawn with what goes where; what finds none; what stays; times; what would free room."""
    studio, say = page.studio, page.say
    parts = (studio.gear, studio.room.places, studio.sets)
    packed = _PACKED.get("stow", parts, lambda: packed_studio(studio))
    places = []
    for space in spaces_of(studio.room.places):
        puts = sorted(packed.of(space.id), key=lambda put: (put.at[2], put.at[1], put.at[0]))
        numbers = {put.piece.key: number for number, put in enumerate(puts, start=1)}
        mass = sum(put.piece.mass for put in puts)
        limit = "" if space.load >= 1e6 else f" of {say.mass(space.load)}"
        places.append(
            {
                "space": space,
                "drawing": place_drawing(space, puts, numbers, say),
                "things": [
                    (numbers[p.piece.key], p.piece.name, say.mass(p.piece.mass), _where(p.at, p.size, space.depth, say))
                    for p in puts
                ],
                "filled": f"{sum(p.piece.volume for p in puts) / space.volume * 100:.0f} %",
                "mass": f"{say.mass(mass)}{limit}",
            }
        )
    return Places(
        places=places,
        left=packed.left,
        stays=[item for item in kept(studio.gear) if item.stowed == "stays in the room"],
        unmeasured=unmeasured(studio),
        described=bool(studio.room.places),
        smaller=[
            {
                "one": one,
                "litres": say.litres(max(one.litres, 0.0)),
                "length": say.length(one.length) if one.length > 0.01 else "",
            }
            for one in smaller(studio, load().all())
        ],
        sets=[_times(studio, plan.id) for plan in studio.sets],
    )


def _where(at: tuple[float, float, float], size: tuple[float, float, float], deep: float, say: Say) -> str:
    """Where a thing lies, in words."""
    high = "on the floor" if at[2] < 0.01 else f"{say.length(at[2])} up"
    front = at[1] + size[1]
    return f"{high}, {'front' if front > 0.66 * deep else 'back' if front < 0.45 * deep else 'middle'}"


def _times(studio: Studio, key: str) -> dict[str, Any]:
    plan = by_id(studio.sets, key)
    scene = scene_of(studio, plan) if plan else None
    up: list[Task] = setting_up(scene) if scene else []
    down: list[Task] = striking(scene) if scene else []
    return {
        "name": plan.name if plan else key,
        "up": up,
        "down": down,
        "up_minutes": f"{minutes(up):.0f}",
        "down_minutes": f"{minutes(down):.0f}",
        "beginner": f"{BEGINNER * (minutes(up) + minutes(down)):.0f}",
    }


SPEC = PageSpec("stow", stow_page, word="Stow", order=7, ledger=("stow",))
