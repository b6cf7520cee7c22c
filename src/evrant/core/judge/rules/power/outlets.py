"""Sockets of a set: how much is plugged into each, and how near water is. Codes power.socket, power.water."""

import math
from collections.abc import Iterable
from itertools import pairwise

import numpy as np

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.tables.countries import MAINS, SPLASH, WET_SOURCE
from evrant.core.base.units import show_number
from evrant.core.judge.rules.power import wiring
from evrant.core.judge.rules.power.wiring import Together
from evrant.core.judge.rules.rule import UNEXPOSED, SetRule
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector
from evrant.core.space.things import Thing, box_thing
from evrant.core.studio.gear import Table
from evrant.core.studio.room import Socket
from evrant.core.studio.sets import PropPlace
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


BESIDE = 0.30
"""A lead runs at least so far from a tray of water [m]; project choice: a spill is that wide."""


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
    for other in scene.beside:
        for one in fed(other) if other.plan.stays_lit else ():
            socket = _socket_of(other, one)
            if socket is not None and socket.id in groups:
                groups[socket.id].append(one)
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
        f"{SPLASH:g} m for anything electrical, {BESIDE:g} m for a lead beside a tray",
        source,
        "from memory",
    )


def _water(scene: Scene, feeds: list[Fed]) -> Iterable[Margin]:
    """Sockets in use and mains lights near water."""
    wet = _wet(scene)
    if not wet or scene.walls is None:
        return
    law, mains = _wet_basis(scene), MAINS[scene.brief.country]
    for one in feeds:
        title = f"Water near the {one.light.name}"
        socket = _socket_of(scene, one)
        spots = [] if one.light.mount is None else [(one.light.mount, SPLASH, f"the {one.light.name}")]
        if socket is not None:
            at = socket_place(scene.room, scene.walls, socket)
            place = None if at is None else _on_wall(scene, at)
            if place is not None:
                near = min((_gap(thing, place) for thing in wet if thing.kind == "box"), default=math.inf)
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
        found = [
            (_gap(thing, spot) - least, least, _gap(thing, spot), name, thing.name)
            for thing in wet
            for spot, asked, name in spots
            for least in [asked if thing.kind == "box" else SPLASH]
        ]
        found += _by_the_lead(one, wet)
        if not found:
            continue
        spare, need, have, what, water = min(found)
        say, what = Say.of(scene.brief), f"{what[:1].upper()}{what[1:]}"
        yield judge(
            WATER.but(basis=law),
            (one.path,),
            Estimate(spare, _box_shares(scene, one)),
            title=title,
            need=need,
            have=have,
            clear="Water is far enough from the mains.",
            short=f"{what} is too near to water.",
            reason=f"{what} is {say.length(have)} from the {water}; {say.length(need)} is wanted. "
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


def _wet(scene: Scene) -> list[Thing]:
    """Sinks and taps, and trays of water of the set."""
    sinks = [box_thing(box) for box in scene.boxes if box.kind == "sink or tap"]
    trays = {f"{scene.path}/props/{place.id}" for place in scene.plan.props if _is_tray(scene, place)}
    return [*(one for one in sinks if one is not None), *(one for one in scene.things if one.path in trays)]


def _is_tray(scene: Scene, place: PropPlace) -> bool:
    item = scene.gear.get(place.item or "")
    return isinstance(item, Table) and item.form == "water tray"


def _gap(thing: Thing, spot: Vector) -> float:
    """Distance from a place to a thing [m]: on the plan, or over a tray in the room, where the place has a height."""
    low, high = thing.cloud.min(axis=0), thing.cloud.max(axis=0)
    axes = len(spot) if thing.kind == "prop" else 2
    away = np.maximum(np.maximum(low[:axes] - spot[:axes], spot[:axes] - high[:axes]), 0.0)
    return float(np.linalg.norm(away))


def _by_the_lead(one: Fed, wet: list[Thing]) -> list[tuple[float, float, float, str, str]]:
    """How near a lead runs by each tray: (spare, wanted, there, what, by what) [m]."""
    if one.found is None:
        return []
    points = one.found.route.points
    parts = np.linspace(0.0, 1.0, 21)[:, None]
    spots = np.vstack([a + (b - a) * parts for a, b in pairwise(points)]) if len(points) > 1 else points
    name, found = f"the lead of the {one.light.name}", []
    for thing in wet:
        if thing.kind == "prop":
            there = min(_gap(thing, spot) for spot in spots)
            found.append((there - BESIDE, BESIDE, there, name, thing.name))
    return found


RULE = SetRule(
    "outlets",
    margins,
    (
        SOCKET,
        WATER,
    ),
    wiring.propose,
    reads=UNEXPOSED,
)
