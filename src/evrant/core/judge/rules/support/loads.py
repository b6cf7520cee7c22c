"""What a support carries at its top or at the end of its arm, against what is on it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from evrant.core.base.estimate import estimate_over
from evrant.core.base.margins import Basis, Line, Margin, judge, unknown
from evrant.core.base.quantity import Figure
from evrant.core.mechanics.beams import derated, derated_curve
from evrant.core.space.scene import Scene
from evrant.core.studio.gear import Item, Stand
from evrant.core.studio.words import Say

BOOM_LOAD_BASIS = Basis(
    "moment about the pivot no greater than at the rated length: P(L) = (P₀·L₀ + λ(L₀² − L²)/2) / L, λ the boom's "
    "mass a metre; with a second rating drawn out the moment runs straight between the two",
    "Moments about the pivot, any engineering handbook; P₀ is taken drawn in unless the maker says otherwise",
    "computed",
)
CAUTIOUS_SHORTEST = 0.3
"""Length a boom's rating is taken at when the maker does not say [m]: cautious, shown but never judged by."""


@dataclass(frozen=True)
class Load:
    """What is on a support: things with how many of each, by id, and how far its arm is drawn out [m]; None for what
    stands on the column itself."""

    stand: Stand
    carried: Mapping[str, tuple[Item, int]]
    drawn: Figure | float | None = None

    @property
    def out(self) -> float | None:
        """How far the arm is drawn out [m]."""
        return self.drawn.value if isinstance(self.drawn, Figure) else self.drawn


@dataclass(frozen=True)
class _Lack:
    """A figure of a load that is missing: the id of its item, what, and how to find it."""

    item: str
    what: str
    find: str


def _unrated(scene: Scene, load: Load) -> _Lack | None:
    """Which figure of a load is missing."""
    stand, carried, out = load.stand, load.carried, load.out
    find = "Look for the figure on the box, or weigh it."
    weightless = next((item for item, _ in carried.values() if item.mass is None), None)
    if stand.load is None or stand.load.value <= 0:
        return _Lack(stand.id, f"What the {stand.called} carries is not entered.", find)
    if weightless is not None:
        return _Lack(weightless.id, f"The mass of the {weightless.called} is missing.", find)
    figures = (stand.shortest, *(() if stand.load_far is not None else (stand.boom_mass, stand.tail)))
    if out is not None and None in figures:
        cautious = Say.of(scene.brief).mass(stand.load.value * min(CAUTIOUS_SHORTEST / out, 1.0))
        what = f"Drawn in to what length the {stand.called} carries its load is missing."
        if stand.shortest is not None:
            what = f"The boom's own mass, or its length behind the pivot, is missing ({stand.called})."
        return _Lack(stand.id, what, f"Read it off the data sheet; until then count on {cautious} there.")
    return None


def _limit(stand: Stand, drawn: Figure | float | None) -> tuple[Callable[..., float], dict[str, Figure | float]]:
    """What a stand carries [kg] as a function of its figures, and those figures; a boom drawn out carries less."""
    assert stand.load is not None
    if drawn is None:
        return (lambda load: load), {"load": stand.load}
    figures: dict[str, Figure | float] = {"load": stand.load, "shortest": stand.shortest or 0.0, "arm": drawn}
    if stand.load_far is not None and stand.reach is not None:
        figures |= {"load_far": stand.load_far, "reach": stand.reach}
        return (
            lambda load, shortest, arm, load_far, reach: derated_curve(load, shortest, load_far, reach, arm)
        ), figures
    figures |= {"boom": stand.boom_mass or 0.0, "tail": stand.tail or 0.0}
    return (lambda load, shortest, arm, boom, tail: derated(load, shortest, arm, boom, tail)), figures


def weighed(scene: Scene, line: Line, path: str, name: str, load: Load) -> Margin:
    """The line about a load: what is missing of its figures, else what the support carries against what it weighs.
    `path` and `name` are of what is carried."""
    stand, carried, out = load.stand, load.carried, load.out
    title, say = f"Load on the stand of the {name}", Say.of(scene.brief)
    lacks = _unrated(scene, load)
    if lacks is not None:
        return unknown(line, (f"gear/{lacks.item}", path), lacks.what, lacks.find, title=title)
    limit, figures = _limit(stand, load.drawn)
    inputs: dict[tuple[str, str], Figure | float] = {("figure", name): figure for name, figure in figures.items()}
    inputs |= {("mass", key): item.mass for key, (item, _) in carried.items() if item.mass is not None}

    def spare(values: Mapping[tuple[str, str], float]) -> float:
        load = sum(values["mass", key] * count for key, (_, count) in carried.items())
        return limit(**{name: values["figure", name] for name in figures}) - load

    def named(key: tuple[str, str]) -> str:
        return f"mass of the {carried[key[1]][0].called}" if key[0] == "mass" else key[1].replace("_", " ")

    found = estimate_over(spare, inputs, named)
    total = sum(item.mass.value * count for item, count in carried.values() if item.mass)
    have = total + found.value
    names = " and ".join(i.called if count == 1 else f"{count} × {i.called}" for i, count in carried.values())
    takes = f"the stand takes {say.mass(have)}"
    if out is not None and stand.load is not None:
        takes = f"drawn out to {say.length(out)} the boom takes {say.mass(have)} of its {say.mass(stand.load.value)}"
    return judge(
        line,
        (path,),
        found,
        title=title,
        need=total,
        have=have,
        clear=f"The stand carries the {name}.",
        short=f"The {name} is too heavy for its {'boom' if out is not None else 'stand'}.",
        reason=f"{names[:1].upper()}{names[1:]}: {say.mass(total)}; {takes}.",
    )
