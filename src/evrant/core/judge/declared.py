"""Every rule there is, found in the modules of `judge.rules`, a folder a step: each declares its own as RULE."""

from collections.abc import Iterable
from functools import cache
from importlib import import_module
from pkgutil import walk_packages

from evrant.core.base.margins import Line, Search
from evrant.core.judge import rules as package
from evrant.core.judge.rules.rule import Propose, Rule, SetRule, StudioRule


@cache
def rules() -> tuple[Rule, ...]:
    """All rules, in the order of their modules' names."""
    under = f"{package.__name__}."
    names = sorted(one.name for one in walk_packages(package.__path__, under) if not one.ispkg)
    found = [getattr(import_module(name), "RULE", None) for name in names]
    return tuple(rule for rule in found if isinstance(rule, (SetRule, StudioRule)))


@cache
def set_rules() -> tuple[SetRule, ...]:
    return tuple(rule for rule in rules() if isinstance(rule, SetRule))


@cache
def studio_rules() -> tuple[StudioRule, ...]:
    return tuple(rule for rule in rules() if isinstance(rule, StudioRule))


@cache
def lines() -> dict[str, Line]:
    """Every declared line by its code. Raises ValueError when two rules declare one code."""
    found: dict[str, Line] = {}
    for rule in rules():
        for line in rule.lines:
            if found.setdefault(line.code, line) is not line:
                raise ValueError(f"The line {line.code} is declared twice.")
    return found


@cache
def proposers() -> dict[str, Propose]:
    """Who proposes remedies for a line, by its code."""
    return {line.code: rule.propose for rule in rules() if rule.propose is not None for line in rule.lines}


@cache
def searched(*kinds: Search) -> tuple[SetRule, ...]:
    """Rules with a line of one of these kinds, in their order for a look at a whole set."""
    return tuple(sorted(_having(kinds), key=lambda rule: rule.order))


@cache
def placed() -> tuple[SetRule, ...]:
    """Rules with a line that a place in the room can worsen, those that most fail by it first."""
    return tuple(sorted(_having(("placed", "either")), key=lambda rule: rule.place_order))


def _having(kinds: Iterable[Search]) -> list[SetRule]:
    wanted = frozenset(kinds)
    return [rule for rule in set_rules() if any(line.search in wanted for line in rule.lines)]
