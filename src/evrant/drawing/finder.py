"""A shot as its picture: the frame with the subject in it, and around it what the frame leaves out, to be drawn in or
out; and what is sharp at each aperture, as a strip from before the subject to behind it."""

import json
from dataclasses import replace

from evrant.core.space import framing
from evrant.core.space.posed import Sharp, crop_heights, sharp_at
from evrant.core.space.scene import Scene
from evrant.core.studio.words import Say, f_words
from evrant.drawing.card import posed_bodies
from evrant.drawing.picture import Mapping
from evrant.drawing.svg import element, number, shape, text, title

AROUND = 1.45
"""How much more is drawn than the frame holds."""
STRIP = 320.0
"""Width of the strip of sharpness [px]."""


def finder(scene: Scene, width: float, height: float) -> str:
    """The frame in the middle with a grip on each edge, or nothing where the shot says too little."""
    view = scene.view
    if view is None or scene.focal is None or scene.sensor is None or not scene.distance:
        return ""
    ratio = view.across / view.upward
    tall = min(height, width / ratio)
    wide = tall * ratio
    wider = replace(view, across=view.across * AROUND, upward=view.upward * AROUND)
    frame_wide, frame_tall = wide / AROUND, tall / AROUND
    x, y = (wide - frame_wide) / 2, (tall - frame_tall) / 2
    now = framing.frame_at(scene.distance, scene.focal.value, scene.sensor[1].value)
    say = Say.of(scene.brief)
    grips = [
        _grip("top", wide / 2, y, level=True),
        _grip("bottom", wide / 2, y + frame_tall, level=True),
        _grip("left", x, tall / 2, level=False),
        _grip("right", x + frame_wide, tall / 2, level=False),
    ]
    return element(
        "svg",
        element("rect", width=wide, height=tall, class_="card-wall"),
        element("svg", posed_bodies(Mapping(wider, wide, tall), scene), x=0, y=0, width=wide, height=tall),
        element("path", d=_outside(wide, tall, x, y, frame_wide, frame_tall), class_="left-out", fill_rule="evenodd"),
        element("rect", x=x, y=y, width=frame_wide, height=frame_tall, class_="finder-frame"),
        text(wide / 2, y - 10, f"{say.length(now)} high", "readout finder-word", text_anchor="middle"),
        *grips,
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(wide)} {number(tall)}",
        class_="finder",
        role="group",
        aria_label=f"The frame, {say.length(now)} high at the subject",
        data_frame=json.dumps([round(part, 2) for part in (wide, tall, frame_wide, frame_tall)]),
        data_height=f"{now:.5f}",
        data_crops=json.dumps({crop: round(size, 5) for crop, size in crop_heights(scene.shot).items()}),
        data_units=scene.brief.units,
    )


def _outside(wide: float, tall: float, x: float, y: float, across: float, up: float) -> str:
    hole = f"M{number(x)} {number(y)}h{number(across)}v{number(up)}h{number(-across)}Z"
    return f"M0 0H{number(wide)}V{number(tall)}H0Z{hole}"


def _grip(edge: str, x: float, y: float, *, level: bool) -> str:
    wide, tall = (30.0, 8.0) if level else (8.0, 30.0)
    return element(
        "g",
        title("Drag the frame's edge: more or less of the subject"),
        element("circle", cx=x, cy=y, r=22.0, class_="reach"),
        element("rect", x=x - wide / 2, y=y - tall / 2, width=wide, height=tall, rx=4.0, class_="grip"),
        class_="frame-grip",
        tabindex=0 if edge == "top" else None,
        role="slider" if edge == "top" else None,
        aria_label="How much the frame holds" if edge == "top" else None,
        aria_valuenow=100 if edge == "top" else None,
        aria_valuetext="as it is" if edge == "top" else None,
        data_edge=edge,
    )


def sharp_strip(scene: Scene) -> tuple[str, list[dict[str, object]]]:
    """The strip from before the subject to behind it, and for each aperture what it shows: `f` in words, the sharp
    zone's start and width [px], and a sentence. Empty where too little is known."""
    stops = sharp_at(scene)
    if not stops or scene.wanted is None:
        return "", []
    say, deep = Say.of(scene.brief), max(scene.wanted.depth, 1e-3)
    # A zone is a third before the plane in focus, two thirds behind: the strip shows three depths of the subject.
    half = deep * 1.6
    scale = STRIP / (2 * half)
    rows: list[dict[str, object]] = [
        {
            "f": stop.f_number,
            "word": f_words(stop.f_number),
            "x": round(max(half - stop.before, 0.0) * scale, 1),
            "width": round((min(stop.behind, half) + min(stop.before, half)) * scale, 1),
            "says": _sentence(stop, deep, say),
        }
        for stop in stops
    ]
    body = element("rect", x=(half - deep / 3) * scale, y=6.0, width=deep * scale, height=16.0, class_="strip-body")
    strip = element(
        "svg",
        body,
        element("rect", x=rows[0]["x"], y=2.0, width=rows[0]["width"], height=24.0, class_="strip-sharp"),
        shape([(half * scale, 0.0), (half * scale, 28.0)], "strip-focus", closed=False),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"-1 -1 {number(STRIP + 2)} 30",
        class_="sharp-strip",
        aria_hidden="true",
    )
    return strip, rows


def _sentence(stop: Sharp, deep: float, say: Say) -> str:
    total = stop.before + stop.behind
    if total > 50:
        return f"{f_words(stop.f_number)}: sharp from {say.length(stop.before)} before the subject to far behind it"
    enough = "the subject is sharp through" if total >= deep else f"the subject is {say.length(deep)} deep"
    return f"{f_words(stop.f_number)}: {say.length(total)} sharp; {enough}"
