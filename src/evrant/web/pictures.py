"""Computed pictures for the pages: kept while nothing changes, two at once, given up when nobody waits."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from threading import BoundedSemaphore, Lock

from anyio import from_thread
from fastapi import Request, Response

from evrant.core.base.memo import Memo
from evrant.core.light.emission import Missing
from evrant.core.light.lit import Lit, lit
from evrant.core.picture.render import Picture, Stopped, close_view, picture
from evrant.core.picture.told import parts_of
from evrant.core.space.scene import scene_of
from evrant.core.studio.studio import Studio, by_id
from evrant.files.pictures import png
from evrant.store.revisions import NotFound
from evrant.web.turns import turn_of

AT_ONCE = BoundedSemaphore(2)
"""Pictures computed at the same time."""
_MAKING: dict[str, tuple[Lock, int]] = {}
_GUARD = Lock()
_PICTURES: Memo[Picture] = Memo(48_000_000, lambda found: 260 * len(found.seen.depth) + found.lit.weight)


def state_in(studio: Studio, set_id: str) -> Lit | str:
    """A set in its light, or what keeps its picture from being computed."""
    plan = by_id(studio.sets, set_id)
    scene = scene_of(studio, plan) if plan is not None else None
    if scene is None:
        return "The shot of this set is gone."
    if scene.view is None:
        return "Choose camera and lens, and place both mark and camera."
    state = lit(scene)
    if isinstance(state, Missing):
        return state.text
    return state


def read_for(state: Lit) -> tuple[object, ...]:
    """Everything that a picture of a set is made from."""
    scene = state.scene
    return (scene.room, scene.brief, scene.shot, scene.plan, *scene.gear.values(), *scene.parts_beside)


SMALL = 264
"""Pixels along the longer side of a small picture, shown at half that."""


def small_picture(request: Request, studio: Studio, set_id: str) -> Response:
    """A small, coarse picture of a set of a studio that is only proposed. Raises NotFound where there is none."""
    state = state_in(studio, set_id)
    if isinstance(state, str):
        raise NotFound(state)
    try:
        found = computed(state, SMALL, "all", fine=False, stop=partial(gone, request))
    except Stopped:
        return Response(status_code=204)
    return Response(png(found.pixels, quick=True), media_type="image/png")


def columns_of(state: Lit, size: int, close: bool = False) -> int:
    """Pixels across of a picture whose longer side has so many."""
    view = close_view(state) if close else state.scene.view
    return size if view is None else max(round(size * min(view.across / view.upward, 1.0)), 16)


def computed(
    state: Lit,
    size: int,
    part: str,
    *,
    fine: bool = True,
    close: bool = False,
    stop: Callable[[], bool] | None = None,
) -> Picture:
    """A picture, from the last ones where it is among them. Raises NotFound where it has no such light."""
    chosen = next((one for one in parts_of(state) if one.key == part), None)
    if chosen is None:
        raise NotFound("There is no such light in this picture.")
    parts = read_for(state)

    def made() -> Picture:
        with turn_of(AT_ONCE, "Too many pictures are asked for at once."):
            found = picture(
                state,
                columns_of(state, size, close),
                only=chosen.only,
                fine=fine,
                close=close,
                stop=stop or _never,
            )
        if found is None:
            raise NotFound("There is no picture of this set yet.")
        return found

    key = f"{size} {part} {fine} {close}"
    with _one_at_a_time(f"{id(state)} {key}"):
        return _PICTURES.get(key, parts, made)


@contextmanager
def _one_at_a_time(key: str) -> Iterator[None]:
    """Who asks for what is being made waits for it, instead of making it again."""
    with _GUARD:
        lock, waiting = _MAKING.get(key, (Lock(), 0))
        _MAKING[key] = lock, waiting + 1
    try:
        with lock:
            yield
    finally:
        with _GUARD:
            lock, waiting = _MAKING[key]
            if waiting == 1:
                del _MAKING[key]
            else:
                _MAKING[key] = lock, waiting - 1


def _never() -> bool:
    return False


def gone(request: Request) -> bool:
    """Whether whoever asked has left the page."""
    return from_thread.run(request.is_disconnected)
