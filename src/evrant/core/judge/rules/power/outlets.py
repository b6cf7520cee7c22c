"""Sockets of a set: how much is plugged into each, and how near water is. Codes power.socket, power.water."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.tables.countries import MAINS, SPLASH, WET_SOURCE
from evrant.core.base.units import show_number
from evrant.core.judge.rules.power import wiring
from evrant.core.judge.rules.power.wiring import Together
from evrant.core.judge.rules.rule import SetRule
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.space.things import box_thing
from evrant.core.studio.room import Socket
from evrant.core.studio.studio import by_id
from evrant.core.studio.words import Say
from evrant.core.wiring.feeds import Fed, fed
from evrant.core.wiring.floor import socket_place
from evrant.core.wiring.routes import Floor

SOCKET = Line(
    "power.socket",
    "What is plugged into …",
    "A",
    Basis(
        "sum of the currents drawn from one socket ≤ rating of its plug",
        "Plug ratings by country, from memory",
        "from memory",
    ),
    asks="Is too much plugged into one socket?",
    step="power",
    safety=True,
    fails=True,
    hazards=("Electrical overload",),
)
WET_BASIS = Basis("distance to a sink or tap ≥ what the country asks for", "Rules by country", "from memory")
WATER = Line(
    "power.water",
    "Water near the …",
    "m",
    WET_BASIS,
    asks="Is water near enough to mains to matter?",
    step="power",
    safety=True,
    hazards=("Water",),
)


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about sockets of a set."""
    feeds = fed(scene)
    yield from _sockets(scene, feeds)
    yield from _water(scene, feeds)


def _socket_of(scene: Scene, one: Fed) -> Socket | None:
    """The socket a light is plugged into: as said, else the one its best way begins at."""
    chosen = by_id(scene.room.sockets, one.light.place.socket)
    return chosen if chosen is not None else one.found.socket if one.found is not None else None


def _sockets(scene: Scene, feeds: list[Fed]) -> Iterable[Margin]:
    """What is drawn from one socket against its plug."""
    mains = MAINS[scene.brief.country]
    groups: dict[str, list[Fed]] = {}
    for one in feeds:
        socket = _socket_of(scene, one)
        if socket is not None:
            groups.setdefault(socket.id, []).append(one)
    for key, group in groups.items():
        socket = by_id(scene.room.sockets, key)
        assert socket is not None
        if mains.plug is None:
            continue
        plug, amps = mains.plug, Together(tuple(group), mains.volts)
        figures = amps.figures()
        if isinstance(figures, tuple):
            title, where = f"What is plugged into {socket.name}", (f"gear/{figures[0].head.id}", group[0].path)
            find = "Look at the plate or the data sheet."
            yield unknown(
                SOCKET,
                where,
                figures[1],
                find,
                title=title,
            )
            continue
        load = amps(**{n: f.value for n, f in figures.items()})
        yield judge(
            SOCKET,
            (group[0].path, f"room/sockets/{key}", *(one.path for one in group[1:])),
            Estimate(plug - load, estimate(amps, **figures).shares),
            title=f"What is plugged into {socket.name}",
            need=load,
            have=plug,
            clear=f"{socket.name} carries what is plugged into it.",
            short=f"Too much is plugged into {socket.name}.",
            reason=f"{' and '.join(one.light.name for one in group)}: {show_number(load, 1)} A; "
            f"a plug carries {show_number(plug, 0)} A.",
        )


def _wet_basis(scene: Scene) -> Basis:
    mains = MAINS[scene.brief.country]
    source = WET_SOURCE.get(scene.brief.country, "IEC 60364-7-701 for baths, taken for sinks too, from memory")
    return Basis(
        f"distance to a sink or tap ≥ {mains.wet:g} m for a socket without residual-current protection, "
        f"{SPLASH:g} m for anything electrical",
        source,
        "from memory",
    )


def _water(scene: Scene, feeds: list[Fed]) -> Iterable[Margin]:
    """Sockets in use and mains lights near water."""
    wet = [box for box in scene.boxes if box.kind == "sink or tap"]
    if not wet or scene.walls is None:
        return
    law, mains = _wet_basis(scene), MAINS[scene.brief.country]
    for one in feeds:
        title = f"Water near the {one.light.name}"
        socket = _socket_of(scene, one)
        spots = [] if one.light.mount is None else [(one.light.mount[:2], SPLASH, f"the {one.light.name}")]
        if socket is not None:
            at = socket_place(scene.room, scene.walls, socket)
            place = None if at is None else _on_wall(scene, at)
            if place is not None:
                near = min(_gap(scene, box.id, place) for box in wet)
                if socket.protected is None and near < mains.wet:
                    words = f"Whether {socket.name.lower()} is behind a residual-current device is not said."
                    find = f"It is {Say.of(scene.brief).length(near)} from water. Look for the test button; until it "
                    find += "is known plug nothing in there. A licensed electrician decides."
                    paths = (f"room/sockets/{socket.id}", one.path)
                    yield unknown(
                        WATER.but(basis=law),
                        paths,
                        words,
                        find,
                        title=title,
                    )
                    continue
                least = SPLASH if socket.protected == "yes" else mains.wet
                spots.append((place, least, socket.name))
        if not spots:
            continue
        spare, need, have, what = min(
            (_gap(scene, box.id, spot) - least, least, _gap(scene, box.id, spot), name)
            for box in wet
            for spot, least, name in spots
        )
        say = Say.of(scene.brief)
        yield judge(
            WATER.but(basis=law),
            (one.path,),
            Estimate(spare, _box_shares(scene, one)),
            title=title,
            need=need,
            have=have,
            clear="Water is far enough from the mains.",
            short=f"{what[:1].upper()}{what[1:]} is too near to water.",
            reason=f"{what[:1].upper()}{what[1:]} is {say.length(have)} from the sink; {say.length(need)} is wanted. "
            "A licensed electrician and the local code decide.",
            placing=0.02,
        )


def _box_shares(scene: Scene, one: Fed) -> tuple[Share, ...]:
    """The ± of where the sink is."""
    found = []
    for box in scene.boxes:
        if box.kind == "sink or tap":
            for name in ("x", "y"):
                figure = getattr(box, name)
                if figure is not None and figure.pm > 0:
                    found.append(Share(f"{name} of the {box.name.lower()}", figure.pm))
    return tuple(found)


def _on_wall(scene: Scene, around: float) -> Vector:
    assert scene.walls is not None
    return Floor(scene.walls, ()).at(around)


def _gap(scene: Scene, box: str, spot: Vector) -> float:
    """Distance on the plan from a place to a box [m]."""
    held = by_id(scene.boxes, box)
    thing = None if held is None else box_thing(held)
    if thing is None:
        return float("inf")
    low, high = thing.cloud[:, :2].min(axis=0), thing.cloud[:, :2].max(axis=0)
    return float(np.linalg.norm(np.maximum(np.maximum(low - spot, spot - high), 0.0)))


RULE = SetRule(
    "outlets",
    margins,
    (
        SOCKET,
        WATER,
    ),
    wiring.propose,
)
