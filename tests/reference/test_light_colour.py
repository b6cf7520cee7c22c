"""Colour and photometry against the colour-science library and published tables."""

import math

import colour
import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from evrant.core.base.tables.finishes import PAINTS
from evrant.core.light import colour as own
from evrant.core.light import photometry as ph
from evrant.core.light.emission import filament_lumens
from evrant.core.light.spread import axis_of, beam, everywhere, flux_of, grid_share, measured

LAB = st.tuples(st.floats(5, 100), st.floats(-80, 80), st.floats(-80, 80))


@settings(max_examples=200, deadline=None)
@given(LAB, LAB)
def test_ciede2000_is_the_librarys(one: tuple[float, ...], other: tuple[float, ...]) -> None:
    """But where hues are exactly opposite: there the formula itself jumps (Sharma, Wu and Dalal 2005, section 3), and
    which side is taken is a matter of rounding."""
    a, b = np.array(one), np.array(other)
    across = abs(a[1] * b[2] - b[1] * a[2]) / max(math.hypot(a[1], a[2]) * math.hypot(b[1], b[2]), 1e-12)
    assume(across > 1e-9 or a[1] * b[1] + a[2] * b[2] >= 0)
    wanted = float(colour.delta_E(a, b, method="CIE 2000"))
    assert own.ciede2000(a, b) == pytest.approx(wanted, abs=2e-4)


@pytest.mark.parametrize(
    ("one", "other", "wanted"),
    [
        # Sharma, Wu and Dalal (2005), table 1: pairs 1, 7, 17 and 25.
        ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425),
        ((50.0, 0.0, 0.0), (50.0, -1.0, 2.0), 2.3669),
        ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
        ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ],
)
def test_ciede2000_gives_the_published_pairs(one: tuple[float, ...], other: tuple[float, ...], wanted: float) -> None:
    assert own.ciede2000(np.array(one), np.array(other)) == pytest.approx(wanted, abs=1e-4)


@settings(max_examples=60, deadline=None)
@given(st.floats(0.02, 0.98), st.floats(0.02, 0.98), st.floats(0.02, 0.98))
def test_lab_is_the_librarys(r: float, g: float, b: float) -> None:
    xyz = own.TO_XYZ @ np.array([r, g, b])
    white = colour.XYZ_to_xy(own.WHITE)
    assert own.lab(xyz) == pytest.approx(colour.XYZ_to_Lab(xyz, white), abs=1e-4)


@pytest.mark.parametrize("kelvin", [2000, 2700, 3000, 4000, 5000, 5600, 6500, 9000])
def test_the_planckian_locus_is_the_librarys(kelvin: float) -> None:
    """Kang et al. (2002) against the library's own implementation of it, and its inverse against Ohno (2014)."""
    x, y = (float(part) for part in own.planck_xy(kelvin))
    assert (x, y) == pytest.approx(tuple(colour.temperature.CCT_to_xy_Kang2002(kelvin)), abs=1e-9)
    found, duv = own.cct_duv(np.ones(3), kelvin)
    assert found == pytest.approx(kelvin, rel=1e-4) and abs(duv) < 1e-5


@pytest.mark.parametrize("tint", [(1.0, 1.05, 1.0), (1.05, 1.0, 0.95), (0.97, 1.0, 1.04)])
def test_cct_and_duv_agree_with_the_library(tint: tuple[float, ...]) -> None:
    light = np.array(tint)
    kelvin, duv = own.cct_duv(light, 5600.0)
    xyz = own.adapted(own.TO_XYZ @ (light / own.luminance(light)), own.WHITE, own.xyz_of(5600.0))
    uv = colour.UCS_to_uv(colour.XYZ_to_UCS(xyz))
    wanted = colour.temperature.uv_to_CCT_Ohno2013(uv)
    assert kelvin == pytest.approx(float(wanted[0]), rel=0.004)
    assert duv == pytest.approx(float(wanted[1]), abs=3e-4)


def test_a_pale_green_wall_hides_from_colour_temperature() -> None:
    """Why ΔE is shown beside CCT: green moves CCT by a few mired while ΔE is large."""
    green = np.array([0.93, 1.03, 0.93])
    kelvin, duv = own.cct_duv(green, 5600.0)
    assert abs(own.mired(kelvin) - own.mired(5600)) < 6
    assert own.tint(green, np.ones(3)) > 4 and duv > 0.003


def test_mired_arithmetic() -> None:
    """10⁶/3200 − 10⁶/5500 = 130.7 mired: the published shift of a full amber or blue conversion gel."""
    assert own.gel_for(5500, 3200) == pytest.approx(130.68, abs=0.01)
    assert own.gelled(3200, -130.68) == pytest.approx(5500, rel=1e-4)
    for kelvin in (2700, 3200, 5600):
        assert own.mired(kelvin) == pytest.approx(float(colour.temperature.CCT_to_mired(kelvin)), rel=1e-12)


@pytest.mark.parametrize("lrv", [4, 30, 62, 88])
@pytest.mark.parametrize("code", ["#cfe3cf", "#b9826b", "#ffffff", "#7f1010"])
def test_paint_keeps_its_luminance(lrv: float, code: str) -> None:
    bands = own.paint(lrv, code)
    assert own.luminance(bands) == pytest.approx(lrv / 100, abs=0.02)
    assert (bands >= 0).all() and (bands <= 0.97 + 1e-9).all()


def test_linear_bands_are_the_standards() -> None:
    wanted = colour.cctf_decoding(np.array([0xCF, 0xE3, 0xCF]) / 255, function="sRGB")
    assert own.linear("#cfe3cf") == pytest.approx(wanted, abs=1e-6)


def test_three_bands_stand_for_a_spectrum_within_their_share() -> None:
    """The tint of light returned by a painted enclosure, ρ/(1 − ρ) at each wavelength, against three bands: the rule
    takes 20 % of the ΔE for what they leave out. Paints are smooth spectra of known LRV."""
    shape = colour.SpectralShape(400, 700, 10)
    cmfs = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape)
    d65 = colour.SDS_ILLUMINANTS["D65"].copy().align(shape)
    waves = shape.wavelengths
    off = []
    for centre, width, low, high in ((540, 45, 0.45, 0.70), (610, 50, 0.35, 0.65), (470, 40, 0.40, 0.62)):
        rho = low + (high - low) * np.exp(-(((waves - centre) / width) ** 2))
        xyz = colour.sd_to_XYZ(colour.SpectralDistribution(dict(zip(waves, rho, strict=True))), cmfs, d65) / 100
        bands = np.clip(np.linalg.solve(own.TO_XYZ, xyz), 0.0, 0.97)
        light = 1.0 + 0.6 * rho / (1 - rho)
        whole = colour.sd_to_XYZ(colour.SpectralDistribution(dict(zip(waves, light, strict=True))), cmfs, d65)
        spectral = own.ciede2000(own.lab(own.WHITE * 0.9), own.lab(whole / whole[1] * 0.9))
        three = own.tint(1.0 + 0.6 * bands / (1 - bands), np.ones(3))
        off.append(abs(three / spectral - 1))
    assert max(off) < 0.25 and float(np.mean(off)) < 0.20


# --- photometry ----------------------------------------------------------------------------------------


@pytest.mark.parametrize(("value", "lux"), [(0, 2.5), (5, 80.0), (10, 2560.0)])
def test_the_exposure_value_table(value: int, lux: float) -> None:
    """ISO 2720 with C = 250 at ISO 100: EV 0 is 2.5 lx, doubling each step."""
    assert ph.needed_illuminance(1.0, 1 / 2**value, 100, ph.FLAT) == pytest.approx(lux)


@pytest.mark.parametrize(("stopped", "lux"), [(4.0, 250.0), (5.6, 500.0), (8.0, 1000.0)])
def test_returned_light_that_five_stops_hide(stopped: float, lux: float) -> None:
    """Common practice: at ISO 100 and 1/200 s, C 250, this much room light lies 5 stops under the exposure."""
    needed = ph.needed_illuminance(stopped, 1 / 200, 100, ph.FLAT)
    assert ph.stops(needed / lux) == pytest.approx(5.0, abs=0.03)


def test_stops_of_the_trade() -> None:
    """600 to 200 W s, 600 W s at 1/16, 200 W s at 1/256; grey to white; near-black and clean black."""
    assert ph.stops(600 / 200) == pytest.approx(1.585, abs=1e-3)
    assert 600 / 16 == 37.5 and pytest.approx(0.78, abs=0.005) == 200 / 256
    assert ph.stops(0.90 / 0.18) == pytest.approx(2.32, abs=0.005)
    assert pytest.approx(0.0225) == 0.18 * 2**-3 and pytest.approx(0.006, abs=4e-4) == 0.18 * 2**-5


def test_a_key_at_45_and_45_reads_less_toward_the_camera() -> None:
    """A flat receptor to the camera reads 1.00 stop less than to the light, a dome 0.86 less than its own most."""
    cosine = math.cos(math.radians(45)) ** 2
    assert ph.stops(1 / cosine) == pytest.approx(1.00, abs=0.005)
    assert ph.stops(1 / ph.dome_share(cosine)) == pytest.approx(0.415, abs=0.005)
    assert ph.stops(ph.DOME / ph.FLAT / ph.dome_share(cosine)) == pytest.approx(0.86, abs=0.005)


def test_guide_numbers_scale_with_the_roots() -> None:
    """GN = N d: twice the ISO or power is √2 of it; 0.063 in feet is C = 170.9, 0.55 stop above C = 250."""
    assert ph.f_number_for(ph.intensity_from_guide(40) / 4**2, 100, ph.FLAT) == pytest.approx(10.0)
    assert ph.f_number_for(ph.intensity_from_guide(40) / 4**2, 200, ph.FLAT) == pytest.approx(10 * math.sqrt(2))
    assert math.sqrt(0.063 * 1000 * 100) == pytest.approx(79.4, abs=0.05)
    assert pytest.approx(170.9, abs=0.1) == 1 / (0.063 * 0.3048**2)
    assert ph.stops(250 / 170.9) == pytest.approx(0.55, abs=0.005)


def test_filament_bulbs() -> None:
    """Public efficiency labels (from memory): 100 W: 1600 lm at 120 V, 1350 lm at 230 V; 60 W about 710."""
    assert filament_lumens(100, 120) == pytest.approx(1600)
    assert filament_lumens(100, 230) == pytest.approx(1350)
    assert filament_lumens(60, 230) == pytest.approx(710, rel=0.05)


def test_grids_and_beams() -> None:
    """A bare tube shines a quarter as strongly along an axis as a cosine face of the same flux."""
    assert axis_of(everywhere()) / axis_of(None) == pytest.approx(0.25, rel=1e-6)
    assert axis_of(beam(60)) > axis_of(beam(110)) > axis_of(None)
    assert 0 < grid_share(30) < grid_share(60) < 1


def test_a_goniometric_table_keeps_its_symmetry() -> None:
    """A quarter-symmetric table: the mirrored sides are the same, and the flux is one lumen."""
    vertical = tuple(float(v) for v in range(0, 91, 10))
    rows = tuple(tuple(math.cos(math.radians(v)) * (1 + side / 90) for v in vertical) for side in (0, 45, 90))
    table = measured(vertical, (0.0, 45.0, 90.0), rows)
    assert flux_of(table) == pytest.approx(1.0, rel=1e-6)
    assert table[50, 3] == pytest.approx(table[50, 9]) and table[50, 3] == pytest.approx(table[50, 21])
    assert table[len(table) // 2 + 1 :, :].max() == 0.0, "nothing behind"


@pytest.mark.parametrize("name", list(PAINTS))
def test_a_usual_paints_colour_has_its_reflectance(name: str) -> None:
    """The luminance of the swatch (sRGB, IEC 61966-2-1, by colour-science) is the reflectance it is given."""
    value, swatch = PAINTS[name]
    coded = np.array([int(swatch[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    luminance = colour.sRGB_to_XYZ(coded)[1]
    assert 100 * luminance == pytest.approx(value, abs=0.6)
