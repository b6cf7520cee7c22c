"""What would help a line: candidate edits, each applied and judged, never guessed."""

import logging
from collections.abc import Iterable
from itertools import islice

from pydantic import ValidationError

from evrant.core.base.faults import where
from evrant.core.base.margins import Change, Margin, Remedy, Verdict
from evrant.core.edits.language import EDIT, EditRefused, SetFields
from evrant.core.judge.completing import planned
from evrant.core.judge.declared import proposers
from evrant.core.judge.ledger import Ledger, ledger_of
from evrant.core.judge.rules.rule import Proposal
from evrant.core.place.moves import tried
from evrant.core.space.scene import scene_of
from evrant.core.studio.sets import SetPlan
from evrant.core.studio.studio import Studio, by_id

MOST_CANDIDATES = 12
_RANK = list(Verdict)
_LOG = logging.getLogger("evrant.rules")


def remedies_of(studio: Studio, margin: Margin, before: Ledger) -> tuple[Remedy, ...]:
    """Remedies for one line, those that harm nothing first, then by the margin they give."""
    found: list[Remedy] = []
    seen: set[str] = set()
    for proposal in _proposals(studio, margin):
        if proposal.otherwise and any(one.verdict is Verdict.CLEAR and not one.worse for one in found):
            continue
        if proposal.label not in seen:
            seen.add(proposal.label)
            remedy = _evaluate(studio, margin, planned(studio, proposal), before)
            if remedy is not None:
                found.append(remedy)
    return tuple(
        sorted(
            found,
            key=lambda r: (
                r.worse,
                _RANK.index(Verdict.CLEAR) - _RANK.index(r.verdict),
                len(r.changes),
                -(r.margin or 0.0),
            ),
        )
    )


def _proposals(studio: Studio, margin: Margin) -> Iterable[Proposal]:
    propose = proposers().get(margin.code)
    plan = by_id(studio.sets, margin.set_id) or _set_of_shot(studio, margin)
    scene = scene_of(studio, plan) if plan else None
    try:
        return list(islice(propose(studio, scene, margin), MOST_CANDIDATES)) if propose else ()
    except Exception:
        _LOG.exception("What would help “%s” failed on %s", margin.key, where())
        return ()


def _set_of_shot(studio: Studio, margin: Margin) -> SetPlan | None:
    """The first set of the shot a line is about, for lines about a shot alone."""
    shot = next((path.split("/")[1] for path in margin.about if path.startswith("shots/")), None)
    return next((plan for plan in studio.sets if plan.shot == shot), None)


def _evaluate(studio: Studio, margin: Margin, proposal: Proposal, before: Ledger) -> Remedy | None:
    try:
        after = ledger_of(tried(studio, proposal.edit))
    except (EditRefused, ValidationError):
        return None
    if not before.whole or not after.whole:
        return None
    line = after.find(margin.key)
    settled = line is None and (
        margin.line.first or margin.line.goes or _sets_shot(proposal)
    )  # nothing is left to ask about
    if not settled and (line is None or not _better(line, margin)):
        return None
    changes = tuple(_changes(before, after, margin.key))
    worse = any(change.before is None or _RANK.index(change.after) < _RANK.index(change.before) for change in changes)
    edit = EDIT.dump_python(proposal.edit, mode="json")
    if line is None:
        return Remedy(proposal.label, edit, None, Verdict.CLEAR, changes, worse)
    return Remedy(proposal.label, edit, line.margin, line.verdict, changes, worse)


def _sets_shot(proposal: Proposal) -> bool:
    """Whether a proposal writes how a shot is taken."""
    return isinstance(proposal.edit, SetFields) and proposal.edit.target.startswith("shots/")


def _better(after: Margin, before: Margin) -> bool:
    if before.verdict is Verdict.UNKNOWN:
        return after.verdict is not Verdict.UNKNOWN
    if after.margin is None or before.margin is None:
        return False
    return _RANK.index(after.verdict) > _RANK.index(before.verdict) or (
        after.verdict is before.verdict and after.severity > before.severity + 0.5
    )


def _changes(before: Ledger, after: Ledger, own: str) -> Iterable[Change]:
    """Every other line whose verdict changes; new lines count when they are not Clear."""
    old = {line.key: line for line in before.lines}
    for line in after.lines:
        was = old.get(line.key)
        if line.key == own or (was is None and line.verdict is Verdict.CLEAR):
            continue
        if was is None or was.verdict is not line.verdict:
            yield Change(line.key, line.title, was.verdict if was else None, line.verdict)
