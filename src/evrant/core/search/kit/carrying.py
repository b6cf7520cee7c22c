"""Where a room, a tenancy and a school have no place for what hangs: read off figures, before any set is arranged."""

from evrant.core.base.tables.holders import SCREWS_ALLOWED
from evrant.core.base.tables.supports import FIXED
from evrant.core.search.kit.market import Market
from evrant.core.space.anchors import ON_WALL
from evrant.core.space.rails import BARS, CLAMPS
from evrant.core.studio.gear import Holder, Stand
from evrant.core.studio.studio import Studio

NO_BAR = "there is no rail or crossbar to clamp it to"


def nowhere_for(studio: Studio, market: Market, stand: Stand, *, owned: bool) -> str:
    """Why a support that hangs has no place in a studio, or nothing. What is owned is asked for holes only: it hangs
    already, or its owner knows where."""
    room, brief = studio.room, studio.brief
    if stand.use == CLAMPS:
        bars = any(isinstance(good.item, Holder) and good.item.system in BARS for good in market.goods)
        return "" if room.rails or bars else NO_BAR
    screws = stand.screws or FIXED.get(stand.use, 1 if stand.use == "hook" else 0)
    allowed = SCREWS_ALLOWED.get(brief.tenure or "", 99)
    if screws > allowed:
        return f"it needs {screws} {'hole' if screws == 1 else 'holes'}; the tenancy allows {allowed}"
    if owned or not screws:
        return ""
    if brief.schools.fixing == "freestanding":
        return "your school keeps what carries lights freestanding"
    walls = stand.use in ON_WALL
    known = any(wall.construction for wall in room.walls) if walls else room.ceiling_made is not None
    what = "walls are" if walls else "ceiling is"
    return "" if known else f"say under Room what the {what} made of: screws hold in some and not in others"
