"""An independent look at a packing, and a simple shelf heuristic to compare it with."""

from collections.abc import Sequence

from evrant.core.stowage.packing import Put
from evrant.core.stowage.pieces import Piece, Space

SMALL = 1e-6


def _overlap(a: Put, b: Put) -> float:
    volume = 1.0
    for axis in range(3):
        low = max(a.at[axis], b.at[axis])
        high = min(a.at[axis] + a.size[axis], b.at[axis] + b.size[axis])
        volume *= max(high - low, 0.0)
    return volume


def faults(puts: Sequence[Put], space: Space) -> list[tuple[Put, str]]:
    """Everything wrong with what lies in a place, thing by thing, without the packing's own code."""
    found = []
    mass = 0.0
    for number, put in enumerate(puts):
        mass += put.piece.mass
        if sorted(round(side, 9) for side in put.size) != sorted(round(side, 9) for side in put.piece.sides):
            found.append((put, "not its size"))
        inside = (space.width, space.depth, space.height)
        if any(put.at[i] < -SMALL or put.at[i] + put.size[i] > inside[i] + SMALL for i in range(3)):
            found.append((put, "outside"))
        if any(_overlap(put, other) > 1e-9 for other in puts[:number]):
            found.append((put, "overlaps"))
        if not space.hangs:
            found += [(put, words) for words in _rests(put, puts)]
        elif put.piece.mass > space.each + SMALL:
            found.append((put, "too heavy for a hook"))
        tall = max(put.piece.sides)
        if put.piece.stowed == "upright" and abs(put.size[2] - tall) > SMALL:
            found.append((put, "lies instead of standing"))
        if put.piece.stowed == "lying" and max(put.size[:2]) < tall - SMALL:
            found.append((put, "stands instead of lying"))
    if mass > space.load + SMALL:
        found.append((puts[-1], "too much weight"))
    if space.hangs and len(puts) > space.hooks:
        found.append((puts[-1], "too few hooks"))
    return found


def _rests(put: Put, puts: Sequence[Put]) -> list[str]:
    """Sampled on a grid of the base: seven tenths must lie on something, the middle too, nothing on fragile things."""
    if put.at[2] < SMALL:
        return []
    below = [o for o in puts if o is not put and abs(o.at[2] + o.size[2] - put.at[2]) < 1e-5]
    grid = 40
    held = 0
    for i in range(grid):
        for j in range(grid):
            x = put.at[0] + (i + 0.5) / grid * put.size[0]
            y = put.at[1] + (j + 0.5) / grid * put.size[1]
            held += any(_over(other, x, y) for other in below)
    mid = (put.at[0] + put.size[0] / 2, put.at[1] + put.size[1] / 2)
    middle = any(_over(other, *mid) for other in below)
    words = []
    if held < (0.7 - 0.03) * grid * grid:
        words.append("hangs in the air")
    if not middle:
        words.append("its middle hangs in the air")
    for other in below:
        across = min(put.at[0] + put.size[0], other.at[0] + other.size[0]) - max(put.at[0], other.at[0])
        deep = min(put.at[1] + put.size[1], other.at[1] + other.size[1]) - max(put.at[1], other.at[1])
        if other.piece.fragile and across > SMALL and deep > SMALL:
            words.append("lies on a fragile thing")
    return words


def _over(other: Put, x: float, y: float) -> bool:
    across = other.at[0] - SMALL <= x <= other.at[0] + other.size[0] + SMALL
    return across and other.at[1] - SMALL <= y <= other.at[1] + other.size[1] + SMALL


def shelves(pieces: Sequence[Piece], spaces: Sequence[Space]) -> list[Put]:
    """Rows on shelves, largest first, each thing flat on its largest side: what a person would try first.

    It knows no mass, support, hooks or fragility.
    """
    puts: list[Put] = []
    rest = sorted(pieces, key=lambda piece: -piece.volume)
    for space in spaces:
        x = y = z = row = layer = 0.0
        left = []
        for piece in rest:
            size = piece.sides if piece.stowed != "upright" else (piece.sides[2], piece.sides[1], piece.sides[0])
            if x + size[0] > space.width + SMALL:
                x, y, row = 0.0, y + row, 0.0
            if y + size[1] > space.depth + SMALL:
                x, y, z, row, layer = 0.0, 0.0, z + layer, 0.0, 0.0
            fits = x + size[0] <= space.width + SMALL and y + size[1] <= space.depth + SMALL
            if not fits or z + size[2] > space.height + SMALL:
                left.append(piece)
                continue
            puts.append(Put(piece, space.id, (x, y, z), size))
            x, row, layer = x + size[0], max(row, size[1]), max(layer, size[2])
        rest = left
    return puts


def allowed(puts: Sequence[Put], spaces: Sequence[Space]) -> list[Put]:
    """What is left of a placement when everything that is not allowed has been taken out, again and again."""
    kept: list[Put] = []
    for space in spaces:
        here = [put for put in puts if put.space == space.id]
        while here and (wrong := faults(here, space)):
            bad = {id(put) for put, _ in wrong}
            here = [put for put in here if id(put) not in bad]
        kept += here
    return kept
