"""Three-dimensional packing: every piece to a place and a position, as many as the search can find.

Things are put in from above and come to rest on what is below, so that nothing ever has to be threaded under
another. A piece rests on at least seven tenths of its base, its middle over what carries it; nothing lies on a
fragile thing; a place's load and a hook's are kept. The search is a heuristic over several orders: what it
places is really placed, but what it leaves might fit by another hand.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice, product
from typing import Literal

import numpy as np
from numba import njit
from numpy.typing import NDArray

from evrant.core.stowage.pieces import Piece, Sides, Space

Rows = NDArray[np.float64]
GAP = 1e-9
RESTS = 0.7
"""Least share of a base that must rest on something; common practice, no source."""
Order = Literal["volume", "longest", "base", "small first", "used"]
ORDERS: tuple[Order, ...] = ("volume", "longest", "base", "used", "small first")
Choice = Literal["tight", "as listed"]
CHOICES: tuple[Choice, ...] = ("tight", "as listed")
LEANS = (0.3, 1.5, 0.02)
"""How much keeping to the back counts against keeping low."""


@dataclass(frozen=True, slots=True)
class Put:
    """A piece in a place: the corner left, back and below [m], and its sides across, deep and high [m]."""

    piece: Piece
    space: str
    at: Sides
    size: Sides


@dataclass(frozen=True, slots=True)
class Left:
    """A piece without a place, and why."""

    piece: Piece
    why: str


@dataclass(frozen=True)
class Packed:
    """Where everything goes, and what finds no place."""

    puts: tuple[Put, ...]
    left: tuple[Left, ...]

    def of(self, space: str) -> tuple[Put, ...]:
        return tuple(put for put in self.puts if put.space == space)


def pack(pieces: Sequence[Piece], spaces: Sequence[Space], starts: int = 30, *, first: bool = False) -> Packed:
    """The packing that places most, then most volume, then the most used things best to hand; with `first`, the first
    that leaves nothing, where one does."""
    best: Packed | None = None
    for lean, order, choice in islice(product(LEANS, ORDERS, CHOICES), max(starts, 1)):
        found = _packed(_ordered(pieces, order), _arranged(spaces, choice), lean)
        if first and not found.left:
            return found
        if best is None or _rank(found, spaces) > _rank(best, spaces):
            best = found
    assert best is not None
    return best


def _rank(packed: Packed, spaces: Sequence[Space]) -> tuple[float, float, float]:
    deep = {space.id: space.depth for space in spaces}
    hand = sum(put.piece.used * (put.at[1] + put.size[1]) / deep[put.space] for put in packed.puts)
    return len(packed.puts), round(sum(put.piece.volume for put in packed.puts), 9), hand


def _ordered(pieces: Sequence[Piece], order: Order) -> list[Piece]:
    def key(piece: Piece) -> tuple[float, ...]:
        match order:
            case "longest":
                main = (-piece.sides[0], -piece.volume)
            case "base":
                main = (-piece.sides[0] * piece.sides[1], -piece.mass)
            case "small first":
                main = (piece.volume, 0.0)
            case "used":
                main = (piece.used, -piece.volume)
            case _:
                main = (-piece.volume, -piece.mass)
        return (float(piece.fragile and order != "small first"), *main)

    return sorted(pieces, key=lambda piece: (*key(piece), piece.key))


def _arranged(spaces: Sequence[Space], choice: str) -> list[Space]:
    """Hooks and corners before what takes anything; then the smallest first, or as listed."""
    special = [space for space in spaces if space.hangs or space.kind == "corner for rolls"]
    rest = [space for space in spaces if space not in special]
    return special + (sorted(rest, key=lambda space: space.volume) if choice == "tight" else rest)


class _Filled:
    """A place as it fills up: rows x, y, z, dx, dy, dz, carries (1 or 0)."""

    def __init__(self, space: Space) -> None:
        self.space = space
        self.rows: Rows = np.zeros((0, 7))
        self.mass = 0.0
        self.next = 0.0

    def add(self, piece: Piece, at: Sides, size: Sides) -> None:
        self.rows = np.vstack([self.rows, [*at, *size, 0.0 if piece.fragile else 1.0]])
        self.mass += piece.mass
        self.next = at[0] + size[0]


def _packed(pieces: Sequence[Piece], spaces: Sequence[Space], lean: float) -> Packed:
    filled = [_Filled(space) for space in spaces]
    puts, left = [], []
    for piece in pieces:
        put = next((found for one in filled if (found := _put(piece, one, lean)) is not None), None)
        if put is None:
            left.append(Left(piece, why_not(piece, spaces)))
        else:
            puts.append(put)
    return Packed(tuple(puts), tuple(left))


def _put(piece: Piece, filled: _Filled, lean: float) -> Put | None:
    space = filled.space
    if filled.mass + piece.mass > space.load + GAP:
        return None
    place = _hung(piece, filled) if space.hangs else _laid(piece, filled, lean)
    if place is None:
        return None
    filled.add(piece, *place)
    return Put(piece, space.id, *place)


def turns(piece: Piece, kind: str) -> list[Sides]:
    """The ways a piece may stand or lie: sides across, deep, high."""
    a, b, c = piece.sides
    upright, lying = [(b, c, a), (c, b, a)], [(a, b, c), (b, a, c), (a, c, b), (c, a, b)]
    if kind == "corner for rolls" and piece.stowed == "lying":
        ways = []
    elif kind == "corner for rolls" or piece.stowed == "upright":
        ways = upright
    elif piece.stowed == "lying":
        ways = lying
    else:
        ways = lying + upright
    return list(dict.fromkeys(ways))


def _hung(piece: Piece, filled: _Filled) -> tuple[Sides, Sides] | None:
    """The next hook of the row: the thing hangs by its long side, its flat side to the wall."""
    space = filled.space
    if len(filled.rows) >= space.hooks or piece.mass > space.each + GAP or piece.stowed == "lying":
        return None
    a, b, c = piece.sides
    for wide, deep in ((b, c), (c, b)):
        fits = deep <= space.depth + GAP and a <= space.height + GAP and filled.next + wide <= space.width + GAP
        if fits:
            return (filled.next, 0.0, space.height - a), (wide, deep, a)
    return None


def _laid(piece: Piece, filled: _Filled, lean: float) -> tuple[Sides, Sides] | None:
    space = filled.space
    flat = space.kind == "corner for rolls"
    best: tuple[float, Sides, Sides] | None = None
    for way in turns(piece, space.kind):
        x, y, z, score = _rest(filled.rows, space.width, space.depth, space.height, *way, flat, lean)
        if score < 1e8 and (best is None or score < best[0] - GAP):
            best = (score, (x, y, z), way)
    return None if best is None else (best[1], best[2])


@njit(cache=True)
def _rest(  # noqa: C901
    rows: Rows, width: float, depth: float, height: float, dx: float, dy: float, dz: float, flat: bool, lean: float
) -> tuple[float, float, float, float]:  # pragma: no cover - compiled
    """The best place of one box among those at corners of what is there: lowest top, then back, then left."""
    count = len(rows)
    best = (0.0, 0.0, 0.0, 1e9)
    if dx > width + 1e-9 or dy > depth + 1e-9 or dz > height + 1e-9:
        return best
    for i in range(count + 2):
        if i == count:
            x = 0.0
        elif i == count + 1:
            x = width - dx
        else:
            x = rows[i, 0] + rows[i, 3]
        if x + dx > width + 1e-9:
            continue
        for j in range(count + 2):
            if j == count:
                y = 0.0
            elif j == count + 1:
                y = depth - dy
            else:
                y = rows[j, 1] + rows[j, 4]
            if y + dy > depth + 1e-9:
                continue
            z = 0.0
            for k in range(count):
                over_x = min(x + dx, rows[k, 0] + rows[k, 3]) - max(x, rows[k, 0])
                over_y = min(y + dy, rows[k, 1] + rows[k, 4]) - max(y, rows[k, 1])
                if over_x > 1e-9 and over_y > 1e-9:
                    z = max(z, rows[k, 2] + rows[k, 5])
            if z + dz > height + 1e-9 or (flat and z > 1e-9):
                continue
            if z > 1e-9:
                area, middle, carried = 0.0, False, True
                for k in range(count):
                    over_x = min(x + dx, rows[k, 0] + rows[k, 3]) - max(x, rows[k, 0])
                    over_y = min(y + dy, rows[k, 1] + rows[k, 4]) - max(y, rows[k, 1])
                    if over_x > 1e-9 and over_y > 1e-9:
                        if abs(rows[k, 2] + rows[k, 5] - z) < 1e-6:
                            if rows[k, 6] < 0.5:
                                carried = False
                            area += over_x * over_y
                            mid_x, mid_y = x + dx / 2, y + dy / 2
                            if (
                                rows[k, 0] - 1e-9 <= mid_x <= rows[k, 0] + rows[k, 3] + 1e-9
                                and rows[k, 1] - 1e-9 <= mid_y <= rows[k, 1] + rows[k, 4] + 1e-9
                            ):
                                middle = True
                        elif rows[k, 6] < 0.5 and rows[k, 2] + rows[k, 5] > z - 1e-3:
                            carried = False
                if not carried or not middle or area < 0.7 * dx * dy:
                    continue
            score = (z + dz) + lean * (y + dy) + 0.1 * (x + dx)
            if score < best[3] - 1e-9:
                best = (x, y, z, score)
    return best


def why_not(piece: Piece, spaces: Sequence[Space]) -> str:
    """Why a piece finds no place, in words: too long for any, too heavy, or no room left."""
    fits = [
        space
        for space in spaces
        if any(
            way[0] <= space.width + GAP and way[1] <= space.depth + GAP and way[2] <= space.height + GAP
            for way in turns(piece, space.kind)
        )
    ]
    if not spaces:
        return "no storage place is measured"
    if not fits:
        tall = piece.stowed == "upright" and any(max(s.width, s.depth) >= piece.sides[0] for s in spaces)
        leaning = [one for one in spaces if math.hypot(one.width, one.depth, one.height) > piece.sides[0] + GAP]
        if tall:
            return "it must stand upright, and no place is high enough"
        if leaning:
            return f"it lies or stands straight in no place; it would lean from corner to corner of {leaning[0].name}"
        return "it is too long for every place"
    if all(piece.mass > min(space.load, space.each) for space in fits):
        return "it is too heavy for every place it would fit into"
    return "no room is left for it"
