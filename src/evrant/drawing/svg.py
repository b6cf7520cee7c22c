"""Small helpers to write SVG: escaped attributes, paths, text. Styling is by class only."""

from collections.abc import Iterable, Sequence
from functools import cache
from html import escape

import numpy as np
import shapely

from evrant.core.space.solids import Points

POLYGON = 3


def element(tag: str, *children: str, **attributes: object) -> str:
    """An element. Children are markup already; text goes through `text` or `title`.

    A trailing underscore is dropped from names, other underscores become hyphens.
    """
    words = "".join(
        [f' {_name(name)}="{_text(name, value)}"' for name, value in attributes.items() if value is not None]
    )
    return f"<{tag}{words}>{''.join(children)}</{tag}>" if children else f"<{tag}{words}/>"


@cache
def _name(name: str) -> str:
    return name.rstrip("_").replace("_", "-")


def _text(name: str, value: object) -> str:
    if isinstance(value, float):
        return number(value)
    return str(value) if name == "d" or isinstance(value, int) else escape(str(value))


def number(value: float) -> str:
    """A coordinate with one decimal: a tenth of a pixel."""
    text = f"{value:.1f}"
    return text[:-2] if text.endswith(".0") else text


def text(x: float, y: float, words: str, class_: str, **attributes: object) -> str:
    return element("text", escape(words), x=float(x), y=float(y), class_=class_, **attributes)


def title(words: str) -> str:
    """The name of what it stands in, for pointing at and for screen readers."""
    return element("title", escape(words))


def line(a: Sequence[float], b: Sequence[float], class_: str) -> str:
    return element("line", x1=float(a[0]), y1=float(a[1]), x2=float(b[0]), y2=float(b[1]), class_=class_)


def path_of(points: Iterable[Sequence[float]], *, closed: bool = True) -> str:
    """Path data through points."""
    plain = points.tolist() if isinstance(points, np.ndarray) else points
    pairs = [f"{x:.1f} {y:.1f}" for x, y in plain]
    return ("M" + "L".join(pairs) + ("Z" if closed else "")) if pairs else ""


def shape(points: Iterable[Sequence[float]], class_: str, *, closed: bool = True) -> str:
    return element("path", d=path_of(points, closed=closed), class_=class_)


GRID = 1e-3
"""Of a point of the drawing: what outlines are rounded to where their exact union fails."""


def _united(polygons: Sequence[shapely.Polygon]) -> shapely.Geometry:
    try:
        return shapely.union_all(polygons)
    except shapely.GEOSException:
        sound = shapely.make_valid(shapely.set_precision(shapely.make_valid(np.array(polygons, dtype=object)), GRID))
        try:
            return shapely.union_all(sound, grid_size=GRID)
        except shapely.GEOSException:
            return shapely.GeometryCollection(polygons)


def union_path(outlines: Sequence[Points]) -> str:
    """Path data of the union of convex outlines: a true silhouette."""
    polygons = [shapely.Polygon(outline) for outline in outlines if len(outline) >= 4]
    whole = shapely.get_parts(_united(polygons))
    rings = shapely.get_rings(whole[shapely.get_type_id(whole) == POLYGON])
    return "".join(path_of(shapely.get_coordinates(ring)[:-1].tolist()) for ring in rings)
