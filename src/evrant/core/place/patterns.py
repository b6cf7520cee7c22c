"""Light patterns by angle from the subject's nose line, and the name of what lights make.

Angles are common practice, no source: loop 30–45° round, Rembrandt about 45°/45°, split 90°, butterfly in
front and high, clamshell with a low fill. `round` is the plan angle from the nose line, positive on the
side the key stands; `up` the elevation from the face.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from evrant.core.space.lights import Light
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Vector, unit
from evrant.core.studio.sets import Role
from evrant.core.studio.shots import Pattern

Where = Literal["face", "background", "corner", "lens", "table"]
Card = Literal["white", "black", "translucent"]


@dataclass(frozen=True, slots=True)
class Beam:
    """One light of a pattern: role, angles from the nose line [degrees], distance as a share of the key's,
    what it is aimed at."""

    role: Role
    round: float
    up: float
    far: float = 1.0
    aim: Where = "face"

    @property
    def before(self) -> float:
        """How far before the subject it stands, as a share of its distance; negative behind them."""
        return math.cos(math.radians(self.round)) * math.cos(math.radians(self.up))


@dataclass(frozen=True, slots=True)
class CardPlace:
    """A reflector, flag or scrim of a pattern, round from the nose line, at a share of the key's distance;
    `centre` is the height of its middle over (or under) the face [m]."""

    surface: Card
    round: float
    far: float
    centre: float = 0.0
    tilt: float = 0.0


@dataclass(frozen=True, slots=True)
class Recipe:
    """What a pattern is made of. `turn` is how far the nose turns from the lens, towards the key's side;
    `near` the angle within which lights still make it [degrees]."""

    beams: tuple[Beam, ...]
    cards: tuple[CardPlace, ...] = ()
    turn: float = 0.0
    near: float = 15.0
    says: str = ""
    lost: str = ""
    """What a picture is without it, where another pattern gives no such look."""


KEY_LOOP = Beam("key", 40, 38)
PATTERNS: dict[Pattern, Recipe] = {
    "butterfly": Recipe((Beam("key", 0, 42),), says="one light in front and high"),
    "loop": Recipe((KEY_LOOP,), near=15, says="one light 30–45° round, a little high"),
    "Rembrandt": Recipe((Beam("key", 48, 45),), near=15, says="45° round and 45° up; a lit triangle on the far cheek"),
    "split": Recipe((Beam("key", 90, 12),), near=18, says="one light from the side; half the face stays dark"),
    "clamshell": Recipe((Beam("key", 0, 42), Beam("fill", 0, -38, 0.8)), near=18, says="high key, low fill"),
    "broad": Recipe((Beam("key", 40, 35),), turn=-30, says="the side of the face turned to the lens is lit"),
    "short": Recipe((Beam("key", 40, 35),), turn=30, says="the side of the face turned away from the lens is lit"),
    "rim pair": Recipe((Beam("rim", 140, 25), Beam("rim", -140, 25)), near=20, says="two lights from behind"),
    "hair light": Recipe((KEY_LOOP, Beam("hair light", 180, 62)), near=18, says="a loop and a light above the hair"),
    "background pair": Recipe(
        (KEY_LOOP, Beam("background light", 1, 0, aim="background"), Beam("background light", -1, 0, aim="background")),
        near=15,
        says="a key, and two lights that make the background even",
    ),
    "background pair, bounced fill": Recipe(
        (
            Beam("key", 0, 0, aim="corner"),
            Beam("background light", 1, 0, aim="background"),
            Beam("background light", -1, 0, aim="background"),
        ),
        says="two lights on the background, and one head fired back for all of the subject's light",
    ),
    "bounced": Recipe((Beam("key", 0, 0, aim="corner"),), says="one head fired back into wall and ceiling"),
    "tent": Recipe(
        (Beam("key", 85, 20), Beam("fill", -85, 20)),
        near=25,
        says="two lights through a tent round the object",
        lost="without its tent",
    ),
    "scrim": Recipe(
        (Beam("key", 60, 35, 1.5),), (CardPlace("translucent", 60, 0.7),), says="one light through a scrim"
    ),
    "side": Recipe((Beam("key", 80, 18),), near=18, says="one light from the side"),
    "side pair": Recipe((Beam("key", 75, 20), Beam("fill", -75, 20)), near=18, says="a light from either side"),
    "even pair": Recipe(
        (Beam("key", 40, 20), Beam("key", -40, 20)), near=18, says="two lights alike on either side of the lens"
    ),
    "top": Recipe((Beam("top light", 0, 84),), near=20, says="one light from above"),
    "under-light": Recipe(
        (Beam("under-light", 180, -70, 0.6),),
        near=45,
        says="light from below, through the surface",
        lost="not lit from below",
    ),
    "ring": Recipe(
        (Beam("ring light", 0, 0, aim="lens"),), near=10, says="a ring round the lens", lost="without the ring of light"
    ),
    "silhouette": Recipe(
        (Beam("background light", 1, 0, aim="background"), Beam("background light", -1, 0, aim="background")),
        says="only the background is lit",
        lost="no silhouette",
    ),
    "gobo": Recipe(
        (KEY_LOOP, Beam("background light", 1, 0, aim="background")),
        says="a shape thrown on the background",
        lost="without the shape on its background",
    ),
    "practicals": Recipe(
        (Beam("practical", 150, 5, 0.9), Beam("fill", -40, 20)),
        near=40,
        says="lamps in the picture",
        lost="without lamps in the picture",
    ),
    "window and reflector": Recipe((), (CardPlace("white", -80, 0.8),), says="the window, and a reflector opposite"),
}


@dataclass(frozen=True, slots=True)
class Seen:
    """A light as the face sees it: plan angle from the nose line (left positive) and elevation [degrees]."""

    light: Light
    round: float
    up: float


def seen_from_face(scene: Scene) -> tuple[Seen, ...]:
    """Every placed light as the lead subject's face sees it, of several people the middle of theirs."""
    if scene.lit_spot is None:
        return ()
    found = []
    for light in scene.lights:
        if light.at is not None:
            x, y, z = (float(part) for part in light.at - scene.lit_spot)
            angle = math.degrees(math.atan2(y, x)) - scene.facing
            found.append(Seen(light, (angle + 180) % 360 - 180, math.degrees(math.atan2(z, math.hypot(x, y)))))
    return tuple(found)


def direction(round_: float, up: float) -> Vector:
    """Unit vector at these angles, x along the nose line."""
    a, e = math.radians(round_), math.radians(up)
    return np.array([math.cos(a) * math.cos(e), math.sin(a) * math.cos(e), math.sin(e)])


def apart(first: Vector, second: Vector) -> float:
    """Angle between two unit vectors [degrees]."""
    return math.degrees(math.acos(max(-1.0, min(1.0, float(first @ second)))))


def deviation(scene: Scene, pattern: Pattern) -> tuple[float, str] | None:
    """How far the worst light of a set stands from where the pattern wants it [degrees], and which light;
    for whichever side fits better. None for patterns that are not told by angles, or when a light is missing."""
    beams = [beam for beam in PATTERNS[pattern].beams if beam.aim == "face"]
    seen = [one for one in seen_from_face(scene) if one.light.place.role != "background light"]
    if not beams or len(seen) < len(beams):
        return None
    options = [_assigned(beams, seen, side) for side in (1.0, -1.0)]
    return min(options, key=lambda found: found[0])


def _assigned(beams: list[Beam], seen: list[Seen], side: float) -> tuple[float, str]:
    """Each beam takes the nearest light not yet taken, in the order of the recipe."""
    rest, worst = list(seen), (0.0, seen[0].light.path)
    for beam in beams:
        wish = direction(beam.round * side, beam.up)
        one = min(rest, key=lambda s: (s.light.place.role != beam.role, apart(direction(s.round, s.up), wish)))
        rest.remove(one)
        off = apart(direction(one.round, one.up), wish)
        if off >= worst[0]:
            worst = (off, one.light.path)
    return worst


def named(scene: Scene) -> str:
    """The pattern the lights of a set make, in words; empty when there is none to name."""
    seen = seen_from_face(scene)
    ground = [one for one in seen if one.light.place.role == "background light"]
    front = [one for one in seen if one not in ground]
    if not front:
        return "silhouette" if ground else ""
    if any(fires_back(scene, one.light) for one in front):
        return "background pair, bounced fill" if len(ground) > 1 else "bounced"
    if any(one.light.place.role == "ring light" for one in front):
        return "ring"
    wish = scene.shot.pattern
    fits = deviation(scene, wish) if wish in TOLD_BY_ANGLE else None
    asked = wish is not None and fits is not None and fits[0] <= PATTERNS[wish].near
    found = wish if asked and wish else _nearest(scene, front)
    return f"{found} with background pair" if found and len(ground) > 1 else found


def _nearest(scene: Scene, front: list[Seen]) -> str:
    turned = _turned_from_lens(scene)
    options: list[tuple[int, float, str]] = []
    for pattern in TOLD_BY_ANGLE:
        recipe = PATTERNS[pattern]
        found = deviation(scene, pattern)
        if found is None or found[0] > recipe.near + 6:
            continue
        if recipe.turn and not _is_turned(turned, front, recipe.turn):
            continue
        lights = len([beam for beam in recipe.beams if beam.aim == "face"])
        bonus = 1 if recipe.turn and abs(turned) >= 15 else 0
        options.append((-(lights + bonus), found[0] / recipe.near, pattern))
    return min(options)[2] if options else "none of the usual patterns"


TOLD_BY_ANGLE: tuple[Pattern, ...] = (
    "butterfly",
    "loop",
    "Rembrandt",
    "split",
    "clamshell",
    "broad",
    "short",
    "rim pair",
    "hair light",
    "side pair",
    "even pair",
    "top",
    "under-light",
)


def _turned_from_lens(scene: Scene) -> float:
    """How far the nose points away from the lens, left positive [degrees]."""
    if scene.axis is None:
        return 0.0
    lens = math.degrees(math.atan2(scene.axis[1], scene.axis[0]))
    return (scene.facing - lens + 180) % 360 - 180


def _is_turned(turned: float, front: list[Seen], wanted: float) -> bool:
    """Whether the nose is turned from the lens to the side the pattern needs, seen from the key."""
    key = next((one for one in front if one.light.place.role == "key"), front[0])
    towards_key = turned if key.round >= 0 else -turned
    return towards_key * wanted > 0 and abs(turned) >= 15


def fires_back(scene: Scene, light: Light) -> bool:
    """A light whose aim is explicit and away from the face."""
    if light.place.aim_x is None or light.forward is None or light.at is None or scene.lit_spot is None:
        return False
    return apart(light.forward, unit(scene.lit_spot - light.at)) > 60


def words(pattern: Pattern) -> str:
    """One line on what a pattern is."""
    return PATTERNS[pattern].says


def roles(pattern: Pattern) -> Iterable[Role]:
    """The roles a pattern fills, in order."""
    return (beam.role for beam in PATTERNS[pattern].beams)


def stand_height_wanted(eye: float, distance: float, elevation: float) -> float:
    """Height of a light for an elevation: eye height + distance × sin(elevation) [m, degrees]."""
    return eye + distance * float(np.sin(np.radians(elevation)))
