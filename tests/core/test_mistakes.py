"""The mistakes people make at home: each is committed in a small studio and caught, and mended it is not.

A row that nothing serves yet names what owes it; no row is left out.
"""

import copy
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import pytest
from helpers import windows
from helpers.studios import item, one_portrait, packed, parse

from evrant.core.base.margins import Verdict
from evrant.core.judge.ledger import ledger_of

Data = dict[str, Any]
Change = Callable[[Data], None]


@dataclass(frozen=True)
class Mistake:
    """What is done wrong, the code that says so, and what mends it (the plain studio when nothing is named)."""

    name: str
    commit: Change
    code: str
    mend: Change | None = None


def the_set(data: Data) -> Data:
    found: Data = data["sets"][0]
    return found


def light(role: str = "key", **fields: Any) -> Change:
    """One more light, or other fields of the key."""

    def change(data: Data) -> None:
        lights = the_set(data)["lights"]
        if role == "key":
            lights[0] |= fields
        else:
            lights.append({"id": role.replace(" ", "-"), "role": role, "head": "head", "support": "stand", **fields})

    return change


def at(part: str, **fields: Any) -> Change:
    return lambda data: the_set(data)[part].update(fields)


def kit(key: str, **fields: Any) -> Change:
    return lambda data: item(data, key).update(fields)


def room(**fields: Any) -> Change:
    return lambda data: data["room"].update(fields)


def shot(**fields: Any) -> Change:
    return lambda data: data["shots"][0].update(fields)


def both(*changes: Change) -> Change:
    def change(data: Data) -> None:
        for one in changes:
            one(data)

    return change


def rim(**gear: Any) -> Change:
    """A softbox behind and beside the subject, aimed at it and so towards the lens."""

    def change(data: Data) -> None:
        data["gear"].append(copy.deepcopy(item(data, "box")) | {"id": "rim-box", **gear})
        light("rim", modifier="rim-box", x=1.35, y=2.45, height=1.6)(data)

    return change


def table_at(x: float, y: float) -> Change:
    """A table of the set, its middle here [m]."""

    def change(data: Data) -> None:
        table = {"kind": "table", "id": "table", "name": "table", "length": 0.8, "width": 0.6, "height": 0.75}
        data["gear"].append(table | {"status": "owned"})
        the_set(data)["props"] = [{"id": "table", "item": "table", "x": x, "y": y}]

    return change


def turn(before: float, after: float) -> Change:
    """A stair turn on the way in, and a roll of 2.75 m to be carried round it."""

    def change(data: Data) -> None:
        data["room"]["passages"] = [
            {"id": "stairs", "name": "the stair turn", "width": before, "beyond": after, "height": 2.2}
        ]
        item(data, "paper").update(packed_length=2.75, packed_width=0.08, packed_height=0.08)

    return change


def people(*places: tuple[float, float]) -> Change:
    """The person of the shot several times, at these places (across, ahead) [m]."""

    def change(data: Data) -> None:
        first = data["shots"][0]["subjects"][0]
        data["shots"][0]["subjects"] = [
            first | {"id": f"person-{i}", "name": f"Person {i}", "across": across, "ahead": ahead}
            for i, (across, ahead) in enumerate(places, start=1)
        ]

    return change


def newest_body(data: Data) -> None:
    """A newer camera planned and used, where the owned one does the same."""
    item(data, "cam").update(sync_shutter=0.005)
    newest = item(data, "cam") | {"id": "newest", "name": "newest camera", "status": "planned", "price": "300"}
    data["gear"].append(newest)
    the_set(data)["camera"]["body"] = "newest"


def spare_head(data: Data) -> None:
    data["gear"].append(item(data, "head") | {"id": "stronger", "name": "stronger head", "energy": 600, "price": "90"})


def scrim(x: float, wide: float) -> Change:
    """A translucent frame square to the key's light, hung at its height."""

    def change(data: Data) -> None:
        data["gear"].append(
            {"kind": "board", "id": "scrim", "name": "scrim", "surface": "translucent", "width": wide, "height": 2.0}
        )
        light(x=2.0, y=3.7, height=1.6)(data)
        the_set(data)["props"] = [{"id": "scrim", "item": "scrim", "x": x, "y": 3.0, "turn": 0.0, "height": 0.3}]

    return change


def lamp(lumens: float) -> Change:
    def change(data: Data) -> None:
        data["gear"].append(
            {"kind": "lamp", "id": "led", "name": "LED", "lumens": lumens, "power": 60, "mass": 1, "supply": "mains"}
        )
        light(head="led", modifier=None)(data)

    return change


def hung(height: float) -> Change:
    """Poles between floor and ceiling; the background hooked in at a height."""
    poles = {"system": "floor-to-ceiling poles", "min_height": 2.1, "max_height": 3.3, "foot_radius": 0.05}
    return both(kit("stands", **poles), at("background", height=height), lambda d: d["brief"].update({"setter": 1.6}))


def desk(x: float) -> Change:
    return room(zones=[{"id": "desk", "name": "desk", "x": x, "y": 2.6, "length": 1.2, "width": 0.7}])


BED = {"id": "bed", "name": "Bed", "kind": "bed", "x": 3.9, "y": 1.0, "length": 1.0, "width": 2.0, "height": 0.5}
HEATER = [{"id": "main", "name": "main", "breaker": 16, "other_load": 3600}]
SMALL = {"kind": "rectangle", "length": 3.6, "width": 4.0}


def paint(lrv: float, colour: str, contrast: str | None = None) -> Change:
    """All walls in one paint; the contrast wanted."""

    def change(data: Data) -> None:
        data["room"] |= {"floor": "wood", "ceiling": {"lrv": lrv, "colour": colour}}
        for wall in data["room"]["walls"]:
            wall["finish"] = {"lrv": lrv, "colour": colour}
        item(data, "paper")["reflectance"] = 18
        if contrast:
            data["shots"][0]["contrast"] = contrast

    return change


HOLDER = {"kind": "part", "id": "holder", "name": "holder", "use": "bulb holder", "rating": 60, "mass": 0.2}
LEAD = {"kind": "lead", "name": "lead", "length": 5, "conductor": "1.5 mm²", "rating": 16}
BULB = {"kind": "lamp", "id": "bulb", "name": "bulb", "lumens": 1500, "mass": 0.1, "supply": "mains", "cord": 5}


def bulb(watts: float) -> Change:
    """A bulb in a holder for 60 W in place of the key."""

    def change(data: Data) -> None:
        parts = {"form": "bulb", "technology": "filament", "foot": "bulb cap", "power": watts}
        data["gear"] += [BULB | parts, HOLDER | {"below": "16 mm spigot", "above": "bulb cap", "swivel": True}]
        light(head="bulb", modifier=None, joint="holder")(data)

    return change


def hot(watts: float) -> Change:
    """A bare filament lamp in place of the key."""

    def change(data: Data) -> None:
        data["gear"].append(BULB | {"technology": "filament", "form": "spot", "power": watts, "foot": "16 mm spigot"})
        light(head="bulb", modifier=None)(data)

    return change


def leads(data: Data) -> None:
    data["gear"] += [LEAD | {"id": key} for key in ("a", "b")]


def crossing(data: Data) -> None:
    """The key in the way people walk from the door to the mark."""
    data["room"]["sockets"] = [
        {"id": "outlet", "name": "outlet", "wall": "south", "offset": 4.9, "height": 0.3, "circuit": "main"}
    ]
    data["room"]["doors"][0] |= {"offset": 3.0, "swing": "slides"}
    light(x=2.7, y=0.95)(data)


def sink(protected: str) -> Change:
    """A sink a metre from the key's socket."""

    def change(data: Data) -> None:
        data["room"]["boxes"] = [
            {"id": "sink", "name": "Sink", "kind": "sink or tap", "x": 4.2, "y": 3.6, "length": 0.5, "width": 0.4}
            | {"base": 0.7, "height": 0.2}
        ]
        for socket in data["room"]["sockets"]:
            socket["protected"] = protected
        light(socket="outlet")(data)

    return change


def rail(grip: float) -> Change:
    """The key hung beside a rail."""
    hung = {"use": "rail or crossbar", "reach": 0.4, "grip": grip, "max_height": 3.0, "min_height": 0.2}
    return both(kit("stand", **hung), light(boom=90.0, boom_length=0.4))


def boom(counterweight: float) -> Change:
    arm = {"use": "boom stand", "reach": 1.3, "tail": 0.6, "shortest": 0.7, "boom_mass": 1.4, "mass": 6.5}
    return both(kit("stand", **arm), light(boom=90.0, boom_length=1.0, counterweight=counterweight))


def bulbs(count: int, holder: float) -> Change:
    """So many lamps of 20 W on one holder."""

    def change(data: Data) -> None:
        parts = {"form": "bulb", "technology": "LED", "foot": "bulb cap", "power": 20, "quantity": 4}
        body = {"below": "16 mm spigot", "above": "bulb cap", "swivel": True}
        data["gear"] += [BULB | parts, HOLDER | body | {"rating": holder}]
        light(head="bulb", modifier=None, joint="holder", heads=count)(data)

    return change


def lantern(watts: float) -> Change:
    """A lamp in a paper lantern made for 40 W."""

    def change(data: Data) -> None:
        data["gear"] += [
            BULB | {"technology": "LED", "foot": "16 mm spigot", "front": "bulb cap", "power": watts, "yoke": True},
            {"kind": "modifier", "id": "lantern", "name": "lantern", "form": "lantern", "width": 0.5, "height": 0.5}
            | {"depth": 0.25, "efficiency": 0.7, "takes": 40, "mass": 0.2, "mount": "bulb cap"},
        ]
        light(head="bulb", modifier="lantern")(data)

    return change


def brackets(load: float) -> Change:
    """Three rolls of 6.5 kg each on wall brackets."""
    wall = {"system": "wall brackets", "rolls": 3, "load": load}
    return both(kit("stands", **wall), kit("paper", mass=6.5), at("background", x=0.15, fixing_load=80))


def twice(quantity: int) -> Change:
    """A second set beside the first with the same head."""

    def change(data: Data) -> None:
        second = copy.deepcopy(the_set(data)) | {"id": "beside", "name": "Beside", "together": "B"}
        for part in (second["mark"], second["camera"], second["background"], *second["lights"]):
            part["y"] = part["y"] - 1.2 if "y" in part else None
        data["sets"] = [the_set(data) | {"together": "B"}, second]
        for key in ("head", "box", "stand", "paper", "stands"):
            item(data, key)["quantity"] = quantity

    return change


def garment(data: Data) -> None:
    """What hangs still, as high as a person stands."""
    body = {"id": "p", "name": "Gown", "kind": "garment", "height": 1.7}
    data["shots"][0] |= {"subjects": [body], "crop": "whole subject"}


def telephone(stop: float) -> Change:
    return both(kit("l50", widest=1.8, narrowest=1.8), shot(aperture=stop))


def clipped(doors: str) -> Change:
    clip = {"use": "door clip", "min_height": 1.5, "max_height": 2.2, "load": 3, "foot_radius": None}
    place: Data = {"x": 4.4, "y": 0.05, "height": 2.0, "modifier": None, "aim_x": 4.4, "aim_y": 3.0}
    return both(
        kit("stand", **clip), light(**place, aim_height=2.0), lambda data: the_set(data).update({"doors": doors})
    )


def screwed(length: float) -> Change:
    """A boom for a wall, drawn out to the south wall or not quite."""
    arm = {"use": "wall boom", "reach": 2.5, "shortest": 0.5, "load": 6, "load_far": 5, "foot_radius": None}
    place: Data = {"x": 2.5, "y": 2.0, "height": 2.0, "boom": -90.0, "boom_length": length, "modifier": None}
    return both(kit("stand", **arm), light(**place))


def coat(mass: float) -> Change:
    """A coat on a hook for 5 kg."""

    def change(data: Data) -> None:
        hook = {"kind": "table", "id": "hook", "name": "hook", "form": "hanger hook", "length": 0.4, "width": 0.05}
        data["gear"].append(hook | {"height": 1.9, "load": 5})
        the_set(data)["props"] = [{"id": "hook", "item": "hook", "x": 2.0, "y": 1.9}]
        body = {"id": "p", "name": "Coat", "kind": "garment", "height": 1.1, "base": 0.7, "mass": mass}
        data["shots"][0] |= {"subjects": [body], "crop": "whole subject"}

    return change


def in_the_doorway(x: float) -> Change:
    return both(lambda data: data["room"]["doors"][0].update({"swing": "out"}), light(x=x, y=0.35, height=1.6))


def stuffy(airing: str, minutes: float) -> Change:
    return both(room(airing=airing, footprint=SMALL), lambda data: the_set(data).update({"minutes": minutes}))


def by_day(lrv: float, card: float | None = None, height: float = 0.9) -> Change:
    """The sitter beside a window in a room of such walls, with a white card so far off on the other side."""

    def change(data: Data) -> None:
        other = windows.by_day(windows.window("north", 1.3), card=-80 if card else None, far=card or 0.0)
        data.clear()
        data.update(other)
        finish = {"lrv": lrv, "colour": "#ffffff"}
        data["room"] |= {"ceiling": finish, "floor_finish": finish}
        for wall in data["room"]["walls"]:
            wall["finish"] = finish
        data["shots"][0]["pattern"] = "window and reflector"
        for prop in the_set(data)["props"]:
            prop["height"] = height

    return change


def bed_under(share: float) -> Change:
    """A bed that ends so far inside the near corner of the card [m]."""

    def change(data: Data) -> None:
        x, y = the_set(data)["props"][0]["x"], the_set(data)["props"][0]["y"]
        bed = {"name": "Bed", "kind": "furniture", "length": 1.2, "width": 0.8, "height": 0.5}
        data["room"]["boxes"].append({"id": "bed", "x": x + 0.3 - share, "y": y - 0.4} | bed)

    return change


BEHIND = {"id": "behind", "name": "Door", "wall": "west", "offset": 1.7, "width": 0.8, "height": 2.0, "swing": "out"}
BED_BEHIND = {"id": "bed", "name": "Bed", "x": 0.1, "y": 1.6, "length": 0.4, "width": 0.6, "height": 0.6}


def tripod(goes: float, lens: float) -> Change:
    """The camera so high on a tripod that goes so high [m]."""
    stand = {"kind": "stand", "id": "legs", "name": "Tripod", "use": "tripod", "min_height": 0.3, "max_height": goes}

    def change(data: Data) -> None:
        data["gear"].append(packed(stand | {"foot_radius": 0.45, "load": 4.0, "mass": 1.6}))
        the_set(data)["camera"] |= {"support": "legs", "height": lens}

    return change


def room_before_wall(**fields: Any) -> Change:
    """Something of the room, and the bare west wall as background."""

    def change(data: Data) -> None:
        data["room"].update(fields)
        the_set(data)["background"] = {"wall": "west"}

    return change


MISTAKES = [
    Mistake("three rolls on brackets for one", brackets(15), "support.holder_load", brackets(45)),
    Mistake("four lamps on a holder for three", bulbs(4, 60), "power.holder", bulbs(2, 60)),
    Mistake("200 W in a paper lantern for 40", lantern(200), "power.heat", lantern(15)),
    Mistake("one head for two sets at once", twice(1), "kit.count", twice(2)),
    Mistake("f/8 asked of a telephone", telephone(8), "frame.aperture", telephone(1.8)),
    Mistake("a lamp clipped to a door that is used", clipped("used"), "support.door_clip", clipped("stay shut")),
    Mistake("an arm screwed to the air", screwed(1.2), "support.anchor", screwed(2.0)),
    Mistake("a wet coat on a small hook", coat(4), "support.surface", coat(1.5)),
    Mistake("a stand in the doorway", in_the_doorway(4.4), "fit.way_out", in_the_doorway(2.6)),
    Mistake("a whole afternoon with the window shut", stuffy("closed", 300), "power.air", stuffy("ventilated", 30)),
    Mistake("subject against the wall", at("background", x=1.7), "fit.backdrop_gap"),
    Mistake("camera with nowhere to step back", room(footprint=SMALL), "frame.distance"),
    Mistake("a bed in the step-back path", room(boxes=[BED]), "frame.distance"),
    Mistake("door that opens into the set", light(x=4.3, y=0.6), "fit.door"),
    Mistake("stand lower than the head", kit("stand", max_height=1.8), "support.reach"),
    Mistake("modifier hitting the ceiling", light(height=2.65), "fit.ceiling"),
    Mistake(
        "modifier hitting a sloped ceiling",
        room(slopes=[{"id": "s", "wall": "north", "low": 1.6, "run": 2.5}]),
        "fit.ceiling",
    ),
    Mistake("background narrower than the frame", kit("paper", width=0.7), "frame.backdrop_width"),
    Mistake(
        "background higher on one edge",
        at("background", lower_by=0.06),
        "frame.backdrop_level",
        at("background", lower_by=0.0),
    ),
    Mistake("light or stand inside the frame", light(x=2.4, y=2.1, height=1.5), "frame.intrusion"),
    Mistake("rim light shining into the lens", rim(), "frame.flare", rim(grid=True)),
    Mistake(
        "diffuser that covers the subject but not the background", scrim(2.0, 1.2), "light.scrim", scrim(1.35, 2.6)
    ),
    Mistake(
        "key near the head, the feet in the dark",
        both(shot(crop="full length"), at("camera", x=4.3)),
        "light.falloff",
        both(shot(crop="full length"), at("camera", x=4.3), light(x=3.9, y=3.7, height=1.6)),
    ),
    Mistake(
        "ring light that leaves the lower part dark",
        both(
            shot(crop="full length"),
            at("camera", x=4.3),
            light(role="key", x=2.9, y=1.9, height=1.6),
            lambda d: the_set(d)["lights"][0].update({"role": "ring light"}),
        ),
        "light.falloff",
    ),
    Mistake(
        "lowest power still too bright for the wide aperture",
        both(shot(aperture=1.8), kit("head", lowest_power=0.25)),
        "light.power_lowest",
    ),
    Mistake(
        "continuous light too weak for the shutter", lamp(900), "light.shutter", both(lamp(200_000), shot(shutter=0.1))
    ),
    Mistake("several heaters or lamps on one breaker", room(circuits=HEATER), "power.circuit"),
    Mistake("hook, rail or pole over its rating", kit("stands", load=2.0), "support.holder_load"),
    Mistake("standing on a stool to reach", hung(2.5), "fit.reach", hung(1.7)),
    Mistake("roll longer than the cupboard", kit("paper", packed_length=3.4), "stow.length"),
    Mistake("no place left for the photographer's desk", desk(2.2), "fit.zone", desk(3.7)),
    Mistake(
        "brackets where nobody may drill",
        both(
            kit("stands", system="wall brackets", off_wall=0.9), lambda d: d["brief"].update({"tenure": "no drilling"})
        ),
        "support.holder_holes",
    ),
    Mistake(
        "no way out past the set",
        room(
            doors=[{"id": "door", "wall": "south", "offset": 4.0, "width": 0.8}],
            boxes=[BED | {"y": 0.35, "x": 3.2, "length": 1.8, "width": 3.6}],
        ),
        "fit.way_out",
    ),
    Mistake(
        "a window that lets daylight in",
        room(
            windows=[
                {
                    "id": "w",
                    "wall": "north",
                    "offset": 1,
                    "width": 1.0,
                    "sill": 0.9,
                    "height": 1.2,
                    "blackout": "needed",
                }
            ]
        ),
        "room.blackout",
    ),
    Mistake(
        "a person shot in two parts to be joined",
        both(shot(parts=2, crop="full length"), at("camera", x=4.2)),
        "frame.crop",
        both(shot(parts=2, crop="full length"), at("camera", x=4.2), garment),
    ),
    Mistake("auto white balance under flash", shot(balance="automatic"), "light.balance"),
    Mistake("coloured wall tinting skin", paint(55, "#6fae6f"), "light.tint", paint(55, "#b8b8b8")),
    Mistake(
        "white walls killing a moody picture",
        paint(88, "#ffffff", "strong"),
        "light.contrast",
        paint(4, "#1c1c1c", "strong"),
    ),
    Mistake(
        "flash out of step with the shutter",
        lambda d: (kit("cam", sync_shutter=0.005)(d), shot(shutter=0.001)(d))[0],
        "light.sync",
    ),
    Mistake(
        "grey paper expected to come out white",
        both(paint(60, "#ffffff"), shot(tone="white")),
        "light.background_tone",
        both(paint(60, "#ffffff"), shot(tone="grey"), kit("paper", reflectance=36)),
    ),
    Mistake("bulb over the holder's rating", bulb(100), "power.holder", bulb(40)),
    Mistake(
        "daisy-chained leads",
        both(leads, light(lead="a", lead_on="b")),
        "power.lead_chain",
        both(leads, light(lead="a")),
    ),
    Mistake("leads across the path", crossing, "power.crossing", both(crossing, light(covered=True))),
    Mistake("water near mains", sink("no"), "power.water", sink("yes")),
    Mistake(
        "hot lamp under cloth or paper",
        both(hot(500), light(x=1.0, y=2.4, height=1.9, aim_x=0.9, aim_y=1.9, aim_height=1.5)),
        "power.heat",
        hot(500),
    ),
    Mistake("rail spinning under an off-centre light", rail(4.0), "support.twist", rail(60.0)),
    Mistake("boom without counterweight", boom(0.0), "support.counterweight", boom(4.3)),
    Mistake("a stand that tips when somebody brushes it", light(bag=None), "support.push", light(bag=10)),
    Mistake(
        "animals about and stands as light as ever",
        both(light(bag=6), lambda d: d["brief"].update({"animals": True})),
        "support.push",
        light(bag=6),
    ),
    Mistake("a head that does not go on its stand", kit("head", foot="accessory shoe"), "support.joint"),
    Mistake("roll longer than the stairwell turn", turn(0.5, 0.55), "stow.turn", turn(1.1, 1.2)),
    Mistake(
        "buying power, brand or the newest body instead of light and modifier",
        newest_body,
        "budget.idle",
        both(newest_body, kit("newest", status="considered")),
    ),
    Mistake("money for things no set uses", spare_head, "budget.idle"),
    Mistake(
        "a kit that does not go into the cupboard", kit("stands", packed_width=0.75, packed_height=0.7), "stow.place"
    ),
    Mistake(
        "one straight behind another in a group",
        people((0.0, 0.0), (0.05, -0.6)),
        "frame.hidden",
        people((-0.3, 0.0), (0.3, -0.6)),
    ),
    Mistake(
        "a group lit from close beside it",
        both(people((-0.55, 0.0), (0.0, 0.0), (0.55, 0.0)), light(x=2.3, y=3.2)),
        "light.group",
        both(people((-0.55, 0.0), (0.0, 0.0), (0.55, 0.0)), light(x=3.9, y=2.1)),
    ),
    Mistake("a reflector too far off to do anything", by_day(30, card=1.9), "light.card", by_day(30, card=0.6)),
    Mistake("no reflector by the window of a dark room", by_day(8), "light.reflector_wanted", by_day(85)),
    Mistake(
        "a card that stands on a bed by one corner",
        both(by_day(30, card=0.6, height=0.5), bed_under(0.05)),
        "support.card",
    ),
    Mistake(
        "movement by a window in 1/60 s",
        both(by_day(85), shot(movement=0.4, shutter=1 / 60)),
        "frame.still",
        both(by_day(85), shot(movement=0.4, shutter=1 / 4000)),
    ),
    Mistake("a camera higher than its tripod goes", tripod(1.3, 1.6), "support.camera", tripod(1.8, 1.3)),
    Mistake("a camera over the head", at("camera", height=2.1), "support.camera_sight", at("camera", height=1.6)),
    Mistake("a level view from above", at("camera", height=2.1), "frame.angle"),
    Mistake("a door behind the sitter", room_before_wall(doors=[BEHIND]), "frame.opening"),
    Mistake("a bed behind the sitter", room_before_wall(boxes=[BED_BEHIND]), "frame.furniture"),
    Mistake("a bare flash as the key", light(modifier=None), "light.soft", light()),
    Mistake("a clamshell without its fill", shot(pattern="clamshell"), "light.pattern_parts"),
    Mistake("the photographer before the key", light(x=4.4, y=1.9, height=1.7), "light.in_the_way"),
    Mistake("a lens made for a smaller sensor", kit("l50", covers=0.028), "frame.coverage"),
    Mistake("the back of the head", at("mark", facing=180), "frame.turned"),
    Mistake("bags on the stands that nobody has", kit("bag", quantity=1), "support.weights"),
    Mistake("a key that nobody means to buy", kit("head", status="considered"), "budget.undecided"),
    Mistake("a door that opens into the paper", at("background", x=4.7, y=0.7), "fit.door", at("background")),
    Mistake("a table where somebody stands", table_at(2.1, 1.9), "fit.overlap", table_at(3.2, 0.9)),
    Mistake("somebody on the desk's place", desk(1.7), "fit.zone", desk(3.7)),
    Mistake("forgotten receivers and clamps", both(light("rim", x=1.2, y=3.4), kit("trigger")), "trigger.receivers"),
]


def shorts(data: Data) -> set[str]:
    return {m.code for m in ledger_of(parse(data)).lines if m.verdict is Verdict.SHORT}


@pytest.mark.parametrize("mistake", MISTAKES, ids=lambda m: m.name)
def test_a_mistake_is_caught_and_its_mending_lifts_it(mistake: Mistake) -> None:
    wrong, right = one_portrait(), one_portrait()
    mistake.commit(wrong)
    if mistake.mend is not None:
        mistake.mend(right)
    lines = [m for m in ledger_of(parse(wrong)).lines if m.code == mistake.code]
    assert [m for m in lines if m.verdict is Verdict.SHORT], [(m.code, m.verdict, m.margin) for m in lines]
    assert mistake.code not in shorts(right)
    if mistake.mend is not None:
        judged = {m.code for m in ledger_of(parse(right)).lines}
        assert mistake.code in judged, "the mended studio is still judged by the rule"
