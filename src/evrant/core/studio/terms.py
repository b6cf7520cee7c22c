"""The words of the trade, each in a line, and which of them a text uses. Meanings are common practice, no source."""

import re
from collections.abc import Iterable
from functools import cache, lru_cache

TERMS: dict[str, str] = {
    "adhesive hook": "a hook that holds by glue: good for grams to a few hundred, less on rough or damp paint",
    "background": "paper, cloth, board or wall behind the subject",
    "barn doors": "four hinged flaps before a light that keep it off what should stay dark",
    "boom": "a pole on a stand that carries a light out over the subject; it tips without a counterweight",
    "bounce": "light that reaches the subject by way of a wall, ceiling or card, and takes its colour",
    "breaker": "the switch in the fuse box that cuts a circuit when it draws too many amperes",
    "broad light": "the side of a turned face nearest to the lens is the lit one",
    "butterfly": "one light in front and high: a small shadow under the nose, even cheeks",
    "circuit": "all sockets behind one breaker; what hangs on them adds up",
    "clamshell": "a high key and a low fill, both in front: soft, for faces",
    "contrast": "how much brighter the key side is than the shadow side, in stops",
    "counterweight": "a weight at the short end of a boom that keeps it level and its stand upright",
    "crop": "how much of a subject the frame holds: head and shoulders, half length …",
    "crossbar": "the tube between two background stands that the roll or cloth hangs on",
    "depth of field": "how far before and behind the plane in focus things still pass as sharp",
    "diffuser": "white cloth a light shines through: softer, and about a stop weaker a layer",
    "exposure": "how light the picture comes out: light, aperture, shutter and ISO together",
    "fall-off": "how much weaker light is further away: a quarter at twice the distance",
    "fill": "a weaker light or card that opens the shadows of the key",
    "flag": "something black that keeps light off a part of the set, or takes reflections away",
    "flare": "light straight into the lens, which veils the picture",
    "gel": "coloured sheet before a light, to match others or for effect",
    "gobo": "a cut-out before a light that throws a pattern",
    "grey card": "a card of 18 % reflectance that a meter or a test frame is set by",
    "grid": "a honeycomb before a light that narrows its beam",
    "guide number": "aperture times distance at which a flash exposes right, at ISO 100",
    "hair light": "a small light from behind and above, on the hair",
    "holder": "what a background hangs from: two stands and a crossbar, poles, brackets",
    "hot shoe": "the rail on a camera that takes a small flash or a trigger",
    "key": "the main light: it makes the shadows and sets the exposure",
    "LRV": "light reflectance value: the share of light a paint gives back, on its card in per cent",
    "loop": "one light 30 to 45° to the side and a little high: a short shadow beside the nose",
    "mark": "the spot on the floor where the subject stands or sits",
    "meter": "an instrument that reads the light at the subject and says which aperture it makes",
    "modelling lamp": "a lamp in a flash head that shows where the light will fall",
    "modifier": "what shapes a light: softbox, umbrella, dish, grid",
    "octabox": "an eight-sided softbox: round catchlights in eyes",
    "practical": "a lamp that is seen in the picture",
    "recycle": "the time a flash needs to charge again",
    "reflector": "a card or cloth that returns light into the shadows",
    "Rembrandt": "a light 45° to the side and 45° up: a lit triangle on the far cheek",
    "rim": "a light from behind that draws an edge",
    "scrim": "a large sheet of white cloth on a frame that a light shines through",
    "seamless": "paper in one piece from wall to floor, without an edge in the picture",
    "short light": "the side of a turned face away from the lens is the lit one",
    "softbox": "a lit box with a white front: the larger and nearer, the softer",
    "spigot": "the pin on a stand's top that a light sits on, usually 16 mm",
    "split": "a light square to the side: half of the face dark",
    "stop": "twice or half the light; aperture, time and ISO are counted in it",
    "sweep": "background that runs on under the subject in a curve, so that no edge shows",
    "sync": "the shortest shutter time at which a flash lights the whole frame",
    "tent": "white cloth all round a small thing: no hard reflections",
    "tether": "a cable or radio link that shows frames on a computer as they are taken",
    "tint": "colour that walls and things nearby put into the light; told in ΔE",
    "trigger": "the radio or cable that fires flashes with the camera",
    "tripod": "three legs under a camera",
    "white balance": "what the camera takes as white, in kelvin",
    "ΔE": "how far two colours are apart: 1 is just seen side by side, 3 is seen by most",
}


@cache
def _finder() -> re.Pattern[str]:
    words = sorted(TERMS, key=len, reverse=True)
    return re.compile(r"(?<!\w)(" + "|".join(re.escape(word) for word in words) + r")(?:e?s)?(?!\w)", re.IGNORECASE)


@cache
def _by_low() -> dict[str, str]:
    return {word.lower(): word for word in TERMS}


def used_in(text: str) -> dict[str, str]:
    """Terms a text uses with their meanings, in the order of the alphabet."""
    return {word: TERMS[word] for word in _words_in(text)}


@lru_cache(2000)
def _words_in(text: str) -> tuple[str, ...]:
    found = {_by_low()[one.group(1).lower()] for one in _finder().finditer(text)}
    return tuple(sorted(found, key=str.lower))


def first_told(texts: Iterable[tuple[str, str]]) -> dict[str, dict[str, str]]:
    """For texts by a key, in their order: the terms each is the first to use, with their meanings."""
    seen: set[str] = set()
    found: dict[str, dict[str, str]] = {}
    for key, text in texts:
        new = {word: says for word, says in used_in(text).items() if word not in seen}
        seen |= new.keys()
        if new:
            found[key] = new
    return found
