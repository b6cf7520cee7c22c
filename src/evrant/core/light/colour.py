"""Three-band colour: paint cards to reflectances, and what returned light does to white and skin.

The bands are linear red, green and blue of the sRGB primaries (IEC 61966-2-1), so a reflectance's
luminance share is Y = 0.2126 R + 0.7152 G + 0.0722 B = LRV / 100.
References:
[1] CIE 142-2001, CIEDE2000 colour difference; form after Sharma, Wu and Dalal (2005).
[2] CIE 15: XYZ to L*a*b*.
[3] Ohno (2014) definition of Duv; CCT here by search along the Planckian locus after Kang et al. (2002).
[4] Mired shift of a filter: 10⁶/T₂ − 10⁶/T₁, any handbook on colour photography.
"""

import math

import numpy as np
from numpy.typing import NDArray

Triple = NDArray[np.float64]
LUMINANCE: Triple = np.array([0.2126, 0.7152, 0.0722])
TO_XYZ: Triple = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
WHITE: Triple = TO_XYZ.sum(axis=1)
PAPER = 0.90
"""Reflectance of the white whose tint is judged."""
SKIN: Triple = np.array([0.47, 0.29, 0.21])
"""Reflectance of a medium-light skin in three bands, from memory."""
BRADFORD: Triple = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])


def decoded(raw: Triple) -> Triple:
    """Linear light of sRGB values from 0 to 1 (IEC 61966-2-1)."""
    return np.where(raw <= 0.04045, raw / 12.92, ((raw + 0.055) / 1.055) ** 2.4)


def coded(light: Triple) -> Triple:
    """sRGB values from 0 to 1 of linear light from 0 to 1 (IEC 61966-2-1)."""
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * light ** (1 / 2.4) - 0.055)


def linear(code: str) -> Triple:
    """Linear bands (3,) of a colour written #rrggbb."""
    return decoded(np.array([int(code[i : i + 2], 16) for i in (1, 3, 5)]) / 255)


def luminance(bands: Triple) -> float:
    return float(LUMINANCE @ bands)


def paint(lrv: float, code: str | None) -> Triple:
    """Reflectance (3,) of a paint with that light reflectance value [%] and hue; grey without a colour."""
    share = lrv / 100
    if code is None:
        return np.full(3, share)
    hue = linear(code)
    bright = luminance(hue)
    if bright < 1e-6:
        return np.full(3, share)
    bands = hue * share / bright
    return np.asarray(_under_one(bands, share))


def _under_one(bands: Triple, share: float) -> Triple:
    """No band returns more than 97 %: what is over is taken from the hue, the luminance stays."""
    for _ in range(20):
        over = bands > 0.97
        if not over.any():
            break
        bands = np.where(over, 0.97, bands)
        rest = ~over
        if rest.any():
            bands = np.where(rest, bands + (share - luminance(bands)) / LUMINANCE[rest].sum(), bands)
    return np.clip(bands, 0.0, 0.97)


def lab(xyz: Triple) -> Triple:
    """L*a*b* of XYZ relative to the working white [2]."""
    t = xyz / WHITE
    f = np.where(t > (6 / 29) ** 3, np.cbrt(t), t / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


def ciede2000(one: Triple, other: Triple) -> float:
    """Colour difference of two L*a*b* values [1]."""
    l1, a1, b1 = (float(v) for v in one)
    l2, a2, b2 = (float(v) for v in other)
    mean_c = (math.hypot(a1, b1) + math.hypot(a2, b2)) / 2
    g = 0.5 * (1 - math.sqrt(mean_c**7 / (mean_c**7 + 25.0**7)))
    a1, a2 = a1 * (1 + g), a2 * (1 + g)
    c1, c2 = math.hypot(a1, b1), math.hypot(a2, b2)
    h1, h2 = (math.degrees(math.atan2(b, a)) % 360 if a or b else 0.0 for a, b in ((a1, b1), (a2, b2)))
    step = 0.0 if c1 * c2 == 0 else h2 - h1
    step = step - 360 if step > 180 else step + 360 if step < -180 else step
    dl, dc = l2 - l1, c2 - c1
    dh = 2 * math.sqrt(c1 * c2) * math.sin(math.radians(step / 2))
    ml, mc = (l1 + l2) / 2, (c1 + c2) / 2
    mh = h1 + h2 if c1 * c2 == 0 else (h1 + step / 2) % 360
    t = (
        1
        - 0.17 * math.cos(math.radians(mh - 30))
        + 0.24 * math.cos(math.radians(2 * mh))
        + 0.32 * math.cos(math.radians(3 * mh + 6))
        - 0.20 * math.cos(math.radians(4 * mh - 63))
    )
    sl = 1 + 0.015 * (ml - 50) ** 2 / math.sqrt(20 + (ml - 50) ** 2)
    sc, sh = 1 + 0.045 * mc, 1 + 0.015 * mc * t
    turn = 30 * math.exp(-(((mh - 275) / 25) ** 2))
    rt = -2 * math.sqrt(mc**7 / (mc**7 + 25.0**7)) * math.sin(math.radians(2 * turn))
    return math.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dh / sh) ** 2 + rt * (dc / sc) * (dh / sh))


def tint(light: Triple, key: Triple, reflectance: Triple | float = PAPER) -> float:
    """CIEDE2000 between a surface under `light` and under the key alone, white balanced on the key,
    at the same luminance [1]."""
    relative = light / key
    relative = relative / luminance(relative)
    bands = np.broadcast_to(np.asarray(reflectance, dtype=float), (3,))
    return ciede2000(lab(TO_XYZ @ bands), lab(TO_XYZ @ (bands * relative)))


def planck_xy(kelvin: float | Triple) -> tuple[Triple, Triple]:
    """Chromaticity of the Planckian locus, 1667 to 25000 K, of one or many temperatures [3]."""
    t = np.clip(np.asarray(kelvin, dtype=float), 1667.0, 25000.0)
    k = 1000 / t
    warm = -0.2661239 * k**3 - 0.2343589 * k**2 + 0.8776956 * k + 0.179910
    cool = -3.0258469 * k**3 + 2.1070379 * k**2 + 0.2226347 * k + 0.240390
    x = np.where(t <= 4000, warm, cool)
    low = -1.1063814 * x**3 - 1.34811020 * x**2 + 2.18555832 * x - 0.20219683
    middle = -0.9549476 * x**3 - 1.37418593 * x**2 + 2.09137015 * x - 0.16748867
    high = 3.0817580 * x**3 - 5.87338670 * x**2 + 3.75112997 * x - 0.37001483
    return x, np.where(t <= 2222, low, np.where(t <= 4000, middle, high))


def xyz_of(kelvin: float) -> Triple:
    """XYZ of a black body, Y = 1."""
    x, y = (float(part) for part in planck_xy(kelvin))
    return np.array([x / y, 1.0, (1 - x - y) / y])


def bands_of(kelvin: float, reference: float) -> Triple:
    """Bands of a black body in a working space whose white is the reference, luminance 1."""
    xyz = adapted(xyz_of(kelvin), xyz_of(reference), WHITE)
    bands = np.maximum(np.linalg.solve(TO_XYZ, xyz), 1e-4)
    return np.asarray(bands / luminance(bands))


def adapted(xyz: Triple, source: Triple, target: Triple) -> Triple:
    """Von Kries adaptation in the Bradford space."""
    gains = (BRADFORD @ target) / (BRADFORD @ source)
    return np.asarray(np.linalg.solve(BRADFORD, gains * (BRADFORD @ xyz)))


def cct_duv(light: Triple, reference: float) -> tuple[float, float]:
    """Correlated colour temperature [K] and Duv of light in bands relative to a source of `reference` [K] [3]."""
    xyz = adapted(TO_XYZ @ (light / luminance(light)), WHITE, xyz_of(reference))
    x, y, z = (float(part) for part in xyz)
    u, v = 4 * x / (x + 15 * y + 3 * z), 6 * y / (x + 15 * y + 3 * z)
    low, high = math.log(1667.0), math.log(25000.0)
    for _ in range(4):
        grid = np.exp(np.linspace(low, high, 41))
        near_u, near_v = _uv(*planck_xy(grid))
        far = np.hypot(u - near_u, v - near_v)
        best = int(np.argmin(far))
        low, high = math.log(grid[max(best - 1, 0)]), math.log(grid[min(best + 1, 40)])
    kelvin = math.exp((low + high) / 2)
    a, b = (float(part) for part in _uv(*planck_xy(kelvin)))
    return kelvin, math.copysign(math.hypot(u - a, v - b), v - b)


def _uv(x: Triple, y: Triple) -> tuple[Triple, Triple]:
    """CIE 1960 u, v of chromaticities."""
    total = -2 * x + 12 * y + 3
    return 4 * x / total, 6 * y / total


def mired(kelvin: float) -> float:
    return 1e6 / kelvin


def gelled(kelvin: float, shift: float) -> float:
    """Colour temperature after a gel of that mired shift [4]."""
    return 1e6 / max(mired(kelvin) + shift, 20.0)


def gel_for(source: float, target: float) -> float:
    """Mired shift a gel needs [4]."""
    return mired(target) - mired(source)
