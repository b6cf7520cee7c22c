"""Sixty things of the catalogue into six places; the same things by a simple shelf heuristic beside it.

Prints one JSON line. `placed_by_heuristic` is what is left of its placement once an independent checker has removed
what is not allowed: the heuristic knows no mass, support, hooks or fragility.
"""

import json
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from helpers.stowing import allowed, faults, shelves

from evrant.catalogue import load
from evrant.core.stowage.packing import pack
from evrant.core.stowage.pieces import Space, pieces_of

MANY = 1e6
SPACES = [
    Space("cupboard", "cupboard", "cupboard", 0.80, 0.55, 1.90, 60.0, 0, MANY),
    Space("shelf", "shelf", "shelf", 1.20, 0.35, 0.40, 25.0, 0, MANY),
    Space("bed", "under the bed", "under a bed", 1.90, 0.90, 0.22, 80.0, 0, MANY),
    Space("corner", "corner for rolls", "corner for rolls", 0.45, 0.45, 2.40, 60.0, 0, MANY),
    Space("hooks", "hooks", "hooks", 1.50, 0.25, 1.20, 30.0, 6, 4.0),
    Space("chest", "chest", "cupboard", 0.90, 0.50, 0.50, 40.0, 0, MANY),
]


def main() -> None:
    every = pieces_of([one.changed(status="owned") for one in load().all()])
    pieces = every[:: max(len(every) // 60, 1)][:60]
    pack(pieces[:4], SPACES)  # compiles
    begun = time.perf_counter()
    found = pack(pieces, SPACES)
    took = time.perf_counter() - begun
    assert all(not faults(found.of(space.id), space) for space in SPACES)
    plain = [space for space in SPACES if not space.hangs and space.kind != "corner for rolls"]
    simple = allowed(shelves(pieces, plain), plain)
    line = {"placed": len(found.puts), "placed_by_heuristic": len(simple), "of": len(pieces), "seconds": round(took, 3)}
    print(json.dumps(line))


if __name__ == "__main__":
    main()
