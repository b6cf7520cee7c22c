"""Computed pictures as PNG files (ISO/IEC 15948) with the figures they were taken with written in them."""

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from evrant.core.light.colour import LUMINANCE
from evrant.core.picture.render import Picture
from evrant.core.picture.told import OVER, UNDER

BURNT, BLACK = (255, 70, 70), (70, 110, 255)
"""Colours that over- and underexposure are marked in on request."""


def png(pixels: NDArray[np.uint8], settings: dict[str, str] | None = None, *, quick: bool = False) -> bytes:
    """Pixels (rows, columns, 3) as a PNG file; `settings` go into its text, `quick` packs it less."""
    info = PngInfo()
    for key, words in (settings or {}).items():
        info.add_itxt(key, words)
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "PNG", pnginfo=info, compress_level=1 if quick else 6)
    return out.getvalue()


def marked(picture: Picture) -> NDArray[np.uint8]:
    """The picture with what is burnt out or black in colours that cannot be overlooked."""
    pixels = picture.pixels.copy()
    pixels[picture.relative.max(axis=2) >= OVER] = BURNT
    pixels[picture.relative @ LUMINANCE <= UNDER] = BLACK
    return pixels
