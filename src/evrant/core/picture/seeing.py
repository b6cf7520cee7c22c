"""What each pixel's ray meets: flat faces by their edges, smooth bodies by marching along their distance."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from evrant.core.picture import rays, shapes
from evrant.core.picture.pieces import in_pieces
from evrant.core.picture.stage import Stage
from evrant.core.space.framing import View
from evrant.core.space.solids import Points

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]
BEND = 0.22
"""Radius a background bends by onto floor or table [m]; common practice, no source."""


@dataclass(frozen=True, eq=False)
class Ahead:
    """What rays may meet of the smooth bodies: how far each goes before it can [m]; the tile of rays it belongs to; by
    tile the rows of parts (tiles, parts), those of group g from ends[g] to ends[g + 1]."""

    begin: Floats
    tiles: Whole
    some: Whole
    ends: Whole

    @classmethod
    def any_of(cls, stage: Stage, rays: int, begin: float) -> "Ahead":
        """For rays of which nothing is known."""
        ends = np.array([0, *stage.groups[:, 1]], dtype=np.int64)
        every = np.arange(len(stage.parts), dtype=np.int64)
        return cls(np.full(rays, begin), np.zeros(rays, dtype=np.int64), every[None, :], ends[None, :])


@dataclass(frozen=True, eq=False)
class Seen:
    """What each ray meets: its point and normal (n, 3), distance along the lens axis [m], number of the face or −1, row
    of the smooth part or −1; n = rows × columns."""

    columns: int
    rows: int
    ways: Points
    points: Points
    normals: Points
    depth: Floats
    face: Whole
    part: Whole
    ahead: Ahead


def see(
    stage: Stage,
    view: View,
    columns: int,
    rows: int,
    shift: Floats,
    ahead: Ahead | None = None,
    at: Whole | None = None,
) -> Seen:
    """What the rays through the pixels' middles (shifted by part of a pixel) meet; smooth bodies only at the pixels
    `at`, where they are named, and of those `ahead` alone."""
    x = ((np.arange(columns) + 0.5 + shift[0]) / columns * 2 - 1) * view.across / 2 / view.image
    y = (1 - (np.arange(rows) + 0.5 + shift[1]) / rows * 2) * view.upward / 2 / view.image
    grid_x, grid_y = np.meshgrid(x, y)
    long = view.forward + grid_x.reshape(-1, 1) * view.right + grid_y.reshape(-1, 1) * view.up
    ways = np.ascontiguousarray(long / np.linalg.norm(long, axis=1, keepdims=True))
    return _met(stage, view, columns, rows, ways, ahead, at)


TILE = 6
"""Pixels of a tile."""


def _ahead(stage: Stage, view: View, columns: int, rows: int, ways: Points) -> Ahead:
    """What the rays of each tile of a picture may meet."""
    down, across = math.ceil(rows / TILE), math.ceil(columns / TILE)
    begin = np.empty((down, across))
    some = np.zeros((down, across, max(len(stage.parts), 1)), dtype=np.int64)
    ends = np.zeros((down, across, len(stage.groups) + 1), dtype=np.int64)
    eye = np.ascontiguousarray(view.eye, dtype=float)

    def part(k: slice) -> None:
        met = begin[k], some[k], ends[k]
        shapes.outreach(stage.parts, stage.groups, eye, ways, columns, rows, TILE, k.start, *met)

    in_pieces(down, part, least=4)
    tiles = (np.arange(rows) // TILE)[:, None] * across + np.arange(columns) // TILE
    return Ahead(
        begin.ravel()[tiles.ravel()], tiles.ravel(), some.reshape(down * across, -1), ends.reshape(down * across, -1)
    )


def _met(
    stage: Stage, view: View, columns: int, rows: int, ways: Points, ahead: Ahead | None, at: Whole | None
) -> Seen:
    n, faces = len(ways), stage.faces
    depth, face = np.full(n, shapes.FARTHEST), np.full(n, -1, dtype=np.int64)
    eye = np.ascontiguousarray(view.eye, dtype=float)
    boxes = boxes_of(stage, view, columns, rows)
    shown = np.flatnonzero((boxes[:, 0] <= boxes[:, 1]) & (boxes[:, 2] <= boxes[:, 3]))
    if shown.size:
        shape = faces.corners[shown], faces.counts[shown], faces.normals[shown], faces.offsets[shown], faces.both[shown]
        rays.cast(eye, ways, np.ascontiguousarray(boxes[shown]), columns, *shape, depth, face)
        face = np.where(face >= 0, shown[np.maximum(face, 0)], -1)
    if ahead is None:
        ahead = _ahead(stage, view, columns, rows, ways)
    if at is None:
        at = np.arange(n)
    normals, part, points = np.zeros((n, 3)), np.full(n, -1, dtype=np.int64), np.zeros((n, 3))
    flat = at[face[at] >= 0]
    normals[flat] = faces.normals[face[flat]]
    back = flat[np.einsum("nc,nc->n", normals[flat], ways[flat]) > 0]
    normals[back] *= -1
    if len(stage.groups):
        _march(stage, eye, ways, ahead, at[ahead.begin[at] < depth[at]], depth, normals, part)
        face[part >= 0] = -1
    points[at] = view.eye + ways[at] * depth[at, None]
    _bend(stage, points, normals, face, at)
    return Seen(columns, rows, ways, points, normals, depth * (ways @ view.forward), face, part, ahead)


def _march(
    stage: Stage, eye: Points, ways: Points, ahead: Ahead, at: Whole, depth: Floats, normals: Points, part: Whole
) -> None:
    """Smooth bodies met by the rays `at`."""
    deep, facing, row = depth[at].copy(), normals[at].copy(), part[at].copy()

    def some(k: slice) -> None:
        here = at[k]
        eyes, may = np.broadcast_to(eye, (len(here), 3)), (ahead.some, ahead.ends, ahead.tiles[here])
        met = deep[k].copy(), deep[k], facing[k], row[k]
        shapes.march(stage.parts, stage.groups, *may, eyes, ways[here], ahead.begin[here], *met)

    in_pieces(len(at), some)
    depth[at], normals[at], part[at] = deep, facing, row


def boxes_of(stage: Stage, view: View, columns: int, rows: int) -> Whole:
    """(faces, 4) first and last column, first and last row that each face may lie in; an empty range where none."""
    faces = stage.faces
    offset = faces.corners - view.eye
    ahead = offset @ view.forward
    near = 0.02
    deep = np.maximum(ahead, near)
    x = (offset @ view.right) / deep * view.image / (view.across / 2)
    y = (offset @ view.up) / deep * view.image / (view.upward / 2)
    crossing = (ahead < near).any(axis=1)
    behind = (ahead < near).all(axis=1)
    low_x = np.where(crossing, -1.0, x.min(axis=1))
    high_x = np.where(crossing, 1.0, x.max(axis=1))
    low_y = np.where(crossing, -1.0, y.min(axis=1))
    high_y = np.where(crossing, 1.0, y.max(axis=1))
    found = np.column_stack(
        [
            np.floor((np.clip(low_x, -2, 2) + 1) / 2 * columns - 1),
            np.ceil((np.clip(high_x, -2, 2) + 1) / 2 * columns),
            np.floor((1 - np.clip(high_y, -2, 2)) / 2 * rows - 1),
            np.ceil((1 - np.clip(low_y, -2, 2)) / 2 * rows),
        ]
    )
    outside = behind | (found[:, 0] > columns - 1) | (found[:, 1] < 0) | (found[:, 2] > rows - 1) | (found[:, 3] < 0)
    found[:, 0], found[:, 2] = np.maximum(found[:, 0], 0), np.maximum(found[:, 2], 0)
    found[:, 1], found[:, 3] = np.minimum(found[:, 1], columns - 1), np.minimum(found[:, 3], rows - 1)
    found[outside] = (1, 0, 1, 0)
    return found.astype(np.int64)


def _bend(stage: Stage, points: Points, normals: Points, face: Whole, at: Whole) -> None:
    """A background that runs on over floor or table bends instead of breaking, at the pixels `at`."""
    if stage.seam is None or not _runs_on(stage):
        return
    spot, way = stage.seam
    up = np.array([0.0, 0.0, 1.0])
    of = face[at]
    for name, own, other, along in (
        ("background", way, up, up),
        ("background on the floor", up, way, way),
        ("background on the table", up, way, way),
    ):
        wanted = np.zeros(len(stage.faces.counts) + 1, dtype=np.bool_)
        wanted[stage.faces.numbers(name)] = True
        rows = at[wanted[of]]
        if not rows.size:
            continue
        far = np.clip((points[rows] - spot) @ along / BEND, 0.0, 1.0)
        turn = (1 - far) * math.pi / 4
        facing = np.sign(normals[rows] @ own)
        normals[rows] = (np.cos(turn)[:, None] * own + np.sin(turn)[:, None] * other) * facing[:, None]


def _runs_on(stage: Stage) -> bool:
    return any(name in ("background on the floor", "background on the table") for name in stage.faces.names)


def bodies_at(stage: Stage, seen: Seen) -> Whole:
    """A number for what each pixel shows: that of its face, or of its smooth body below −1."""
    body = seen.face.copy()
    smooth = seen.part >= 0
    body[smooth] = -2 - stage.group_of[seen.part[smooth]]
    return body
