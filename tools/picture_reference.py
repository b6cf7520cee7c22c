"""The demo sets' pictures by a general physically based renderer: `tools/picture_reference.py`.

Needs Mitsuba 3 (`pip install mitsuba`, no dependency of the project). Writes the mean exposure of named regions with
its standard error to `tests/reference/picture.json`; `tests/reference/test_picture_reference.py` compares our own
picture of the same sets. Smooth bodies are meshed from their distance, flat faces and lights are taken as they are.
"""

import json
import sys
import time
from importlib.metadata import version
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tests")]

from helpers.picture_regions import CASES, COLUMNS, masks_of, set_of  # noqa: E402

from evrant.core.light.bounce.polygons import area_of  # noqa: E402
from evrant.core.light.lit import Lit  # noqa: E402
from evrant.core.picture.render import doses_of, picture  # noqa: E402
from evrant.core.picture.shapes import distance  # noqa: E402
from evrant.core.picture.stage import Stage  # noqa: E402

FILE = ROOT / "tests/reference/picture.json"
SAMPLES, RUNS, CELLS = 64, 4, 220
Floats = NDArray[np.float64]


def meshed(stage: Stage, group: int, size: int = CELLS) -> tuple[Floats, NDArray[np.int64]]:
    """A smooth body as triangles, by tetrahedra over a lattice of its distance; the body is cut by covers elsewhere."""
    start, stop, *ball = stage.groups[group]
    low, high = np.array(ball[:3]) - ball[3], np.array(ball[:3]) + ball[3]
    balls = stage.parts[int(start) : int(stop), 11:15]
    low = np.maximum(low, (balls[:, :3] - balls[:, 3:]).min(axis=0) - 0.01)
    high = np.minimum(high, (balls[:, :3] + balls[:, 3:]).max(axis=0) + 0.01)
    step = float((high - low).max()) / size
    counts = np.ceil((high - low) / step).astype(int) + 1
    axes = [low[i] + step * np.arange(counts[i]) for i in range(3)]
    grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1)
    every = np.arange(len(stage.parts))
    values = np.array(
        [distance(stage.parts, every, int(start), int(stop), *p, 1e9) for p in grid.reshape(-1, 3)]
    ).reshape(counts)
    corners = [(0, 0, 0), (1, 0, 0), (1, 1, 0), (0, 1, 0), (0, 0, 1), (1, 0, 1), (1, 1, 1), (0, 1, 1)]
    cut = [
        np.s_[c[0] : counts[0] - 1 + c[0], c[1] : counts[1] - 1 + c[1], c[2] : counts[2] - 1 + c[2]] for c in corners
    ]
    points = np.stack([grid[k].reshape(-1, 3) for k in cut], axis=1)
    inside = np.stack([values[k].ravel() for k in cut], axis=1)
    near = (inside.min(axis=1) < 0) & (inside.max(axis=1) >= 0)
    points, inside = points[near], inside[near]
    triangles = []
    for tetra in ((0, 5, 1, 6), (0, 1, 2, 6), (0, 2, 3, 6), (0, 3, 7, 6), (0, 7, 4, 6), (0, 4, 5, 6)):
        p, d = points[:, tetra], inside[:, tetra]
        count = (d < 0).sum(axis=1)
        for many in (1, 2, 3):
            rows = np.flatnonzero(count == many)
            if not rows.size:
                continue
            order = np.argsort(d[rows], axis=1)
            q = np.take_along_axis(p[rows], order[:, :, None], axis=1)
            e = np.take_along_axis(d[rows], order, axis=1)

            def cross(a: int, b: int, q: Floats = q, e: Floats = e) -> Floats:
                share = e[:, a] / (e[:, a] - e[:, b])
                return q[:, a] + (q[:, b] - q[:, a]) * share[:, None]

            if many == 1:
                triangles.append(np.stack([cross(0, 1), cross(0, 2), cross(0, 3)], axis=1))
            elif many == 3:
                triangles.append(np.stack([cross(0, 3), cross(1, 3), cross(2, 3)], axis=1))
            else:
                a, b, c, f = cross(0, 2), cross(0, 3), cross(1, 3), cross(1, 2)
                triangles += [np.stack([a, b, c], axis=1), np.stack([a, c, f], axis=1)]
    soup = np.concatenate(triangles).reshape(-1, 3)
    return soup, np.arange(len(soup)).reshape(-1, 3)


def scene_of(lit: Lit, stage: Stage, columns: int, rows: int, seed: int) -> dict[str, Any]:
    """The set in the reference renderer's terms; exposures as radiance over π, so that a white shows what it gets."""
    import mitsuba as mi

    doses = doses_of(lit)
    view = lit.scene.view
    assert view is not None
    made: dict[str, Any] = {
        "type": "scene",
        "integrator": {"type": "path", "max_depth": 24, "rr_depth": 12},
        "sensor": {
            "type": "perspective",
            "fov": float(np.degrees(2 * np.arctan(view.across / 2 / view.image))),
            "fov_axis": "x",
            "to_world": mi.ScalarTransform4f().look_at(
                origin=view.eye.tolist(), target=(view.eye + view.forward).tolist(), up=view.up.tolist()
            ),
            "film": {
                "type": "hdrfilm",
                "width": columns,
                "height": rows,
                "rfilter": {"type": "box"},
                "component_format": "float32",
            },
            "sampler": {"type": "independent", "sample_count": SAMPLES, "seed": seed},
        },
    }

    def rgb(bands: Floats) -> dict[str, Any]:
        return {"type": "rgb", "value": [float(v) for v in bands]}

    def mesh(name: str, soup: Floats, faces: NDArray[np.int64], bsdf: dict[str, Any], light: Floats | None) -> Any:
        props = mi.Properties()
        props["bsdf"] = mi.load_dict(bsdf)
        if light is not None:
            props["light"] = mi.load_dict({"type": "area", "radiance": rgb(light)})
        made_mesh = mi.Mesh(name, len(soup), len(faces), props=props)
        values = mi.traverse(made_mesh)
        values["vertex_positions"] = np.ascontiguousarray(soup, dtype=np.float32).ravel()
        values["faces"] = np.ascontiguousarray(faces, dtype=np.uint32).ravel()
        values.update()
        return made_mesh

    def shiny(bands: Floats, gloss: float) -> dict[str, Any]:
        matt = {"type": "diffuse", "reflectance": rgb(bands)}
        if gloss <= 0:
            return matt
        mirror = {"type": "conductor", "material": "none", "specular_reflectance": rgb(bands)}
        return {"type": "blendbsdf", "weight": gloss, "one": matt, "other": mirror}

    faces = stage.faces
    for k in range(len(faces.counts)):
        ring = faces.corners[k, : faces.counts[k]]
        fan = np.array([[0, i, i + 1] for i in range(1, len(ring) - 1)])
        source = int(faces.source[k])
        diffuse: dict[str, Any] = {"type": "diffuse", "reflectance": rgb(faces.front[k])}
        light = None
        if source >= 0:
            beam = lit.beams[source].source
            light = beam.flux * doses[source] / (np.pi * area_of(beam.face))
            diffuse = {"type": "diffuse", "reflectance": rgb(np.zeros(3))}
        elif faces.both[k]:
            back: dict[str, Any] = {"type": "diffuse", "reflectance": rgb(faces.back[k])}
            diffuse = {"type": "twosided", "front": diffuse, "back": back}
        made[f"face{k}"] = mesh(f"face{k}", ring, fan, diffuse, light)
    for g in range(len(stage.groups)):
        soup, triangles = meshed(stage, g)
        middles = soup.reshape(-1, 3, 3).mean(axis=1)
        start, stop = int(stage.groups[g, 0]), int(stage.groups[g, 1])
        from evrant.core.picture.shapes import nearest

        row = np.array([nearest(stage.parts, np.arange(len(stage.parts)), start, stop, *p) for p in middles])
        gloss = float(stage.shines[start, 0]) if stage.shines[start, 1] == 0 and stop - start == 1 else 0.0
        for cover in dict.fromkeys(map(tuple, np.round(stage.returns[row], 6).tolist())):
            mine = np.flatnonzero((np.abs(stage.returns[row] - cover) < 1e-5).all(axis=1))
            some = soup.reshape(-1, 3, 3)[mine].reshape(-1, 3)
            bsdf = {"type": "twosided", "one": shiny(np.array(cover), gloss)}
            name = f"body{g}-{len(made)}"
            made[name] = mesh(name, some, np.arange(len(some)).reshape(-1, 3), bsdf, None)
    return made


def main(only: list[str]) -> None:
    """Record every case, or those named."""
    import mitsuba as mi

    mi.set_variant("scalar_rgb")
    found: dict[str, Any] = {"renderer": f"Mitsuba {version('mitsuba')}", "columns": COLUMNS, "cases": {}}
    if only:
        found["cases"] = json.loads(FILE.read_text())["cases"]
    for name in only or CASES:
        lit = set_of(name)
        ours = picture(lit, COLUMNS, sharp=True)
        assert ours is not None
        masks = masks_of(ours)
        scene = scene_of(lit, ours.stage, COLUMNS, ours.seen.rows, 0)
        loaded = mi.load_dict(scene)
        runs, took = [], time.perf_counter()
        for seed in range(RUNS):
            image = np.array(mi.render(loaded, spp=SAMPLES, seed=seed))[:, :, :3] * np.pi
            runs.append([image[mask].mean(axis=0).tolist() for mask in masks.values()])
        took = (time.perf_counter() - took) / RUNS
        mean = np.array(runs).mean(axis=0)
        error = np.array(runs).std(axis=0, ddof=1) / np.sqrt(RUNS)
        own = np.array([ours.light[mask].mean(axis=0) for mask in masks.values()])
        for label, theirs, mine in zip(masks, mean, own, strict=True):
            print(f"{name:12} {label:24} {np.log2(mine.sum() / theirs.sum()):+.3f} stops")
        found["cases"][name] = {
            "seconds": round(took, 1),
            "regions": {
                label: {"mean": np.round(m, 6).tolist(), "error": np.round(e, 6).tolist()}
                for label, m, e in zip(masks, mean, error, strict=True)
            },
        }
    FILE.write_text(json.dumps(found, indent=1) + "\n")


if __name__ == "__main__":
    main(sys.argv[1:])
