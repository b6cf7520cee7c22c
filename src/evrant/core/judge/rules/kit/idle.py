"""Does the money go into what makes the pictures? Code budget.idle."""

from collections.abc import Iterable

from evrant.core.base.estimate import Estimate
from evrant.core.base.margins import Basis, Line, Margin, judge
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import Proposal, StudioRule
from evrant.core.space.scene import Scene
from evrant.core.stowage.pieces import gear_of
from evrant.core.studio.gear import Camera, Item
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

IDLE = Line(
    "budget.idle",
    "Money that makes no picture",
    "parts",
    Basis(
        "planned things that no set uses, and bodies bought where one is owned: none",
        "One light and one diffuser first, a background next, everything else later; common practice, no source",
        "common practice",
    ),
    asks="Does the money go into what makes the pictures?",
    step="kit",
)
SMALL = frozenset({"part", "lead", "gel"})
"""Kinds of which a spare is no waste."""


def idle(studio: Studio) -> list[tuple[Item, str]]:
    """What is planned without need, dearest first, with the reason."""
    wanted = frozenset().union(*(gear_of(plan) for plan in studio.sets))
    bodies = [item for item in studio.gear if isinstance(item, Camera) and item.status == "owned"]
    found = []
    for item in studio.gear:
        if item.status != "planned" or item.kind in SMALL:
            continue
        if item.id not in wanted:
            found.append((item, "no set uses it"))
        elif isinstance(item, Camera) and (own := _serves(item, bodies)) is not None:
            found.append((item, f"the {own.called} you have takes the same pictures"))
    return sorted(found, key=lambda pair: -(pair[0].price or 0) * pair[0].quantity)


def _serves(body: Camera, owned: list[Camera]) -> Camera | None:
    """An owned body that does what the planned one would: fires flash as fast, and is no smaller a sensor's step."""
    for own in owned:
        fast = body.sync_shutter is None or (own.sync_shutter is not None and own.sync_shutter <= body.sync_shutter)
        if own.fires == body.fires and fast:
            return own
    return None


def margins(studio: Studio) -> Iterable[Margin]:
    """One line for money that makes no picture."""
    if not studio.sets or not any(item.status == "planned" for item in studio.gear):
        return
    found = idle(studio)
    say = Say.of(studio.brief)
    cost = sum(float(item.price or 0) * item.quantity for item, _ in found)
    names = ", ".join(item.called for item, _ in found[:3])
    yield judge(
        IDLE,
        ("kit",),
        Estimate(-float(len(found)) if found else 1.0),
        need=float(len(found)),
        have=0.0,
        clear="Everything planned is used by a set.",
        short=f"{say.money(cost)} of the plan make no picture: {names}.",
        reason=f"The {found[0][0].called}: {found[0][1]}. Light and what shapes it come first."
        if found
        else "Light and what shapes it come first.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Put it back among the things considered; take the body that is owned."""
    for item, _ in idle(studio)[:5]:
        yield Proposal(
            f"Only consider the {item.called}", SetFields(target=f"gear/{item.id}", fields={"status": "considered"})
        )
    bodies = [item for item in studio.gear if isinstance(item, Camera) and item.status == "owned"]
    for plan in studio.sets:
        used = by_id(studio.gear, plan.camera.body)
        own = _serves(used, bodies) if isinstance(used, Camera) and used.status == "planned" else None
        if own is not None:
            yield Proposal(
                f"Use the {own.called} in “{plan.name}”",
                SetFields(target=f"sets/{plan.id}/camera", fields={"body": own.id}),
            )


RULE = StudioRule("idle", margins, (IDLE,), propose, places=False)
