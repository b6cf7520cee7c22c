"""Are the room's measures consistent, and can it be made dark? Codes room.closing, room.square, room.blackout."""

import math
from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.edits.language import Add, SetFields
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import Proposal, StudioRule
from evrant.core.space.footprint import plan_of
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Part
from evrant.core.studio.room import Traverse, Window, closed_round
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

CLOSING = Line(
    "room.closing",
    "The walls close",
    "m",
    Basis(
        "distance by which the measured walls miss closing ≤ 2 · √Σ(±²); shared among the corners by the compass rule",
        "Bowditch's rule, any surveying textbook; twice the ± is the usual limit for a blunder",
        "published",
    ),
    asks="Do the measured walls close?",
    step="room",
)
SQUARE = Line(
    "room.square",
    "Diagonal …",
    "m",
    Basis(
        "difference of a measured diagonal from the one the walls give ≤ 2 cm and what the tape explains",
        "Plane geometry",
        "computed",
    ),
    asks="Does a measured diagonal agree with the walls?",
    step="room",
)
BLACKOUT = Line(
    "room.blackout",
    "Blackout of the …",
    "m",
    Basis("cloth ≥ glass + 10 cm on every side", "Common practice, no source", "common practice"),
    asks="Is there cloth to darken a window that needs it?",
    step="room",
)
OVERLAP = 0.10
OFF_SQUARE = 0.02
PACKED = {"packed_length": 0.4, "packed_width": 0.28, "packed_height": 0.06, "mass": 0.9}
EUROS = 18
"""A blackout cloth as most shops have one, and what it costs; common practice, no source."""


def margins(studio: Studio) -> Iterable[Margin]:
    """Every line about the survey itself."""
    yield from _closing(studio)
    yield from _diagonals(studio)
    for window in studio.room.windows:
        if window.blackout == "needed":
            yield from _blackout(studio, window)


def _closing(studio: Studio) -> Iterable[Margin]:
    shape = studio.room.footprint
    if not isinstance(shape, Traverse) or any(leg.length is None for leg in shape.legs) or len(shape.legs) < 3:
        return
    figures = [leg.length for leg in shape.legs if leg.length is not None]
    _, (x, y), turned = closed_round([f.value for f in figures], [leg.turn for leg in shape.legs])
    missed = math.hypot(x, y)
    allowed = 2 * math.sqrt(sum(f.pm**2 for f in figures))
    say = Say.of(studio.brief)
    angle = f" The turns miss 360° by {abs(turned):.1f}°." if abs(turned) > 0.05 else ""
    yield judge(
        CLOSING,
        ("room/footprint",),
        Estimate(allowed - missed),
        need=missed,
        have=allowed,
        clear="The measured walls close as well as a tape lets them.",
        short="The measured walls do not close.",
        reason=f"Walked round they miss the start by {say.length(missed)}; the tape explains {say.length(allowed)}. "
        f"The difference is shared among the corners.{angle}",
    )


def _diagonals(studio: Studio) -> Iterable[Margin]:
    walls = plan_of(studio.room)
    for diagonal in studio.room.diagonals:
        about = (f"room/diagonals/{diagonal.id}", "room/footprint")
        name = f"{diagonal.start}–{diagonal.end}"
        ends = [ord(letter) - ord("A") for letter in (diagonal.start, diagonal.end)]
        if diagonal.length is None or walls is None or max(ends) >= walls.count or ends[0] == ends[1]:
            find = "Measure it along the floor, from corner to corner."
            yield unknown(
                SQUARE,
                about,
                f"The diagonal {name} is missing.",
                find,
                title=f"Diagonal {name}",
            )
            continue
        first, last = walls.corners[ends[0]], walls.corners[ends[1]]
        far = float(np.linalg.norm(last - first))
        way = (last - first) / far
        shares = [Share(label, abs(float(way @ (m[ends[1]] - m[ends[0]]))) * f.pm) for label, f, m in walls.figures]
        shares.append(Share(f"diagonal {name}", diagonal.length.pm))
        off = diagonal.length.value - far
        say = Say.of(studio.brief)
        yield judge(
            SQUARE,
            about,
            Estimate(OFF_SQUARE - abs(off), tuple(s for s in shares if s.amount > 1e-9)),
            title=f"Diagonal {name}",
            need=abs(off),
            have=OFF_SQUARE,
            clear=f"The diagonal {name} agrees with the walls.",
            short=f"The diagonal {name} does not agree with the walls; a corner is not as assumed.",
            reason=f"Measured {say.length(diagonal.length.value)}, the walls give {say.length(far)}. "
            "If a second measuring says the same, enter the room by its walls and turns.",
        )


def _blackout(studio: Studio, window: Window) -> Iterable[Margin]:
    about = (f"room/windows/{window.id}",)
    title = f"Blackout of the {window.name.lower()}"
    if window.width is None or window.height is None:
        find = "Measure the glass."
        yield unknown(
            BLACKOUT,
            about,
            f"The size of the {window.name.lower()} is missing.",
            find,
            title=title,
        )
        return
    wide, high = window.width.value + 2 * OVERLAP, window.height.value + 2 * OVERLAP
    cloths = [
        min(item.width.value - wide, item.height.value - high)
        for item in studio.gear
        if isinstance(item, Part) and item.use == "blackout" and item.width and item.height
    ]
    best = max(cloths, default=-min(wide, high))
    say = Say.of(studio.brief)
    yield judge(
        BLACKOUT,
        about,
        Estimate(best, (Share("size of the window", math.hypot(window.width.pm, window.height.pm) / 2**0.5),)),
        title=title,
        need=min(wide, high),
        have=min(wide, high) + best,
        clear=f"There is cloth enough to darken the {window.name.lower()}.",
        short=f"Nothing in the kit darkens the {window.name.lower()}.",
        reason=f"It takes {say.length(wide)} × {say.length(high)}, with {say.length(OVERLAP)} over on every side.",
    )


def blackout_cloth(studio: Studio, window: Window) -> Add | None:
    """Cloth for a window, to be bought; None while the size of the glass is missing."""
    if window.width is None or window.height is None:
        return None
    wide, high = (round(side.value + 2 * OVERLAP + 0.05, 2) for side in (window.width, window.height))
    say = Say.of(studio.brief)
    name = f"Blackout cloth {say.length(wide)} × {say.length(high)}"
    size = {"name": name, "width": wide, "height": high, **PACKED}
    return to_buy(studio, EUROS, kind="part", id=f"blackout-{window.id}"[:48], use="blackout", **size)


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Plan a cloth for the window, or say that it is dark already."""
    if margin.code != "room.blackout":
        return
    window = by_id(studio.room.windows, margin.about[0].split("/")[-1])
    if window is None:
        return
    cloth = blackout_cloth(studio, window)
    if cloth is not None:
        name = str(cloth.item["name"])
        yield Proposal(f"Plan a {name[0].lower()}{name[1:]}", cloth)
    target = f"room/windows/{window.id}"
    yield Proposal("It is dark already", SetFields(target=target, fields={"blackout": "in place"}))


RULE = StudioRule(
    "survey",
    margins,
    (
        CLOSING,
        SQUARE,
        BLACKOUT,
    ),
    propose,
)
