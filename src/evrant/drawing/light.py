"""The light laid over the sheet: contours in stops against the face, beams, surfaces as they are lit, the bust."""

import base64
from itertools import pairwise
from typing import Any

import numpy as np
from contourpy import contour_generator
from numpy.typing import NDArray

from evrant.core.light.account import contrast, side_word
from evrant.core.light.bust import bust
from evrant.core.light.colour import coded
from evrant.core.light.field import Field, Overlay, Strip
from evrant.core.light.lit import Lit
from evrant.core.light.mirrored import family as mirrored_from
from evrant.core.light.mirrored import mirrored, shiny
from evrant.core.light.softness import family
from evrant.core.picture.render import close_view
from evrant.core.space.solids import Points
from evrant.drawing.layout import Frame
from evrant.drawing.picture import taken_canvas
from evrant.drawing.svg import element, path_of, shape, text, title

LEVELS = (-4.0, -3.0, -2.0, -1.0, 0.0, 1.0, 2.0)
WEDGE = 0.9
"""Length of a beam's wedge [m]."""


MIRROR_ROWS = 72
BESIDE = 96.0
"""What the picture of the face leaves to the small plan beside it."""


class LightSheet:
    """What the overlay adds to each view of a sheet."""

    def __init__(self, lit: Lit, rows: int = 84) -> None:
        self.lit = lit
        self._rows = rows
        self._overlay = Overlay(lit)

    def plan(self, frame: Frame) -> str:
        """Contours at face height under everything, beams and lit walls over it."""
        field = self._overlay.plan()
        walls = self.lit.scene.walls
        if field is None or walls is None or self.lit.settled is None:
            return ""
        outline = frame.place(np.column_stack([walls.corners, np.zeros(walls.count)]))
        return _clipped("clip-plan", outline, _contours(frame, field)) + self._strips(frame, upright=True)

    def section(self, frame: Frame, outline: Points | None) -> str:
        field = self._overlay.section()
        if field is None or outline is None or self.lit.settled is None:
            return ""
        return _clipped("clip-section", frame.flat(outline), _contours(frame, field))

    def beams(self, frame: Frame) -> str:
        """Wedges to where each light has half and a tenth of its axis's strength, and where light must not be."""
        found = [_beam(frame, self.lit, i) for i in range(len(self.lit.beams))]
        return "".join(found) + (self._glare(frame) if frame.name == "plan" else "")

    def _glare(self, frame: Frame) -> str:
        scene = self.lit.scene
        glasses = any(s.glasses for s in scene.shot.subjects)
        key = self.lit.beams[self.lit.key].source.centre if self.lit.key is not None else None
        if key is None or not (glasses or shiny(scene)):
            return ""
        level = float(key[2])
        seen = family(scene, level) if glasses else None
        regions = ((seen,) if seen is not None else ()) if glasses else mirrored_from(scene, level)
        words = "what stands here, at the key's height, shows in the reflection"
        shapes = [
            shape(frame.place(np.column_stack([region, np.full(len(region), level)])), "glare-region")
            for region in regions
        ]
        return element("g", title(words), *shapes, class_="glare") if shapes else ""

    def _strips(self, frame: Frame, *, upright: bool) -> str:
        return "".join(_strip(frame, strip) for strip in self._overlay.strips() if upright)

    def bust(self, x: float, y: float, width: float, height: float) -> str:
        """The bust seen from the lens, or what a shiny thing mirrors, as pixels for a canvas."""
        mirror = mirrored(self.lit, MIRROR_ROWS)
        if mirror is not None:
            first = ", ".join(f"{share:.0%} {name}" for name, share in mirror.shares[:4])
            return _canvas(_mirror_pixels(mirror.picture), (x, y, width, height), f"What it mirrors: {first}")
        picture = bust(self.lit, self._rows)
        if picture is None:
            return text(x + width / 2, y + height / 2, "A key light first.", "note", text_anchor="middle")
        found = contrast(self.lit)
        words = f"the {side_word(self.lit)} side {found:.1f} stops darker" if found is not None else "lit"
        what = "The face" if self.lit.scene.shot.of_person else "A ball in its place"
        drawn = _canvas(picture.smoothed(), (x, y, width, height), f"{what} as the camera sees it, {words}")
        return drawn + self._close(x, y, width, height, words)

    def _close(self, x: float, y: float, width: float, height: float, words: str) -> str:
        """Where the computed picture of the face is painted over the bust, which stands until it is there."""
        scene = self.lit.scene
        view = close_view(self.lit)
        if view is None or not scene.shot.of_person:
            return ""
        room, label = max(width - BESIDE, width / 2), f"The face as it would be taken, {words}"
        return taken_canvas(scene, view, room, height, label, x=x, y=y, close=True)


def _mirror_pixels(picture: NDArray[np.float64]) -> NDArray[np.uint8]:
    """Brightness against white as red, green, blue and cover (rows, columns, 4)."""
    shown = ~np.isnan(picture)
    linear = np.clip(np.where(shown, picture, 0.0), 0.0, 1.0)
    grey = coded(linear)
    return np.dstack([grey * 255] * 3 + [shown * 255.0]).astype(np.uint8)


def _canvas(pixels: NDArray[np.uint8], box: tuple[float, float, float, float], words: str) -> str:
    """Pixels (rows, columns, 4) for a canvas, as large as a box (x, y, width, height) lets them be."""
    x, y, width, height = box
    tall, wide = pixels.shape[:2]
    raw = pixels.tobytes()
    scale = min(width / wide, height / tall)
    canvas = element(
        "canvas",
        xmlns="http://www.w3.org/1999/xhtml",
        class_="bust",
        width=wide,
        height=tall,
        data_pixels=base64.b64encode(raw).decode(),
        role="img",
        aria_label=words,
    ).replace("/>", "></canvas>")
    left = x + (width - wide * scale) / 2
    return element("foreignObject", canvas, x=left, y=y, width=wide * scale, height=tall * scale, class_="bust-holder")


def _clipped(name: str, outline: Points, inner: str) -> str:
    clip = element("clipPath", element("path", d=path_of(outline)), id=name)
    return clip + element("g", inner, clip_path=f"url(#{name})", class_="lightfield")


def _contours(frame: Frame, field: Field) -> str:
    """Filled bands and lines between whole stops, with their figures."""
    rows, columns = field.stops.shape
    made: Any = contour_generator(
        x=np.arange(columns), y=np.arange(rows), z=field.stops, fill_type="OuterCode", line_type="Separate"
    )
    parts = []
    edges = (-99.0, *LEVELS, 99.0)
    for band, (low, high) in enumerate(pairwise(edges)):
        polygons, codes = made.filled(low, high)
        data = "".join(
            _area(frame, field, points, code)
            for points, code in zip(polygons, codes, strict=True)
            if points is not None
        )
        if data:
            parts.append(element("path", d=data, class_=f"band band-{band}", fill_rule="evenodd"))
    for level in LEVELS:
        for ring in made.lines(level):
            spots = _mapped(frame, field, ring)
            parts.append(element("path", d=path_of(spots, closed=False), class_="iso iso-0" if level == 0 else "iso"))
            if len(spots) > 8:
                x, y = spots[len(spots) // 3]
                words = "0" if level == 0 else f"{level:+.0f}".replace("-", "−")
                parts.append(text(float(x), float(y) + 4, words, "iso-label", text_anchor="middle"))
    return "".join(parts)


def _area(frame: Frame, field: Field, points: Points, codes: NDArray[np.uint8]) -> str:
    starts = [*np.flatnonzero(codes == 1).tolist(), len(points)]
    return "".join(path_of(_mapped(frame, field, points[a:b])) for a, b in pairwise(starts))


def _mapped(frame: Frame, field: Field, ring: Points) -> Points:
    """Lattice places (column, row) to the sheet; lattices are straight, so corners decide."""
    rows, columns = field.stops.shape
    origin = field.points[0, 0]
    along = (field.points[0, -1] - origin) / (columns - 1)
    up = (field.points[-1, 0] - origin) / (rows - 1)
    return frame.place(origin + ring[:, :1] * along + ring[:, 1:] * up)


def _beam(frame: Frame, lit: Lit, index: int) -> str:
    beam = lit.beams[index]
    if beam.light is None:
        return ""
    source = beam.source
    parts = []
    for share, name in ((0.1, "tenth"), (0.5, "half")):
        angle = _angle_at(source.table, share)
        if angle >= np.pi / 2 and share < 0.2:
            continue
        rays = []
        axis = source.forward
        level = np.cross(np.array([0.0, 0.0, 1.0]), axis) if frame.name == "plan" else _level(frame, axis)
        size = np.linalg.norm(level)
        if size < 1e-6:
            continue
        level = level / size
        for turn in (-angle, angle):
            rays.append(source.centre + (np.cos(turn) * axis + np.sin(turn) * level) * WEDGE)
        spots = frame.place(np.array([rays[0], source.centre, rays[-1]]))
        parts.append(shape(spots, f"beam {name}", closed=False))
    return element("g", title(f"{beam.name}: half strength at the darker edge, a tenth at the outer"), *parts)


def _level(frame: Frame, axis: Points) -> Points:
    """A direction square to the axis in the view's own plane."""
    toward = np.cross(frame.across, frame.up)
    return np.cross(toward, axis)


def _angle_at(table: NDArray[np.float64] | None, share: float) -> float:
    """Angle from the axis at which the light has that share of its axis's strength [rad]."""
    if table is None:
        return float(np.arccos(share))
    mean = table.mean(axis=1)
    below = np.flatnonzero(mean < share * mean[0])
    return float(below[0] / (len(mean) - 1) * np.pi) if below.size else float(np.pi)


def _strip(frame: Frame, strip: Strip) -> str:
    """Upright surfaces as a line along the wall, in the colour they show as lit; each place's mean over its height."""
    found: dict[tuple[float, float, float, float], list[NDArray[np.float64]]] = {}
    for corners, colour in zip(strip.corners, strip.colour, strict=True):
        low, high = corners.min(axis=0), corners.max(axis=0)
        if high[2] - low[2] < 0.05 or not strip.path.startswith("room/walls"):
            continue
        flat = corners[:, :2]
        reach = flat - flat.mean(axis=0)
        far = int((reach**2).sum(axis=1).argmax())
        way = reach[far] / max(float(np.linalg.norm(reach[far])), 1e-9)
        a, b = flat[int((flat @ way).argmin())], flat[int((flat @ way).argmax())]
        key = tuple(round(float(v), 2) for v in (*a, *b))
        found.setdefault(key, []).append(colour)  # type: ignore[arg-type]
    parts = []
    for (ax, ay, bx, by), colours in found.items():
        a, b = frame.place(np.array([[ax, ay, 0.0], [bx, by, 0.0]]))
        parts.append(
            element(
                "line",
                x1=float(a[0]),
                y1=float(a[1]),
                x2=float(b[0]),
                y2=float(b[1]),
                class_="lit-wall",
                stroke=hex_of(np.mean(colours, axis=0)),
            )
        )
    return "".join(parts)


def hex_of(bands: NDArray[np.float64]) -> str:
    """Linear bands, 1 for a white at the subject, as a colour."""
    shown = coded(np.clip(bands, 0.0, 1.0))
    return "#" + "".join(f"{round(255 * float(v)):02x}" for v in shown)
