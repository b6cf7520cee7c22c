"""What goes with a change of a set: what it uses is planned, and the weights it hangs are there."""

from dataclasses import replace

from pydantic import ValidationError

from evrant.core.edits.language import EditRefused, SetFields, together
from evrant.core.judge.rules.rule import Proposal
from evrant.core.judge.rules.support.weights import with_weights
from evrant.core.place.moves import tried
from evrant.core.studio.studio import Studio, undecided


def complete(studio: Studio, set_id: str, proposal: Proposal) -> Proposal:
    """A proposal for a set with what it uses planned, and with what the kit then lacks of weights."""
    return next(iter(with_weights(studio, set_id, (planned(studio, proposal),))))


def planned(studio: Studio, proposal: Proposal) -> Proposal:
    """A proposal with what sets use by it, and is only considered, planned: what is used must be there."""
    try:
        after = tried(studio, proposal.edit)
    except (EditRefused, ValidationError):
        return proposal
    known = {item.id for item in undecided(studio)}
    more = [item for item in undecided(after) if item.id not in known]
    if not more:
        return proposal
    told = len(more) == 1 and more[0].called in proposal.label
    label = f"{proposal.label}; plan {'it' if told else ' and '.join(f'the {item.called}' for item in more)}"
    plans = [SetFields(target=f"gear/{item.id}", fields={"status": "planned"}) for item in more]
    return replace(proposal, label=label, edit=together((proposal.edit, *plans), label))
