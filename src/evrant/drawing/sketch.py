"""A room as it grows while it is measured: known walls drawn, others dashed, the one to measure now in ochre."""

import numpy as np

from evrant.core.base.model import Model
from evrant.core.base.quantity import OPENING, ROOM_LENGTH, Figure
from evrant.core.space.footprint import Plan, plan_of
from evrant.core.studio.brief import Brief
from evrant.core.studio.room import Alcove, Ell, Rectangle, Room, Traverse
from evrant.core.studio.words import Say
from evrant.drawing.svg import element, line, number, shape, text

GUESS = {
    "length": 4.0,
    "width": 3.0,
    "cut_length": 1.4,
    "cut_width": 1.2,
    "niche_offset": 1.0,
    "niche_length": 1.2,
    "niche_depth": 0.5,
}
"""Only to have something to draw; no margin ever sees them."""


def sketch(room: Room, brief: Brief, target: str, fields: tuple[str, ...], width: float, height: float) -> str:
    """The footprint with what is missing filled in for the drawing, or an empty sheet before a shape is chosen."""
    filled, missing = _filled(room.footprint)
    plan = plan_of(room.changed(footprint=filled)) if filled is not None else None
    if plan is None:
        return element(
            "svg",
            text(width / 2, height / 2, "The room appears here.", "blank", text_anchor="middle"),
            id="sheet",
            xmlns="http://www.w3.org/2000/svg",
            viewBox=f"0 0 {number(width)} {number(height)}",
            class_="sheet",
        )
    span = np.ptp(plan.corners, axis=0)
    scale = float(min((width - 90) / max(span[0], 0.1), (height - 90) / max(span[1], 0.1)))
    low = plan.corners.min(axis=0)
    flat = (plan.corners - low) * (scale, -scale) + ((width - span[0] * scale) / 2, height - 45)
    now = {_label(room, target, name) for name in fields}
    parts = [shape(flat, "floor")]
    say = Say.of(brief)
    for i in range(plan.count):
        a, b = flat[i], flat[(i + 1) % plan.count]
        leads = _labels_of(plan, i)
        class_ = "wall now" if leads & now else "ghost" if leads & missing else "wall"
        parts.append(line(a, b, class_))
        long = float(np.linalg.norm(np.subtract(*plan.wall(i))))
        if not leads & missing or leads & now:
            words = "measure this" if leads & missing else say.length(long)
            out = -plan.inward(i) * 16
            x, y = (a + b) / 2 + np.array([out[0], -out[1]])
            parts.append(text(float(x), float(y) + 4, words, "note", text_anchor="middle"))
    for i in range(min(plan.count, 26)):
        inside = plan.inward(i) + plan.inward(i - 1)
        step = inside / max(float(np.linalg.norm(inside)), 1e-9) * 15
        parts.append(
            text(
                float(flat[i][0] + step[0]),
                float(flat[i][1] - step[1]) + 4,
                chr(65 + i),
                "corner",
                text_anchor="middle",
            )
        )
    return element(
        "svg",
        *parts,
        id="sheet",
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(height)}",
        class_="sheet",
        role="img",
        aria_label="The room as measured so far",
    )


LABELS = {
    "length": "room length",
    "width": "room width",
    "cut_length": "missing part's length",
    "cut_width": "missing part's width",
    "niche_offset": "offset of the alcove",
    "niche_length": "opening of the alcove",
    "niche_depth": "depth of the alcove",
}


def _label(room: Room, target: str, name: str) -> str:
    """The plan's name for a field of the footprint."""
    if "/legs/" in target and isinstance(room.footprint, Traverse):
        ids = [leg.id for leg in room.footprint.legs]
        key = target.split("/")[-1]
        return f"wall {ids.index(key) + 1}" if key in ids else ""
    return LABELS.get(name, name)


def _labels_of(plan: Plan, wall: int) -> set[str]:
    """The figures that decide a wall's length."""
    start, end = plan.wall(wall)
    along = (end - start) / max(float(np.linalg.norm(end - start)), 1e-9)
    found = set()
    for label, _, moves in plan.figures:
        if abs(float((moves[(wall + 1) % plan.count] - moves[wall]) @ along)) > 0.3:
            found.add(label)
    return found


def _filled(footprint: Model | None) -> tuple[Rectangle | Ell | Alcove | Traverse | None, set[str]]:
    """The footprint with placeholders for what is missing, and the names of those."""
    if isinstance(footprint, (Rectangle, Ell, Alcove)):
        gone = [name for name in GUESS if name in type(footprint).model_fields and getattr(footprint, name) is None]
        shape_ = footprint.changed(**{name: _guess(footprint, name) for name in gone})
        return shape_, {LABELS[name] for name in gone}
    if isinstance(footprint, Traverse) and len(footprint.legs) > 2:
        legs = tuple(leg if leg.length else leg.changed(length=OPENING.figure(2.0)) for leg in footprint.legs)
        return footprint.changed(legs=legs), {f"wall {i + 1}" for i, leg in enumerate(footprint.legs) if not leg.length}
    return None, set()


def _guess(footprint: Model, name: str) -> Figure:
    """A placeholder that stays smaller than what is known of the whole."""
    whole = getattr(footprint, "width" if "width" in name or name == "niche_depth" else "length", None)
    value = GUESS[name]
    if whole is not None and name not in ("length", "width"):
        value = min(value, whole.value * 0.4)
    return (ROOM_LENGTH if name in ("length", "width") else OPENING).figure(value)
