"""Small pictures for tests."""

import io

from PIL import Image


def plain_jpeg(width: int, height: int, grey: int = 118, **saved: object) -> bytes:
    """A JPEG of one grey; `saved`: what else to write into it, such as its EXIF."""
    out = io.BytesIO()
    Image.new("RGB", (width, height), (grey, grey, grey)).save(out, "JPEG", **saved)
    return out.getvalue()
