"""What is behind and under a shot: backgrounds, their holders, tables, tents, boards."""

from evrant.core.base.tables.holders import HOLDERS, SCREWS_ALLOWED
from evrant.core.search.kit.case import NOTHING
from evrant.core.search.kit.filling import Filling, is_a
from evrant.core.search.kit.market import Good
from evrant.core.space.tents import outgrown
from evrant.core.space.tops import too_small
from evrant.core.space.wanted import OVERHEAD
from evrant.core.studio.gear import Backdrop, Holder, Table, Tent
from evrant.core.studio.room import value
from evrant.core.studio.words import Say

TONES: dict[str, tuple[float, float]] = {"white": (70, 100), "grey": (10, 60), "black": (0, 8), "colour": (0, 100)}
"""Reflectance of a background for a tone [%]; common practice, no source."""
ON_TABLE = 0.15


def fill_ground(filling: Filling) -> None:
    """The background and what holds it; nothing of it where the camera looks down."""
    if filling.shot.angle >= OVERHEAD:
        return
    grounds = [good for good in filling.goods(Backdrop) if _ground_serves(filling, good)]
    keys = [good.key for good in grounds]
    if _wall_serves(filling):
        keys.append(NOTHING)
    filling.slot("backdrop", "the background", keys)
    holders = [good for good in filling.goods(Holder) if _holder_serves(filling, good)]
    filling.slot("holder", "the background's holder", [*(good.key for good in holders), NOTHING])
    for ground in grounds:
        backdrop = is_a(ground, Backdrop)
        if backdrop.material not in ("panel", "board"):
            filling.never("it needs something to hang from", ("backdrop", ground.key), ("holder", NOTHING))
        for good in holders:
            why = _hangs(backdrop, is_a(good, Holder), any(s.base for s in filling.shot.subjects), filling.tell)
            if why:
                filling.never(why, ("backdrop", ground.key), ("holder", good.key))
    if NOTHING in keys:
        for good in holders:
            filling.never("a wall needs no holder", ("backdrop", NOTHING), ("holder", good.key))


def _ground_serves(filling: Filling, good: Good) -> bool:
    backdrop, tone = is_a(good, Backdrop), filling.shot.tone
    school = filling.schools.background
    if not good.owned and school == "fabric" and backdrop.material not in ("fabric", "panel"):
        filling.drop(good, "your school hangs fabric")
        return False
    if not good.owned and school == "paper" and backdrop.material not in ("paper", "vinyl"):
        filling.drop(good, "your school hangs paper")
        return False
    if tone is not None and backdrop.reflectance is not None:
        low, high = TONES[tone]
        if not low <= backdrop.reflectance.value <= high:
            filling.drop(good, f"it reflects {backdrop.reflectance.value:.0f} %; a {tone} background wants another")
            return False
    if backdrop.width is not None and backdrop.width.value < filling.asked.width:
        shown = filling.tell.length(filling.asked.width)
        filling.drop(good, f"it is narrower than the {shown} the picture shows at the subject")
        return False
    return True


def _wall_serves(filling: Filling) -> bool:
    """A bare wall, where the school has it so or a wall has the tone."""
    if filling.schools.background == "boards or wall" or filling.shot.tone is None:
        return True
    low, high = TONES[filling.shot.tone]
    lrvs = [wall.finish.share.value for wall in filling.studio.room.walls if wall.finish.share]
    return filling.shot.tone in ("white", "black") and any(low <= lrv <= high for lrv in lrvs)


def _holder_serves(filling: Filling, good: Good) -> bool:
    holder = is_a(good, Holder)
    kind = HOLDERS.get(holder.system or "")
    if kind is None:
        return False
    allowed = SCREWS_ALLOWED.get(filling.studio.brief.tenure or "", 99)
    if kind.holes > allowed:
        filling.drop(good, f"it needs {kind.holes} holes; the tenancy allows {allowed}")
        return False
    if not good.owned and filling.schools.fixing == "freestanding" and kind.hangs_from in ("wall", "ceiling"):
        filling.drop(good, "your school keeps its holders freestanding")
        return False
    ceiling = filling.studio.room.height
    spans = ceiling and holder.max_height and holder.min_height
    if kind.hangs_from == "floor and ceiling" and spans:
        assert ceiling and holder.max_height and holder.min_height
        if not holder.min_height.value <= ceiling.value <= holder.max_height.value:
            filling.drop(good, "the ceiling is outside its range")
            return False
    return True


def fill_surface(filling: Filling) -> None:
    """What the subject stands or hangs on."""
    base = next((value(s.base) for s in filling.shot.subjects if s.base and not s.held), None)
    if not base:
        return
    if any(s.kind == "garment" for s in filling.shot.subjects):
        worn = any(s.kind == "garment" and s.depth for s in filling.shot.subjects)
        form = "dress form" if worn else "hanger hook"
        hung = [good for good in filling.goods(Table) if is_a(good, Table).form == form]
        filling.slot("table", "what it hangs on", filling.owned_first(hung))
        return
    lit_below = filling.case.pattern == "under-light"
    forms = ("translucent table",) if lit_below else ("table", "translucent table", "stool")
    tables = []
    for good in filling.goods(Table):
        table = is_a(good, Table)
        if table.form not in forms or table.height is None:
            continue
        if abs(table.height.value - base) > ON_TABLE:
            high, wanted = filling.tell.length(table.height.value), filling.tell.length(base)
            filling.drop(good, f"it is {high} high; the subject stands at {wanted}")
            continue
        if too_small(table, filling.shot.subjects):
            filling.drop(good, "what stands on it stands over its edge")
            continue
        tables.append(good)
    if tables or any(s.kind in ("object", "cat") and base < 1.0 for s in filling.shot.subjects):
        filling.slot("table", "what it stands on", filling.owned_first(tables))


def fill_tent(filling: Filling) -> None:
    """Tents that hold the subject."""
    tents = []
    for good in filling.goods(Tent):
        why = outgrown(filling.shot, is_a(good, Tent), filling.tell.length)
        if why:
            filling.drop(good, why)
        else:
            tents.append(good)
    filling.slot("tent", "the tent", filling.owned_first(tents))


def _hangs(backdrop: Backdrop, holder: Holder, on_table: bool, tell: Say) -> str:
    """Why a background does not hang from a holder, or nothing."""
    kind = HOLDERS[holder.system or ""]
    stiff = backdrop.material in ("panel", "board")
    if stiff != (kind.hangs_from == "itself" or holder.system == "board pair"):
        return "that is no holder for it"
    if holder.system == "board pair" and backdrop.material != "board":
        return "that is no holder for it"
    if kind.hangs_from == "table" and not on_table:
        return "there is no table to clamp it to"
    spans = holder.max_width if holder.system != "tension rod" else None
    if backdrop.width and spans and backdrop.width.value > spans.value:
        return f"it is wider than the {tell.length(spans.value)} the holder spans"
    if backdrop.mass and holder.load and backdrop.mass.value > holder.load.value:
        return f"it is heavier than the {tell.mass(holder.load.value)} the holder carries"
    return ""
