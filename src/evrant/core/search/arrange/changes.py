"""What would make an impossible shot possible: changes tried one by one, each searched anew.

In the order of what they cost people: nothing to buy first, then what is already considered, then another
lens, then a change of the picture or the room. A change is only offered when the search, run again with
it, finds a set without a Short line of geometry.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from pydantic import ValidationError

from evrant.core.base.clock import Clock, standing_still
from evrant.core.edits.language import Add, Edit, EditRefused, Remove, SetFields
from evrant.core.judge.declared import lines
from evrant.core.judge.rules.set.stepping import NEAREST_GAP
from evrant.core.place import moves
from evrant.core.search.arrange.formations import USUAL_GAP, Offer
from evrant.core.search.arrange.poses import Grid
from evrant.core.search.arrange.put_aside import kept
from evrant.core.search.arrange.search import Found, Result, arrange
from evrant.core.studio.gear import Backdrop, Holder, Lens, Modifier
from evrant.core.studio.presets import row_places, row_posture
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio, by_id
from evrant.core.studio.words import Say

FOCALS = (0.050, 0.035, 0.028, 0.024)
HALLWAY = 1.2
TRIAL = Grid(step=0.25, turn=45.0, along=0.15)
LIGHTER = Offer(gaps=(0.03,), near=(1.0, 0.7, 0.5, 1.9), wide=(0.0,), modifiers=1)


@dataclass(frozen=True)
class Change:
    """Something to change, in words and as edits of the studio."""

    label: str
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Possible:
    """A change with the best set the search finds under it; furniture that makes way is part of the set."""

    change: Change
    found: Found
    seconds: float


@dataclass(frozen=True)
class Help:
    """Changes that make a shot possible; `complete` when every change was searched to its end."""

    found: tuple[Possible, ...]
    complete: bool


def possible_with(
    studio: Studio,
    shot: Shot,
    *,
    most: int = 3,
    budget: float = 10.0,
    trial: float = 0.8,
    binding: Sequence[str] = (),
    clock: Clock = standing_still,
) -> Help:
    """The smallest changes that make a shot possible, verified by searching again, and whether all were tried
    to the end.

    `binding` are the codes of the lines that are Short in the nearest miss: what touches them is tried first.
    """
    trials = _Trials(studio, shot, trial, clock() + budget, clock)
    singles = sorted(changes(studio, shot), key=lambda change: not _touches(change, binding))
    found = trials.of(singles, most)
    if not found:
        near = sorted(trials.missed, key=lambda pair: -pair[0])[:4]
        pairs = [_both(a, b) for i, (_, a) in enumerate(near) for _, b in near[i + 1 :]]
        found = trials.of(pairs, most)
    return Help(tuple(found), trials.complete)


def _touches(change: Change, binding: Sequence[str]) -> bool:
    about = " ".join(repr(edit) for edit in change.edits)
    declared = lines()
    return any(word in about for code in binding if code in declared for word in declared[code].helped_by)


def _both(first: Change, second: Change) -> Change:
    return Change(f"{first.label}, and {second.label}", (*first.edits, *second.edits))


class _Trials:
    """Changes tried until enough are found or the time is up; those that miss are kept with how near they came."""

    def __init__(self, studio: Studio, shot: Shot, each: float, until: float, clock: Clock) -> None:
        self.studio, self.shot, self.each, self.until, self.clock = studio, shot, each, until, clock
        self.missed: list[tuple[float, Change]] = []
        self.complete = True

    def of(self, wanted: Iterable[Change], most: int) -> list[Possible]:
        found: list[Possible] = []
        for change in wanted:
            begun = self.clock()
            if len(found) >= most:
                break
            if begun > self.until:
                self.complete = False
                break
            changed = _applied(self.studio, change.edits)
            wish = by_id(changed.shots, self.shot.id) if changed else None
            if changed is None or wish is None:
                continue
            result = arrange(
                changed,
                wish,
                offer=LIGHTER,
                grid=TRIAL,
                budget=self.each,
                most=1,
                misses=1,
                first=True,
                clock=self.clock,
            )
            self.complete &= result.fits or result.proved
            best = result.sets[0] if result.fits else None
            stays = None if best is None else kept(self.studio, change.edits, best.plan)
            if best is not None and stays is not None:
                settled = replace(change, edits=stays[0])
                found.append(Possible(settled, replace(best, plan=stays[1]), self.clock() - begun))
            elif result.nearest is not None:
                self.missed.append((result.nearest.worst, change))
        return found


def _applied(studio: Studio, edits: Sequence[Edit]) -> Studio | None:
    try:
        for edit in edits:
            studio = moves.change(studio, edit)
    except (EditRefused, ValidationError):
        return None
    return studio


def changes(studio: Studio, shot: Shot) -> Iterable[Change]:
    """Candidates, smallest first."""
    yield from _free(studio, shot)
    yield from _considered(studio)
    yield from _lenses(studio)
    yield from _picture(studio, shot)
    yield from _building(studio)


def _set(target: str, **fields: object) -> SetFields:
    return SetFields.model_validate({"target": target, "fields": fields})


def _free(studio: Studio, shot: Shot) -> Iterable[Change]:
    """Costs nothing: the way the camera is held, furniture that may be moved for a session."""
    if (other := shot.held_otherwise) is not None:
        yield Change(f"hold the camera in {other}", (_set(f"shots/{shot.id}", orientation=other),))
    for box in studio.room.boxes:
        if box.moves != "stays":
            words = "push the {} aside" if box.moves == "may be pushed aside" else "move the {} out"
            gone = tuple(b for b in studio.room.boxes if b.id != box.id)
            if len(gone) < len(studio.room.boxes):
                yield Change(words.format(box.name.lower()), (_remove(f"room/boxes/{box.id}"),))


def _remove(target: str) -> Edit:
    return Remove(target=target)


def _considered(studio: Studio) -> Iterable[Change]:
    """What is already on the list of things considered."""
    for kind in (Lens, Modifier, Backdrop, Holder):
        for item in studio.gear:
            if isinstance(item, kind) and not item.at_hand:
                yield Change(f"take the {item.called}", (_set(f"gear/{item.id}", status="planned"),))


def _lenses(studio: Studio) -> Iterable[Change]:
    """Shorter lenses than any at hand, longest first; their price is not known here."""
    hand = [i.focal.value for i in studio.gear if isinstance(i, Lens) and i.focal and i.at_hand]
    for focal in FOCALS:
        if not hand or focal < min(hand) * 0.95:
            words = f"{focal * 1000:.0f} mm lens"
            item = {"kind": "lens", "id": f"lens-{focal * 1000:.0f}-new", "name": words, "focal": focal}
            yield Change(f"a {words}", (Add.model_validate({"list": "gear", "item": item}),))


def _picture(studio: Studio, shot: Shot) -> Iterable[Change]:
    """Another picture: a group in two rows, seated, nearer to the background, a tighter crop, shot in two parts."""
    say = Say.of(studio.brief)
    yield from _two_rows(shot)
    standing = [s for s in shot.subjects if s.kind == "person" and s.posture == "standing"]
    if standing:
        edits = tuple(_set(f"shots/{shot.id}/subjects/{s.id}", posture="seated") for s in standing)
        yield Change(seated(len(standing)), edits)
    gap = shot.background_gap.value if shot.background_gap else USUAL_GAP
    for nearer in dict.fromkeys((round(max(gap - 0.3, NEAREST_GAP), 2), NEAREST_GAP)) if gap > 0.55 else ():
        words = f"come to {say.length(nearer)} before the background"
        yield Change(words, (_set(f"shots/{shot.id}", background_gap=nearer),))
    tighter = {"full length": "three-quarter", "three-quarter": "half length", "half length": "head and shoulders"}
    if shot.crop in tighter:
        yield Change(f"crop to {tighter[shot.crop]}", (_set(f"shots/{shot.id}", crop=tighter[shot.crop]),))
    if shot.parts == 1 and shot.still:
        yield Change("shoot it in two parts and join them", (_set(f"shots/{shot.id}", parts=2),))


def seated(number: int) -> str:
    """That so many people sit, in words."""
    return "sit the subject" if number == 1 else "sit them all"


def _two_rows(shot: Shot) -> Iterable[Change]:
    """Three people or more in one row: every other one behind the gap between those before, who sit."""
    people = shot.subjects
    if len(people) < 3 or any(one.kind != "person" for one in people) or len({one.ahead for one in people}) > 1:
        return
    places = sorted(row_places(len(people), rows=2))
    edits = tuple(
        _set(f"shots/{shot.id}/subjects/{one.id}", across=across, ahead=ahead, posture=row_posture(2, ahead))
        for one, (across, ahead) in zip(sorted(people, key=lambda one: one.across), places, strict=True)
    )
    yield Change("put them in two rows, those before seated, those behind in the gaps", edits)


def _building(studio: Studio) -> Iterable[Change]:
    """The camera through a door, and doors that stay open or come off."""
    say = Say.of(studio.brief)
    for door in studio.room.doors:
        if door.beyond is None or door.beyond.value < HALLWAY:
            words = f"the camera through the {door.name.lower()}, {say.length(HALLWAY)} free behind it"
            yield Change(words, (_set(f"room/doors/{door.id}", beyond=HALLWAY),))
        if door.swing == "in":
            words = f"the {door.name.lower()} off its hinges, or opening outward"
            yield Change(words, (_set(f"room/doors/{door.id}", swing="out"),))
    if len(studio.room.doors) == 1:
        door = studio.room.doors[0]
        both = (_set(f"room/doors/{door.id}", beyond=HALLWAY, swing="out"),)
        yield Change(f"the {door.name.lower()} off its hinges and the camera standing in it", both)


@dataclass(frozen=True)
class Cell:
    """Whether one lens can take one shot in a room at all: the worst margin, and what binds when it cannot."""

    lens: str
    fits: bool
    worst: float | None
    binds: str
    proved: bool


def shot_by_lens(studio: Studio, shot: Shot, *, budget: float = 4.0, clock: Clock = standing_still) -> tuple[Cell, ...]:
    """Each lens at hand or considered, searched by itself until a set fits or none can."""
    cells = []
    for lens in (item for item in studio.gear if isinstance(item, Lens)):
        able = studio
        if lens.status == "considered":
            able = _applied(studio, (_set(f"gear/{lens.id}", status="planned"),)) or studio
        result = arrange(able, shot, offer=Offer(lenses=(lens.id,)), budget=budget, most=1, first=True, clock=clock)
        worst, words = _said(result)
        cells.append(Cell(lens.id, result.fits, worst, words, result.fits or result.proved))
    return tuple(cells)


def _said(result: Result) -> tuple[float | None, str]:
    """The worst severity of the best set with the line that has it, or what binds in the nearest miss."""
    if result.fits:
        line = result.sets[0].judged.lines[0]
        return result.sets[0].worst, f"{line.title}: {line.reason}"
    short = result.nearest.judged.short if result.nearest else ()
    return None, short[0].sentence if short else result.missing or "Nothing fits."


@dataclass(frozen=True)
class RoomCell:
    """The best a room offers for a shot."""

    room: str
    shot: str
    fits: bool
    worst: float | None
    line: str
    proved: bool
    margin: str


def shot_by_room(
    studio: Studio, shot: Shot, *, budget: float = 2.5, clock: Clock = standing_still
) -> tuple[RoomCell, ...]:
    """The present room and every candidate, each searched for one shot; the best set's worst margin."""
    rooms = [("", studio.room), *((one.id, one.room) for one in studio.rooms)]
    say = Say.of(studio.brief)
    cells = []
    for key, room in rooms:
        result = arrange(studio.changed(room=room), shot, budget=budget, most=1, clock=clock)
        worst, words = _said(result)
        line = result.sets[0].judged.lines[0] if result.fits else None
        margin = say.margin(line.margin, line.unit) if line else ""
        cells.append(RoomCell(key, shot.id, result.fits, worst, words, result.fits or result.proved, margin))
    return tuple(cells)
