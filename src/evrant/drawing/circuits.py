"""The plan with leads and sockets, and what each circuit carries over a session."""

from dataclasses import replace

from evrant.core.base.tables.countries import MAINS
from evrant.core.base.units import show_number
from evrant.core.space.scene import Scene
from evrant.core.studio.room import value
from evrant.core.studio.studio import Studio
from evrant.core.wiring.loads import session, timeline
from evrant.drawing.labels import settled
from evrant.drawing.layout import NARROW, layout_of
from evrant.drawing.plan import plan_view
from evrant.drawing.rig import rig_on_plan
from evrant.drawing.sheet import view_bounds
from evrant.drawing.svg import element, line, number, text, title

LEFT, RIGHT, LINE, GAP = 150.0, 70.0, 64.0, 26.0


def power_sheet(studio: Studio, scene: Scene, width: float, height: float) -> str:
    """Plan above, circuits below."""
    charts = min(len(studio.room.circuits), 4)
    below = charts * (LINE + GAP) + 46 if charts else 0.0
    whole = layout_of(scene, width * 2, height * 2)
    parts = [text(14, 18, "Plan, with leads", "view-title")]
    if whole is not None and width < NARROW:
        height = whole.plan.height / whole.plan.width * (width - 90) + below + 84
    if whole is not None and scene.walls is not None:
        long, wide = whole.plan.width / whole.scale, whole.plan.height / whole.scale
        scale = min((width - 90) / long, max(height - below - 86, 160) / wide, 260.0)
        left = max((width - long * scale) / 2, 46.0)
        frame = replace(whole.plan, x=left, y=40.0, width=long * scale, height=wide * scale, scale=scale)
        inner = plan_view(frame, scene).replace(' id="', ' data-id="').replace(' tabindex="0"', "")
        inner = inner.replace('class="thing grab', 'class="thing')
        parts.append(
            element(
                "svg",
                settled(inner.replace(' role="button"', "") + rig_on_plan(frame, scene), view_bounds(frame, width)),
                x=frame.x,
                y=frame.y,
                width=frame.width,
                height=frame.height,
                overflow="visible",
            )
        )
    parts.append(_charts(studio, scene, width, height - below, charts))
    return element(
        "svg",
        *parts,
        id="sheet",
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(height)}",
        class_="sheet with-power",
        role="group",
        aria_label=f"Leads of {scene.plan.name}, and circuits over the session",
    )


def _charts(studio: Studio, scene: Scene, width: float, top: float, count: int) -> str:
    spans = session(studio)
    if not spans or not count:
        return ""
    end = spans[-1].end
    parts = [text(14, top + 16, "Circuits over the session", "view-title")]
    per = (width - LEFT - RIGHT) / end
    y = top + 36
    for circuit in studio.room.circuits[:count]:
        parts.append(_chart(studio, circuit.id, LEFT, y, per, end, width))
        y += LINE + GAP
    for span in spans:
        x, wide = LEFT + span.start * per, (span.end - span.start) * per
        here = span.plan == scene.plan.id
        words = span.name if len(span.name) * 6.4 < wide else span.name[: max(int(wide / 6.4) - 1, 1)] + "…"
        kind = "note here" if here else "note"
        parts.append(element("g", title(span.name), text(x + wide / 2, y - 10, words, kind, text_anchor="middle")))
    return element("g", *parts)


def _chart(studio: Studio, key: str, left: float, top: float, per: float, end: float, width: float) -> str:
    """One circuit: stacked loads over time under the line of what it may carry."""
    circuit = next(one for one in studio.room.circuits if one.id == key)
    mains = MAINS[studio.brief.country]
    pieces = timeline(studio, key)
    breaker = value(circuit.breaker)
    limit = breaker * mains.continuous_share * mains.volts if breaker else None
    most = max([piece.watts for piece in pieces] + [limit or 0.0, 1.0]) * 1.08
    floor = top + LINE

    def up(watts: float) -> float:
        return floor - watts / most * LINE

    shapes = [
        text(14, top + 20, circuit.name, "row-word"),
        text(14, top + 38, f"{show_number(breaker, 0)} A breaker" if breaker else "breaker not known", "note"),
        line((left, floor), (left + end * per, floor), "ground"),
    ]
    for piece in pieces:
        held = 0.0
        x, wide = left + piece.start * per, (piece.end - piece.start) * per
        for number_, (name, watts) in enumerate(piece.parts):
            y = up(held + watts)
            over = limit is not None and held + watts > limit
            kind = f"draw draw-{number_ % 3}" + (" over" if over else "")
            shapes.append(
                element(
                    "g",
                    title(f"{name}: {watts:.0f} W"),
                    element("rect", x=x + 0.5, y=y, width=max(wide - 1, 0.5), height=up(held) - y, class_=kind),
                    text(x + 6, y + 12, f"{name} {watts:.0f} W", "draw-word")
                    if up(held) - y > 15 and wide > len(name) * 7 + 50
                    else "",
                )
            )
            held += watts
    if limit is not None:
        shapes.append(line((left, up(limit)), (left + end * per, up(limit)), "limit"))
        words = f"{show_number(limit / mains.volts, 1)} A"
        shapes.append(text(left + end * per + 6, up(limit) + 4, words, "note"))
    worst = max((piece.watts for piece in pieces), default=0.0)
    words = f"at most {show_number(worst / mains.volts, 1)} A"
    shapes.append(text(14, top + 55, words, "note"))
    return element("g", *shapes)
