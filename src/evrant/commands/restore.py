"""A backup into the database."""

import argparse
import sys


def run(given: argparse.Namespace) -> int:
    """Exit status 0 when it is restored, 3 when it cannot be; nothing is changed then."""
    from evrant.store.backup import restore
    from evrant.store.cluster import ClusterFault, in_use
    from evrant.store.migrate import migrate
    from evrant.store.repository import engine_for
    from evrant.web.serve import CHECKOUT, database

    try:
        if in_use(CHECKOUT):
            raise ClusterFault("Evrant is running on this database; stop it first.")
        with database() as url:
            engine = engine_for(url)
            count = restore(url, given.file, engine, replace=given.replace)
            migrate(engine)
    except (ClusterFault, OSError) as fault:
        print(fault, file=sys.stderr)
        return 3
    print(f"{count} studios restored from {given.file}.")
    return 0
