"""How much faster the search is than looking at every candidate, on the same grid. Prints one JSON line."""

import json
import os
import random
import sys
import time

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

from evrant.core.search.arrange.formations import Offer
from evrant.core.search.arrange.judge import judged_anew
from evrant.core.search.arrange.poses import Grid
from evrant.core.search.arrange.search import arrange, every_candidate
from evrant.demo import demo_studio

OFFER = Offer(gaps=(0.03,), near=(1.9,), wide=(0.0,), modifiers=1)
GRID = Grid(step=0.3, turn=45.0, along=0.2)
SMALL = Grid(step=0.8, turn=180.0, along=0.8, off=(0.0,))
SAMPLE = 150


def main() -> int:
    """The wider grid for time (its exhaustive side sampled), a small one for the same answer."""
    studio = demo_studio("adoption-corner")
    shot = next(s for s in studio.shots if s.id == "cat")
    start = time.perf_counter()
    result = arrange(studio, shot, offer=OFFER, grid=GRID, budget=None, most=1)
    best = time.perf_counter() - start
    every = every_candidate(studio, shot, OFFER, GRID)
    sample = random.Random(1).sample(list(every), min(SAMPLE, len(every)))
    start = time.perf_counter()
    for scene in sample:
        judged_anew(scene)
    exhaustive = (time.perf_counter() - start) * len(every) / len(sample)
    line = {
        "candidates": len(every),
        "candidates_per_s": round(len(every) / best),
        "first_s": round(result.first_s, 3) if result.first_s is not None else None,
        "best_s": round(best, 3),
        "exhaustive_s": round(exhaustive, 1),
        "sampled": len(sample),
        "same_answer": same_answer(),
        "ratio_to_exhaustive": round(exhaustive / best, 1),
    }
    print(json.dumps(line))
    return 0 if line["same_answer"] else 1


def same_answer() -> bool:
    """On grids small enough to finish: the search's worst margin is that of the best of all candidates."""
    studio = demo_studio("adoption-corner")
    for shot in studio.shots[:2]:
        found = arrange(studio, shot, offer=OFFER, grid=SMALL, budget=None, most=1)
        best = max((judged_anew(scene).worst for scene in every_candidate(studio, shot, OFFER, SMALL)), default=-1.0)
        if found.fits != (best >= 0) or (found.fits and abs(found.sets[0].worst - best) > 0.05):
            return False
    return True


if __name__ == "__main__":
    sys.exit(main())
