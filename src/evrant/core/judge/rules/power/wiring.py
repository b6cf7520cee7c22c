"""Leads of a set: do they reach, where do they lie, what do they carry? Codes power.reach, power.crossing,
power.lead_chain, power.lead, power.drop."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import partial

from evrant.core.base.estimate import Estimate, Share, estimate
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.memo import Memo, is_plain
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.conductors import ROLLED, USUAL_RATING, Conductor, ohms_per_metre
from evrant.core.base.tables.countries import DROP_SOURCE, MAINS, lead_sizes
from evrant.core.base.units import show_number
from evrant.core.edits.language import SetFields, Several
from evrant.core.judge.rules.buying import to_buy
from evrant.core.judge.rules.rule import UNEXPOSED, Proposal, SetRule
from evrant.core.mechanics.supports import figures_of
from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Flash, Lamp, Lead
from evrant.core.studio.room import Socket
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say
from evrant.core.wiring.feeds import Fed, fed
from evrant.core.wiring.floor import (
    candidates,
    hung_way,
    length_shares,
    need_of,
    rise_of,
    socket_place,
)
from evrant.core.wiring.loads import draw, volt_amperes

REACH = Line(
    "power.reach",
    "Lead of the …",
    "m",
    Basis(
        "down from the socket + along the walls + over the floor + up the support + 30 cm slack ≤ leads + own cord",
        "Shortest way round furniture, doors and where people walk; slack is common practice, no source",
        "computed",
    ),
    asks="Does the lead reach along walls, over the floor and up the stand?",
    step="power",
    fails=True,
    hazards=("Tripping",),
)
CROSSING = Line(
    "power.crossing",
    "Where the lead of the … lies",
    "m",
    Basis(
        "metres of the lead where people walk = 0, or at most 1.5 m of it under a cover",
        "Shortest way that keeps off doors and the path from the door, 50 cm wide; project choice",
        "project choice",
    ),
    asks="Does a lead lie where people walk?",
    step="power",
    safety=True,
    fails=True,
    hazards=("Tripping",),
)
LEAD_CHAIN = Line(
    "power.lead_chain",
    "Leads in a row to the …",
    "leads",
    Basis("one lead between socket and device", "Makers' instructions, common practice", "common practice"),
    asks="Is a lead plugged into a lead?",
    step="power",
    safety=True,
    fails=True,
    hazards=("Electrical overload",),
)
LEAD = Line(
    "power.lead",
    "What the leads of the … carry",
    "A",
    Basis(
        "I = P / V ≤ rating of the lead; a drum not rolled out by its rating rolled up",
        "Maker's rating as entered",
        "declared",
    ),
    asks="Does the lead carry the current; a drum, rolled up or out?",
    step="power",
    safety=True,
    fails=True,
    hazards=("Electrical overload",),
)
DROP = Line(
    "power.drop",
    "Voltage lost on the way to the …",
    "%",
    Basis(
        "2 I ρ L at 70 °C ≤ 3 % of the mains voltage",
        f"Conductors: IEC 60228 class 5, NFPA 70 table 8; limit: {DROP_SOURCE} (from memory)",
        "published",
    ),
    asks="How much voltage is lost on the way?",
    step="power",
    fails=True,
    hazards=("Electrical overload",),
)
NOTHING = 0.10
"""What counts as spare when nothing at all lies where people walk [m]."""
COVER = 1.5
"""Longest stretch of a cover where people walk [m]; project choice."""
LEADS = (("3 m", 3.0, 8), ("5 m", 5.0, 11), ("10 m", 10.0, 19))
LEADS_IN_FEET = (("10 ft", 3.05, 9), ("15 ft", 4.57, 12), ("25 ft", 7.62, 22))
"""Leads as shops have them: name, length [m], price [EUR]; common practice, no source."""
SOLD: dict[Conductor, tuple[tuple[str, float, int], ...]] = {
    "1.5 mm²": LEADS,
    "14 AWG": LEADS_IN_FEET,
    "2.0 mm²": LEADS,
}
"""The usual conductor of a lead, and the lengths it is sold in."""
_KEPT: Memo[tuple[Margin, ...]] = Memo(8_000_000, lambda lines: 300 + 1800 * len(lines))


def margins(scene: Scene) -> Iterable[Margin]:
    """Every line about leads of a set."""
    feeds = fed(scene)
    for one in feeds:
        room, plan, light = scene.room, scene.plan, one.light
        places = (plan.mark, plan.camera, plan.aside, plan.background, scene.backdrop)
        parts = (scene.brief, room, scene.shot, *places, light.place, *one.leads, one.head, light.modifier, light.stand)
        with_it = {other.path: other for lead in one.leads for other in _sharing(one, lead, feeds)}
        others = (part for other in with_it.values() for part in (other.light.place, other.head))
        read = (*parts, *others, *scene.parts_beside)
        yield from _KEPT.get(f"{one.path} {light.name}", read, partial(_lines, scene, one, feeds))


def _lines(scene: Scene, one: Fed, feeds: Sequence[Fed]) -> tuple[Margin, ...]:
    return tuple(_of_light(scene, one, feeds))


def _of_light(scene: Scene, one: Fed, feeds: Sequence[Fed]) -> Iterable[Margin]:
    yield from _reach(scene, one)
    yield from _crossing(scene, one)
    if one.leads:
        yield from _chain(one)
        yield from _carried(scene, one, feeds)
        yield from _drop(scene, one)


def _reach(scene: Scene, one: Fed) -> Iterable[Margin]:
    title, light = f"Lead of the {one.light.name}", one.light
    if light.mount is None:
        return
    if not scene.room.sockets or not any(_placed(scene, s) for s in candidates(scene, light)):
        words, find = "No socket with a place in the room is known for it.", "Enter the sockets and where they are."
        yield unknown(
            REACH,
            ("room", one.path),
            words,
            find,
            title=title,
            subject=one.path,
        )
        return
    lengths: dict[str, Figure | None] = {"own_cord": one.head.cord} | {
        f"lead_{number}": lead.length for number, lead in enumerate(one.leads)
    }
    missing = next((name for name, figure in lengths.items() if figure is None), None)
    if missing is not None:
        item = one.head if missing == "own_cord" else one.leads[int(missing[-1])]
        what = "its own mains lead of the" if missing == "own_cord" else "the"
        words = f"The length of {what} {item.called} is missing."
        find = "Measure it." if one.found is None else f"{_words(scene, one)} Measure it."
        yield unknown(
            REACH,
            (f"gear/{item.id}", one.path),
            words,
            find,
            title=title,
        )
        return
    if one.found is None:
        return
    have = sum(figure.value for figure in lengths.values() if figure)
    need = need_of(scene, light, one.found)
    shares = [Share(name.replace("_", " "), figure.pm) for name, figure in lengths.items() if figure and figure.pm > 0]
    if not is_plain():
        shares += [Share(*pair) for pair in length_shares(scene, light, one.found) if pair[1] > 1e-9]
        shares += _aims(scene, one, need)
    yield judge(
        REACH,
        (one.path,),
        Estimate(have - need, tuple(shares)),
        title=title,
        need=need,
        have=have,
        clear=f"The lead of the {light.name} reaches.",
        short=f"The lead of the {light.name} is too short.",
        reason=f"{_words(scene, one)} There is {Say.of(scene.brief).length(have)}.",
        placing=0.05,
    )


def _placed(scene: Scene, socket: Socket) -> bool:
    return scene.walls is not None and socket_place(scene.room, scene.walls, socket) is not None


def _aims(scene: Scene, one: Fed, need: float) -> Iterable[Share]:
    """Shares of what the light is aimed at, how deep its modifier is and how far its boom reaches."""
    light, found = one.light, one.found
    assert found is not None
    twins = [(label, twin.light(light.place)) for label, twin in scene.picture_twins]
    for item, name, figure in figures_of((light.modifier, light.stand), ("depth", "reach")):
        moved = item.changed(**{name: figure.moved()})
        changes = {"modifier" if item is light.modifier else "stand": moved}
        twins.append((f"{name} of the {item.called}", replace(light, **changes)))  # type: ignore[arg-type]
    for label, twin in twins:
        there = need if twin.mount is None else need_of(scene, twin, found)
        if abs(there - need) > 1e-9:
            yield Share(label, abs(there - need))


def _words(scene: Scene, one: Fed) -> str:
    say = Say.of(scene.brief)
    found = one.found
    assert found is not None
    route = found.route
    rise = f"{say.length(rise_of(scene, one.light))} {_up(scene, one.light)}"
    return (
        f"From {found.socket.name.lower()}: {say.length(route.along)} along the walls, {say.length(route.open)} over "
        f"the floor, {rise}, in all {say.length(need_of(scene, one.light, found))}."
    )


def _up(scene: Scene, light: Light) -> str:
    hung = hung_way(scene, light)
    return f"{hung.along}, with a clip every half metre" if hung else "up"


def _crossing(scene: Scene, one: Fed) -> Iterable[Margin]:
    light, found, title = one.light, one.found, f"Where the lead of the {one.light.name} lies"
    if light.mount is None or not any(_placed(scene, s) for s in candidates(scene, light)):
        return
    if found is None:
        yield judge(
            CROSSING,
            (one.path,),
            Estimate(-1.0),
            title=title,
            need=1.0,
            have=0.0,
            clear="",
            short=f"No way for the lead of the {light.name} but through a door.",
            reason="Every way from its sockets to its stand is barred by doors or furniture.",
        )
        return
    allowed = COVER if light.place.covered else 0.0
    crossing = found.crossing if found.crossing > 0.01 else 0.0
    spare = Estimate(allowed - crossing, (Share("way people walk", 0.05),)) if crossing else Estimate(NOTHING)
    cover = " under a cover" if light.place.covered else ""
    middle = found.route.points[len(found.route.points) // 2]
    yield judge(
        CROSSING,
        (one.path,),
        spare,
        title=title,
        need=crossing,
        have=allowed,
        clear=f"The lead of the {light.name} keeps off the path people walk.",
        short=f"The lead of the {light.name} lies where people walk.",
        reason=f"{Say.of(scene.brief).length(crossing)} of it lie on the way from the door{cover}. {_words(scene, one)}"
        if crossing
        else _words(scene, one),
        at=(float(middle[0]), float(middle[1]), 0.0),
    )


def _chain(one: Fed) -> Iterable[Margin]:
    count = len(one.leads)
    names = " into ".join(lead.called for lead in one.leads)
    yield judge(
        LEAD_CHAIN,
        (one.path,),
        Estimate(1.0 if count == 1 else 1.0 - count),
        title=f"Leads in a row to the {one.light.name}",
        need=float(count),
        have=1.0,
        clear=f"One lead feeds the {one.light.name}.",
        short=f"Leads in a row feed the {one.light.name}.",
        reason=f"{names[:1].upper()}{names[1:]}." + (" Use one lead that is long enough." if count > 1 else ""),
    )


def _amps(scene: Scene, one: Fed) -> tuple[dict[str, Figure], float] | str:
    """Figures of what a light draws, and its current at their values [A]; or what is missing."""
    figures = draw(one.head)
    if isinstance(figures, str):
        return figures
    volts = MAINS[scene.brief.country].volts
    return figures, one.light.place.heads * volt_amperes(one.head, **{n: f.value for n, f in figures.items()}) / volts


def _rating(one: Fed, lead: Lead) -> Figure | None:
    """What a lead is rated for as it lies: a drum by its rating rolled up until it is rolled out."""
    return lead.rolled if lead.drum and not one.light.place.unrolled else lead.rating


def _sharing(one: Fed, lead: Lead, feeds: Sequence[Fed]) -> tuple[Fed, ...]:
    """Lights fed through a lead together with this one: all that use it, where there are fewer of it than of them."""
    users = tuple(other for other in feeds if any(used.id == lead.id for used in other.leads))
    return users if len(users) > lead.quantity else (one,)


@dataclass(frozen=True)
class Together:
    """Current of several lights at once [A], from figures named light__figure."""

    group: tuple[Fed, ...]
    volts: float

    def figures(self) -> dict[str, Figure] | tuple[Fed, str]:
        """What they draw, or the first whose draw is missing and the words."""
        found: dict[str, Figure] = {}
        for one in self.group:
            drawn = draw(one.head)
            if isinstance(drawn, str):
                return one, drawn
            found |= {f"{one.light.place.id}__{name}": figure for name, figure in drawn.items()}
        return found

    def __call__(self, **values: float) -> float:
        total = 0.0
        for one in self.group:
            prefix = f"{one.light.place.id}__"
            own = {n.removeprefix(prefix): v for n, v in values.items() if n.startswith(prefix)}
            total += one.light.place.heads * volt_amperes(one.head, **own) if own else 0.0
        return total / self.volts


def _carried(scene: Scene, one: Fed, feeds: Sequence[Fed]) -> Iterable[Margin]:
    """Current through the weakest of a light's leads, with whatever else hangs on it, against its rating."""
    ratings = [(lead, _rating(one, lead)) for lead in one.leads]
    lead, rating = min(ratings, key=lambda pair: 0.0 if pair[1] is None else pair[1].value)
    rolled = lead.drum and not one.light.place.unrolled
    title, state = f"What the leads of the {one.light.name} carry", "rolled up" if rolled else "laid out"
    amps = Together(_sharing(one, lead, feeds), MAINS[scene.brief.country].volts)
    drawn = amps.figures()
    if isinstance(drawn, tuple):
        where = (f"gear/{drawn[0].head.id}", one.path)
        yield unknown(
            LEAD,
            where,
            drawn[1],
            "Read its plate.",
            title=title,
        )
        return
    load = amps(**{name: figure.value for name, figure in drawn.items()})
    if rating is None or rating.value <= 0:
        usual = USUAL_RATING.get(lead.conductor or "", 6.0) * (ROLLED if rolled else 1.0)
        words = f"What the {lead.called} is rated for {state} is missing."
        find = f"It will carry {show_number(load, 1)} A; until it is known count on {show_number(usual, 1)} A. "
        find += "Roll a drum out fully." if rolled else "Look at its plug or its label."
        yield unknown(
            LEAD,
            (f"gear/{lead.id}", one.path),
            words,
            find,
            title=title,
        )
        return
    others = " and ".join(other.light.name for other in amps.group if other.path != one.path)
    yield judge(
        LEAD,
        (one.path, f"gear/{lead.id}"),
        estimate(lambda rating, **f: rating - amps(**f), rating=rating, **drawn),
        title=title,
        need=load,
        have=rating.value,
        clear=f"The {lead.called} carries the {one.light.name}.",
        short=f"The {lead.called} is overloaded" + (" rolled up: it can burn." if rolled else ": it gets hot."),
        reason=f"{show_number(load, 1)} A at its worst{f', with the {others} on it too' if others else ''}; "
        f"it is rated for {show_number(rating.value, 1)} A {state}.",
    )


def _drop(scene: Scene, one: Fed) -> Iterable[Margin]:
    mains = MAINS[scene.brief.country]
    title, heads = f"Voltage lost on the way to the {one.light.name}", one.light.place.heads
    lacking = next((lead for lead in one.leads if lead.length is None or lead.conductor is None), None)
    if lacking is not None:
        what = "length" if lacking.length is None else "conductor"
        words, find = f"The {what} of the {lacking.called} is missing.", "It is printed on the lead."
        yield unknown(
            DROP,
            (f"gear/{lacking.id}", one.path),
            words,
            find,
            title=title,
        )
        return
    drawn = _amps(scene, one)
    if isinstance(drawn, str):
        return
    figures, amps = drawn
    per = [ohms_per_metre(lead.conductor or "") for lead in one.leads]
    lengths = {f"lead_{number}": lead.length for number, lead in enumerate(one.leads) if lead.length}

    def lost(**values: float) -> float:
        ohms = sum(2 * per[int(n[-1])] * v for n, v in values.items() if n.startswith("lead_"))
        own = {n: v for n, v in values.items() if not n.startswith("lead_")}
        return 100 * ohms * heads * volt_amperes(one.head, **own) / mains.volts / mains.volts

    share = lost(**{n: f.value for n, f in {**figures, **lengths}.items()})
    limit = 100 * mains.drop
    yield judge(
        DROP,
        (one.path,),
        estimate(lambda **values: limit - lost(**values), **figures, **lengths),
        title=title,
        need=share,
        have=limit,
        clear="The leads lose little voltage.",
        short="The leads lose too much voltage: thicker or shorter ones.",
        reason=f"{show_number(amps, 1)} A through "
        f"{' and '.join(f'{lead.called} ({lead.conductor})' for lead in one.leads)}: "
        f"{show_number(share, 1)} % of {mains.volts:.0f} V.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Another lead of the kit, another socket, a cover, a drum rolled out, a head on batteries."""
    light = next((one for one in scene.lights if one.path in margin.about), None) if scene else None
    if scene is None or light is None:
        return
    target = light.path
    if margin.code == "power.lead_chain":
        yield Proposal("Use the first lead alone", SetFields(target=target, fields={"lead_on": None}))
    if margin.code in ("power.lead", "power.reach") and not light.place.unrolled:
        yield Proposal("Roll the drum out fully", SetFields(target=target, fields={"unrolled": True}))
    if margin.code == "power.crossing":
        yield Proposal("Lay a cover over it", SetFields(target=target, fields={"covered": True}))
    leads = [item for item in studio.gear if isinstance(item, Lead) and item.id != light.place.lead]
    for lead in sorted(leads, key=lambda item: item.length.value if item.length else 99.0):
        fields = {"lead": lead.id, "lead_on": None}
        yield Proposal(f"Use the {lead.called}", SetFields(target=target, fields=fields))
    if margin.code == "power.reach":
        yield from _bought(studio, light, margin)
    for socket in scene.room.sockets:
        if socket.id != light.place.socket:
            yield Proposal(f"Plug it into {socket.name}", SetFields(target=target, fields={"socket": socket.id}))
    for item in studio.gear:
        if (
            isinstance(item, (Flash, Lamp))
            and item.supply == "battery"
            and item.kind == (light.head and light.head.kind)
        ):
            yield Proposal(f"Use the {item.called}", SetFields(target=target, fields={"head": item.id}))


def _bought(studio: Studio, light: Light, margin: Margin) -> Iterable[Proposal]:
    """The shortest usual lead that reaches, to buy."""
    cord = light.head.cord.value if isinstance(light.head, (Flash, Lamp)) and light.head.cord else 0.0
    size = next(one for one in SOLD if one in lead_sizes(studio.brief.country))
    for name, length, euros in SOLD[size]:
        key = f"lead-{name.replace(' ', '-')}-new"
        if margin.need is None or cord + length < margin.need or any(item.id == key for item in studio.gear):
            continue
        gauge = {"conductor": size, "rating": USUAL_RATING[size]}
        packed = {"packed_length": 0.3, "packed_width": 0.28, "packed_height": 0.07}
        made = {"length": length, "mass": round(0.1 + 0.11 * length, 1), **packed, **gauge}
        lead = to_buy(studio, euros, kind="lead", id=key, name=f"Mains lead {name}", **made)
        label = f"Buy a mains lead of {name} for it"
        use = SetFields(target=light.path, fields={"lead": key, "lead_on": None})
        yield Proposal(label, Several.model_validate({"edits": (lead, use), "label": label}))
        return


RULE = SetRule(
    "wiring",
    margins,
    (
        REACH,
        CROSSING,
        LEAD_CHAIN,
        LEAD,
        DROP,
    ),
    propose,
    reads=UNEXPOSED,
)
