"""Test frames as they come from a camera: made small, turned upright, their settings read, everything else left out.

EXIF by Pillow (CIPA DC-008): exposure time, f-number and sensitivity may be rationals, pairs or plain numbers.
"""

import io
import math
import warnings
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError

from evrant.core.light.colour import LUMINANCE, coded, decoded
from evrant.files.document import Fault, Refused

MOST_PIXELS = 60_000_000
"""A picture of more pixels is refused: decoding one takes three bytes a pixel."""
LARGEST = 1280
PATCH = 0.012
"""Half the side of the square a value is the mean of, as a share of the shorter side of the frame."""
EXPOSURE_TIME, F_NUMBER, ISO, TAKEN, SOFTWARE, EXIF = 0x829A, 0x829D, 0x8827, 0x9003, 0x0131, 0x8769
FORMATS = ("JPEG", "PNG", "WEBP", "TIFF")


@dataclass(frozen=True)
class TestFrame:
    """A frame kept small (JPEG, no side over `LARGEST`), with the settings it was taken at where it says them."""

    __test__ = False
    picture: bytes
    width: int
    height: int
    aperture: float | None = None
    iso: int | None = None
    shutter: float | None = None
    day: str | None = None
    simulated: bool = False

    def told(self) -> dict[str, Any]:
        """All but the picture, as data."""
        return {
            "width": self.width,
            "height": self.height,
            "aperture": self.aperture,
            "iso": self.iso,
            "shutter": self.shutter,
            "day": self.day,
            "simulated": self.simulated,
        }


def read_frame(raw: bytes, *, simulated: bool = False) -> TestFrame:
    """A test frame from a file. Raises Refused with words."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image: Image.Image = Image.open(io.BytesIO(raw), formats=FORMATS)
            wide, high = image.size
            if wide * high > MOST_PIXELS:
                raise Refused([Fault("file", f"The picture has {wide} × {high} pixels; more than is read here.")])
            settings = _settings(image)
            image.draft("RGB", (LARGEST, LARGEST))
            image = ImageOps.exif_transpose(image)
            image.thumbnail((LARGEST, LARGEST))
            image = image.convert("RGB")
    except Refused:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError, Image.DecompressionBombWarning) as error:
        raise Refused([Fault("file", "This is not a picture that can be read: JPEG, PNG, WebP or TIFF.")]) from error
    except (OSError, ValueError, SyntaxError, ArithmeticError, MemoryError, KeyError, TypeError) as error:
        raise Refused([Fault("file", "This picture is damaged, or not what its name says.")]) from error
    out = io.BytesIO()
    image.save(out, "JPEG", quality=90)
    return TestFrame(out.getvalue(), *image.size, **settings, simulated=simulated)


def _settings(image: Image.Image) -> dict[str, Any]:
    """Aperture, ISO, time and day from EXIF; what cannot be read is left out."""
    try:
        exif = image.getexif()
        part = exif.get_ifd(EXIF)
    except (OSError, ValueError, SyntaxError, ArithmeticError, KeyError, TypeError, AttributeError):
        return {}
    found: dict[str, Any] = {}
    aperture, shutter = _number(part.get(F_NUMBER)), _number(part.get(EXPOSURE_TIME))
    speeds = part.get(ISO)  # one, or several of which the first counts
    iso = _number(speeds[0] if isinstance(speeds, (tuple, list)) and speeds else speeds)
    if aperture is not None and 0.5 <= aperture <= 128:
        found["aperture"] = round(aperture, 2)
    if shutter is not None and 1 / 16000 <= shutter <= 3600:
        found["shutter"] = shutter
    if iso is not None and 12 <= iso <= 409_600:
        found["iso"] = round(iso)
    taken = part.get(TAKEN)
    if isinstance(taken, str) and len(taken) >= 10 and taken[4:5] == ":" and taken[:4].isdigit():
        found["day"] = taken[:10].replace(":", "-")
    return found


def _number(value: Any) -> float | None:
    """A figure as makers write it: a rational, a pair, a list of one, text or a plain number."""
    if isinstance(value, (tuple, list)):
        if len(value) == 2 and all(isinstance(one, int) for one in value):
            return value[0] / value[1] if value[1] else None
        return _number(value[0]) if value else None
    if isinstance(value, (bytes, str)):
        try:
            return float(Fraction(value.decode("ascii", "replace") if isinstance(value, bytes) else value.strip("\0 ")))
        except (ValueError, ZeroDivisionError):
            return None
    try:
        number = float(value)
    except (TypeError, ValueError, ZeroDivisionError, OverflowError):
        return None
    return number if math.isfinite(number) and number > 0 else None


def value_at(picture: bytes, across: float, down: float) -> tuple[float, float]:
    """Mean value (0 to 255, as grey of the same luminance) round a place of a frame, given as shares of its width and
    height, and how much it varies there."""
    image = np.asarray(Image.open(io.BytesIO(picture)).convert("RGB"), dtype=float)
    rows, columns = image.shape[:2]
    half = max(int(PATCH * min(rows, columns)), 2)
    x = min(max(int(across * columns), half), columns - half - 1)
    y = min(max(int(down * rows), half), rows - half - 1)
    patch = decoded(image[y - half : y + half + 1, x - half : x + half + 1] / 255) @ LUMINANCE
    grey = coded(patch) * 255
    return float(coded(np.array(patch.mean()))) * 255, float(grey.std())
