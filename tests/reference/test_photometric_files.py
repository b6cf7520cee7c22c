"""The IES LM-63 reader on real-world oddities, against flux integrated by hand and by SciPy."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import dblquad

from evrant.files.document import Refused
from evrant.files.photometric import flux_of, read_photometric, write_photometric

ANGLES = list(range(0, 91, 5))


def file(
    candela: list[list[float]],
    horizontal: list[float],
    *,
    head: str = "IESNA:LM-63-2002\n[TEST] invented\n[MANUFAC] nobody\n",
    tilt: str = "TILT=NONE\n",
    factor: float = 1.0,
    kind: int = 1,
    per_line: int = 10,
    join: str = " ",
    end: str = "\n",
    vertical: list[int] | None = None,
) -> bytes:
    """An IES text of the given table."""
    angles = vertical or ANGLES
    figures = [*angles, *horizontal, *(v for row in candela for v in row)]
    lines = [f"1 1000 {factor} {len(angles)} {len(horizontal)} {kind} 2 0.3 0.2 0.1", "1 1 60"]
    lines += [join.join(f"{v:g}" for v in figures[i : i + per_line]) for i in range(0, len(figures), per_line)]
    return (head + tilt + "\n".join(lines) + "\n").replace("\n", end).encode("latin-1")


def cosine(peak: float = 1000.0) -> list[float]:
    return [peak * max(math.cos(math.radians(a)), 0.0) for a in ANGLES]


def test_a_cosine_lamp_gives_pi_times_its_peak() -> None:
    """∫ I₀ cos θ dω = π I₀; linear between 5° steps costs less than 0.2 %."""
    table = read_photometric(file([cosine()], [0.0]))
    assert table.lumens == pytest.approx(math.pi * 1000, rel=0.002)
    assert table.width == 0.3 and table.height == 0.2 and len(table.sha256) == 64


def test_an_uneven_lamp_against_numerical_integration() -> None:
    """Type C goniometric sample with four sides, I = (300 + 200 cos 2φ) cos θ, by SciPy's double integral."""
    sides = [float(s) for s in range(0, 181, 15)]

    def strength(theta: float, phi: float) -> float:
        return (300 + 200 * math.cos(2 * phi)) * math.cos(theta) if theta <= math.pi / 2 else 0.0

    rows = [[strength(math.radians(a), math.radians(s)) for a in ANGLES] for s in sides]
    table = read_photometric(file(rows, sides))
    wanted, _ = dblquad(lambda t, p: strength(t, p) * math.sin(t), 0, 2 * math.pi, 0, math.pi / 2)
    assert table.lumens == pytest.approx(wanted, rel=0.003)


@pytest.mark.parametrize(
    "oddity",
    [
        {"end": "\r\n"},
        {"end": "\r"},
        {"per_line": 3},
        {"per_line": 400},
        {"join": ", "},
        {"join": "\t"},
        {"head": ""},
        {"head": "IESNA91\n"},
        {"head": "\ufeff".encode().decode("latin-1") + "IESNA:LM-63-1995\n"},
        {"head": "A line from 1986 without any keyword\n"},
        {"tilt": "TILT = NONE \n"},
        {"tilt": "tilt=none\n"},
        {"tilt": "TILT=INCLUDE\n1\n3\n0 45 90\n1 0.95 0.9\n"},
    ],
    ids=str,
)
def test_untidy_files_read_the_same(oddity: dict[str, object]) -> None:
    plain = read_photometric(file([cosine()], [0.0]))
    odd = read_photometric(file([cosine()], [0.0], **oddity))  # type: ignore[arg-type]
    assert odd.candela == plain.candela and odd.lumens == plain.lumens


def test_the_multiplier_counts() -> None:
    assert read_photometric(file([cosine()], [0.0], factor=2.5)).lumens == pytest.approx(
        2.5 * math.pi * 1000, rel=0.002
    )


@pytest.mark.parametrize("share", [0.15, 0.4, 0.6, 0.95])
def test_a_file_cut_in_half_is_refused(share: float) -> None:
    whole = file([cosine(), cosine(), cosine()], [0.0, 45.0, 90.0])
    with pytest.raises(Refused, match=r"cut|too early|head"):
        read_photometric(whole[: int(len(whole) * share)].rsplit(b" ", 1)[0])


@pytest.mark.parametrize(
    ("raw", "words"),
    [
        (file([[0.0] * len(ANGLES)], [0.0]), "no light"),
        (file([cosine()], [0.0], factor=0.0), "zero"),
        (file([cosine()], [0.0], kind=2), "type B"),
        (file([cosine()], [0.0], kind=3), "type A"),
        (file([[-v for v in cosine()]], [0.0]), "negative"),
        (file([cosine()], [0.0], tilt="TILT=other.til\n"), "another file"),
        (file([cosine()], [0.0]).replace(b"1000", b"lots"), "stands where"),
        (file([cosine()], [0.0], vertical=[*ANGLES[:-1], 10]), "do not rise"),
        (b"", "TILT"),
        (b"\x89PNG\r\n" + bytes(range(256)) * 20, "TILT"),
        (b"TILT=NONE\n1 1 1 99999 1 1 2 0 0 0\n1 1 1\n", "cannot be"),
    ],
)
def test_what_cannot_be_understood_is_refused_with_words(raw: bytes, words: str) -> None:
    with pytest.raises(Refused, match=words):
        read_photometric(raw)


@settings(max_examples=200, deadline=None)
@given(st.binary(max_size=400))
def test_no_bytes_crash_the_reader(raw: bytes) -> None:
    try:
        found = read_photometric(b"TILT=NONE\n" + raw)
    except Refused:
        return
    assert found.lumens > 0


def test_written_and_read_again() -> None:
    table = read_photometric(file([cosine(), cosine(700)], [0.0, 90.0]))
    again = read_photometric(write_photometric(table, "invented").encode())
    assert again.lumens == pytest.approx(table.lumens, rel=1e-5)
    assert np.allclose(again.candela, table.candela, rtol=1e-5)


def test_flux_of_a_whole_turn_without_its_last_side() -> None:
    """Sides 0, 90, 180, 270 without 360: each stands for a quarter."""
    vertical = np.array(ANGLES, dtype=float)
    rows = np.array([cosine(100), cosine(200), cosine(300), cosine(400)])
    got = flux_of(vertical, np.array([0.0, 90.0, 180.0, 270.0]), rows)
    assert got == pytest.approx(math.pi * 250, rel=0.002)
