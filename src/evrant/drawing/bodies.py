"""Things of a scene as outlines in a view, in groups that can be taken hold of."""

from collections.abc import Callable, Iterable

import numpy as np

from evrant.core.base.memo import Memo
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points, frame_axes, hull
from evrant.core.space.things import Part, Thing, is_cloth
from evrant.core.studio.room import value
from evrant.drawing.layout import Frame
from evrant.drawing.svg import element, line, path_of, shape, title, union_path

WEDGE = 1.15
"""How far a light's wedge is drawn [m]."""


def group_id(view: str, path: str) -> str:
    return f"{view}-{path.replace('/', '-')}"


def group(
    view: str,
    path: str,
    label: str,
    *children: str,
    grab: str = "",
    focus: bool = False,
    class_: str = "",
    **data: float | None,
) -> str:
    """A thing in a view. `grab` names the target an edit would move; `data` its place, unrounded [m]."""
    kind = f"thing {'grab ' if grab else ''}{class_}".strip()
    attributes: dict[str, object] = {"id": group_id(view, path), "class_": kind, "data_path": path}
    if grab:
        attributes |= {"data_target": grab, "aria_label": label}
        if focus:
            attributes |= {"tabindex": 0, "role": "button", "aria_describedby": "nudge-help"}
    attributes |= {f"data_{name}": repr(content) for name, content in data.items() if content is not None}
    return element("g", title(label), *children, **attributes)


def outline(frame: Frame, part: Part) -> Points:
    return hull(frame.place(part.solid))


_BODIES: Memo[str] = Memo(4_000_000, lambda path: 200 + len(path))
_DRAWN: Memo[str] = Memo(12_000_000, lambda markup: 200 + len(markup))


def drawn(key: str, parts: tuple[object, ...], draw: Callable[[], str]) -> str:
    """Markup in a view named by `key`, kept while what it is drawn from stays the same."""
    return _DRAWN.get(key, parts, draw)


def body_path(key: str, solids: tuple[Points, ...], flatten: Callable[[Points], Points | None]) -> str:
    """Silhouette of a subject in a view named by `key`; kept while neither subject nor view changes."""

    def draw() -> str:
        outlines = (flatten(solid) for solid in solids)
        return union_path([hull(points) for points in outlines if points is not None])

    return _BODIES.get(key, solids, draw)


def subject_shapes(frame: Frame, scene: Scene) -> str:
    """The subjects of a set in a view, the nearest to who looks at it last."""
    nearer = np.cross(frame.across, frame.up)
    bodies = [solids for subject in scene.shot.subjects if (solids := scene.body_parts(subject.id))]
    bodies.sort(key=lambda solids: float(np.vstack(solids).mean(axis=0) @ nearer))
    shapes = [element("path", d=body_path(frame.key, solids, frame.place), class_="solid body") for solids in bodies]
    return element("g", title("subject"), *shapes, class_="thing", data_path=f"{scene.path}/subject") if shapes else ""


def prop_outline(frame: Frame, thing: Thing) -> str:
    """The outline of a prop; a tent's lets what is in it be seen, and a card's stand is drawn as stands are."""
    card = [part for part in thing.parts if part.kind == "card"]
    if card and any(part.kind in ("legs", "column") for part in thing.parts):
        return "".join([*stand_shapes(frame, thing), silhouette(frame, card, "solid")])
    return silhouette(frame, thing.parts, "solid cloth" if is_cloth(thing) else "solid")


def silhouette(frame: Frame, parts: Iterable[Part], class_: str) -> str:
    """One true outline of several convex parts."""
    return element("path", d=union_path([outline(frame, part) for part in parts]), class_=class_)


def stand_shapes(frame: Frame, thing: Thing) -> list[str]:
    """Legs as the leg circle on the plan and as a triangle in a section, columns as lines."""
    shapes = []
    for part in thing.parts:
        if part.kind == "legs":
            shapes.append(shape(outline(frame, part), "ghost" if frame.name == "plan" else "legs"))
        elif part.kind == "boom":
            shapes.append(shape(outline(frame, part), "solid boom"))
        elif part.kind == "column":
            base, top = part.solid[:16].mean(axis=0), part.solid[16:].mean(axis=0)
            if frame.name == "plan":
                x, y = frame.place(base[None])[0]
                shapes.append(element("circle", cx=float(x), cy=float(y), r=2.6, class_="column-dot"))
            else:
                shapes.append(line(frame.place(base[None])[0], frame.place(top[None])[0], "column"))
    return shapes


def light_shapes(frame: Frame, scene: Scene, light: Light, thing: Thing) -> list[str]:
    """A light: stand, head, modifier outline, luminous face and wedge."""
    shapes = []
    wedge = _wedge(frame, light)
    if wedge is not None:
        shapes.append(shape(wedge, "wedge"))
    shapes += stand_shapes(frame, thing)
    shapes += [shape(outline(frame, part), "solid") for part in thing.parts if part.kind == "head"]
    shapes += [shape(outline(frame, part), "solid shade") for part in thing.parts if part.kind == "shade"]
    face = _face(frame, light)
    if face is not None:
        shapes.append(shape(hull(frame.place(face)), "face"))
    return shapes


def _face(frame: Frame, light: Light) -> Points | None:
    if light.at is None or light.forward is None or light.face is None:
        return None
    width, height = light.face
    right, up = frame_axes(light.forward)
    if height is None:
        angles = np.linspace(0, 2 * np.pi, 25)
        return np.asarray(light.at + (np.outer(np.cos(angles), right) + np.outer(np.sin(angles), up)) * width / 2)
    square = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * (width / 2, height / 2)
    return np.asarray(light.at + square[:, :1] * right + square[:, 1:] * up)


def _wedge(frame: Frame, light: Light) -> Points | None:
    face = _face(frame, light)
    if face is None or light.forward is None or light.at is None:
        return None
    far = light.at + light.forward * WEDGE + (face - light.at) * 1.9
    far[:, 2] = np.maximum(far[:, 2], 0.0)
    return hull(frame.place(np.vstack([face, far])))


def sweep_section(frame: Frame, scene: Scene) -> str:
    """The background from its roll to the floor and over it, as a line in the section along the lens."""
    if scene.line is None or scene.plan.background.height is None or scene.backdrop is None:
        return ""
    spot, way = scene.line
    height = scene.plan.background.height
    length = value(scene.backdrop.length) or height
    low = scene.surface if scene.lands == "on the table" else 0.0
    run = 0.0 if scene.lands == "hangs free" else max(min(length - (height - low), 1.6), 0.0)
    end = max(height - length, low)
    radius = min(scene.plan.background.radius or 0.3, run) if run > 0.05 else 0.0
    points = [(0.0, height), (0.0, end + radius)]
    if radius:
        curve = np.linspace(0, np.pi / 2, 8)
        points += [(radius * (1 - np.cos(a)), low + radius * (1 - np.sin(a))) for a in curve]
        points.append((run, low + 0.004))
    solid = np.array([[spot[0] + way[0] * out, spot[1] + way[1] * out, up] for out, up in points])
    return element("path", d=path_of(frame.place(solid), closed=False), class_="paper-line")


def background_sheet(scene: Scene) -> Points | None:
    """Corners of the hanging part: top left, top right, bottom right, bottom left as the camera sees them."""
    ends, height = scene.background_ends, scene.plan.background.height
    if ends is None or height is None or scene.bare_wall is not None:
        return None
    left, right = ends
    length = (value(scene.backdrop.length) if scene.backdrop else None) or height
    low = max(height - length, 0.0)
    return np.array([[*left, height], [*right, height], [*right, low], [*left, low]])


def floor_sheet(scene: Scene) -> Points | None:
    """Corners of the part that lies on the floor, or None when none does."""
    ends, height = scene.background_ends, scene.plan.background.height
    if ends is None or height is None or scene.line is None or scene.backdrop is None:
        return None
    if scene.lands == "hangs free":
        return None
    low = scene.surface if scene.lands == "on the table" else 0.0
    run = (value(scene.backdrop.length) or 0.0) - (height - low)
    if run <= 0.05:
        return None
    left, right = ends
    way = scene.line[1] * min(run, 2.5 if low == 0 else 0.8)
    return np.array([[*left, low], [*right, low], [*(right + way), low], [*(left + way), low]])
