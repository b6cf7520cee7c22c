"""A simulated laser measure: the hidden room's lengths, ± 2 mm."""

from evrant.core.base.quantity import Figure
from evrant.core.edits.paths import NoSuchThing, find
from evrant.devices.instruments import NoReading
from evrant.devices.simulated.true_room import TrueRoom

LASER = 0.002
USUAL = {"length": (3.8, 0.4), "width": (3.1, 0.3), "height": (2.45, 0.06)}
"""Size and ± of a hidden room nobody has described yet, by the field's name [m]; project choice."""


class SimulatedLaser:
    """Measures the hidden room."""

    simulated = True

    def __init__(self, room: TrueRoom) -> None:
        self.room = room

    def length(self, path: str, field: str) -> Figure:
        """The true length, which is the entered one off by its own ±, as a laser shows it."""
        try:
            claim = getattr(find(self.room.plan, path), field, None)
        except NoSuchThing as gone:
            raise NoReading(str(gone)) from gone
        if claim is None and field in USUAL and path in ("room", "room/footprint"):
            claim = Figure(*USUAL[field], "guess")
        if not isinstance(claim, Figure):
            raise NoReading("The simulated laser knows a room's length, width and height, and lengths entered before.")
        true = claim.value + claim.pm * self.room.draw("length", path, field)
        shown = round(true + LASER * self.room.draw("laser", path, field), 3)
        return Figure(max(shown, 0.01), LASER, "laser", LASER, "laser")
