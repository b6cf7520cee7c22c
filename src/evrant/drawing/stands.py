"""Every support of a set from the side, in one scale: loads, plumb, feet, and what it bears of what it must."""

from collections.abc import Sequence

import numpy as np

from evrant.core.base.margins import Margin, Verdict
from evrant.core.judge.rules.support.standing import PUSH, TIPPING
from evrant.core.mechanics.supports import (
    Standing,
    background_standing,
    camera_standing,
    card_standing,
    friction_of,
    joint_of,
    light_standing,
    shared,
)
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.things import Thing
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.words import Say
from evrant.drawing.bodies import light_shapes, outline, prop_outline, stand_shapes
from evrant.drawing.labels import settled
from evrant.drawing.layout import NARROW, Frame
from evrant.drawing.rig import side_of
from evrant.drawing.svg import element, line, number, shape, text, title

FLOOR, TOP, ROW, SIDE = 34.0, 30.0, 21.0, 12.0
MOST_ROWS = 5


class Support:
    """One support: what is drawn and what is said under it."""

    def __init__(
        self,
        name: str,
        path: str,
        thing: Thing | None,
        made: Standing | None,
        light: Light | None,
        way: np.ndarray | None = None,
    ) -> None:
        self.name, self.path, self.thing, self.made, self.light = name, path, thing, made, light
        self.way = way if way is not None else side_of(made, light) if made is not None else _facing(light)

    @property
    def span(self) -> tuple[float, float, float]:
        """Left and right end from its middle, and top [m]."""
        points = [self.thing.cloud] if self.thing is not None else []
        if self.made is not None:
            points.append(np.column_stack([self.made.polygon, np.zeros(len(self.made.polygon))]))
        if not points:
            return -0.3, 0.3, 1.0
        cloud = np.vstack(points)
        across = (cloud[:, :2] - self.middle) @ self.way
        return float(across.min()), float(across.max()), float(cloud[:, 2].max())

    @property
    def middle(self) -> np.ndarray:
        if self.made is not None:
            return self.made.spot
        return self.thing.cloud[:, :2].mean(axis=0) if self.thing is not None else np.zeros(2)


def _facing(light: Light | None) -> np.ndarray:
    if light is not None and light.forward is not None and np.hypot(*light.forward[:2]) > 1e-6:
        return np.asarray(light.forward[:2] / np.hypot(*light.forward[:2]))
    return np.array([1.0, 0.0])


def supports(scene: Scene) -> list[Support]:
    """The supports of a set in the order of its lights, then background, camera and what holds cards."""
    things = {thing.path: thing for thing in scene.things if thing.kind == "light"}
    found = []
    for light in scene.lights:
        if light.stand is None:
            continue
        made = light_standing(light, joint_of(scene, light), shared(scene, light))
        standing = made if isinstance(made, Standing) else None
        found.append(Support(light.name, light.path, things.get(light.path), standing, light))
    builds = {"background": background_standing, "camera": camera_standing}
    for name, kind in (("background", "holder"), ("camera", "camera")):
        made = builds[name](scene)
        thing = next((t for t in scene.things if t.kind == kind), None)
        if isinstance(made, Standing) or (thing is not None and name == "background"):
            standing = made if isinstance(made, Standing) else None
            found.append(Support(name, f"{scene.path}/{name}", thing, standing, None, _across(scene)))
    return found + [one for place in scene.plan.props if (one := _holding(scene, place)) is not None]


def _holding(scene: Scene, place: PropPlace) -> Support | None:
    """A card with the stand that holds it."""
    path, item, held = f"{scene.path}/props/{place.id}", scene.gear.get(place.item or ""), scene.card_mount(place)
    thing = next((one for one in scene.things if one.path == path), None)
    if item is None or held is None or thing is None:
        return None
    made = card_standing(scene, place)
    return Support(item.called, path, thing, made if isinstance(made, Standing) else None, None)


def _across(scene: Scene) -> np.ndarray | None:
    """The direction a background is drawn along: on its own feet seen from its end, for over them it tips; else
    from the front."""
    ends = scene.background_ends
    if ends is None:
        return None
    way = np.asarray(ends[1] - ends[0])
    along = np.asarray(way / max(float(np.hypot(*way)), 1e-9))
    return along if background_standing(scene) is None else np.array([-along[1], along[0]])


def stands_sheet(scene: Scene, lines: Sequence[Margin], width: float, height: float) -> str:
    """All supports beside each other on one floor line."""
    found = supports(scene)
    if not found:
        words = "No support yet: choose stands, booms or fixings for the lights and cards of this set."
        blank = text(width / 2, height / 2, words, "note", text_anchor="middle")
        return _svg(scene, width, height, blank)
    rows = {one.path: _rows(one, lines) for one in found}
    deep = min(max(len(r) for r in rows.values()), MOST_ROWS) * ROW + FLOOR
    columns = max(min(len(found), int(width // 150)), 1)
    tiers = -(-len(found) // columns)
    if width < NARROW:
        height = tiers * (deep + 250.0)
    wide, high = width / columns, height / tiers
    room = high - deep - TOP
    spans = [one.span for one in found]
    widest, highest = max(right - left for left, right, _ in spans), max(s[2] for s in spans)
    scale = min((wide - 2 * SIDE) / widest, room / highest, 200.0)
    parts = []
    for place, (one, span) in enumerate(zip(found, spans, strict=True)):
        x, y = wide * (place % columns), high * (place // columns)
        parts.append(_drawn(scene, one, span, rows[one.path], x, y + high - deep, wide, scale))
    return _svg(scene, width, height, *parts)


def _svg(scene: Scene, width: float, height: float, *parts: str) -> str:
    return element(
        "svg",
        *parts,
        id="sheet",
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(height)}",
        class_="sheet stands",
        role="group",
        aria_label=f"Supports of {scene.plan.name} from the side",
    )


def _drawn(
    scene: Scene,
    support: Support,
    span: tuple[float, float, float],
    rows: list[tuple[Margin, str]],
    x: float,
    floor: float,
    wide: float,
    scale: float,
) -> str:
    middle = x + wide / 2 - (span[0] + span[1]) / 2 * scale
    low = float(support.middle @ support.way) - middle / scale
    frame = Frame("facing", 0, 0, 1, floor, scale, np.array([*support.way, 0.0]), np.array([0.0, 0.0, 1.0]), (low, 0.0))
    say = Say.of(scene.brief)
    shapes = [line((x + SIDE, floor), (x + wide - SIDE, floor), "ground")]
    if support.thing is not None:
        if support.light is not None:
            shapes += light_shapes(frame, scene, support.light, support.thing)
        elif support.thing.kind == "prop":
            shapes.append(prop_outline(frame, support.thing))
        else:
            shapes += stand_shapes(frame, support.thing)
            shapes += [shape(outline(frame, p), "solid") for p in support.thing.parts if p.kind == "head"]
    if support.path.endswith("/background"):
        paper = [part for thing in scene.things if thing.kind == "backdrop" for part in thing.parts]
        shapes[1:1] = [shape(outline(frame, part), "paper-face" if part.kind == "sheet" else "solid") for part in paper]
    if support.made is not None:
        shapes.append(_statics(frame, scene, support.made))
    top = floor - span[2] * scale - 12
    shapes.append(text(x + wide / 2, max(top, 16.0), support.name.capitalize(), "view-title", text_anchor="middle"))
    y = floor + 24
    for margin, word in rows[:MOST_ROWS]:
        shapes.append(_row(say, margin, word, x, y, wide))
        y += ROW
    return element("g", *shapes, class_="thing", data_path=support.path)


def _statics(frame: Frame, scene: Scene, made: Standing) -> str:
    """The whole mass with its plumb, the foot it would go over, and each part's mass."""
    found = made.stability(friction_of(scene))
    centre = found.centre
    high, low = frame.place(np.array([centre, [centre[0], centre[1], 0.0]]))
    feet = frame.place(np.column_stack([made.polygon, np.zeros(len(made.polygon))]))[:, 0]
    left, right = float(feet.min()), float(feet.max())
    floor = float(low[1])
    say = Say.of(scene.brief)
    shapes = [
        element("rect", x=left, y=floor - 1.5, width=right - left, height=3, class_="footing-bar"),
        line(high, low, "plumb"),
        element("circle", cx=float(high[0]), cy=float(high[1]), r=5.5, class_="mass"),
        text(float(high[0]) - 9, float(high[1]) + 4, say.mass(float(found.mass)), "note", text_anchor="end"),
    ]
    for one in made.carried:
        if one.what in ("bag", "counterweight") and one.mass:
            x, y = frame.one(*one.at)
            size = 9 + min(one.mass, 20) * 0.5
            shapes.append(
                element(
                    "g",
                    title(f"{one.name}: {say.mass(one.mass)}"),
                    element("rect", x=x - size / 2, y=y - size / 2, width=size, height=size, rx=3, class_=one.what),
                    text(x + size / 2 + 4, y + 4, say.mass(one.mass), "note"),
                )
            )
    return settled(element("g", *shapes, class_="rig"))


def _rows(support: Support, lines: Sequence[Margin]) -> list[tuple[Margin, str]]:
    """Lines of a support that have a figure, worst first."""
    mine = [m for m in lines if m.about and m.about[0] == support.path and m.line.mark]
    return [(m, m.line.mark) for m in mine]


def _row(say: Say, margin: Margin, word: str, x: float, y: float, wide: float) -> str:
    """One line: verdict mark, what, and how much there is of how much is needed."""
    kind = margin.verdict.value.lower()
    mark = {Verdict.SHORT: "✕", Verdict.UNKNOWN: "?", Verdict.TIGHT: "≈", Verdict.CLEAR: "✓"}[margin.verdict]
    if margin.margin is None or margin.need is None or margin.have is None:
        figures = "not known"
    else:
        need = say.margin(margin.need, margin.unit).lstrip("+")
        have = say.margin(margin.have, margin.unit).lstrip("+")
        at_least = (margin.need - margin.have) * margin.margin > 0  # the lower end of what it can is the nearer one
        figures = f"{need}, from {have} up" if at_least else f"{need} of {have}"
        if margin.line in (TIPPING, PUSH):
            figures = f"bears {have}, must {need}"
    return element(
        "g",
        title(margin.sentence),
        text(x + SIDE, y, mark, f"verdict-mark {kind}"),
        text(x + SIDE + 16, y, word, "row-word"),
        text(x + wide - SIDE, y, figures, f"row-figure {kind}", text_anchor="end"),
        data_key=margin.key,
    )
