"""Times the computed picture of three demo sets: a coarse one that follows a hand, 480 × 320 and 960 × 640 settled.

Prints one JSON line. `error` is the root mean square of the regions' differences from the recorded reference [stops].
Where Mitsuba 3 can be imported (no dependency of the project), the same scenes are rendered by it in the same run:
`reference_s` is the time in which a pixel of 480 × 320 is as noisy as our error, told from two short runs, and `ratio`
how many times longer that is; otherwise both are null. `ledger_ms` and `ledger_beside_ms` are a ledger judged anew
alone and beside coarse pictures, one after another.
"""

import json
import math
import statistics
import sys
import threading
import time
from collections.abc import Callable
from importlib import import_module
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import numpy as np

ROOT = Path(__file__).parents[1]
sys.path[:0] = [str(ROOT / "tests"), str(ROOT / "tools")]

from helpers.picture_regions import CASES, COLUMNS, masks_of, set_of  # noqa: E402

from evrant.core.base.memo import fresh  # noqa: E402
from evrant.core.judge.ledger import ledger_of  # noqa: E402
from evrant.core.light.lit import Lit, lit  # noqa: E402
from evrant.core.picture.render import picture  # noqa: E402
from evrant.demo import demo_studio  # noqa: E402

RECORD = json.loads((ROOT / "tests/reference/picture.json").read_text())
FIRST, SETTLED, LARGE = 120, 480, 960
SHORT_RUN = 8
SCENES = ["lesson", "kneeling", "rock"]


def timed(work: Callable[[], object], count: int) -> float:
    """Median milliseconds of some runs after one that is not counted."""
    work()
    taken = []
    for _ in range(count):
        began = time.perf_counter()
        work()
        taken.append((time.perf_counter() - began) * 1000)
    return statistics.median(taken)


def across(state: Lit, size: int) -> int:
    """Pixels across of a picture with as many pixels as one of size × two thirds of it."""
    view = state.scene.view
    assert view is not None
    return round(size * math.sqrt(2 / 3 * view.across / view.upward))


def error_of(name: str) -> float:
    """Root mean square difference of the regions from the record [stops]."""
    found = picture(set_of(name), COLUMNS, sharp=True)
    assert found is not None
    record = RECORD["cases"][name]["regions"]
    off = [
        math.log2(found.light[mask].mean(axis=0).sum() / sum(record[label]["mean"]))
        for label, mask in masks_of(found).items()
    ]
    return math.sqrt(sum(stops**2 for stops in off) / len(off))


def reference_seconds(name: str, error: float) -> float | None:
    """How long the reference takes for pixels of 480 × 320 that are as noisy as our error."""
    if find_spec("mitsuba") is None:
        return None
    mi: Any = import_module("mitsuba")
    picture_reference: Any = import_module("picture_reference")
    mi.set_variant("scalar_rgb")
    picture_reference.CELLS = 56
    state = set_of(name)
    columns = across(state, SETTLED)
    ours = picture(state, columns, sharp=True, fine=False)
    assert ours is not None
    scene = mi.load_dict(picture_reference.scene_of(state, ours.stage, columns, ours.seen.rows, 0))
    began = time.perf_counter()
    one, other = (np.array(mi.render(scene, spp=SHORT_RUN, seed=seed))[:, :, :3].sum(axis=2) for seed in (1, 2))
    each = (time.perf_counter() - began) / 2
    mean = np.maximum((one + other) / 2, 1e-9)
    noise = float(np.median(np.abs(one - other) / mean)) / 0.9539  # median of |a − b| of two equal normals is 0.9539 σ
    return each * (noise / (2**error - 1)) ** 2


def beside() -> dict[str, float]:
    """A ledger and first pictures, each alone and both at once [ms]."""
    studio = demo_studio("adoption-corner")
    state = set_of("kneeling")
    coarse = across(state, FIRST)

    def judged() -> None:
        with fresh():
            ledger_of(studio)

    alone = timed(judged, 3)
    over = threading.Event()

    def pictures() -> None:
        while not over.is_set():
            picture(state, coarse, fine=False)
            time.sleep(0.1)

    other = threading.Thread(target=pictures)
    other.start()
    together = timed(judged, 3)
    over.set()
    other.join()
    return {"ledger_ms": round(alone), "ledger_beside_ms": round(together)}


def main() -> None:
    """Measure and print."""
    found: dict[str, Any] = {key: [] for key in ("first_ms", "settled_ms", "large_ms", "reference_s", "error", "ratio")}
    for name in SCENES:
        studio_name, plan_id = CASES[name]
        studio = demo_studio(studio_name)
        from evrant.core.space.scene import scene_of

        scene = scene_of(studio, next(one for one in studio.sets if one.id == plan_id))
        state = lit(scene) if scene is not None else None
        assert isinstance(state, Lit)
        first = timed(lambda state=state: picture(state, across(state, FIRST), fine=False), 5)  # type: ignore[misc]
        settled = timed(lambda state=state: picture(state, across(state, SETTLED)), 3)  # type: ignore[misc]
        large = timed(lambda state=state: picture(state, across(state, LARGE)), 1)  # type: ignore[misc]
        error = error_of(name)
        reference = reference_seconds(name, error)
        found["first_ms"].append(round(first))
        found["settled_ms"].append(round(settled))
        found["large_ms"].append(round(large))
        found["error"].append(round(error, 3))
        found["reference_s"].append(None if reference is None else round(reference, 1))
        found["ratio"].append(None if reference is None else round(reference * 1000 / settled, 1))
    reference_error = [
        max(math.log2(1 + sum(one["error"]) / sum(one["mean"])) for one in RECORD["cases"][name]["regions"].values())
        for name in SCENES
    ]
    found |= {"reference_error": [round(one, 3) for one in reference_error], "scenes": SCENES} | beside()
    print(json.dumps(found))


if __name__ == "__main__":
    main()
