"""Accounts of a hosted server, for whoever keeps it: the first operator is made here."""

import argparse
import secrets
import sys

from evrant.core.edits.language import EditRefused
from evrant.store.people import People


def run(given: argparse.Namespace) -> int:
    """Exit status 0 when it was done, 2 for a name that does not serve, 3 when the database cannot be had."""
    from evrant.store.cluster import ClusterFault
    from evrant.store.migrate import migrate
    from evrant.store.repository import engine_for
    from evrant.web.hosting import Unhostable, hosting_of
    from evrant.web.serve import database

    try:
        address = hosting_of().address or "…"
        with database() as url:
            engine = engine_for(url)
            migrate(engine)
            return _do(People(engine), given, address)
    except (ClusterFault, Unhostable, OSError) as fault:
        print(fault, file=sys.stderr)
        return 3


def _do(people: People, given: argparse.Namespace, address: str) -> int:
    if given.what == "list":
        for one in people.accounts():
            print(f"{one.called}{' (operator)' if one.operator else ''}{' (ended)' if one.ended else ''}")
        return 0
    if given.what == "invite":
        print(f"{address}/invited/{people.hand_out('invitation')}")
        return 0
    try:
        if given.what == "add":
            made = people.add(given.name, secrets.token_urlsafe(24), operator=given.operator)
            print(f"{made.called}'s first password is set at {address}/renew/{people.hand_out('password', made.id)}")
            return 0
        found = people.named(given.name)
        if found is None:
            raise EditRefused("Nobody of that name has an account here.")
    except EditRefused as refused:
        print(refused.message, file=sys.stderr)
        return 2
    if given.what == "end":
        people.end(found.id)
        print(f"{found.called} can sign in no more.")
    else:
        print(f"{address}/renew/{people.hand_out('password', found.id)}")
    return 0
