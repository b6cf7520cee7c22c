"""Studio → every margin, worst first.

Each set rule declares which parts of the studio it reads; its lines are kept by the identity of
those parts, so that an edit re-runs only what it can change.
"""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any, Literal

from evrant.core.margins import Margin, Verdict
from evrant.core.memo import Memo
from evrant.core.rules import (
    aim,
    backdrop,
    batteries,
    budget,
    exposure,
    fit,
    frame,
    heat,
    holding,
    hung,
    idle,
    intrusion,
    joints,
    mounting,
    outlets,
    overlap,
    power,
    returned_light,
    sharpness,
    sources,
    standing,
    stow,
    support,
    survey,
    triggers,
    way_out,
    wiring,
)
from evrant.core.rules.rule import Propose, Reads, SetRule, StudioRule
from evrant.core.scene import Scene, scene_of
from evrant.core.studio.sets import SetPlan, used_by
from evrant.core.studio.studio import Studio

EVERYTHING: frozenset[Reads] = frozenset({"room", "brief", "shot", "set", "gear"})
UNLIT: frozenset[Reads] = frozenset({"room", "brief", "shot", "places", "gear"})
SET_RULES: tuple[SetRule, ...] = (
    SetRule("frame", frame.margins, UNLIT, whole_kit=True),
    SetRule("sharpness", sharpness.margins, UNLIT),
    SetRule("backdrop", backdrop.margins, UNLIT),
    SetRule("fit", fit.margins, EVERYTHING),
    SetRule("overlap", overlap.margins, EVERYTHING),
    SetRule("intrusion", intrusion.margins, EVERYTHING),
    SetRule("way out", way_out.margins, EVERYTHING),
    SetRule("support", support.margins, EVERYTHING),
    SetRule("standing", standing.margins, EVERYTHING),
    SetRule("mounting", mounting.margins, EVERYTHING),
    SetRule("hung", hung.margins, EVERYTHING),
    SetRule("joints", joints.margins, EVERYTHING),
    SetRule("holding", holding.margins, UNLIT),
    SetRule("aim", aim.margins, EVERYTHING),
    SetRule("exposure", exposure.margins, EVERYTHING),
    SetRule("returned light", returned_light.margins, EVERYTHING),
    SetRule("sources", sources.margins, EVERYTHING),
    SetRule("wiring", wiring.margins, EVERYTHING),
    SetRule("outlets", outlets.margins, EVERYTHING),
    SetRule("heat", heat.margins, EVERYTHING),
    SetRule("batteries", batteries.margins, EVERYTHING),
    SetRule("triggers", triggers.margins, EVERYTHING, whole_kit=True),
)
STUDIO_RULES: tuple[StudioRule, ...] = (
    StudioRule("survey", survey.margins, ("room", "brief", "gear")),
    StudioRule("power", power.margins, ("room", "brief", "gear", "sets")),
    StudioRule("stow", stow.margins, ("room", "brief", "gear", "sets")),
    StudioRule("idle", idle.margins, ("brief", "gear", "sets")),
    StudioRule("budget", budget.margins, ("brief", "gear", "shops", "purchases")),
)
PROPOSE: dict[str, Propose] = {
    "frame.backdrop_width": backdrop.propose,
    "frame.backdrop_height": backdrop.propose,
    "frame.backdrop_sweep": backdrop.propose,
    "frame.backdrop_level": backdrop.propose,
    "fit.sweep_curve": backdrop.propose,
    "frame.intrusion": intrusion.propose,
    "fit.backdrop_gap": backdrop.propose,
    "frame.depth": sharpness.propose,
    "frame.nearest": sharpness.propose,
    "frame.blur": sharpness.propose,
    "frame.flare": aim.propose,
    "fit.way_out": way_out.propose,
    "fit.reach": holding.propose,
    "support.holder_place": holding.propose,
    "support.holder_holes": holding.propose,
    "support.holder_height": holding.propose,
    "trigger.sight": aim.propose,
    "trigger": triggers.propose,
    "support.tipping": standing.propose,
    "support.push": standing.propose,
    "support.counterweight": standing.propose,
    "support.hook": mounting.propose,
    "support.fixing": mounting.propose,
    "support.holes": mounting.propose,
    "support.twist": mounting.propose,
    "support.pole": mounting.propose,
    "support.ceiling": mounting.propose,
    "support.rod": hung.propose,
    "support.crossbar": hung.propose,
    "support.joint": joints.propose,
    "support.mount": joints.propose,
    "power.reach": wiring.propose,
    "power.crossing": wiring.propose,
    "power.lead_chain": wiring.propose,
    "power.lead": wiring.propose,
    "power.drop": wiring.propose,
    "power.socket": wiring.propose,
    "power.water": wiring.propose,
    "power.holder": heat.propose,
    "power.heat": heat.propose,
    "power.warmth": heat.propose,
    "power.air": heat.propose,
    "power.battery": batteries.propose,
    "light.pattern": aim.propose,
    "light.shadow": aim.propose,
    "light.scrim": aim.propose,
    "light.contrast": returned_light.propose,
    "light.tint": returned_light.propose,
    "light.background_tone": returned_light.propose,
    "light.group": returned_light.propose,
    "light.ambient": sources.propose,
    "light.mixed": sources.propose,
    "light.balance": sources.propose,
    "light.sync": sources.propose,
    "light.motion": sources.propose,
    "light.flicker": sources.propose,
    "light.glare": sources.propose,
    "room": survey.propose,
    "frame": frame.propose,
    "fit": fit.propose,
    "support": support.propose,
    "light": exposure.propose,
    "power": power.propose,
    "stow": stow.propose,
    "budget.idle": idle.propose,
    "budget": budget.propose,
}
"""Who proposes remedies: the whole code first, else its first word."""

Step = Literal["brief", "room", "shots", "set", "light", "support", "power", "stow", "kit"]
STEPS: dict[str, Step] = {
    "frame": "set",
    "fit": "set",
    "support": "support",
    "light": "light",
    "trigger": "power",
    "room": "room",
    "power": "power",
    "stow": "stow",
    "budget": "kit",
}
"""The step under which a line is counted, by the first word of its code; each line once."""

_Ranked = tuple[tuple[int, int, float], Margin]
_MEMO: Memo[tuple[_Ranked, ...]] = Memo(32_000_000, lambda lines: 400 + 1500 * len(lines))


def step_of(margin: Margin) -> Step:
    """The step a line is counted under."""
    return STEPS[margin.code.split(".")[0]]


@dataclass(frozen=True)
class Ledger:
    """Every margin of a studio, worst first, and which Tight lines were accepted."""

    lines: tuple[Margin, ...]
    by_set: dict[str | None, tuple[Margin, ...]]
    accepted: frozenset[str]
    has_set: bool

    def count(self, verdict: Verdict) -> int:
        return self.counts()[verdict]

    def counts(self) -> Counter[Verdict]:
        return Counter(line.verdict for line in self.lines)

    def shorts(self) -> Counter[Step]:
        """Short lines by step."""
        return Counter(step_of(line) for line in self.lines if line.verdict is Verdict.SHORT)

    def of_set(self, set_id: str) -> tuple[Margin, ...]:
        return self.by_set.get(set_id, ())

    def shown_with(self, set_id: str | None) -> tuple[Margin, ...]:
        """Lines of the studio and of one set, worst first: what stands beside a page."""
        studio = self.by_set.get(None, ())
        return tuple(sorted((*studio, *self.by_set.get(set_id, ())), key=Margin.order)) if set_id else studio

    def find(self, key: str) -> Margin | None:
        return next((line for line in self.lines if line.key == key), None)

    @property
    def worst(self) -> Margin | None:
        return self.lines[0] if self.lines else None

    @property
    def ready(self) -> bool:
        """At least one set, nothing Short or Unknown, every Tight line accepted."""
        open_tight = any(m.verdict is Verdict.TIGHT and m.token not in self.accepted for m in self.lines)
        return (
            self.has_set
            and bool(self.lines)
            and not open_tight
            and not (self.count(Verdict.SHORT) or self.count(Verdict.UNKNOWN))
        )

    @property
    def headline(self) -> str:
        if not self.has_set:
            return "Nothing to judge yet"
        return "Ready to buy" if self.ready else "Not ready to buy"


def ledger_of(studio: Studio) -> Ledger:
    """The ledger, without remedies."""
    ranked: list[_Ranked] = []
    by_set: dict[str | None, tuple[Margin, ...]] = {}
    for plan in studio.sets:
        lines = _of_set(studio, plan)
        by_set[plan.id] = tuple(line for _, line in lines)
        ranked += lines
    wide: list[_Ranked] = []
    for rule in STUDIO_RULES:
        parts = tuple(getattr(studio, name) for name in rule.reads)
        wide += _kept(rule.name, parts, partial(_run_studio, rule, studio))
    wide.sort(key=_rank)
    by_set[None] = tuple(line for _, line in wide)
    ranked += wide
    ranked.sort(key=_rank)
    accepted = frozenset(a.id for a in studio.accepted)
    return Ledger(tuple(line for _, line in ranked), by_set, accepted, bool(studio.sets))


def lines_of_set(studio: Studio, plan: SetPlan) -> tuple[Margin, ...]:
    """The lines of one set alone, without those of the studio as a whole."""
    return tuple(line for _, line in _of_set(studio, plan))


def _of_set(studio: Studio, plan: SetPlan) -> tuple[_Ranked, ...]:
    scene = scene_of(studio, plan)
    if scene is None:
        return ()
    return _kept("set", _parts(studio, scene), partial(_run_set, studio, scene))


def _run_set(studio: Studio, scene: Scene) -> list[_Ranked]:
    lines: list[_Ranked] = []
    for rule in SET_RULES:
        lines += _kept(rule.name, _parts(studio, scene, rule), partial(_run_rule, rule, scene))
    lines.sort(key=_rank)
    return lines


def _run_rule(rule: SetRule, scene: Scene) -> list[_Ranked]:
    return [(line.order(), line) for line in rule.margins(scene)]


def _run_studio(rule: StudioRule, studio: Studio) -> list[_Ranked]:
    return [(line.order(), line) for line in rule.margins(studio)]


def _rank(pair: _Ranked) -> tuple[int, int, float]:
    return pair[0]


def _kept(name: str, parts: tuple[Any, ...], run: Callable[[], list[_Ranked]]) -> tuple[_Ranked, ...]:
    return _MEMO.get(name, parts, lambda: tuple(run()))


def _parts(studio: Studio, scene: Scene, rule: SetRule | None = None) -> tuple[Any, ...]:
    """What a rule reads of a set, or what all of them read."""
    reads = rule.reads if rule else EVERYTHING
    parts: list[Any] = []
    if "room" in reads:
        parts.append(scene.room)
    if "brief" in reads:
        parts.append(scene.brief)
    if "shot" in reads:
        parts.append(scene.shot)
    if "set" in reads:
        parts.append(scene.plan)
    elif "places" in reads:
        plan = scene.plan
        parts += [plan.id, plan.mark, plan.camera, plan.background, plan.props, plan.aside]
    if rule is None or rule.whole_kit:
        parts.append(studio.gear)
    elif "gear" in reads:
        parts += [scene.gear[key] for key in used_by(scene.plan) if key in scene.gear]
    return tuple(parts)
