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
    begin: Floats


def see(
    stage: Stage,
    view: View,
    columns: int,
    rows: int,
    shift: Floats,
    begin: Floats | None = None,
    at: Whole | None = None,
) -> Seen:
    """What the rays through the pixels' middles (shifted by part of a pixel) meet; smooth bodies only at the pixels
    `at`, where they are named, and from the distances `begin` on."""
    x = ((np.arange(columns) + 0.5 + shift[0]) / columns * 2 - 1) * view.across / 2 / view.image
    y = (1 - (np.arange(rows) + 0.5 + shift[1]) / rows * 2) * view.upward / 2 / view.image
    grid_x, grid_y = np.meshgrid(x, y)
    long = view.forward + grid_x.reshape(-1, 1) * view.right + grid_y.reshape(-1, 1) * view.up
    ways = np.ascontiguousarray(long / np.linalg.norm(long, axis=1, keepdims=True))
    return _met(stage, view, columns, rows, ways, begin, at)


TILE = 6


def begun(stage: Stage, view: View, columns: int, rows: int, ways: Points) -> Floats:
    """How far each ray goes before it can meet a smooth body [m]."""
    tiles = np.empty((math.ceil(rows / TILE), math.ceil(columns / TILE)))
    eye = np.ascontiguousarray(view.eye, dtype=float)
    shapes.outreach(stage.parts, stage.groups, eye, ways, columns, rows, TILE, tiles)
    whole = np.repeat(np.repeat(tiles, TILE, axis=0), TILE, axis=1)
    return np.ascontiguousarray(whole[:rows, :columns]).ravel()


def _met(
    stage: Stage, view: View, columns: int, rows: int, ways: Points, begin: Floats | None, at: Whole | None
) -> Seen:
    n, faces = len(ways), stage.faces
    depth, face = np.full(n, 60.0), np.full(n, -1, dtype=np.int64)
    eye = np.ascontiguousarray(view.eye, dtype=float)
    boxes = boxes_of(stage, view, columns, rows)
    shown = np.flatnonzero((boxes[:, 0] <= boxes[:, 1]) & (boxes[:, 2] <= boxes[:, 3]))
    if shown.size:
        shape = faces.corners[shown], faces.counts[shown], faces.normals[shown], faces.offsets[shown], faces.both[shown]
        rays.cast(eye, ways, np.ascontiguousarray(boxes[shown]), columns, *shape, depth, face)
        face = np.where(face >= 0, shown[np.maximum(face, 0)], -1)
    normals = np.zeros((n, 3))
    flat = face >= 0
    normals[flat] = faces.normals[face[flat]]
    back = flat & (np.einsum("nc,nc->n", normals, ways) > 0)
    normals[back] *= -1
    part = np.full(n, -1, dtype=np.int64)
    if begin is None:
        begin = begun(stage, view, columns, rows, ways)
    if len(stage.groups):
        some = np.flatnonzero(begin < depth) if at is None else at[begin[at] < depth[at]]
        _march(stage, eye, ways, begin, some, depth, normals, part)
        face[part >= 0] = -1
    points = view.eye + ways * depth[:, None]
    _bend(stage, points, normals, face)
    return Seen(columns, rows, ways, points, normals, depth * (ways @ view.forward), face, part, begin)


def _march(
    stage: Stage, eye: Points, ways: Points, begin: Floats, at: Whole, depth: Floats, normals: Points, part: Whole
) -> None:
    """Smooth bodies met by the rays `at`."""
    deep, facing, row = depth[at].copy(), normals[at].copy(), part[at].copy()

    def some(k: slice) -> None:
        eyes = np.broadcast_to(eye, (len(at[k]), 3))
        far = deep[k].copy()
        shapes.march(stage.parts, stage.groups, eyes, ways[at[k]], begin[at[k]], far, deep[k], facing[k], row[k])

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


def _bend(stage: Stage, points: Points, normals: Points, face: Whole) -> None:
    """A background that runs on over floor or table bends instead of breaking."""
    if stage.seam is None:
        return
    spot, way = stage.seam
    up = np.array([0.0, 0.0, 1.0])
    if not _runs_on(stage):
        return
    for name, own, other, along in (
        ("background", way, up, up),
        ("background on the floor", up, way, way),
        ("background on the table", up, way, way),
    ):
        rows = np.flatnonzero(np.isin(face, stage.faces.numbers(name)))
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
