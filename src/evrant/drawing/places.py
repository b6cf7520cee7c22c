"""A storage place seen from the front and a little from above and the side, each thing a numbered box to scale."""

from collections.abc import Callable, Sequence

from evrant.core.stowage.packing import Put
from evrant.core.stowage.pieces import Space
from evrant.core.studio.words import Say
from evrant.drawing.svg import element, number, shape, text, title

OnSheet = Callable[[float, float, float], tuple[float, float]]
"""A point of the place [m] on the sheet."""
LEAN = (0.42, 0.26)
"""How far a metre of depth moves a point to the right and up, as shares of a metre."""
MARGIN = 34.0
FONT = 12.0


def place_drawing(space: Space, puts: Sequence[Put], numbers: dict[str, int], say: Say, height: float = 560.0) -> str:
    """The place with what lies in it. `numbers` name the things in the list beside it."""
    wide = space.width + LEAN[0] * space.depth
    high = space.height + LEAN[1] * space.depth
    scale = min((height - 2 * MARGIN) / high, 400.0 / wide)
    width = wide * scale + 2 * MARGIN + 40

    def at(x: float, y: float, z: float) -> tuple[float, float]:
        back = space.depth - y
        return (
            MARGIN + 26 + (x + LEAN[0] * back) * scale,
            height - MARGIN - (z + LEAN[1] * back) * scale,
        )

    parts = [_shell(space, at)]
    for put in sorted(puts, key=lambda p: (p.at[1] + p.size[1], p.at[2], -p.at[0])):
        parts.append(_box(put, at, numbers[put.piece.key]))
    low = height - MARGIN + 16
    parts.append(
        text(at(space.width / 2, space.depth, 0)[0], low, say.length(space.width), "measure", text_anchor="middle")
    )
    side = at(0, space.depth, space.height / 2)
    parts.append(text(side[0] - 6, side[1], say.length(space.height), "measure", text_anchor="end"))
    return element(
        "svg",
        title(f"{space.name}: {len(puts)} things"),
        *parts,
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"0 0 {number(width)} {number(height)}",
        width=width,
        height=height,
        class_="place",
        role="img",
    )


def _shell(space: Space, at: OnSheet) -> str:
    """Back, floor and side of the place, in hairlines."""
    w, d, h = space.width, space.depth, space.height
    faces = (
        [(0, 0, 0), (w, 0, 0), (w, 0, h), (0, 0, h)],
        [(0, 0, 0), (w, 0, 0), (w, d, 0), (0, d, 0)],
        [(w, 0, 0), (w, d, 0), (w, d, h), (w, 0, h)],
        [(0, 0, 0), (0, d, 0), (0, d, h), (0, 0, h)],
    )
    drawn = "".join(shape([at(*corner) for corner in face], "shell") for face in faces)
    if space.hangs:
        drawn += shape([at(0, 0, h), at(w, 0, h)], "rail-line", closed=False)
    return drawn


def _box(put: Put, at: OnSheet, label: int) -> str:
    (x, y, z), (dx, dy, dz) = put.at, put.size
    front = [(x, y + dy, z), (x + dx, y + dy, z), (x + dx, y + dy, z + dz), (x, y + dy, z + dz)]
    top = [(x, y, z + dz), (x + dx, y, z + dz), (x + dx, y + dy, z + dz), (x, y + dy, z + dz)]
    side = [(x + dx, y, z), (x + dx, y + dy, z), (x + dx, y + dy, z + dz), (x + dx, y, z + dz)]
    middle = at(x + dx / 2, y + dy, z + dz / 2)
    kind = "box fragile" if put.piece.fragile else "box"
    faces = "".join(
        shape([at(*corner) for corner in face], f"side-of-box {name}")
        for face, name in ((side, "side"), (top, "top"), (front, "front"))
    )
    words = text(middle[0], middle[1] + FONT / 3, str(label), "box-number", text_anchor="middle")
    return element("g", title(put.piece.name), faces, words, class_=kind, data_thing=put.piece.key)
