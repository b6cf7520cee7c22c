"""Figures in the words of the studio: its units and its currency."""

import math
from dataclasses import dataclass

from evrant.core.base.tables import money
from evrant.core.base.units import FOOT, KG_PER_POUND, Units, show_gap, show_length, show_number
from evrant.core.studio.brief import Brief

LITRES_PER_CUBIC_FOOT = 28.316846592  # exact


@dataclass(frozen=True)
class Say:
    """Formats for sentences, chosen once for a studio."""

    units: Units
    currency: str

    @classmethod
    def of(cls, brief: Brief) -> "Say":
        return cls(brief.units, brief.currency)

    def length(self, metres: float) -> str:
        return show_length(metres, self.units)

    def fine(self, metres: float) -> str:
        """A small length: 1.9 mm, 0.07"."""
        if self.units == "imperial":
            return f'{show_number(metres / (FOOT / 12), 2)}"'
        return f"{show_number(metres * 1000, 1)} mm"

    def gap(self, metres: float) -> str:
        return show_gap(metres, self.units)

    def short_by(self, metres: float) -> str:
        """A missing length without a sign."""
        return show_gap(abs(metres), self.units).lstrip("+−")

    def mass(self, kilograms: float) -> str:
        if self.units == "imperial":
            return f"{show_number(kilograms / KG_PER_POUND, 1)} lb"
        return f"{show_number(kilograms, 1 if abs(kilograms) >= 0.995 else 2)} kg"

    def litres(self, litres: float) -> str:
        if self.units == "imperial":
            return f"{show_number(litres / LITRES_PER_CUBIC_FOOT, 1)} cu ft"
        return f"{show_number(litres, 0)} l"

    def area(self, square_metres: float) -> str:
        """A floor or a surface: 2.4 m², 26 sq ft."""
        if self.units == "imperial":
            feet = square_metres / FOOT**2
            return f"{show_number(feet, 0 if feet >= 9.95 else 1)} sq ft"
        return f"{show_number(square_metres, 1)} m²"

    def volume(self, cubic_metres: float) -> str:
        """A room: 23 m³, 810 cu ft."""
        if self.units == "imperial":
            return f"{show_number(cubic_metres / FOOT**3, 0)} cu ft"
        return f"{show_number(cubic_metres, 0)} m³"

    def warmer(self, kelvin: float) -> str:
        """A difference of temperatures: 1.9 K, 3.4 °F."""
        return f"{show_number(kelvin * 1.8, 1)} °F" if self.units == "imperial" else f"{show_number(kelvin, 1)} K"

    def money(self, amount: float) -> str:
        return f"{money.amount(amount, self.currency)} {self.currency}"

    def focal(self, metres: float) -> str:
        return f"{show_number(metres * 1000, 0)} mm"

    def margin(self, value: float | None, unit: str) -> str:
        """A margin with its sign and unit."""
        if value is None:
            return "?"
        sign = "−" if value < 0 else "+"
        size = abs(value)
        match unit:
            case "m":
                return self.gap(value)
            case "stop":
                shown = show_number(size, 1 if size >= 0.05 else 2)
                return f"{sign}{shown} stop" + ("" if size <= 1.05 else "s")
            case "money":
                return f"{sign}{self.money(size)}"
            case "kg":
                return f"{sign}{self.mass(size)}"
            case "litre":
                return f"{sign}{self.litres(size)}"
            case "K":
                return f"{sign}{self.warmer(size)}"
            case "°":
                return f"{sign}{show_number(size, 0)}°"
            case "holes":
                return f"{sign}{size:.0f} hole{'' if size == 1 else 's'}"
            case "parts" | "leads":
                return f"{sign}{size:.0f} {unit[:-1] if size == 1 else unit}"
            case "N" | "flashes" | "ppm" | "min" | "dB":
                return f"{sign}{show_number(size, 0)} {unit}"
        return f"{sign}{show_number(size, 1)} {unit}"


KIND_WORDS = {"backdrop": "background", "holder": "background holder", "part": "small part", "lead": "mains lead"}
"""What kinds of gear are called where their names in files are not the trade's."""


def kind_word(kind: str) -> str:
    """What people call a kind of gear."""
    return KIND_WORDS.get(kind, kind)


def a(words: str) -> str:
    """The words with their article: a spigot, an accessory shoe."""
    return f"{'an' if words[:1].lower() in 'aeiou' else 'a'} {words}"


def power_words(share: float) -> str:
    """A power setting as people read it off the head: full, 1/2, 1/16, 1/23."""
    if share >= 0.995:
        return "full power"
    if share > 0.85:
        return "nearly full power"
    return f"1/{show_number(1 / share, 0 if share < 0.25 else 1)}"


def setting_words(share: float, steps: str | None) -> str:
    """A power as the head's own steps have it: 1/4 + 1/3, 1/8 + 0.4, 1/2."""
    if share >= 0.995:
        return "full power"
    per_stop = {"whole stops": 1, "halves": 2, "thirds": 3, "tenths": 10}.get(steps or "", 0)
    if not per_stop:
        return power_words(share)
    stops = math.ceil(-math.log2(share) - 1e-9)
    extra = round((stops + math.log2(share)) * per_stop)
    if extra == per_stop:
        stops, extra = stops - 1, 0
    base = f"1/{2**stops}" if stops else "full power"
    return base if not extra else f"{base} + " + (f"0.{extra}" if per_stop == 10 else f"{extra}/{per_stop}")


def time_words(seconds: float) -> str:
    """A shutter time as cameras show it: 1/125 s, 0.5 s, 2 s."""
    if seconds < 0.3:
        return f"1/{1 / seconds:.0f} s"
    return f"{seconds:.1f} s" if seconds < 2 and seconds % 1 else f"{seconds:.0f} s"


def f_words(f_number: float) -> str:
    """An f-number as engraved: f/5.6, f/11."""
    return f"f/{show_number(f_number, 1 if f_number < 9.95 else 0)}"
