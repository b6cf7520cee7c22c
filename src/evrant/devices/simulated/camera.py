"""A simulated tethered camera: the hidden room's picture with a grey card at the mark, as JPEG with its settings.

Its tone curve is off by a seeded share of a stop, as of cameras that were never compared with a meter.
"""

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from evrant.core.light.colour import coded
from evrant.core.light.lit import Lit
from evrant.core.light.photometry import DOME, FLAT
from evrant.core.log.forecast import doses_for, lit_for
from evrant.core.log.taken import CURVE, FRAME, GREY, exposure_of
from evrant.core.picture.render import picture
from evrant.core.studio.log import Reading
from evrant.devices.instruments import NoReading
from evrant.devices.simulated.true_room import TrueRoom

ACROSS = 400
CARD = (0.10, 0.15)
"""Width and height of the grey card [m]."""
EXPOSURE_TIME, F_NUMBER, ISO, DESCRIPTION, SOFTWARE, EXIF = 0x829A, 0x829D, 0x8827, 0x010E, 0x0131, 0x8769


class SimulatedCamera:
    """Photographs the hidden room."""

    simulated = True

    def __init__(self, room: TrueRoom, across: int = ACROSS) -> None:
        self.room, self.across = room, across

    def frame(self, wanted: Reading) -> bytes:
        """The frame as the settings of the reading make it."""
        card = self.room.light(wanted.changed(kind="grey card in a frame"), "frame")
        dark = wanted.without_flash and card == "Nothing shines then."
        if isinstance(card, str) and not dark:
            raise NoReading(card)
        there = self.room.standing(self.room.plan, wanted)
        state = lit_for(there, wanted)
        if isinstance(state, str):
            raise NoReading(state)
        exposed = exposure_of(state.scene, wanted)
        if exposed is None:
            raise NoReading("The shot has no aperture or ISO to take a frame with.")
        white = exposed * FLAT / DOME
        seen = self._seen(state, wanted, white)
        share = 0.0 if isinstance(card, str) else GREY * 2**card / white
        curve = 2 ** (CURVE * self.room.draw("curve") + FRAME * self.room.draw("frame", wanted.id))
        _put_card(seen, state, share)
        pixels = np.asarray(coded(np.clip(seen * curve, 0.0, 1.0)) * 255 + 0.5, dtype=np.uint8)
        return _jpeg(pixels, state, wanted)

    def _seen(self, state: Lit, wanted: Reading, white: float) -> NDArray[np.float64]:
        """(rows, columns, 3) linear share of white, of the sources that were on."""
        doses = doses_for(state, wanted)
        on = frozenset(int(i) for i in np.flatnonzero(doses))
        view = state.scene.view
        if view is None:
            raise NoReading("Choose camera and lens, and place both mark and camera.")
        found = picture(state, self.across, only=on, fine=False, sharp=True)
        if found is None:
            raise NoReading("There is no picture of this set yet.")
        return found.light / max(white, 1e-12)


def card_place(state: Lit) -> tuple[float, float]:
    """Where in the frame the card is, as shares of its width and height."""
    view, face = state.scene.view, state.scene.face
    assert view is not None and face is not None
    way = face - view.eye
    far = float(way @ view.forward)
    return (
        float(way @ view.right) / far * view.image / view.across + 0.5,
        0.5 - float(way @ view.up) / far * view.image / view.upward,
    )


def _put_card(seen: NDArray[np.float64], state: Lit, share: float) -> None:
    """The grey card, held before the face, where the camera sees it."""
    view, face = state.scene.view, state.scene.face
    assert view is not None and face is not None
    rows, columns = seen.shape[:2]
    far = float((face - view.eye) @ view.forward)
    across, down = card_place(state)
    wide, tall = CARD[0] / 2 * view.image / far / view.across, CARD[1] / 2 * view.image / far / view.upward
    left, right = int((across - wide) * columns), int((across + wide) * columns)
    top, low = int((down - tall) * rows), int((down + tall) * rows)
    seen[max(top, 0) : max(low, 0), max(left, 0) : max(right, 0)] = share


def _jpeg(pixels: NDArray[np.uint8], state: Lit, wanted: Reading) -> bytes:
    shot = state.scene.shot
    image = Image.fromarray(pixels)
    exif = Image.Exif()
    exif[DESCRIPTION] = "Simulated test frame"
    exif[SOFTWARE] = "Evrant, simulated camera"
    part = exif.get_ifd(EXIF)
    part[EXPOSURE_TIME] = wanted.shutter or state.time
    part[F_NUMBER] = wanted.aperture or (shot.aperture.value if shot.aperture else 0.0)
    part[ISO] = wanted.iso or shot.iso or 0
    out = io.BytesIO()
    image.save(out, "JPEG", quality=92, exif=exif)
    return out.getvalue()
