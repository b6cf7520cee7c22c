"""Words in a drawing, moved until none lies over another or outside: those that matter most keep their places.

Works on finished markup: each `text` element's box follows from the font's widths; a label in the way goes to the
nearest free place, names of walls along their walls, and what may be left out is left out.
"""

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from evrant.drawing.svg import number

_TEXT = re.compile(r'<text x="([^"]+)" y="([^"]+)" class="([^"]*)"([^>]*)>([^<]*)</text>')
_TURN = re.compile(r' transform="rotate\(([-\d.]+) [-\d.]+ [-\d.]+\)"')
_MARKUP = re.compile(r"&#?\w+;")
# Widths of the drawing's font in thousandths of its size, as a browser measures them; other signs as a digit.
_WIDE = {"%": 824, "@": 847, "m": 829, "W": 786, "M": 727, "w": 719, "…": 948, "½": 808, "¼": 781, "¾": 796}
_NARROW = dict.fromkeys(" ", 200) | dict.fromkeys("ijlI|'′.,:;·!", 260) | dict.fromkeys("()[]{}frt-/°", 330)
_USUAL, _CAPITAL, _BOLD = 510, 580, 1.04
_SIZES = {"wall-name": 11.5, "corner": 11.0, "north-letter": 11.0, "iso-label": 11.0, "tape": 12.0, "view-title": 14.5}
_USUAL_SIZE = 12.5
_ORDER = ("view-title", "pattern", "tape", "corner", "north-letter", "readout", "conflict-label", "light-name")
_LATER = ("dimension-label", "wall-name", "note", "iso-label", "cable-label")
_RANKS = {name: rank for rank, name in enumerate((*_ORDER, *_LATER))}
_FIXED = frozenset({"view-title", "pattern", "tape", "readout"})
_LEFT_OUT = frozenset({"iso-label"})
"""May be left out where no place is free: the lines they name stay."""
_UP, _DOWN = 0.74, 0.22
"""What letters take above and under their line, as shares of their size."""
_APART = 1.5
"""Air between two labels [px]."""
_WAYS = np.array([[math.cos(a), math.sin(a)] for a in np.arange(8) * math.pi / 4])
_RINGS = (8.0, 13.0, 18.0, 25.0, 34.0, 46.0, 62.0)
_ALONG = (14.0, 28.0, 44.0, 62.0, 84.0, 110.0, 140.0, 180.0)

Boxes = NDArray[np.float64]
ANYWHERE = (-1e6, -1e6, 1e6, 1e6)


@dataclass(frozen=True)
class _Label:
    """A text element: where it is in the markup, its place, kind, size of its words and how it is turned."""

    start: int
    end: int
    x: float
    y: float
    kind: str
    rest: str
    words: str
    turn: float
    rank: int

    @property
    def size(self) -> float:
        return next((_SIZES[name] for name in self.kind.split() if name in _SIZES), _USUAL_SIZE)

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of the words [px]."""
        size, wide = self.size, width(self.words) * self.size
        if any(name in self.kind for name in ("corner", "title", "letter", "conflict", "iso", "light-name", "pattern")):
            wide *= _BOLD
        anchor = "middle" if 'text-anchor="middle"' in self.rest else "end" if 'text-anchor="end"' in self.rest else ""
        left = -wide / 2 if anchor == "middle" else -wide if anchor == "end" else 0.0
        corners = np.array([[left, -_UP * size], [left + wide, _DOWN * size]])
        if self.turn:
            a = math.radians(self.turn)
            x, y = corners[[0, 1, 1, 0], 0], corners[[0, 0, 1, 1], 1]
            corners = np.column_stack([x * math.cos(a) - y * math.sin(a), x * math.sin(a) + y * math.cos(a)])
        low, high = corners.min(axis=0), corners.max(axis=0)
        return self.x + low[0], self.y + low[1], self.x + high[0], self.y + high[1]


def width(words: str) -> float:
    """How wide words are, as a multiple of the font's size."""
    plain = _MARKUP.sub('"', words)
    return sum(_WIDE.get(c) or _NARROW.get(c) or (_CAPITAL if c.isupper() else _USUAL) for c in plain) / 1000


def settled(markup: str, bounds: tuple[float, float, float, float] = ANYWHERE) -> str:
    """The markup with its labels moved apart and inside `bounds` (left, top, right, bottom) [px]."""
    labels = sorted(_read(markup), key=lambda one: one.rank)
    placed = np.zeros((0, 4))
    changed: list[tuple[_Label, _Label | None]] = []
    for label in labels:
        found = label if _is(label, _FIXED) else _place(label, placed, bounds)
        if found is not label:
            changed.append((label, found))
        if found is not None:
            placed = np.vstack([placed, found.box])
    for old, new in sorted(changed, key=lambda pair: -pair[0].start):
        markup = markup[: old.start] + ("" if new is None else _written(new)) + markup[old.end :]
    return markup


def _is(label: _Label, kinds: frozenset[str]) -> bool:
    return not kinds.isdisjoint(label.kind.split())


def _read(markup: str) -> Iterator[_Label]:
    for one in _TEXT.finditer(markup):
        x, y, kind, rest, words = one.groups()
        turned = _TURN.search(rest)
        if "transform" in rest and turned is None:
            continue
        ranks = [_RANKS[name] for name in kind.split() if name in _RANKS and name != "note"]
        rank = min(ranks, default=_RANKS["note"])
        turn = float(turned.group(1)) if turned else 0.0
        yield _Label(one.start(), one.end(), float(x), float(y), kind, rest, words, turn, rank)


def _place(label: _Label, placed: Boxes, bounds: tuple[float, float, float, float]) -> _Label | None:
    """The label where it is, or as near as it is free; where nothing is, as it was, or None for what may go."""
    steps = _steps(label)
    boxes = np.array(label.box) + np.hstack([steps, steps])
    inside = (
        (boxes[:, 0] >= bounds[0])
        & (boxes[:, 1] >= bounds[1])
        & (boxes[:, 2] <= bounds[2])
        & (boxes[:, 3] <= bounds[3])
    )
    air = placed + np.array([-_APART, -_APART, _APART, _APART])
    wide = np.minimum(boxes[:, None, 2], air[None, :, 2]) - np.maximum(boxes[:, None, 0], air[None, :, 0])
    tall = np.minimum(boxes[:, None, 3], air[None, :, 3]) - np.maximum(boxes[:, None, 1], air[None, :, 1])
    over = (np.maximum(wide, 0.0) * np.maximum(tall, 0.0)).sum(axis=1)
    free = inside & (over <= 0.0)
    if not free.any():
        if _is(label, _LEFT_OUT):
            return None
        free = over + 1e4 * ~inside <= (over + 1e4 * ~inside).min()
    dx, dy = steps[int(np.argmax(free))]
    return label if not dx and not dy else replace(label, x=label.x + float(dx), y=label.y + float(dy))


def _steps(label: _Label) -> Boxes:
    """Where it may go, nearest first: along its own line for what runs along a wall, all round for the rest."""
    round_ = np.vstack([_WAYS * ring for ring in _RINGS])
    if "wall-name" not in label.kind and not label.turn:
        return np.vstack([np.zeros((1, 2)), round_])
    a = math.radians(label.turn)
    way = np.array([math.cos(a), math.sin(a)])
    along = np.vstack([[way * step, -way * step] for step in _ALONG])
    return np.vstack([np.zeros((1, 2)), along, round_])


def _written(label: _Label) -> str:
    x, y = number(label.x), number(label.y)
    rest = label.rest
    if label.turn:
        rest = _TURN.sub(f' transform="rotate({number(label.turn)} {x} {y})"', rest)
    return f'<text x="{x}" y="{y}" class="{label.kind}"{rest}>{label.words}</text>'
