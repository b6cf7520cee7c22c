"""The same set for two engines: ours, and the reference engine's command-line programs.

Surfaces become diffuse polygons without gloss, sheets that let light through become diffuse
translucent ones, luminous faces become `light` polygons (black when lit from outside).
"""

import subprocess
import tempfile
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import pyradiance
from numpy.typing import NDArray

from evrant.core.light.bounce.polygons import normal_of
from evrant.core.light.bounce.sources import Source
from evrant.core.light.bounce.surfaces import Surface, grey
from evrant.core.space.solids import Points

PROGRAMS = Path(pyradiance.__file__).parent / "bin"
LIBRARY = Path(pyradiance.__file__).parent / "lib"
SETTINGS = "-I -h -u+ -aa 0 -as 0 -ab 60 -lr 0 -lw 1e-6 -ds .02"
GAP = 5e-4


def _polygon(name: str, material: str, ring: Points) -> str:
    numbers = " ".join(f"{c:.9g}" for c in ring.ravel())
    return f"{material} polygon {name}\n0\n0\n{ring.size} {numbers}\n"


def scene_text(surfaces: Sequence[Surface], sources: Sequence[Source]) -> str:
    """The set in the reference engine's own description."""
    out = []
    for i, surface in enumerate(surfaces):
        sides = [(surface.reflectance, 1.0, "f")]
        if (
            surface.back is not None
            and surface.through is None
            and not np.array_equal(surface.back, surface.reflectance)
        ):
            sides.append((surface.back, -1.0, "b"))
        for returns, side, tag in sides:
            material = f"m{i}{tag}"
            if surface.gloss == 1.0:
                out.append(f"void mirror {material}\n0\n0\n3 {returns[0]} {returns[1]} {returns[2]}\n")
            elif surface.through is not None:
                both = returns + surface.through
                share = float(surface.through[0] / both[0])
                out.append(f"void trans {material}\n0\n0\n7 {both[0]} {both[1]} {both[2]} 0 0 {share} 0\n")
            else:
                out.append(f"void plastic {material}\n0\n0\n5 {returns[0]} {returns[1]} {returns[2]} 0 0\n")
            for k, polygon in enumerate(surface.polygons):
                shift = normal_of(polygon) * GAP * side if len(sides) > 1 else 0.0
                ring = polygon if side > 0 else polygon[::-1]
                out.append(_polygon(f"p{i}{tag}{k}", material, ring + shift))
    for i, source in enumerate(sources):
        area = float(np.linalg.norm(np.cross(source.face, np.roll(source.face, -1, axis=0)).sum(axis=0)) / 2)
        r, g, b = source.flux / (np.pi * area)
        out.append(f"void light l{i}\n0\n0\n3 {r} {g} {b}\n")
        out.append(_polygon(f"s{i}", f"l{i}", source.face))
    return "\n".join(out)


def lit_face(source: Source) -> Surface:
    """The body of a `light` polygon in our engine: a sheet that is black on both sides."""
    return Surface(source.name, "", (source.face,), grey(0.0), back=grey(0.0), body=source.name, sheds=True)


def run(text: str, points: Points, ways: Points, divisions: int) -> NDArray[np.float64]:
    """Illuminance (p, 3) in three bands at points with normals, by the reference engine."""
    environment = {"RAYPATH": f".:{LIBRARY}", "PATH": str(PROGRAMS)}
    with tempfile.TemporaryDirectory() as folder:
        here = Path(folder)
        (here / "set.rad").write_text(text)
        tree = subprocess.run(
            [PROGRAMS / "oconv", "set.rad"], cwd=here, env=environment, capture_output=True, check=True
        ).stdout
        (here / "set.oct").write_bytes(tree)
        rays = "\n".join(" ".join(f"{v:.9g}" for v in (*p, *w)) for p, w in zip(points, ways, strict=True)) + "\n"
        done = subprocess.run(
            [PROGRAMS / "rtrace", *SETTINGS.split(), "-ad", str(divisions), "set.oct"],
            cwd=here,
            env=environment,
            input=rays.encode(),
            capture_output=True,
            check=True,
        )
    return np.array([[float(v) for v in line.split()] for line in done.stdout.decode().splitlines() if line.split()])


def sky(kind: str, altitude: float, azimuth: float, rays: Points) -> NDArray[np.float64]:
    """Luminance (n,) toward directions (n, 3) of the reference's own sky, and illuminance on level ground and on
    panes given as upright normals; `kind` is its generator's flag, x looks east and y north."""
    environment = {"RAYPATH": f".:{LIBRARY}", "PATH": str(PROGRAMS)}
    words = ["-ang", f"{altitude:g}", f"{azimuth - 180:g}", kind, "-g", "0"]
    made = subprocess.run([PROGRAMS / "gensky", *words], capture_output=True, env=environment, check=True).stdout
    text = made.decode() + "\nskyfunc glow g\n0\n0\n4 1 1 1 0\ng source s\n0\n0\n4 0 0 1 180\n"
    with tempfile.TemporaryDirectory() as folder:
        here = Path(folder)
        (here / "sky.rad").write_text(text)
        tree = subprocess.run(
            [PROGRAMS / "oconv", "sky.rad"], cwd=here, env=environment, capture_output=True, check=True
        ).stdout
        (here / "sky.oct").write_bytes(tree)
        lines = "\n".join("0 0 1 " + " ".join(f"{v:.9g}" for v in ray) for ray in rays) + "\n"
        done = subprocess.run(
            [PROGRAMS / "rtrace", "-h", "-ab", "1", "-ad", "32768", "-lw", "1e-7", "-as", "0", "-aa", "0",
             *(["-I"] if kind.startswith("-c") else []), "sky.oct"],
            cwd=here, env=environment, input=lines.encode(), capture_output=True, check=True,
        )  # fmt: skip
    return np.array([float(line.split()[1]) for line in done.stdout.decode().splitlines() if line.split()])


def looked_at(text: str, eye: Points, ways: Points) -> NDArray[np.float64]:
    """Radiance that comes to a point from directions, by light that met one surface on its way, and how far off that
    surface is: (n, 4)."""
    environment = {"RAYPATH": f".:{LIBRARY}", "PATH": str(PROGRAMS)}
    with tempfile.TemporaryDirectory() as folder:
        here = Path(folder)
        (here / "set.rad").write_text(text)
        tree = subprocess.run(
            [PROGRAMS / "oconv", "set.rad"], cwd=here, env=environment, capture_output=True, check=True
        ).stdout
        (here / "set.oct").write_bytes(tree)
        rays = "\n".join(" ".join(f"{v:.9g}" for v in (*eye, *w)) for w in ways) + "\n"
        done = subprocess.run(
            [PROGRAMS / "rtrace", "-h", "-ab", "0", "-ds", ".02", "-dt", "0", "-dj", "0", "-ovL", "set.oct"],
            input=rays.encode(),
            cwd=here,
            env=environment,
            capture_output=True,
            check=True,
        )
    return np.array([[float(v) for v in line.split()] for line in done.stdout.decode().splitlines() if line.split()])
