"""Two sets side by side, and this plan against the others."""

from dataclasses import dataclass

from evrant.core.base.margins import Margin, Verdict
from evrant.core.judge.ledger import ledger_of
from evrant.core.space.changeover import Changeover, changeover
from evrant.core.space.scene import scene_of
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import by_id
from evrant.drawing.sheet import plan_sheet
from evrant.store.revisions import split
from evrant.web.context import Page, repository
from evrant.web.registry import Context, PageSpec, Row


@dataclass(frozen=True)
class Comparison(Context):
    """What its template shows."""

    sets: list[SetPlan]
    first: SetPlan | None
    second: SetPlan | None
    drawings: list[str]
    change: Changeover | None
    plans: list[Row]


def compare(page: Page) -> Comparison:
    """Two sets side by side with the change-over between them, and this plan against the others."""
    studio = page.studio
    sets = list(studio.sets)
    first_id, _, second_id = (page.part or "").partition("+")
    first = by_id(sets, first_id) or (sets[0] if sets else None)
    second = by_id(sets, second_id) or next((plan for plan in sets if first and plan.id != first.id), None)
    scenes = [scene_of(studio, plan) if plan else None for plan in (first, second)]
    change = changeover(scenes[0], scenes[1]) if scenes[0] and scenes[1] else None
    return Comparison(
        sets=sets,
        first=first,
        second=second,
        drawings=[plan_sheet(scene, 420.0, 320.0) if scene else "" for scene in scenes],
        change=change,
        plans=_plans(page),
    )


def _plans(page: Page) -> list[Row]:
    """Every plan of this studio with its counts, and line by line what differs from the one shown."""
    store = repository(page.request)
    keys = store.plans(page.revision.studio_id)
    here = {line.key: line for line in page.ledger.lines}
    others = []
    for key in keys:
        studio = store.newest(key).studio
        ledger = page.ledger if key == page.revision.studio_id else ledger_of(studio)
        counts = ", ".join(f"{ledger.count(v)} {v.value}" for v in Verdict if ledger.count(v))
        rows = [] if key == page.revision.studio_id else _differences(page, here, {m.key: m for m in ledger.lines})
        letter = split(key)[1].upper()
        others.append(
            {"key": key, "letter": letter, "here": key == page.revision.studio_id, "counts": counts, "rows": rows}
        )
    return others


def _differences(page: Page, here: dict[str, Margin], there: dict[str, Margin]) -> list[dict[str, str]]:
    """Lines whose verdict differs, or whose margin does by more than its ±; worst first."""
    rows = []
    for key in here.keys() | there.keys():
        one, other = here.get(key), there.get(key)
        if one and other and one.verdict is other.verdict and not _differ(one, other):
            continue
        line = one or other
        assert line is not None
        plan = by_id(page.studio.sets, line.set_id)
        title = f"{plan.name}: {line.title}" if plan else line.title
        rows.append((min(m.order() for m in (one, other) if m), title, _figure(page, one), _figure(page, other)))
    ranked = sorted(rows, key=lambda row: row[0])[:40]
    return [{"title": title, "one": a, "other": b} for _, title, a, b in ranked]


def _differ(one: Margin, other: Margin) -> bool:
    if one.margin is None or other.margin is None:
        return one.margin is not other.margin
    return abs(one.margin - other.margin) > max(one.uncertainty or 0.0, 1e-6)


def _figure(page: Page, line: Margin | None) -> str:
    if line is None:
        return "not judged"
    return (
        line.verdict.value if line.margin is None else f"{line.verdict.value} {page.say.margin(line.margin, line.unit)}"
    )


SPEC = PageSpec("compare", compare, under="set", part=True)
