"""IES LM-63 photometric files (1986 to 2019) read into a table the core can use.

Real files are untidy: keyword lines of any kind or none, TILT tables, numbers broken over lines anywhere,
commas, byte-order marks, DOS line ends, missing final line. What cannot be understood is refused with words.
Reference: ANSI/IES LM-63-02, order of the figures after TILT. Types A and B are refused, not guessed.
"""

import re
from hashlib import sha256

import numpy as np
from numpy.typing import NDArray

from evrant.core.studio.gear import Distribution
from evrant.files.document import Fault, Refused

LARGEST = 2_000_000
MOST_ANGLES = 361
FEET = 0.3048
LEAST_LUMENS, MOST_LUMENS = 1e-3, 1e9


def read_photometric(raw: bytes) -> Distribution:
    """The distribution in an IES file. Raises Refused with what is wrong."""
    if len(raw) > LARGEST:
        raise _refused("The file is larger than 2 MB; a photometric file is not.")
    text = raw.decode("latin-1").lstrip("\ufeff").removeprefix("ï»¿")
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    start = next((i for i, line in enumerate(lines) if re.match(r"\s*TILT\s*=", line, re.I)), None)
    if start is None:
        raise _refused("There is no TILT line: this is not an IES LM-63 file, or its head is cut off.")
    tilt = lines[start].split("=", 1)[1].strip().upper()
    numbers = _Numbers("\n".join(lines[start + 1 :]))
    if tilt == "INCLUDE":
        numbers.take(1, "the lamp's position")
        pairs = numbers.whole("the number of tilt angles", 1, 1000)
        numbers.take(2 * pairs, "the tilt table")
    elif tilt not in ("NONE", ""):
        raise _refused(f"The tilt table lies in another file ({tilt.lower()}), which a single file cannot bring along.")
    return _body(numbers, sha256(raw).hexdigest())


def _body(numbers: "_Numbers", digest: str) -> Distribution:
    numbers.whole("the number of lamps", 0, 1000)
    per_lamp, factor = numbers.take(2, "lumens per lamp and multiplier")
    if per_lamp == 0 or factor == 0:
        raise _refused("Lumens per lamp or the multiplier are zero: the table gives no light.")
    vertical_count = numbers.whole("the number of vertical angles", 2, MOST_ANGLES)
    horizontal_count = numbers.whole("the number of horizontal angles", 1, MOST_ANGLES)
    kind = numbers.whole("the photometric type", 1, 3)
    if kind != 1:
        raise _refused(f"The table is of type {'BA'[kind - 2]}; only type C is read.")
    unit = numbers.whole("the unit of length", 1, 2)
    width, length, _height = numbers.take(3, "the luminous dimensions")
    ballast, _future, _watts = numbers.take(3, "ballast factor and watts")
    vertical = numbers.take(vertical_count, "the vertical angles")
    horizontal = numbers.take(horizontal_count, "the horizontal angles")
    candela = np.array([numbers.take(vertical_count, f"the candelas at side {i + 1}") for i in range(horizontal_count)])
    _check(np.array(vertical), np.array(horizontal))
    candela *= factor * (ballast or 1.0)
    if not np.isfinite(candela).all() or (candela < 0).any():
        raise _refused("Some candela figures are negative or not numbers.")
    lumens = flux_of(np.array(vertical), np.array(horizontal), candela)
    if lumens <= 0:
        raise _refused("The table gives no light at all (zero lumens).")
    if not LEAST_LUMENS <= lumens <= MOST_LUMENS:
        raise _refused(f"The table gives {lumens:.3g} lumens; no lamp does.")
    scale = FEET if unit == 1 else 1.0
    return Distribution(
        sha256=digest,
        lumens=round(lumens, 6),
        vertical=tuple(vertical),
        horizontal=tuple(horizontal),
        candela=tuple(tuple(round(float(v), 6) for v in row) for row in candela),
        width=round(min(abs(width) * scale, 20.0), 6),
        height=round(min(abs(length) * scale, 20.0), 6),
    )


def _check(vertical: NDArray[np.float64], horizontal: NDArray[np.float64]) -> None:
    if (np.diff(vertical) <= 0).any() or (np.diff(horizontal) <= 0).any():
        raise _refused("The angles do not rise.")
    if vertical[0] < -1e-6 or vertical[-1] > 180 + 1e-6:
        raise _refused("Vertical angles of type C lie between 0° and 180°.")
    if horizontal[0] < -1e-6 or horizontal[-1] > 360 + 1e-6:
        raise _refused("Horizontal angles lie between 0° and 360°.")


def flux_of(vertical: NDArray[np.float64], horizontal: NDArray[np.float64], candela: NDArray[np.float64]) -> float:
    """Luminous flux of a type C table [lm]: intensity linear between the angles, its symmetry repeated.

    Zones between vertical angles are integrated exactly for intensity linear in the angle.
    """
    weights = _side_weights(horizontal)
    mean = weights @ candela
    a, b = np.radians(vertical[:-1]), np.radians(vertical[1:])
    low, high = mean[:-1], mean[1:]
    slope = (high - low) / (b - a)
    # ∫ (low + slope (t − a)) sin t dt
    inner = low * (np.cos(a) - np.cos(b)) + slope * (np.sin(b) - np.sin(a) - (b - a) * np.cos(b))
    return float(2 * np.pi * inner.sum())


def _side_weights(horizontal: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of the whole turn each side stands for."""
    if len(horizontal) == 1:
        return np.ones(1)
    span = horizontal[-1] - horizontal[0]
    if span > 180 + 1e-6 and span < 360 - 1e-6:
        gaps = np.diff(np.append(horizontal, horizontal[0] + 360))
        return np.asarray((gaps + np.roll(gaps, 1)) / 2 / 360)
    gaps = np.diff(horizontal)
    weights = np.zeros(len(horizontal))
    weights[:-1] += gaps / 2
    weights[1:] += gaps / 2
    return np.asarray(weights / span)


class _Numbers:
    """Figures one after another, wherever the lines break."""

    def __init__(self, text: str) -> None:
        self._words = re.split(r"[\s,;]+", text.strip()) if text.strip() else []
        self._at = 0

    def take(self, count: int, what: str) -> list[float]:
        if self._at + count > len(self._words):
            raise _refused(f"The file ends too early: {what} cannot be read. It may have been cut in half.")
        found = []
        for word in self._words[self._at : self._at + count]:
            try:
                figure = float(word.replace("D", "E").replace("d", "e"))
            except ValueError:
                figure = float("nan")
            if not np.isfinite(figure):
                raise _refused(f"“{word[:20]}” stands where {what} should be.")
            found.append(figure)
        self._at += count
        return found

    def whole(self, what: str, low: int, high: int) -> int:
        number = self.take(1, what)[0]
        if number != int(number) or not low <= number <= high:
            raise _refused(f"{number:g} cannot be {what}.")
        return int(number)


def _refused(message: str) -> Refused:
    return Refused([Fault("file", message)])


def write_photometric(table: Distribution, name: str) -> str:
    """The distribution as an LM-63-2002 file."""
    lines = ["IESNA:LM-63-2002", f"[LUMINAIRE] {name}", "TILT=NONE"]
    lines.append(f"1 -1 1 {len(table.vertical)} {len(table.horizontal)} 1 2 {table.width:g} {table.height:g} 0")
    lines.append("1 1 0")
    for row in (table.vertical, table.horizontal, *table.candela):
        lines += [" ".join(f"{v:g}" for v in row[i : i + 10]) for i in range(0, len(row), 10)]
    return "\n".join(lines) + "\n"
