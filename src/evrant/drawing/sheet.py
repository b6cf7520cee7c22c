"""The drawing sheet of a set: four views in projection, with conflicts circled where they happen."""

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from evrant.core.base.margins import Margin, Verdict
from evrant.core.light.mirrored import shiny
from evrant.core.place.patterns import named
from evrant.core.space.scene import Scene
from evrant.core.space.strokes import room_profile
from evrant.core.studio.words import Say
from evrant.drawing.elevation import section_along, section_facing
from evrant.drawing.keyplan import cut_lines, key_plan, north_mark
from evrant.drawing.labels import settled
from evrant.drawing.layout import Frame, Layout, layout_of
from evrant.drawing.light import LightSheet
from evrant.drawing.picture import picture_view, taken_canvas
from evrant.drawing.plan import plan_view
from evrant.drawing.rig import rig_on_plan, rig_on_section
from evrant.drawing.svg import element, line, number, text, title

WIDTH, HEIGHT = 760.0, 720.0


def sheet(
    scene: Scene,
    lines: Iterable[Margin],
    width: float = WIDTH,
    height: float = HEIGHT,
    turn: float | None = None,
    light: LightSheet | None = None,
) -> str:
    """The whole sheet as one SVG, or an empty sheet that says what to measure first. With `light`: its
    contours and beams under the drawing and the shaded bust for the camera's picture."""
    layout = layout_of(scene, width, height, turn)
    if layout is None:
        return blank_sheet(width, height)
    shown = [margin for margin in lines if margin.at is not None and margin.verdict is Verdict.SHORT]
    say = Say.of(scene.brief)
    views = [
        view_of(
            layout.plan,
            "Plan",
            (light.plan(layout.plan) if light else "")
            + plan_view(layout.plan, scene)
            + (light.beams(layout.plan) if light else rig_on_plan(layout.plan, scene))
            + cut_lines(layout.plan, scene)
            + north_mark(scene, layout.plan)
            + _pattern(layout, scene)
            + _conflicts(layout.plan, shown, say),
            layout.width,
        ),
        view_of(
            layout.lens,
            "Section along the lens",
            (light.section(layout.lens, room_profile(scene, layout.lens.across)) if light else "")
            + section_along(layout.lens, scene)
            + (light.beams(layout.lens) if light else rig_on_section(layout.lens, scene))
            + _conflicts(layout.lens, shown, say),
            layout.width,
        ),
        view_of(
            layout.facing,
            "Section facing the background",
            section_facing(layout.facing, scene) + _conflicts(layout.facing, shown, say),
            layout.width,
        ),
        _picture(layout, scene, light),
        key_plan(scene, layout),
    ]
    return element(
        "svg",
        *_projection_lines(layout, scene),
        *views,
        id="sheet",
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(layout.height)}",
        class_="sheet with-light" if light else "sheet",
        role="group",
        aria_label=f"Drawing of {scene.plan.name}",
        data_units=scene.brief.units,
        data_turn=number6(layout.turn),
        data_scale=number6(layout.scale),
    )


def view_bounds(frame: Frame, width: float) -> tuple[float, float, float, float]:
    """What labels of a view may take of a sheet so wide, in the view's coordinates: left, top, right, bottom."""
    return -frame.x + 2, -frame.y + 2, width - frame.x - 2, frame.height + BELOW


BELOW = 46.0
"""Under a view its tape and the next one's title stand [px]."""


def view_of(frame: Frame, title: str, inner: str, width: float, *after: str) -> str:
    """A view on a sheet so wide, its labels settled; `after` lies over it as it is."""
    head = text(0, -9, title, "view-title") if title else ""
    return element(
        "svg",
        settled(head + inner, view_bounds(frame, width)),
        *after,
        id=f"view-{frame.name}",
        x=frame.x,
        y=frame.y,
        width=frame.width,
        height=frame.height,
        overflow="visible",
        class_="view",
        data_view=frame.name,
        data_across=" ".join(number6(v) for v in frame.across),
        data_up=" ".join(number6(v) for v in frame.up),
    )


def number6(number_: float) -> str:
    return f"{number_:.6f}"


def _picture(layout: Layout, scene: Scene, light: LightSheet | None) -> str:
    x, y, width, height = layout.picture
    if light is not None:
        person = scene.shot.of_person
        words = "The face, as lit" if person else "What it mirrors" if shiny(scene) else "A ball in its place, as lit"
        inner = text(0, -9, words, "view-title") + light.bust(0, 0, width, height)
        return element("svg", inner, id="view-picture", x=x, y=y, width=width, height=height, overflow="visible")
    return element(
        "svg",
        _larger(scene),
        picture_view(scene, width, height),
        _taken(scene, width, height),
        id="view-picture",
        x=x,
        y=y,
        width=width,
        height=height,
        overflow="visible",
        class_="view",
    )


def _taken(scene: Scene, width: float, height: float) -> str:
    """Where the computed picture is painted over the outline."""
    view = scene.view
    if view is None:
        return ""
    label = f"The picture of {scene.plan.name} as it would be taken"
    return taken_canvas(scene, view, width, height, label)


def _larger(scene: Scene) -> str:
    """The view's title, where there is a picture the way to a large one."""
    words = text(0, -9, "What the camera sees", "view-title")
    if scene.view is None:
        return words
    label = "What the camera sees: large, with readings"
    return element("a", words, href=f"../picture/{scene.plan.id}", class_="larger", aria_label=label)


def _pattern(layout: Layout, scene: Scene) -> str:
    """The pattern the lights make now, in the plan's title line."""
    made = named(scene)
    if not made:
        return ""
    words = f"Light: {made}" if made[0].islower() or made == "Rembrandt" else made
    return text(48, -9, words, "note pattern")


def _projection_lines(layout: Layout, scene: Scene) -> list[str]:
    """Faint lines that carry the mark and the lens from the plan down to the section."""
    found = []
    for spot in (scene.mark, scene.camera_spot):
        if spot is not None:
            x, y = layout.plan.one(float(spot[0]), float(spot[1]), 0.0)
            found.append(
                line(
                    (layout.plan.x + x, layout.plan.y + layout.plan.height + 12),
                    (layout.lens.x + x, layout.lens.y - 20),
                    "projection",
                )
            )
    return found


def _conflicts(frame: Frame, shown: list[Margin], say: Say) -> str:
    """A circle where Short lines happen, with the margin of the worst one; those about the same place share it, and
    show their own only when they are pointed at in the ledger."""
    parts = []
    taken: list[np.ndarray] = []
    here: list[list[str]] = []
    for margin in shown:
        assert margin.at is not None
        x, y = frame.one(*margin.at)
        if not (-12 <= x <= frame.width + 12 and -12 <= y <= frame.height + 12):
            continue
        spot = np.array([x, y])
        words, told = "", [margin.sentence]
        near = next((said for other, said in zip(taken, here, strict=True) if np.linalg.norm(spot - other) <= 26), None)
        if near is not None:
            near.append(margin.sentence)
        else:
            below = y < frame.height - 30
            words = text(
                min(max(x, 22), frame.width - 22),
                y + (26 if below else -16),
                say.margin(margin.margin, margin.unit),
                "conflict-label",
                text_anchor="middle",
            )
            taken.append(spot)
            here.append(told)
        parts.append((x, y, words, "conflict-mark" if near is None else "conflict-mark under", margin.key, told))
    return "".join(
        element(
            "g",
            title("\n".join(told)),
            element("circle", cx=x, cy=y, r=11.0, class_="conflict"),
            words,
            class_=class_,
            data_key=key,
        )
        for x, y, words, class_, key, told in parts
    )


def blank_sheet(width: float, height: float) -> str:
    """A sheet that says what to measure first."""
    return element(
        "svg",
        text(width / 2, height / 2 - 8, "Nothing to draw yet.", "blank", text_anchor="middle"),
        text(width / 2, height / 2 + 16, "Enter the room's length and width under Room.", "note", text_anchor="middle"),
        id="sheet",
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(height)}",
        class_="sheet",
    )


def room_sheet(scene: Scene, width: float, height: float) -> str:
    """The plan of a room alone, as large as fits."""
    whole = layout_of(scene, width * 2, height * 2)
    if whole is None or scene.walls is None:
        return blank_sheet(width, height)
    long, wide = whole.plan.width / whole.scale, whole.plan.height / whole.scale
    scale = min((width - 70) / long, (height - 70) / wide, 260.0)
    frame = replace(whole.plan, x=46.0, y=28.0, width=long * scale, height=wide * scale, scale=scale)
    return element(
        "svg",
        view_of(frame, "Plan", plan_view(frame, scene), width),
        id="sheet",
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(frame.height + 76)}",
        class_="sheet",
        role="img",
        aria_label="Plan of the room",
    )


def plan_sheet(scene: Scene, width: float, height: float) -> str:
    """The plan of a set alone, as large as fits, turned as its sheet is; for looking, not for dragging."""
    whole = layout_of(scene, width * 2, height * 2)
    if whole is None or scene.walls is None:
        return ""
    long, wide = whole.plan.width / whole.scale, whole.plan.height / whole.scale
    scale = min((width - 60) / long, (height - 50) / wide, 260.0)
    frame = replace(whole.plan, x=40.0, y=14.0, width=long * scale, height=wide * scale, scale=scale)
    return element(
        "svg",
        element(
            "svg",
            settled(plan_view(frame, scene), view_bounds(frame, width))
            .replace(' id="', ' data-id="')
            .replace(' tabindex="0"', "")
            .replace(' role="button"', ""),
            x=frame.x,
            y=frame.y,
            width=frame.width,
            height=frame.height,
            overflow="visible",
        ),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(frame.height + 48)}",
        class_="sheet small",
        role="img",
        aria_label=f"Plan of {scene.plan.name}",
    )
