"""How studios of the list stand: judged once a revision, kept in the database."""

from functools import cache
from hashlib import sha256
from pathlib import Path
from typing import Any

from evrant import core
from evrant.core.base.faults import at_work_on
from evrant.core.judge.ledger import ledger_of
from evrant.core.studio.words import Say
from evrant.store.repository import Repository
from evrant.store.revisions import Revision


@cache
def judged_by() -> str:
    """Which rules these are: changes whenever the core does."""
    digest = sha256()
    for path in sorted(Path(core.__path__[0]).rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()[:32]


def judged(store: Repository, revision: Revision) -> dict[str, Any]:
    """The headline and the worst line of a revision in words, kept for the next who asks."""
    studio = revision.studio
    with at_work_on(f"studio {revision.studio_id}, revision {revision.number}"):
        ledger = ledger_of(studio)
    worst, say = ledger.worst, Say.of(studio.brief)
    told = {
        "headline": ledger.headline,
        "verdict": worst.verdict.value if worst else "",
        "sentence": worst.sentence if worst else "",
        "figure": say.margin(worst.margin, worst.unit) if worst and worst.margin is not None else "",
    }
    if ledger.whole:
        store.keep_standing(revision.studio_id, revision.number, judged_by(), told)
    return told
