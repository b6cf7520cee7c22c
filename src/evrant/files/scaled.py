"""Plan and sections in true scale: SVG and PDF for paper, DXF for drawing programs, and footprints from DXF."""

import io
import math
from collections.abc import Callable, Sequence
from html import escape
from typing import Any

from ezdxf import filemanagement
from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment
from ezdxf.lldxf.const import DXFError
from reportlab.lib.pagesizes import A0, A1, A2, A3, A4, landscape
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from evrant.core.space.strokes import Strokes
from evrant.core.studio.room import Outline
from evrant.files.document import Fault, Refused

SCALES = (10, 20, 25, 50, 100)
MARGIN, GAP, TITLE = 12.0, 14.0, 8.0
COLOURS = {
    "walls": (0.12, 0.18, 0.17),
    "openings": (0.36, 0.42, 0.40),
    "furniture": (0.55, 0.52, 0.45),
    "set": (0.12, 0.18, 0.17),
    "lights": (0.18, 0.44, 0.62),
    "subject": (0.35, 0.30, 0.25),
    "marks": (0.77, 0.54, 0.17),
    "words": (0.36, 0.42, 0.40),
}
WIDTHS = {"walls": 0.7, "openings": 0.25, "marks": 0.5}
Place = Callable[[float, float], tuple[float, float]]


def scale_for(views: Sequence[Strokes], width: float, height: float) -> int:
    """The largest usual scale (1 : n) at which the views stand one above the other on paper [mm]."""
    for n in SCALES:
        wide, high = _extent(views, n)
        if wide <= width - 2 * MARGIN and high <= height - 2 * MARGIN:
            return n
    return SCALES[-1]


def _extent(views: Sequence[Strokes], n: int) -> tuple[float, float]:
    """Width and height the views take, stacked, at 1 : n [mm]."""
    sizes = [view.size[1] - view.size[0] for view in views]
    return max(float(s[0]) for s in sizes) * 1000 / n, sum(float(s[1]) * 1000 / n + GAP + TITLE for s in sizes)


def _placed(views: Sequence[Strokes], n: int) -> list[tuple[Strokes, Place, float]]:
    """Each view with its mapping from metres to millimetres from the top left, and the height of its title."""
    found: list[tuple[Strokes, Place, float]] = []
    top = MARGIN
    for view in views:
        low, high = view.size
        bottom = top + TITLE + float(high[1] - low[1]) * 1000 / n

        def place(x: float, y: float, low: Sequence[float] = tuple(low), bottom: float = bottom) -> tuple[float, float]:
            return MARGIN + (x - low[0]) * 1000 / n, bottom - (y - low[1]) * 1000 / n

        found.append((view, place, top + 4.0))
        top = bottom + GAP
    return found


def write_svg(views: Sequence[Strokes], title: str, n: int = 20) -> str:
    """An SVG whose millimetres are millimetres on paper at 1 : n."""
    wide, high = _extent(views, n)
    width, height = wide + 2 * MARGIN, high + 2 * MARGIN
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.2f}mm" height="{height:.2f}mm" '
        f'viewBox="0 0 {width:.2f} {height:.2f}" font-family="sans-serif" font-size="2.6">',
        f"<title>{escape(title)}, scale 1 : {n}</title>",
    ]
    for view, place, top in _placed(views, n):
        parts.append(f'<g><text x="{MARGIN}" y="{top:.2f}" font-size="3.6">{escape(view.name)}, 1 : {n}</text>')
        for line in view.lines:
            points = " ".join("{:.3f},{:.3f}".format(*place(float(x), float(y))) for x, y in line.points)
            red, green, blue = (round(c * 255) for c in COLOURS[line.layer])
            tag = "polygon" if line.closed else "polyline"
            parts.append(
                f'<{tag} class="{line.layer}" points="{points}" fill="none" stroke="rgb({red},{green},{blue})" '
                f'stroke-width="{WIDTHS.get(line.layer, 0.3)}"/>'
            )
        for word in view.words:
            x, y = place(*word.at)
            parts.append(f'<text x="{x:.2f}" y="{y:.2f}" text-anchor="middle">{escape(word.text)}</text>')
        parts.append("</g>")
    return "".join([*parts, "</svg>"])


def write_pdf(views: Sequence[Strokes], title: str) -> bytes:
    """A PDF page in true scale, on the smallest A format that holds 1 : 20, else at a smaller scale on A0."""
    n, page = 20, A0
    for size in (A4, landscape(A4), A3, landscape(A3), A2, A1, A0):
        wide, high = _extent(views, n)
        if wide + 2 * MARGIN <= size[0] / mm and high + 2 * MARGIN <= size[1] / mm:
            page = size
            break
    else:
        n = scale_for(views, A0[0] / mm, A0[1] / mm)
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=page, invariant=True)
    canvas.setTitle(f"{title}, scale 1 : {n}")
    for view, place, top in _placed(views, n):
        canvas.setFillColorRGB(*COLOURS["walls"])
        canvas.setFont("Helvetica", 10)
        canvas.drawString(MARGIN * mm, page[1] - top * mm, f"{view.name}, 1 : {n}")
        for line in view.lines:
            canvas.setStrokeColorRGB(*COLOURS[line.layer])
            canvas.setLineWidth(WIDTHS.get(line.layer, 0.3) * mm)
            path = canvas.beginPath()
            for i, (x, y) in enumerate(line.points):
                px, py = place(float(x), float(y))
                (path.lineTo if i else path.moveTo)(px * mm, page[1] - py * mm)
            if line.closed:
                path.close()
            canvas.drawPath(path)
        canvas.setFont("Helvetica", 7)
        for word in view.words:
            px, py = place(*word.at)
            canvas.drawCentredString(px * mm, page[1] - py * mm, word.text)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def write_dxf(views: Sequence[Strokes]) -> str:
    """A DXF in metres: each view beside the one before, a layer for each kind of line."""
    document: Drawing = filemanagement.new("R2010", setup=False)
    document.header["$INSUNITS"] = 6
    space = document.modelspace()
    for layer in COLOURS:
        document.layers.add(layer)
    shift = 0.0
    for view in views:
        low, high = view.size
        move = shift - (0.0 if view.name == "plan" else float(low[0]))
        for line in view.lines:
            points = [(float(x) + move, float(y)) for x, y in line.points]
            space.add_lwpolyline(points, close=line.closed, dxfattribs={"layer": line.layer})
        for word in view.words:
            text = space.add_text(word.text, height=0.06, dxfattribs={"layer": "words"})
            text.set_placement((word.at[0] + move, word.at[1]), align=TextEntityAlignment.MIDDLE_CENTER)
        shift = move + float(high[0]) + 1.0
    out = io.StringIO()
    document.write(out)
    return out.getvalue()


UNITS = {0: None, 1: 0.0254, 2: 0.3048, 4: 0.001, 5: 0.01, 6: 1.0}
"""Metres per drawing unit by $INSUNITS; 0 says nothing."""


def read_footprint(raw: bytes) -> Outline:
    """The largest closed polyline of a DXF as a room's outline, from its lowest left corner on.

    A drawing that does not say its unit is taken in metres, or in millimetres when the outline would be
    larger than 60 m. Raises Refused with words.
    """
    rings = [ring for ring in _rings(_drawing(raw)) if len(ring) >= 3]
    if not rings:
        raise Refused([Fault("file", "There is no closed polyline in this drawing.")])
    ring = max(rings, key=lambda points: abs(_area(points)))
    if _area(ring) < 0:
        ring.reverse()
    low_x, low_y = min(x for x, _ in ring), min(y for _, y in ring)
    first = min(range(len(ring)), key=lambda i: ring[i][0] - low_x + ring[i][1] - low_y)
    ring = ring[first:] + ring[:first]
    corners = [{"x": round(x - low_x, 4), "y": round(y - low_y, 4)} for x, y in ring]
    return Outline.model_validate({"corners": corners})


def _drawing(raw: bytes) -> Drawing:
    try:
        return filemanagement.read(io.StringIO(raw.decode("utf-8", errors="replace")))
    except (DXFError, ValueError, KeyError, IndexError, TypeError, AttributeError, ArithmeticError) as error:
        raise Refused([Fault("file", "This is not a DXF drawing that can be read.")]) from error


def _rings(document: Drawing) -> list[list[tuple[float, float]]]:
    unit = _unit(document.header.get("$INSUNITS", 0))
    found = []
    entities: list[Any] = list(document.modelspace().query("LWPOLYLINE POLYLINE"))
    for entity in entities:
        if entity.dxftype() == "LWPOLYLINE":
            points = [(float(x), float(y)) for x, y in entity.get_points("xy")]
        else:
            points = [(float(v.dxf.location.x), float(v.dxf.location.y)) for v in entity.vertices]
        if len(points) > 3 and math.dist(points[0], points[-1]) < 1e-6:
            points.pop()
        elif not entity.is_closed:
            continue
        if all(math.isfinite(v) for point in points for v in point):
            found.append(points)
    if unit is None:
        far = max((math.dist(a, b) for ring in found for a in ring for b in ring[:1]), default=0.0)
        unit = 0.001 if far > 60 else 1.0
    return [[(x * unit, y * unit) for x, y in ring] for ring in found]


def _unit(said: object) -> float | None:
    """Metres per drawing unit; None where the drawing does not say it in a number known here."""
    return UNITS.get(int(said)) if isinstance(said, (int, float)) and math.isfinite(said) else None


def _area(points: list[tuple[float, float]]) -> float:
    ring = points[1:] + points[:1]
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, ring, strict=True)) / 2
