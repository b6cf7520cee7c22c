"""Proposals: what to buy, where it stands and how it is set, in a few characters, each carried out and judged.

A character is a kind of light for all pictures: flash, lamps that stay on, the window; and what one has, with nothing
bought. For each the best kit is looked for; what it cannot make is changed as little as makes it, and what is Short
afterwards is settled. Nothing is proposed that the ledger was not asked about.
"""

import math
from collections import Counter
from collections.abc import Callable, Collection, Iterator, Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from evrant.core.base.clock import Clock, standing_still
from evrant.core.base.margins import Margin, Verdict
from evrant.core.base.tables.money import converted
from evrant.core.edits.language import Edit, SetFields, Several
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.place.moves import change
from evrant.core.search.arrange.put_aside import restored
from evrant.core.search.kit.accept import accept
from evrant.core.search.kit.crew import Start
from evrant.core.search.kit.glance import has_place, large_enough
from evrant.core.search.kit.instead import instead, slim
from evrant.core.search.kit.result import OPEN, Best, best_kit
from evrant.core.search.kit.settings import Lights, Way, by_flash, by_lamps, by_window, fires_flash, set_words
from evrant.core.search.kit.verdicts import Stopped
from evrant.core.search.settle import settle
from evrant.core.studio.gear import Camera, Flash, Item, Lens
from evrant.core.studio.room import Rectangle, value
from evrant.core.studio.shots import Shot
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

SECONDS, SETTLING = 150.0, 12.0
"""How long all proposals are worked on, and how long the Short lines of one are settled at most [s]."""
KIT, CHANGING, AS_ASKED, LAST = 15.0, 25.0, 45.0, 60.0
"""How long a kit within the sum, what would make what that leaves out, and one for any sum are looked for; and where
none of that comes to anything, the least change for more money [s]."""
ANY_SUM = 1_000_000.0
SETTINGS = frozenset({"aperture", "iso", "shutter"})
PICTURES = 100
"""Pictures a session where nobody said how many; common practice, no source."""
Tell = Callable[[str, "Proposal | None"], None]
TELEPHONE = "Take it with a telephone, if you have one; a usual one is assumed"
OWN_LENS = "with the lens you have"
ALONE = "camera and subject alone, before a bare wall, found no place"
IN_THE_WAY, NOTHING = "What stands in the way", "nothing that was tried in this time makes it"
OFTEN = 2
"""So many of the lines recipes failed by most often are told where none works."""


@dataclass(frozen=True)
class Character:
    """A kind of light, in words and as a school, with the settings of every shot for it; `budget` where it is not
    the studio's."""

    words: str
    source: str
    light: Lights
    ways: tuple[Way, ...] = ()
    budget: float | None = None
    asks: str = ""
    """What whoever asked would have to have besides, in words."""

    def uses(self, item: Item) -> bool:
        """Whether something that is owned is of its light, or of none."""
        return not isinstance(item, Flash) or self.source == "flash"


@dataclass(frozen=True)
class Proposal:
    """What one character comes to: the studio with everything in it, judged.

    `changes` are what differs from what was asked, `settled` remedies taken; `missing` why shots are not made, by their
    names; `beyond`: it takes more money than there is.
    """

    character: str
    studio: Studio
    ledger: Ledger
    cost: float
    buy: tuple[tuple[str, int, float], ...]
    made: tuple[str, ...]
    missing: dict[str, str]
    changes: tuple[str, ...] = ()
    settled: tuple[str, ...] = ()
    beyond: bool = False

    @property
    def worst(self) -> tuple[Margin, ...]:
        """Lines that do not hold, worst first."""
        return tuple(line for line in self.ledger.lines if line.verdict in (Verdict.SHORT, Verdict.UNKNOWN))

    @property
    def rank(self) -> tuple[int, bool, int, int, float]:
        """The better the less: shots missing, beyond the money, Short lines, unknown ones, cost."""
        count = self.ledger.counts()
        return len(self.missing), self.beyond, count[Verdict.SHORT], count[Verdict.UNKNOWN], self.cost


@dataclass
class _Work:
    """What proposals are worked out with, until when in all, and until when the step at hand."""

    library: Sequence[Item]
    until: float
    clock: Clock
    tell: Tell
    stop: Callable[[], bool]
    helper: Start | None
    pace: float
    step: float = math.inf
    reasons: dict[str, str] = field(default_factory=dict)
    """Why a shot was not made when it was last tried, by its name."""
    met: dict[str, Counter[str]] = field(default_factory=dict)
    """Why recipes of a shot failed and how often in the character at hand, by its id."""
    ever: dict[str, Counter[str]] = field(default_factory=dict)
    """The same in all that were tried."""

    def late(self) -> bool:
        return self.clock() >= min(self.until, self.step) or self.stop()

    def over(self) -> bool:
        """Whether nothing more is to be begun."""
        return self.clock() >= self.until or self.stop()

    def failed(self, shot: str, why: str) -> None:
        for told in (self.met, self.ever):
            told.setdefault(shot, Counter()).update((why,))

    def spend(self, seconds: float) -> None:
        """So long for what comes next."""
        self.step = self.clock() + seconds * self.pace


@dataclass
class _Draft:
    """A plan on its way: the shots as they are set now, and what was changed."""

    studio: Studio
    ways: list[tuple[str, Way]] = field(default_factory=list)
    """Shots by their names, and how each was changed."""


def propose(
    studio: Studio,
    library: Sequence[Item],
    *,
    seconds: float = SECONDS,
    pace: float = 1.0,
    tell: Tell = lambda words, found: None,
    stop: Callable[[], bool] = lambda: False,
    helper: Start | None = None,
    clock: Clock = standing_still,
    pocket: Sequence[Item] = (),
) -> list[Proposal]:
    """Proposals for a studio without sets, best first. `tell` hears what is tried and each that is found; `helper`
    starts a process that looks at recipes too; a slow machine is given `pace` times as long for each step; who has no
    camera may have a telephone: camera and lens of what is in a `pocket`."""
    work = _Work(slim(library, studio.shots), clock() + seconds * pace, clock, tell, stop, helper, pace)
    found: list[Proposal] = []
    lensed: list[tuple[Studio, Character, Proposal]] = []
    enough = False  # whether what is there makes everything within the sum
    for start, character in tries(studio, library, pocket):
        if work.over():
            break
        if character.asks and enough:
            continue
        tell(f"{character.words}: what it takes", None)
        for one in _proposals(start, character, work):
            if not any(_same(one, other) for other in found):
                found.append(one)
                enough = enough or not (character.asks or one.beyond or one.missing)
                tell(f"{one.character}: something works", one)
                lensed += [(start, character, one)] if _takes_another_lens(one) else []
    for start, character, dear in lensed:
        if work.over():
            break
        cheap = _with_own_lens(start, character, dear, work)
        if cheap is not None and not any(_same(cheap, other) for other in found):
            found.append(cheap)
            tell(f"{cheap.character}: something works", cheap)
    if not found:
        work.until = max(work.until, clock() + LAST * pace)
        found = list(_dearer(studio, library, work))
    if not found and studio.shots:
        missing = {shot.name: _why_not(studio, shot, work) for shot in studio.shots}
        return [Proposal(IN_THE_WAY, studio, ledger_of(studio), 0.0, (), (), missing)]
    return sorted(found, key=lambda one: one.rank)


def tries(studio: Studio, library: Sequence[Item], pocket: Sequence[Item]) -> Iterator[tuple[Studio, Character]]:
    """What is worked out in turn, each character with the studio it is for. Who has no camera may have a telephone:
    where the sum reaches for no body with a lens that is tried first, else after the rest, unless that makes all."""
    asked = [(studio, character) for character in characters(studio, library)]
    if any(isinstance(item, Camera) for item in studio.gear) or not pocket:
        return iter(asked)
    with_one = studio.changed(gear=(*studio.gear, *(item.changed(status="owned") for item in pocket)))
    by_it = [
        (with_one, replace(one, words=f"{one.words}, with a telephone", asks=TELEPHONE))
        for one in characters(with_one, library)
        if one.budget is None
    ]
    return iter([*by_it, *asked] if _reaches_none(studio, library) else [*asked, *by_it])


def _reaches_none(studio: Studio, library: Sequence[Item]) -> bool:
    """Whether the sum reaches for no body with a lens on offer."""
    prices = [
        [converted(item.price, item.currency, studio.brief.currency) for item in library
         if isinstance(item, kind) and item.price]
        for kind in (Camera, Lens)
    ]  # fmt: skip
    least = sum(min(found) for found in prices if found)
    return float(studio.brief.budget or 0) < least


def _why_not(studio: Studio, shot: Shot, work: _Work) -> str:
    """Why nothing makes a shot; where it finds no place in the room even without lights, how much room it wants."""
    why = _told_better(work.reasons.get(shot.name, NOTHING), work.ever.get(shot.id, Counter()))
    if work.stop() or has_place(studio, shot, clock=work.clock):
        return why
    say, room = Say.of(studio.brief), studio.room.footprint
    size = large_enough(studio, shot, clock=work.clock)
    if size is None or not isinstance(room, Rectangle) or room.length is None or room.width is None:
        return f"{ALONE} in this room; {why}"
    if size == (room.length.value, room.width.value, size.height) and size.height == value(studio.room.height):
        return f"{ALONE} in this room as it is, only with nothing else standing in it; {why}"
    high = "" if size.height is None else f", {say.length(size.height)} high"
    return (
        f"{ALONE} in this room; in an empty one of {say.length(size.length)} × {say.length(size.width)}{high}, they did"
    )


def _told_better(why: str, met: Counter[str]) -> str:
    """What recipes of a shot failed by most often, where no more is known of it than that the time was too short."""
    often = [line for line, _ in met.most_common() if line.endswith(".")][:OFTEN]
    return f"{NOTHING}; most often: {' '.join(often)}" if often and why in (OPEN, NOTHING) else why


def _dearer(studio: Studio, library: Sequence[Item], work: _Work) -> Iterator[Proposal]:
    """Where the money makes nothing at all and no sum makes what is asked as it is: the first character with which the
    least change makes something, for whatever that takes."""
    for character in characters(studio, library):
        if work.over() or character.budget is not None:
            continue
        work.tell(f"{character.words}: the least change that works, for more money", None)
        draft, work.met = _Draft(_started(studio, character)), {}
        work.spend(AS_ASKED)
        if not _changed(draft, (), ANY_SUM, character.light, work):
            continue
        work.spend(AS_ASKED)
        whole = _kit(draft.studio, ANY_SUM, work)
        if whole is not None and _made(whole):
            made = _judged(studio, character, draft, whole, work)
            work.tell(f"{character.words}: something works", made)
            yield made
            return


def _started(studio: Studio, character: Character) -> Studio:
    """The studio in a character: its school, its settings, and of what is owned only what is of its light."""
    school: Edit = SetFields(target="brief/schools", fields={"source": character.source})
    bare = studio.changed(gear=tuple(item for item in studio.gear if character.uses(item)))
    return _set(bare, [school, *(edit for way in character.ways for edit in way.edits)])


def characters(studio: Studio, library: Sequence[Item]) -> Iterator[Character]:
    """Kinds of light for all shots at once, those that can be had. Lamps that are in the picture light it: no flash
    comes before them, and no window in their place."""
    filmed = any(shot.capture == "video" for shot in studio.shots)
    by_lamps_shown = [shot.pattern == "practicals" for shot in studio.shots]
    if fires_flash(studio) and not filmed and not all(by_lamps_shown):
        yield Character("By flash", "flash", by_flash)
    yield Character("By lamps that stay on", "continuous", by_lamps, _first(studio, by_lamps))
    if any(by_lamps_shown):
        return
    daylight = _first(_with_camera(studio, library), by_window)
    if len(daylight) == len(studio.shots):
        yield Character("By the window", "window", by_window, daylight)
        if studio.gear:
            yield Character("With what you have", "window", by_window, daylight, 0.0)


def _with_camera(studio: Studio, library: Sequence[Item]) -> Studio:
    """The studio with the cheapest body and all lenses on offer where it has none: what daylight gives is found by
    where a camera would stand."""
    if any(isinstance(item, Camera) for item in studio.gear):
        return studio
    bodies = [item for item in library if isinstance(item, Camera) and item.price is not None]
    lenses = [item for item in library if isinstance(item, Lens) and item.price]
    some = [*sorted(bodies, key=lambda item: item.price or 0)[:1], *lenses]
    return studio.changed(gear=(*studio.gear, *(item.changed(status="owned") for item in some)))


def _first(studio: Studio, ways: Callable[..., Iterator[Way]]) -> tuple[Way, ...]:
    """For each shot the first way of a kind, where it has one."""
    found = (next(iter(ways(studio, shot)), None) for shot in studio.shots)
    return tuple(way for way in found if way is not None)


def _proposals(studio: Studio, character: Character, work: _Work) -> Iterator[Proposal]:
    """A character worked out: what the money makes; then with what that leaves out changed so that it can be made; and
    where it does not reach, what it takes as asked for."""
    as_asked = _started(studio, character)
    draft, work.met = _Draft(as_asked), {}
    budget = float(studio.brief.budget or 0) if character.budget is None else character.budget
    work.spend(KIT)
    answer = _kit(draft.studio, budget, work)
    if len(_made(answer)) < len(studio.shots):
        work.spend(CHANGING)
        if _changed(draft, _made(answer), budget, character.light, work):
            work.spend(KIT)
            answer = _kit(draft.studio, budget, work) or answer
    if answer is not None and _made(answer):
        yield _judged(studio, character, draft, answer, work)
        if len(_made(answer)) == len(studio.shots) and not draft.ways:
            return
    if character.budget is None and not work.over():
        work.tell(f"{character.words}: what it takes as asked for", None)
        work.spend(AS_ASKED)
        whole = _kit(as_asked, ANY_SUM, work)
        if whole is not None and (len(_made(whole)) == len(studio.shots) or (_made(whole) and not _made(answer))):
            yield _judged(studio, character, _Draft(as_asked), whole, work)


def _takes_another_lens(made: Proposal) -> bool:
    """Whether a lens is bought by somebody who has one."""
    status = {item.status for item in made.studio.gear if isinstance(item, Lens)}
    return {"owned", "planned"} <= status


def _with_own_lens(studio: Studio, character: Character, dear: Proposal, work: _Work) -> Proposal | None:
    """What the least change of each picture makes for less than another lens takes, where that is as many."""
    work.tell(f"{character.words}: without another lens", None)
    draft, less, work.met = _Draft(_started(studio, character)), dear.cost - 1.0, {}
    work.spend(CHANGING)
    others = {shot.id for shot in studio.shots if shot.name in dear.missing}
    if not _changed(draft, others, less, character.light, work):
        return None
    work.spend(KIT)
    answer = _kit(draft.studio, less, work)
    if answer is None or not _made(answer):
        return None
    made = _judged(studio, replace(character, words=f"{character.words}, {OWN_LENS}"), draft, answer, work)
    return made if set(dear.made) <= set(made.made) and not _takes_another_lens(made) else None


def _made(answer: Best | None) -> set[str]:
    """Shots an answer makes, by their ids."""
    return {told["id"] for told in answer["shots"] if told["made"]} if answer else set()


def _set(studio: Studio, edits: Sequence[Edit]) -> Studio:
    for edit in edits:
        studio = change(studio, edit)
    return studio


def _kit(studio: Studio, budget: float, work: _Work) -> Best | None:
    """The best kit for a studio, or what is known of it when the time is up."""
    answer = best_kit(
        studio,
        work.library,
        budget,
        whole=False,
        hasty=True,
        stop=work.late,
        helper=work.helper,
        clock=work.clock,
        failed=work.failed,
    )
    for told in answer["shots"]:
        if not told["made"] and told["why"]:
            work.reasons[told["name"]] = told["why"]
    return None if answer.get("stopped") and not answer["found"] else answer


def _changed(draft: _Draft, made: Collection[str], budget: float, light: Lights, work: _Work) -> bool:
    """Change what is not made so that it is, where something does it for the money; whether anything was."""
    before = len(draft.ways)
    for shot in draft.studio.shots:
        if shot.id in made or work.late():
            continue
        work.tell(f"{shot.name}: what would make it", None)
        cents = round(budget * 100)
        try:
            found = instead(
                draft.studio,
                work.library,
                shot,
                cents,
                light=light,
                dearer=False,
                whys=work.ever.get(shot.id, ()),
                stop=work.late,
                clock=work.clock,
            )
        except Stopped:
            break
        if found is not None and found.way.edits:
            draft.studio = _set(draft.studio, found.way.edits)
            draft.ways.append((shot.name, found.way))
    return len(draft.ways) > before


def _judged(asked: Studio, character: Character, draft: _Draft, answer: Best, work: _Work) -> Proposal:
    """The studio with everything taken, its Short lines settled, and how it stands."""
    idle = tuple(item for item in asked.gear if not character.uses(item))
    studio = draft.studio.changed(gear=(*draft.studio.gear, *idle))
    for step in answer["phases"]:
        taken = accept(answer, step["number"], studio)
        studio = change(studio, taken) if taken.edits else studio
    studio = restored(asked, studio)
    unsaid = [one for one in studio.sets if one.exposures is None]
    studio = _set(studio, [SetFields(target=f"sets/{one.id}", fields={"exposures": PICTURES}) for one in unsaid])
    shots = {shot.id: shot for shot in asked.shots}
    why = {told["id"]: told["why"] for told in answer["shots"] if not told["made"]}
    made = tuple(told["name"] for told in answer["shots"] if told["made"])
    settled: tuple[str, ...] = ()
    ledger = ledger_of(studio)
    if ledger.count(Verdict.SHORT) and studio.sets and not work.stop():
        left = min(SETTLING * work.pace, max(work.until - work.clock(), 2.0))
        done = settle(studio, seconds=left, clock=work.clock, stop=work.stop)
        kept = (one for one in done.taken if not (character.ways and _sets(one.edit)))
        studio, ledger, settled = done.studio, done.after, tuple(one.label for one in kept)
    buy = tuple(_bought(studio))
    cost = sum(price for _, _, price in buy)
    return Proposal(
        character.words,
        studio,
        ledger,
        cost,
        buy,
        made,
        {shots[key].name: _told_better(words, work.met.get(key, Counter())) for key, words in why.items()},
        tuple(dict.fromkeys(_changes(character, draft, studio, made))),
        settled,
        cost > float(studio.brief.budget or 0),
    )


def _bought(studio: Studio) -> Iterator[tuple[str, int, float]]:
    """What is planned: its name, how many, and their price."""
    for item in studio.gear:
        if item.status == "planned":
            price = converted(item.price or Decimal(0), item.currency, studio.brief.currency)
            yield item.name, item.quantity, float(price) * item.quantity


def _changes(character: Character, draft: _Draft, studio: Studio, made: Collection[str]) -> Iterator[str]:
    """What differs from what was asked, of the shots that are made."""
    if character.asks:
        yield character.asks
    yield from _settings(character, studio, made)
    for name, way in draft.ways:
        words = way.besides if character.ways else way.words
        yield from (f"{name}: {one}" for one in words if name in made)


def _settings(character: Character, studio: Studio, made: Collection[str]) -> Iterator[str]:
    """How the shots are set in the end, each name with its own, or one word where all are set alike."""
    told = []
    for shot, way in zip(studio.shots, character.ways, strict=False):
        stop = shot.aperture.value if shot.aperture else None
        if shot.name in made:
            told.append((shot.name, set_words(stop, shot.iso, shot.shutter, way.light)))
    alike = len({words for _, words in told}) == 1
    yield from [told[0][1]] if alike else (f"{name}: {words}" for name, words in told)


def _sets(edit: Edit) -> bool:
    """Whether an edit only sets a camera: what is set in the end is told, not how it came about."""
    if isinstance(edit, Several):
        return all(_sets(one) for one in edit.edits)
    return isinstance(edit, SetFields) and edit.target.startswith("shots/") and edit.fields.keys() <= SETTINGS


def _same(one: Proposal, other: Proposal) -> bool:
    """Whether two proposals are one plan."""
    return one.buy == other.buy and one.studio.shots == other.studio.shots
