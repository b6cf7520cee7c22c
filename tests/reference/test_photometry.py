"""Exposure arithmetic against ISO 2720, ISO 1230 and closed forms of photometry."""

import math

import numpy as np
import pytest

from evrant.core.light import photometry as ph
from evrant.core.light.powers import settable
from evrant.core.place.patterns import stand_height_wanted
from evrant.core.studio.gear import Flash


@pytest.mark.parametrize(("value", "lux"), [(0, 2.5), (5, 80), (10, 2560)])
def test_exposure_value_table(value: int, lux: float) -> None:
    """ISO 2720 table for C = 250 at ISO 100: N²/t = 2^EV."""
    assert ph.needed_illuminance(math.sqrt(2**value), 1.0, 100, ph.FLAT) == pytest.approx(lux)


@pytest.mark.parametrize(("f_number", "lux"), [(4, 250), (5.6, 500), (8, 1000)])
def test_returned_light_five_stops_under_the_flash(f_number: float, lux: float) -> None:
    """ISO 100, 1/200 s, C 250: five stops under the flash exposure is this illuminance (rounded in the trade)."""
    limit = ph.needed_illuminance(f_number, 1 / 200, 100, ph.FLAT) / 2**5
    assert limit == pytest.approx(lux, rel=0.03)


def test_guide_number_scaling() -> None:
    """ISO 1230: GN = N d, scaling with √(S/100) and √power."""
    beam = ph.intensity_from_guide(40)
    for distance in (2.0, 5.0, 8.0):
        assert ph.f_number_for(beam / distance**2, 100, ph.FLAT) == pytest.approx(40 / distance)
        assert ph.f_number_for(beam / distance**2, 400, ph.FLAT) == pytest.approx(80 / distance)
        assert ph.f_number_for(0.25 * beam / distance**2, 100, ph.FLAT) == pytest.approx(20 / distance)


def test_guide_number_from_beam_candela_seconds() -> None:
    """Older flash practice, from memory: GN [ft] = √(0.063 · BCPS · S) = 79.4 ft for 1000 at ISO 100. In feet 0.063
    is C = 1 / (0.063 × 0.0929) = 170.9, 0.55 stop above 250."""
    constant = 1 / (0.063 * 0.3048**2)
    assert constant == pytest.approx(170.9, abs=0.1)
    assert ph.stops(ph.FLAT / constant) == pytest.approx(0.55, abs=0.005)
    assert ph.intensity_from_guide(79.4 * 0.3048, constant) == pytest.approx(1000, rel=0.001)


def test_stops_and_power_settings() -> None:
    assert ph.stops(600 / 200) == pytest.approx(1.585, abs=0.0005)
    low = Flash.model_validate({"id": "f", "name": "Flash", "energy": 600, "lowest_power": 1 / 16})
    assert settable(low, 1e-6) * 600 == pytest.approx(37.5)
    good = Flash.model_validate({"id": "f", "name": "Flash", "energy": 200, "lowest_power": 1 / 256})
    assert settable(good, 1e-6) * 200 == pytest.approx(0.78, abs=0.002)


@pytest.mark.parametrize(("diameters", "percent"), [(1, 25), (2, 6.25), (3, 2.8), (5, 1.0)])
def test_five_times_rule(diameters: float, percent: float) -> None:
    """The point-source law overstates a disc by this share of E (lighting handbooks' five-times rule)."""
    radius, distance = 0.5, diameters * 1.0
    true = ph.disc_illuminance(1.0, radius, distance)
    point = math.pi * radius**2 / distance**2
    assert 100 * (point - true) / true == pytest.approx(percent, abs=0.03)


def test_disc_against_numerical_integration() -> None:
    """E = ∫ L cos⁴-law over the disc, by rings."""
    radius, distance = 0.45, 0.8
    edges = np.linspace(0, radius, 20001)
    r = (edges[1:] + edges[:-1]) / 2
    rings = 2 * math.pi * r * np.diff(edges)
    integral = float((rings * distance**2 / (r**2 + distance**2) ** 2).sum())
    assert ph.disc_illuminance(1.0, radius, distance) == pytest.approx(integral, rel=1e-7)
    assert ph.face_exposure(math.pi**2 * radius**2, radius, distance) == pytest.approx(integral * 1.0, rel=1e-7)


def test_a_key_at_45_45_on_two_receptors() -> None:
    """Flat receptor to the camera reads 1.00 stop less than to the light, an ideal dome 0.42 less; the
    difference of 0.86 stop in the design counts both constants."""
    cosine = math.cos(math.radians(45)) ** 2
    assert ph.stops(1 / cosine) == pytest.approx(1.0)
    assert ph.stops(1 / ph.dome_share(cosine)) == pytest.approx(0.415, abs=0.001)
    assert ph.stops(1 / ph.dome_share(cosine)) + ph.stops(ph.DOME / ph.FLAT) == pytest.approx(0.86, abs=0.005)


@pytest.mark.parametrize(("eye", "height"), [(1.25, 2.10), (1.63, 2.48)])
def test_height_of_a_portrait_key(eye: float, height: float) -> None:
    """Common practice, no source: 1.2 m away and 45° up."""
    assert stand_height_wanted(eye, 1.2, 45) == pytest.approx(height, abs=0.005)
