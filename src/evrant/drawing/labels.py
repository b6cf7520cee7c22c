"""Words in a drawing, moved until none lies over another or outside: those that matter most keep their places.

Works on finished markup: each `text` element's box follows from the font's widths; a label in the way goes to the
nearest free place, names of walls along their walls, and what may be left out is left out.
"""

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

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
NOTE_SIZE = 12.5
_ORDER = ("view-title", "pattern", "tape", "corner", "north-letter", "readout", "conflict-label", "light-name")
_LATER = ("dimension-label", "wall-name", "note", "iso-label", "cable-label")
_RANKS = {name: rank for rank, name in enumerate((*_ORDER, *_LATER))}
_FIXED = frozenset({"view-title", "pattern", "tape", "readout"})
_LEFT_OUT = frozenset({"iso-label", "along"})
"""May be left out where no place is free: the lines they name stay. `along`: belongs to a slanting line or side."""
_NEAR = 3
"""How many steps of `_ALONG` a label that may be left out goes."""
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
        return next((_SIZES[name] for name in self.kind.split() if name in _SIZES), NOTE_SIZE)

    @cached_property
    def box(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of the words [px]."""
        size, wide = self.size, width(self.words) * self.size
        if any(name in self.kind for name in ("corner", "title", "letter", "conflict", "iso", "light-name", "pattern")):
            wide *= _BOLD
        anchor = "middle" if 'text-anchor="middle"' in self.rest else "end" if 'text-anchor="end"' in self.rest else ""
        left = -wide / 2 if anchor == "middle" else -wide if anchor == "end" else 0.0
        low, high = -_UP * size, _DOWN * size
        if not self.turn:
            return self.x + left, self.y + low, self.x + left + wide, self.y + high
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        spots = [(x * c - y * s, x * s + y * c) for x in (left, left + wide) for y in (low, high)]
        across, down = zip(*spots, strict=True)
        return self.x + min(across), self.y + min(down), self.x + max(across), self.y + max(down)


@lru_cache(4096)
def width(words: str) -> float:
    """How wide words are, as a multiple of the font's size."""
    plain = _MARKUP.sub('"', words)
    return sum(_WIDE.get(c) or _NARROW.get(c) or (_CAPITAL if c.isupper() else _USUAL) for c in plain) / 1000


def settled(markup: str, bounds: tuple[float, float, float, float] = ANYWHERE) -> str:
    """The markup with its labels moved apart and inside `bounds` (left, top, right, bottom) [px]."""
    labels = sorted(_read(markup), key=lambda one: one.rank)
    placed, count = np.zeros((len(labels), 4)), 0
    changed: list[tuple[_Label, _Label | None]] = []
    for label in labels:
        found: _Label | None = label
        if not _is(label, _FIXED) and not _is_free(label.box, placed[:count], bounds):
            found = _place(label, placed[:count], bounds)
            changed.append((label, found))
        if found is not None:
            placed[count] = found.box
            count += 1
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


def _is_free(box: tuple[float, float, float, float], placed: Boxes, bounds: tuple[float, float, float, float]) -> bool:
    left, top, right, bottom = box
    if left < bounds[0] or top < bounds[1] or right > bounds[2] or bottom > bounds[3]:
        return False
    beside = (placed[:, 2] + _APART <= left) | (placed[:, 0] - _APART >= right)
    return bool((beside | (placed[:, 3] + _APART <= top) | (placed[:, 1] - _APART >= bottom)).all())


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
    if _is(label, _LEFT_OUT):
        return np.vstack([np.zeros((1, 2)), *([way * step, -way * step] for step in _ALONG[:_NEAR])])
    along = np.vstack([[way * step, -way * step] for step in _ALONG])
    return np.vstack([np.zeros((1, 2)), along, round_])


def _written(label: _Label) -> str:
    x, y = number(label.x), number(label.y)
    rest = label.rest
    if label.turn:
        rest = _TURN.sub(f' transform="rotate({number(label.turn)} {x} {y})"', rest)
    return f'<text x="{x}" y="{y}" class="{label.kind}"{rest}>{label.words}</text>'
