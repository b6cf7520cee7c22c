"""What stands round the subject as surfaces: shell, windows, furniture, background, props."""

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from hashlib import sha256

import numpy as np
from numpy.typing import NDArray

from evrant.core.base.memo import Memo
from evrant.core.base.quantity import Figure
from evrant.core.base.tables import finishes
from evrant.core.light.bodies import own_body, prisms
from evrant.core.light.bounce.enclosure import Enclosure, enclosure_of
from evrant.core.light.bounce.patches import MOST
from evrant.core.light.bounce.shell import shell_of
from evrant.core.light.bounce.surfaces import Bands, Surface, fitted, grey, hull_faces
from evrant.core.light.colour import paint
from evrant.core.light.emission import Missing
from evrant.core.space.footprint import Plan
from evrant.core.space.scene import Scene
from evrant.core.space.solids import Points
from evrant.core.space.tents import Panel, panels
from evrant.core.space.things import Thing, box_thing
from evrant.core.studio.gear import Backdrop, Board, Table, Tent
from evrant.core.studio.room import Box, Finish, Room, Window, value

_SURFACES: Memo["Surroundings | Missing"] = Memo(8_000_000, lambda found: 20_000)
_ENCLOSURES: Memo[Enclosure] = Memo(96_000_000, lambda e: 200_000 + 4 * e.patches.count**2)
_PAINTED: Memo[Enclosure] = Memo(8_000_000, lambda e: 20_000 + 50 * e.patches.count)


SHEET, CARD = 0.3, 0.6
"""Sheets that let light through, and cards, are cut no wider than this [m]: lights stand close to them. A lamp 20 cm
behind a sheet is then within a tenth of a stop."""


@dataclass(frozen=True, eq=False)
class Surroundings:
    """Surfaces of a set without its lights. `colourless` names paints without a hue; `unsure` gives the
    ± of the reflectance of surfaces, by number; `key` names the content, `shape` what of it is not finish."""

    surfaces: tuple[Surface, ...]
    colourless: tuple[str, ...]
    unsure: dict[int, float]
    key: str
    shape: str

    def enclosure(self, patches: int) -> Enclosure:
        """Cut and exchanged; remembered by content, and the exchange by shape: new paint leaves it as it is."""
        return _PAINTED.get_by(f"{self.key} {patches}", lambda: self._shaped(patches).painted(self.surfaces))

    def _shaped(self, patches: int) -> Enclosure:
        return _ENCLOSURES.get_by(f"{self.shape} {patches}", lambda: enclosure_of(self.surfaces, patches))


def surroundings(scene: Scene, *, bodies: bool = True) -> Surroundings | Missing:
    """The surfaces of a set, with or without the bodies of those in the picture; or what keeps them from being
    known."""
    room, plan = scene.room, scene.plan
    items = tuple(scene.gear.get(p.item or "") for p in plan.props)
    parts = (
        *(room.footprint, room.height, room.slopes, room.walls, room.ceiling, room.floor, room.floor_finish),
        *(room.windows, room.boxes, plan.aside, plan.background, plan.mark, plan.camera),
        *(scene.backdrop, scene.shot.subjects, plan.props, *items, *scene.parts_beside),
    )
    return _SURFACES.get(str(bodies), parts, lambda: _build(scene, bodies=bodies))


def _build(scene: Scene, *, bodies: bool) -> Surroundings | Missing:
    made = _shell(scene)
    if isinstance(made, Missing):
        return made
    ground = _background(scene)
    if isinstance(ground, Missing):
        return ground
    surfaces = [*made, *_windows(scene), *_boxes(scene), *ground, *_props(scene)]
    for other in scene.beside:
        behind = _background(other)
        surfaces += [*([] if isinstance(behind, Missing) else behind), *_props(other)]
    if bodies:
        surfaces += _subjects(scene)
    unsure = {i: _spread(scene.room, s) for i, s in enumerate(surfaces)}
    surfaces = fitted(surfaces)
    colourless = tuple(_without_colour(scene.room))
    shape = sha256()
    for s in surfaces:
        shape.update(f"{s.back is None} {s.blocks} {s.body} {s.fine} {s.widest}".encode())
        for polygon in s.polygons:
            shape.update(np.round(polygon, 6).tobytes())
    content = shape.copy()
    for s in surfaces:
        content.update(f"{s.name} {s.reflectance} {s.back} {s.through} {s.gloss} {s.rough}".encode())
    return Surroundings(tuple(surfaces), colourless, unsure, content.hexdigest(), shape.hexdigest())


def _finish(finish: Finish, name: str, where: str) -> Bands | Missing:
    if finish.share is None:
        return Missing(f"The reflectance of the {name} is missing.", where)
    return paint(finish.share.value, finish.colour)


def _shell(scene: Scene) -> list[Surface] | Missing:
    plan, ceiling, room = scene.walls, scene.ceiling, scene.room
    if plan is None:
        return Missing("The room's outline is missing.", "room/footprint")
    if ceiling is None:
        return Missing("The ceiling height is missing.", "room")
    edges = room.edges(plan.count)
    floor, above = _floor(room), _finish(room.ceiling, "ceiling", "room/ceiling")
    around = [_finish(wall.finish, wall.name, f"room/walls/{wall.id}/finish") for wall in edges]
    missing = next((one for one in (floor, above, *around) if isinstance(one, Missing)), None)
    if missing is not None:
        return missing
    known = [one for one in (floor, above, *around) if not isinstance(one, Missing)]
    shell = shell_of(plan, ceiling)
    below, over, *beside = known
    return [
        Surface("floor", "room/floor_finish", shell.floor, below, blocks=False),
        Surface("ceiling", "room/ceiling", shell.ceiling + shell.cheeks, over, blocks=False),
        *(
            Surface(wall.name, f"room/walls/{wall.id}/finish", polygons, returns, blocks=False)
            for wall, polygons, returns in zip(edges, shell.walls, beside, strict=True)
        ),
    ]


def _floor(room: Room) -> Bands | Missing:
    if room.floor_finish.share is not None:
        return paint(room.floor_finish.share.value, room.floor_finish.colour)
    if room.floor is None:
        return Missing("What the floor is made of, or its reflectance, is missing.", "room")
    return grey(finishes.FLOORS[room.floor][0])


def _without_colour(room: Room) -> Iterable[str]:
    if room.ceiling.colour is None:
        yield "ceiling"
    for wall in room.walls:
        if wall.finish.share is not None and wall.finish.colour is None:
            yield wall.name


def _spread(room: Room, surface: Surface) -> float:
    """± of a surface's reflectance."""
    figures: dict[str, Figure | None] = {"room/ceiling": room.ceiling.share}
    figures |= {f"room/walls/{w.id}/finish": w.finish.share for w in room.walls}
    figures |= {f"room/boxes/{b.id}": b.finish.measured for b in room.boxes}
    if surface.path == "room/floor_finish":
        own = room.floor_finish.share
        return own.pm / 100 if own else finishes.FLOORS[room.floor or "wood"][1]
    figure = figures.get(surface.path)
    if figure is not None:
        return figure.pm / 100
    if surface.path.endswith("/mark"):
        return finishes.SUBJECT_SPREAD
    return finishes.FURNITURE[1] if surface.path.startswith("room/boxes") else 0.03


def points_on(glass: Points, across: NDArray[np.float64], up: NDArray[np.float64]) -> Points:
    """Points (n, 3) of a window's glass at every one of those shares of its width and of its height."""
    wide, high = (part.ravel() for part in np.meshgrid(across, up))
    return np.asarray(glass[0] + np.outer(wide, glass[1] - glass[0]) + np.outer(high, glass[3] - glass[0]))


def window_face(plan: Plan, room: Room, window: Window) -> Points | None:
    """Corners of a window's glass on its wall, front into the room."""
    if window.wall is None or window.offset is None or window.width is None or window.height is None:
        return None
    names = [wall.id for wall in room.edges(plan.count)]
    if window.wall not in names:
        return None
    index = names.index(window.wall)
    start, end = plan.wall(index)
    along = (end - start) / np.linalg.norm(end - start)
    low = value(window.sill) or 0.0
    a, b = start + along * window.offset.value, start + along * (window.offset.value + window.width.value)
    top = low + window.height.value
    return np.array([[*b, low], [*a, low], [*a, top], [*b, top]])


def through_slats(tilt: float, reflectance: float) -> float:
    """Share of diffuse light that passes slats as far apart as they are deep, tilted from level [degrees].

    The cell between two slats and its two openings, each side 1: factors by crossed strings (any handbook of radiation,
    two dimensions), and the slats' radiosity of what comes in by one opening.
    """
    lean = math.radians(tilt)
    long, short = (math.hypot(math.cos(lean), 1 + way * math.sin(lean)) for way in (1, -1))
    near, far, facing = (2 - short) / 2, (2 - long) / 2, (long + short - 2) / 2
    # Of the lower slat and the upper one: B = ρ (from the opening + facing × the other's).
    whole = 1 - (reflectance * facing) ** 2
    lower = reflectance * (near + reflectance * facing * far) / whole
    upper = reflectance * (far + reflectance * facing * near) / whole
    return facing + far * lower + near * upper


def lets_in(window: Window) -> float:
    """Share of the daylight on a window's glass that comes in: glass, frame and what is drawn before it."""
    drawn = finishes.COVERS[window.cover][0] if window.cover else 1.0
    if window.slats is not None:
        drawn = through_slats(window.slats, finishes.SLAT)
    return finishes.WINDOW_LETS_IN * (window.lets_in.value if window.lets_in else drawn)


def _windows(scene: Scene) -> Iterable[Surface]:
    assert scene.walls is not None
    for window in scene.room.windows:
        face = window_face(scene.walls, scene.room, window)
        if face is not None:
            drawn = finishes.COVERS[window.cover][1] if window.cover else finishes.GLASS_BY_NIGHT
            share = finishes.BLACKOUT if window.blackout == "in place" else drawn
            yield Surface(window.name, f"room/windows/{window.id}", (face,), grey(share), blocks=False)


def _boxes(scene: Scene) -> Iterable[Surface]:
    for box in scene.boxes:
        thing = box_thing(box)
        if thing is not None:
            path = f"room/boxes/{box.id}"
            faces = tuple(hull_faces(thing.parts[0].solid))
            yield Surface(box.name, path, faces, _box_finish(box), body=path, fine=1.6)


def _box_finish(box: Box) -> Bands:
    if box.finish.share is not None:
        return paint(box.finish.share.value, box.finish.colour)
    return grey(usual_of_box(box))


def usual_of_box(box: Box) -> float:
    """Share of light that furniture of a kind usually returns."""
    return finishes.BY_BOX.get(box.kind, finishes.FURNITURE[0])


def _background(scene: Scene) -> list[Surface] | Missing:
    """The hanging part as a sheet and the part that lies on the floor."""
    ends, height, item = scene.background_ends, scene.plan.background.height, scene.backdrop
    if ends is None or height is None or item is None or scene.bare_wall is not None:
        return []
    if item.reflectance is None:
        return Missing(f"The reflectance of the {item.called} is missing.", f"gear/{item.id}")
    returns = paint(item.reflectance.value, item.colour)
    path, low = f"{scene.path}/background", max(scene.lowest_edge, 0.0)
    left, right = (np.array([*end, 0.0]) for end in ends)
    up = np.array([0.0, 0.0, 1.0])
    # seen by the camera: left end first, front towards it
    ring = np.array([left + up * low, right + up * low, right + up * height, left + up * height])
    through = grey(min(item.through.value, 0.97 - item.reflectance.value / 100)) if item.through else None
    found = [Surface("background", path, (ring,), returns, back=returns, through=through)]
    tongue = _tongue(scene, item, left, right, height, low)
    if tongue is not None:
        found.append(Surface("background on the floor", path, (tongue,), returns, blocks=False))
    return found


def _tongue(scene: Scene, item: Backdrop, left: Points, right: Points, height: float, low: float) -> Points | None:
    if scene.lands != "on the floor" or low > 1e-6 or item.length is None or scene.line is None:
        return None
    spare = min(item.length.value - height, 2.5)
    if spare < 0.1:
        return None
    ahead = np.array([*scene.line[1], 0.0]) * spare
    return np.array([left, left + ahead, right + ahead, right])


def _props(scene: Scene) -> Iterable[Surface]:
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        thing = scene.prop_thing(place)
        if thing is None:
            continue
        if isinstance(item, Board):
            yield _board(thing.path, item, thing.parts[0].solid)
        elif isinstance(item, Table):
            yield from _table(thing, item)
        elif isinstance(item, Tent):
            spot = np.array([place.x, place.y])
            walls = panels(item, spot, place.turn, scene.base_of(place), place.tilt)
            yield from _tent(thing, item, walls)


def _table(thing: Thing, item: Table) -> Iterable[Surface]:
    """A top and what is under it; a translucent top is a sheet that lets light through both ways."""
    clear = item.form == "translucent table"
    share = item.reflectance.value / 100 if item.reflectance else None
    for number, part in enumerate(thing.parts):
        if part.kind == "top" and clear:
            own, through = finishes.TABLE_THROUGH if share is None else (share, finishes.TABLE_THROUGH[1])
            through = min(item.through.value if item.through else through, 0.97 - own)
            ring = _upper(part.solid)
            yield Surface(
                thing.name, thing.path, (ring,), grey(own), back=grey(own), through=grey(through), widest=0.16
            )
        elif part.kind in ("top", "casing"):
            fine, widest = (1.0, 0.16) if part.kind == "top" else (2.0, 9.0)
            solid = _of_eight(part.solid) if len(part.solid) > 2 * MOST else part.solid
            faces, body = tuple(hull_faces(solid)), f"{thing.path} {number}"
            returns = grey(finishes.TABLE_TOP if share is None or part.kind != "top" else share)
            yield Surface(thing.name, thing.path, faces, returns, body=body, fine=fine, widest=widest)


def _of_eight(drum: Points) -> Points:
    """An upright round body (lower ring, then upper ring, of a multiple of eight sides) with as many sides as a body in
    the light may have, and the same area."""
    rings = drum.reshape(2, -1, 3)
    sides = rings.shape[1]
    ends = rings[:, :: sides // MOST]
    middle = rings.mean(axis=1, keepdims=True)
    wider = math.sqrt(sides * math.sin(2 * math.pi / sides) / (MOST * math.sin(2 * math.pi / MOST)))
    return np.asarray((middle + (ends - middle) * wider).reshape(-1, 3))


def _upper(slab: Points) -> Points:
    """The upper face of a level slab, front up."""
    return max(hull_faces(slab), key=lambda face: float(face[:, 2].mean()))


def _tent(thing: Thing, item: Tent, walls: tuple[Panel, ...]) -> Iterable[Surface]:
    """A tent's walls as sheets of its cloth; its floor is as white, and lets nothing through."""
    own, through = finishes.TENT
    own = item.reflectance.value / 100 if item.reflectance else own
    through = min(item.through.value if item.through else through, 0.97 - own)
    widest = max((item.width.value if item.width else 0.3) / 3, 0.08)
    for number, wall in enumerate(walls):
        passing = None if wall.wall == "floor" else grey(through)
        body = f"{thing.path} {number}"
        yield Surface(thing.name, thing.path, (wall.outline,), grey(own), grey(own), passing, body, widest=widest)


def _subjects(scene: Scene) -> Iterable[Surface]:
    """Those in the picture as prisms, which shade the room and return its light."""
    for who in scene.shot.subjects:
        share = who.reflectance.value / 100 if who.reflectance else finishes.SUBJECTS[who.kind]
        for number, faces in enumerate(prisms(scene, who)):
            body = f"{own_body(who.id)}{number}"
            yield Surface(who.name.lower(), f"{scene.path}/mark", faces, grey(share), body=body, fine=1.6)


def _board(path: str, item: Board, slab: Points) -> Surface:
    """A card as a sheet in its middle plane."""
    corners = [(slab[a] + slab[b]) / 2 for a, b in ((0, 2), (4, 6), (5, 7), (1, 3))]
    surface = item.surface or "white"
    share, through = finishes.BOARDS[surface]
    if item.reflectance is not None:
        share = item.reflectance.value / 100
    if item.through is not None:
        through = min(item.through.value, 0.97 - share)
    clear = grey(through) if through > 0 else None
    gloss, rough = finishes.GLOSS.get(surface, (0.0, 0.0))
    sheet = Surface(item.name.lower(), path, (np.array(corners),), grey(share), back=grey(share), through=clear)
    return replace(sheet, gloss=gloss, rough=rough, widest=CARD if clear is None else SHEET)
