"""What the camera sees: true outlines in central projection, nearer things over farther ones."""

from functools import partial

import numpy as np

from evrant.core.space.framing import View
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, cut, hull
from evrant.core.space.things import Thing, is_cloth
from evrant.core.studio.room import value
from evrant.core.studio.words import f_words
from evrant.drawing.bodies import background_sheet, body_path, drawn, floor_sheet
from evrant.drawing.svg import element, number, path_of, shape, text, title, union_path

NEAR = 0.08


def picture_view(scene: Scene, width: float, height: float) -> str:
    """The picture fitted into a rectangle, or words about what is missing."""
    view = scene.view
    if view is None:
        return _empty(width, height)
    ratio = view.across / view.upward
    tall = min(height, width / ratio)
    wide = tall * ratio
    to_sheet = Mapping(view, wide, tall)
    inner = "".join(
        [
            element("rect", width=wide, height=tall, class_="picture-ground"),
            drawn(f"room {to_sheet.key}", (scene.room,), partial(_room, to_sheet, scene)),
            _paper(to_sheet, scene),
            _things(to_sheet, scene),
        ]
    )
    clip = element("clipPath", element("rect", width=wide, height=tall), id="picture-clip")
    settings = _settings(scene)
    return "".join(
        [
            element("defs", clip),
            element("g", inner, clip_path="url(#picture-clip)"),
            element("rect", width=wide, height=tall, class_="picture-edge"),
            text(wide, tall + 17, settings, "tape", text_anchor="end") if settings else "",
        ]
    )


class Mapping:
    """Points in the room to the picture's sheet coordinates."""

    def __init__(self, view: View, wide: float, tall: float) -> None:
        self.view, self.wide, self.tall = view, wide, tall

    def flat(self, points: Points) -> Points:
        half = self.view.project(points)
        return np.column_stack([(half[:, 0] + 1) / 2 * self.wide, (1 - half[:, 1]) / 2 * self.tall])

    @property
    def key(self) -> str:
        """Everything that decides where a point lands."""
        view = self.view
        return f"picture {self.wide!r} {self.tall!r} {view.eye.tolist()} {view.forward.tolist()} {view.image!r}"

    def in_front(self, solid: Points) -> Points | None:
        """Sheet points of the part of a convex body in front of the lens."""
        clipped = clip_near(self.view, solid)
        return None if len(clipped) < 3 else np.asarray(np.clip(self.flat(clipped), -5000, 5000))

    def outline(self, solid: Points) -> Points | None:
        """Outline of a convex body, clipped to what lies in front of the lens."""
        points = self.in_front(solid)
        return None if points is None else hull(points)


def clip_near(view: View, solid: Points) -> Points:
    """The part of a convex body in front of the lens."""
    return cut(solid, view.eye + view.forward * NEAR, view.forward)


def _room(to: Mapping, scene: Scene) -> str:
    """Edges of the room: where walls meet floor and ceiling, and each other."""
    if scene.walls is None:
        return ""
    top = value(scene.room.height) or 2.5
    parts = []
    corners = scene.walls.corners
    for i in range(scene.walls.count):
        a, b = corners[i], corners[(i + 1) % scene.walls.count]
        for start, end in (((*a, 0), (*b, 0)), ((*a, top), (*b, top)), ((*a, 0), (*a, top))):
            ends = clip_near(to.view, np.array([start, end], dtype=float))
            if len(ends) == 2:
                points = np.clip(to.flat(ends), -20000, 20000)
                parts.append(element("path", d=path_of(points, closed=False), class_="room-edge"))
    return "".join(parts)


def _paper(to: Mapping, scene: Scene) -> str:
    parts = []
    for sheet, class_ in ((background_sheet(scene), "paper-face"), (floor_sheet(scene), "paper-floor")):
        points = to.outline(sheet) if sheet is not None else None
        if points is not None:
            parts.append(shape(points, class_))
    return "".join(parts)


def _things(to: Mapping, scene: Scene) -> str:
    found: list[tuple[float, str]] = []
    for thing in scene.things:
        if thing.kind in ("camera", "operator", "door", "backdrop", "zone"):
            continue
        if thing.kind == "subject":
            found += subject_groups(to, scene)
            continue
        if is_cloth(thing):
            found += _tent(to, thing)
            continue
        markup = drawn(to.key, (thing,), partial(_outlined, to, thing))
        if markup:
            found.append((float(to.view.depth(thing.cloud).mean()), markup))
    return "".join(shapes for _, shapes in sorted(found, key=lambda pair: -pair[0]))


def _tent(to: Mapping, thing: Thing) -> list[tuple[float, str]]:
    """A tent's back and sides behind what is in it, its front with the hole before it."""
    depths = to.view.depth(thing.cloud)
    found = []
    for kind, depth in (("wall", float(depths.max())), ("card", float(depths.min()))):
        outlines = [o for o in (to.outline(part.solid) for part in thing.parts if part.kind == kind) if o is not None]
        if outlines:
            cloth = element("path", d=union_path(outlines), class_="solid cloth", fill_rule="evenodd")
            found.append((depth, element("g", title(thing.name), cloth, class_="thing", data_path=thing.path)))
    return found


def _outlined(to: Mapping, thing: Thing) -> str:
    outlines = [o for o in (to.outline(part.solid) for part in thing.parts) if o is not None]
    if not outlines:
        return ""
    solid = element("path", d=union_path(outlines), class_="solid")
    return element("g", title(thing.name), solid, class_="thing", data_path=thing.path)


def subject_groups(to: Mapping, scene: Scene) -> list[tuple[float, str]]:
    found = []
    for subject in scene.shot.subjects:
        solids = scene.body_parts(subject.id)
        if solids:
            depth = float(to.view.depth(np.vstack(solids)).mean())
            body = element("path", d=body_path(to.key, solids, to.in_front), class_="solid body")
            found.append((depth, element("g", body, class_="thing", data_path=f"{scene.path}/subject")))
    return found


def _settings(scene: Scene) -> str:
    shot = scene.shot
    words = []
    if shot.aperture:
        words.append(f_words(shot.aperture.value))
    if shot.shutter:
        words.append(f"1/{number(round(1 / shot.shutter))} s" if shot.shutter < 0.4 else f"{number(shot.shutter)} s")
    if shot.iso:
        words.append(f"ISO {shot.iso}")
    return " · ".join(words)


def _empty(width: float, height: float) -> str:
    return "".join(
        [
            element("rect", width=width, height=height, class_="picture-missing"),
            text(
                width / 2,
                height / 2,
                "Choose camera and lens, and place both mark and camera.",
                "note",
                text_anchor="middle",
            ),
        ]
    )


def taken_canvas(
    scene: Scene,
    view: View,
    width: float,
    height: float,
    label: str,
    *,
    x: float = 0.0,
    y: float = 0.0,
    close: bool = False,
) -> str:
    """Where the computed picture is painted, as large as a box lets it be; `close` of the face alone."""
    tall = min(height, width * view.upward / view.across)
    wide = tall * view.across / view.upward
    canvas = element(
        "canvas",
        xmlns="http://www.w3.org/1999/xhtml",
        class_="taken",
        data_set=scene.plan.id,
        data_close="1" if close else None,
        role="img",
        aria_label=label,
    ).replace("/>", "></canvas>")
    return element("foreignObject", canvas, x=x, y=y, width=wide, height=tall, class_="taken-holder")
