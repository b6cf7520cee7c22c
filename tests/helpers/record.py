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
    raw = text + np.round(points, 6).tobytes().hex() + np.round(ways, 6).tobytes().hex()
    return {
        "key": sha256(raw.encode()).hexdigest(),
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
        points, ways, _ = receivers(case)
        text = radiance.scene_text(case.surfaces, case.sources)
        raw = text + np.round(points, 6).tobytes().hex() + np.round(ways, 6).tobytes().hex()
        same = kept.get(case.name, {}).get("key") == sha256(raw.encode()).hexdigest()
        if same and case.name not in sys.argv[1:]:
            continue
        kept[case.name] = record(case)
        FILE.write_text(_compact(kept))
        print(case.name, np.round(np.array(kept[case.name]["error"])[:6].max(), 5), flush=True)


if __name__ == "__main__":
    main()
