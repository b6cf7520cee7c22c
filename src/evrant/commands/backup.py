"""The whole database into one file."""

import argparse
import sys


def run(given: argparse.Namespace) -> int:
    """Exit status 0 with a backup, 3 when the database or the file cannot be had."""
    from evrant.store.backup import backup, studios_in
    from evrant.store.cluster import ClusterFault
    from evrant.store.migrate import migrate
    from evrant.store.repository import engine_for
    from evrant.web.serve import database

    try:
        with database() as url:
            engine = engine_for(url)
            migrate(engine)
            size = backup(url, given.file)
            count = studios_in(engine)
    except (ClusterFault, OSError) as fault:
        print(fault, file=sys.stderr)
        return 3
    print(f"{count} studios with their history in {given.file}, {size / 1e6:.1f} MB.")
    return 0
