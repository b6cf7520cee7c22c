"""Does what the subject stands, sits or hangs on carry it? Code support.surface."""

from collections.abc import Iterable

import numpy as np

from evrant.core.base.estimate import Estimate, Share
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.base.tables.supports import SUBJECT_MASSES
from evrant.core.edits.language import SetFields
from evrant.core.judge.rules.rule import FRAMED, Proposal, SetRule
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import HANGING, Table
from evrant.core.studio.sets import PropPlace
from evrant.core.studio.shots import Subject
from evrant.core.studio.studio import Studio
from evrant.core.studio.words import Say

SURFACE = Line(
    "support.surface",
    "What the … carries",
    "kg",
    Basis(
        "masses of what stands, sits or hangs on it ≤ what it carries; hooks half of it; people 80 ± 25 kg, dogs "
        "25 ± 15, cats 5 ± 2 where they are not weighed",
        "Maker's figures; usual masses and the factor of 2 on hooks are a project choice",
        "project choice",
    ),
    asks="Does what the subject stands, sits or hangs on carry it?",
    step="support",
    safety=True,
    hazards=("Tipping and falling",),
)
ON, BESIDE = 0.12, 0.6
"""A subject is on what ends so near to where it stands [m], and has its middle so near to its own."""
HOOK_SHARE = 0.5


def margins(scene: Scene) -> Iterable[Margin]:
    """One line for each table, stool, form and hook that something rests on whose mass is known or usual."""
    for place in scene.plan.props:
        item = scene.gear.get(place.item or "")
        if isinstance(item, Table) and item.height is not None:
            there = [who for who in scene.shot.subjects if rests(scene, who, place, item)]
            if there:
                yield from _line(scene, place, item, there)


def rests(scene: Scene, who: Subject, place: PropPlace, item: Table) -> bool:
    """Whether a subject stands, sits or hangs on a table, stool, form or hook of the set."""
    assert item.height is not None
    base = who.base.value if who.base else 0.0
    hangs = item.form in HANGING and who.kind == "garment"
    top = item.height.value + (0.0 if hangs else scene.base_of(place))
    if scene.mark is None or place.x is None or place.y is None:
        return False
    near = float(np.linalg.norm(np.array([place.x, place.y]) - scene.mark)) <= BESIDE
    return near and (hangs or (base > 0 and abs(top - base) <= ON))


def _mass(who: Subject) -> Figure | None:
    if who.mass is not None:
        return who.mass
    usual = SUBJECT_MASSES.get(who.kind)
    return None if usual is None else Figure(*usual, "typical")


def _line(scene: Scene, place: PropPlace, item: Table, there: list[Subject]) -> Iterable[Margin]:
    masses = [(who, _mass(who)) for who in there]
    known = [(who, mass) for who, mass in masses if mass is not None]
    if not known:
        return
    about = (f"{scene.path}/props/{place.id}", f"gear/{item.id}")
    title = f"What the {item.called} carries"
    if item.load is None:
        words = f"What the {item.called} carries is not known."
        find = "Read its label or data sheet; furniture for one person to sit on is tested with 100 kg and more."
        yield unknown(SURFACE, (about[1], about[0]), words, find, title=title, subject=about[0])
        return
    hook = item.form == "hanger hook"
    may = item.load.value * (HOOK_SHARE if hook else 1.0)
    load = sum(mass.value for _, mass in known)
    say = Say.of(scene.brief)
    shares = [Share(f"mass of the {who.name.lower()}", mass.pm) for who, mass in known if mass.pm > 0]
    names = " and ".join(who.name.lower() for who, _ in known)
    yield judge(
        SURFACE,
        about,
        Estimate(may - load, (*shares, Share(f"load of the {item.called}", item.load.pm))),
        title=title,
        need=load,
        have=may,
        clear=f"The {item.called} carries the {names}.",
        short=f"The {names} is too heavy for the {item.called}.",
        reason=f"{say.mass(load)} on what is made for {say.mass(item.load.value)}"
        f"{', of which a hook is loaded with half' if hook else ''}.",
    )


def propose(studio: Studio, scene: Scene | None, margin: Margin) -> Iterable[Proposal]:
    """Another table, stool or hook of the kit that carries it."""
    parts = margin.about[0].split("/")
    place = next((one for one in scene.plan.props if one.id == parts[-1]), None) if scene else None
    now = scene.gear.get(place.item or "") if scene and place else None
    if not isinstance(now, Table) or margin.need is None or now.height is None:
        return
    for item in studio.gear:
        if not isinstance(item, Table) or item.id == now.id or item.load is None or item.height is None:
            continue
        if item.load.value >= margin.need and abs(item.height.value - now.height.value) <= ON:
            yield Proposal(f"Use the {item.called}", SetFields(target=margin.about[0], fields={"item": item.id}))


RULE = SetRule("surface", margins, (SURFACE,), propose, reads=FRAMED, whole_kit=True)
