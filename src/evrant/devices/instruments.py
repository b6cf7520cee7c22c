"""What an instrument can do. A real one is a module beside `simulated` that offers the same."""

from typing import Protocol

from evrant.core.base.quantity import Figure
from evrant.core.studio.log import Reading


class NoReading(Exception):
    """The instrument has nothing to say, in words."""


class Laser(Protocol):
    """Measures lengths."""

    simulated: bool

    def length(self, path: str, field: str) -> Figure:
        """A length of the room [m] with its ±. Raises NoReading."""


class Meter(Protocol):
    """Reads light at the mark."""

    simulated: bool

    def read(self, wanted: Reading) -> float:
        """What it shows for a reading of this kind, in the reading's own unit. Raises NoReading."""


class Camera(Protocol):
    """Takes test frames."""

    simulated: bool

    def frame(self, wanted: Reading) -> bytes:
        """A picture with a grey card at the mark (JPEG with its settings in it). Raises NoReading."""
