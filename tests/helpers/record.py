"""Records of the reference engine: mean and relative standard error of four runs per room, with scene key,
command and version. Rooms whose record still matches are left alone unless named on the command line."""

import json
import os
import sys
from concurrent.futures import ThreadPoolExecutor
from hashlib import sha256
from importlib.metadata import version
from pathlib import Path

import numpy as np

from helpers import radiance
from helpers.rooms import CASES, Case, receivers

FILE = Path(__file__).parent.parent / "reference" / "radiance.json"
RUNS = 4


def key_of(case: Case) -> str:
    """What a record is of: the scene and its receivers. Zeros are added, for −0 is the same place as 0."""
    points, ways, _ = receivers(case)
    figures = "".join((np.round(one, 6) + 0.0).tobytes().hex() for one in (points, ways))
    return sha256((radiance.scene_text(case.surfaces, case.sources) + figures).encode()).hexdigest()


def record(case: Case) -> dict[str, object]:
    """Six faces at full divisions; wall points, whose means are asked for, at a quarter of them."""
    points, ways, _ = receivers(case)
    text = radiance.scene_text(case.surfaces, case.sources)
    faces = 65536 if case.hard else 16384
    walls = 4096 if case.hard else 1024

    def once(_: int) -> np.ndarray:
        return np.vstack(
            [
                radiance.run(text, points[:6], ways[:6], faces),
                radiance.run(text, points[6:], ways[6:], walls),
            ]
        )

    with ThreadPoolExecutor(os.cpu_count()) as pool:
        runs = np.array(list(pool.map(once, range(RUNS))))
    mean = runs.mean(axis=0)
    error = runs.std(axis=0, ddof=1) / np.sqrt(RUNS) / np.maximum(mean, 1e-12)
    return {
        "key": key_of(case),
        "command": f"rtrace {radiance.SETTINGS} -ad {faces} (faces), -ad {walls} (walls), {RUNS} runs",
        "version": version("pyradiance"),
        "mean": np.round(mean, 5).tolist(),
        "error": np.round(error, 6).tolist(),
    }


def _compact(kept: dict[str, object]) -> str:
    """One line a room."""
    rows = [f"{json.dumps(name)}: {json.dumps(kept[name], separators=(',', ':'))}" for name in kept]
    return "{\n" + ",\n".join(rows) + "\n}\n"


def main() -> None:
    kept = json.loads(FILE.read_text()) if FILE.exists() else {}
    for make in CASES:
        case = make()
        same = kept.get(case.name, {}).get("key") == key_of(case)
        if same and case.name not in sys.argv[1:]:
            continue
        kept[case.name] = record(case)
        FILE.write_text(_compact(kept))
        print(case.name, np.round(np.array(kept[case.name]["error"])[:6].max(), 5), flush=True)


if __name__ == "__main__":
    main()
