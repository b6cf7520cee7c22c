"""Our bounce engine beside the reference engine on the same rooms: one JSON line.

Both give six faces at the mark in three bands and the mean of each wall over 5 × 5 points. The reference runs at
the cheapest `-ad` whose worst face is within 2 % (rms over 4 runs) of the converged record; ours at one patch count
of at least 1,000. Times are those of the room with occluders; compilation is done before. `--growth` times patch
counts from 400 to 6,400 instead.
"""

import json
import sys
import time
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

from helpers import radiance
from helpers.rooms import Case, bare_box, coloured, occluder, receivers

from evrant.core.light.bounce.enclosure import enclosure_of, settled

RECORDS = json.loads((Path(__file__).parents[1] / "tests/reference/radiance.json").read_text())
PATCHES = 1000
LADDER = (4096, 8192)
PER_WALL = 25
SAMPLED = 4
"""The reference's run over all points is timed on every fourth one and scaled."""
LIMIT = 0.02
REPEATS = 5


def clock(work: object, repeats: int = REPEATS) -> float:
    """Best of several runs [ms]."""
    best = float("inf")
    for _ in range(repeats):
        start = time.perf_counter()
        work()  # type: ignore[operator]
        best = min(best, time.perf_counter() - start)
    return best * 1000


def asked(case: Case) -> tuple[np.ndarray, list[slice]]:
    """Numbers of the receivers in the record: six faces and 25 points of each wall, and the walls' slices of them."""
    _, _, slices = receivers(case)
    numbers, parts = list(range(6)), []
    for part in slices:
        chosen = np.linspace(part.start, part.stop - 1, min(PER_WALL, part.stop - part.start)).round().astype(int)
        parts.append(slice(len(numbers), len(numbers) + len(chosen)))
        numbers += chosen.tolist()
    return np.array(numbers), parts


def ours(case: Case, patches: int) -> dict[str, float]:
    """Times of a cold solve, a settled one and a moved light, and the worst face against the record."""
    points, ways, _ = receivers(case)
    numbers, slices = asked(case)
    points, ways = points[numbers], ways[numbers]
    made = enclosure_of(case.surfaces, patches)
    lamp = case.sources[0]
    moved = lamp.at(
        lamp.centre + np.array([0.05, 0.04, 0.02]), case.mark if not case.hard else lamp.centre + lamp.forward
    )
    state = settled(made, [lamp])
    reading = state.reading(points, ways)
    _ = reading.response
    reading.light([moved])

    def rest() -> None:
        again = settled(made, [moved]).reading(points, ways)
        again.light([moved], at_rest=True)

    seen, back = reading.light([lamp], at_rest=True)
    got = seen.sum(axis=1) + back
    wanted = np.array(RECORDS[case.name]["mean"])[numbers]
    walls = max(float(np.abs(got[s].mean(axis=0) / wanted[s].mean(axis=0) - 1).max()) for s in slices)
    return {
        "cold_ms": clock(lambda: enclosure_of(case.surfaces, patches), 3) + clock(rest, 3),
        "settle_ms": clock(rest, 3),
        "warm_ms": clock(lambda: reading.light([moved])),
        "error": float(np.abs(got[:6] / wanted[:6] - 1).max()),
        "wall_error": walls,
        "patches": state.patches.count,
        "points": len(points),
    }


def reference(case: Case) -> tuple[float, float, int]:
    """Seconds, rms error of the worst face, and divisions of the cheapest run that is within the limit."""
    points, ways, _ = receivers(case)
    text = radiance.scene_text(case.surfaces, case.sources)
    wanted = np.array(RECORDS[case.name]["mean"])[:6]
    for divisions in LADDER:
        runs = np.array([radiance.run(text, points[:6], ways[:6], divisions) for _ in range(4)])
        error = float(np.sqrt(((runs / wanted - 1) ** 2).mean(axis=0)).max())
        if error < LIMIT or divisions == LADDER[-1]:
            few = asked(case)[0][::SAMPLED]
            start = time.perf_counter()
            radiance.run(text, points[few], ways[few], divisions)
            return (time.perf_counter() - start) * SAMPLED, error, divisions
    raise AssertionError


def growth(case: Case) -> dict[str, list[float]]:
    counts = [400, 800, 1600, 3200, 6400]
    rows = [ours(case, n) for n in counts]
    return {
        "patches": [r["patches"] for r in rows],
        "cold_ms": [round(r["cold_ms"], 1) for r in rows],
        "settle_ms": [round(r["settle_ms"], 1) for r in rows],
        "warm_ms": [round(r["warm_ms"], 2) for r in rows],
        "error": [round(r["error"], 4) for r in rows],
    }


def main() -> None:
    case = occluder()
    if "--growth" in sys.argv:
        print(json.dumps(growth(case)))
        return
    ours(bare_box(), 200)
    rows = {c.name: ours(c, PATCHES) for c in (bare_box(), case, coloured())}
    seconds, error, divisions = reference(case)
    timed = rows[case.name]
    print(
        json.dumps(
            {
                "radiance_s": round(seconds, 2),
                "radiance_error": round(error, 4),
                "radiance_ad": divisions,
                "radiance_sampled": len(asked(case)[0][::SAMPLED]),
                "cold_ms": round(timed["cold_ms"], 1),
                "warm_ms": round(timed["warm_ms"], 2),
                "settle_ms": round(timed["settle_ms"], 1),
                "ratio_warm": round(seconds * 1000 / timed["warm_ms"]),
                "worst_face_error": round(max(r["error"] for r in rows.values()), 4),
                "worst_wall_error": round(max(r["wall_error"] for r in rows.values()), 4),
                "patches": timed["patches"],
                "points": timed["points"],
                "scenes": list(rows),
            }
        )
    )


if __name__ == "__main__":
    main()
