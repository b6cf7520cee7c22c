"""Measured and quoted figures: a value with its ± and where it comes from.

A figure in a document is either a bare number, which takes the usual ± of its kind, or an object
`{"value": 3.4, "pm": 0.003, "origin": "laser"}`. SI units throughout.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Annotated, Any, Literal, get_args

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, PydanticCustomError, core_schema

Origin = Literal["measured", "laser", "tape", "maker", "typical", "guess"]
ORIGINS: tuple[Origin, ...] = get_args(Origin)


@dataclass(frozen=True, slots=True)
class Figure:
    """A value with its ± (one figure, same unit) and origin.

    `stated_pm` and `stated_origin` keep what the person wrote; `pm` and `origin` are resolved.
    """

    value: float
    pm: float
    origin: Origin
    stated_pm: float | None = None
    stated_origin: Origin | None = None

    def moved(self) -> "Figure":
        """The same figure off by its ±: what asks how far something moves with it uses this twin."""
        return replace(self, value=self.value + self.pm)

    def times(self, share: float) -> "Figure":
        """A part or multiple of it, as unsure in proportion."""
        return self if share == 1.0 else replace(self, value=self.value * share, pm=self.pm * share)

    def dump(self) -> float | dict[str, object]:
        """The shortest open form: a bare number where nothing but the value was stated."""
        if self.stated_pm is None and self.stated_origin is None:
            return self.value
        out: dict[str, object] = {"value": self.value}
        if self.stated_pm is not None:
            out["pm"] = self.stated_pm
        if self.stated_origin is not None:
            out["origin"] = self.stated_origin
        return out


@dataclass(frozen=True)
class Spread:
    """Usual ± of an origin: an absolute part [unit] and a relative part [1]."""

    absolute: float = 0.0
    relative: float = 0.0

    def of(self, value: float) -> float:
        return self.absolute + self.relative * abs(value)


@dataclass(frozen=True)
class Quantity:
    """A kind of figure: SI unit, sane range, the origin a bare number has, usual ± by origin.

    `show` names the unit people type and read ("length", "mm", "kg" …); the web edge converts.
    """

    name: str
    unit: str
    low: float
    high: float
    origin: Origin
    spreads: Mapping[Origin, Spread]
    show: str = ""

    def figure(self, value: float, pm: float | None = None, origin: Origin | None = None) -> Figure:
        """A figure of this kind. Raises PydanticCustomError outside the sane range."""
        if not math.isfinite(value):
            raise PydanticCustomError("figure_finite", "Give an ordinary number.")
        if not self.low <= value <= self.high:
            raise PydanticCustomError(
                "figure_range",
                "A {name} lies between {low} and {high} {unit}; {value} does not.",
                {"name": self.name, "low": self.low, "high": self.high, "unit": self.unit, "value": value},
            )
        if pm is not None and not (math.isfinite(pm) and 0 <= pm <= self.high):
            raise PydanticCustomError("figure_pm", "A ± is zero or more and not beyond the range of the figure.")
        if origin is not None and origin not in ORIGINS:
            raise PydanticCustomError("figure_origin", "An origin is one of: " + ", ".join(ORIGINS) + ".")
        known = origin or self.origin
        return Figure(value, self.spreads[known].of(value) if pm is None else pm, known, pm, origin)

    def parse(self, raw: Any) -> Figure:
        if isinstance(raw, Figure):
            return self.figure(raw.value, raw.stated_pm, raw.stated_origin)
        if isinstance(raw, Mapping):
            extra = set(raw) - {"value", "pm", "origin"}
            if extra or "value" not in raw:
                raise PydanticCustomError("figure_form", "A figure has value, and may have pm and origin.")
            pm = None if raw.get("pm") is None else _number(raw["pm"])
            return self.figure(_number(raw["value"]), pm, raw.get("origin"))
        return self.figure(_number(raw))

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        return core_schema.no_info_plain_validator_function(
            self.parse,
            serialization=core_schema.plain_serializer_function_ser_schema(Figure.dump),
        )

    def __get_pydantic_json_schema__(self, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        number = {"type": "number", "minimum": self.low, "maximum": self.high}
        whole = {
            "type": "object",
            "properties": {
                "value": number,
                "pm": {"type": "number", "minimum": 0, "maximum": self.high},
                "origin": {"enum": list(ORIGINS)},
            },
            "required": ["value"],
            "additionalProperties": False,
        }
        return {"description": f"{self.name} [{self.unit or '1'}]", "anyOf": [number, whole]}

    def __hash__(self) -> int:
        return hash((self.name, self.unit))


def _number(raw: Any) -> float:
    if isinstance(raw, bool) or not isinstance(raw, (int, float)):
        raise PydanticCustomError("figure_number", "Give a number.")
    try:
        return float(raw)
    except OverflowError:
        raise PydanticCustomError("figure_finite", "Give an ordinary number.") from None


def _spreads(laser: Spread, tape: Spread, maker: Spread, typical: Spread, guess: Spread) -> Mapping[Origin, Spread]:
    """By origin; what was measured without a ± is taken as good as by laser."""
    return MappingProxyType(
        {"measured": laser, "laser": laser, "tape": tape, "maker": maker, "typical": typical, "guess": guess}
    )


# Usual ± by origin. Tape ±1 cm: common practice, no source. Laser ±3 mm: usual data-sheet figure, from memory.
_LENGTHS = _spreads(Spread(0.003), Spread(0.01), Spread(0.005), Spread(0.0, 0.03), Spread(0.0, 0.10))
_RATIO = _spreads(Spread(0, 0.02), Spread(0, 0.02), Spread(0, 0.02), Spread(0, 0.10), Spread(0, 0.25))
_EXACT = _spreads(Spread(), Spread(), Spread(), Spread(0, 0.05), Spread(0, 0.10))

ROOM_LENGTH = Quantity("room length", "m", 0.5, 30.0, "tape", _LENGTHS, "length")
OPENING = Quantity("length", "m", 0.01, 30.0, "tape", _LENGTHS, "length")
DISTANCE = Quantity("distance", "m", 0.0, 30.0, "tape", _LENGTHS, "length")
GEAR_LENGTH = Quantity("size", "m", 0.001, 30.0, "maker", _LENGTHS, "length")
BODY_LENGTH = Quantity("subject size", "m", 0.005, 3.0, "typical", _LENGTHS, "length")
WISH_LENGTH = Quantity("wanted length", "m", 0.005, 30.0, "maker", _EXACT, "length")
# Nominal focal lengths are rounded by makers: ±2 %, common practice, no source.
FOCAL = Quantity("focal length", "m", 0.001, 2.0, "maker", _RATIO, "mm")
SENSOR = Quantity("sensor side", "m", 0.001, 0.2, "maker", _EXACT, "mm")
F_NUMBER = Quantity("f-number", "", 0.5, 128.0, "maker", _EXACT, "f")
MASS = Quantity("mass", "kg", 0.001, 500.0, "maker", _RATIO, "kg")
LOAD = Quantity("load limit", "kg", 0.0, 2000.0, "maker", _EXACT, "kg")
ENERGY = Quantity("flash energy", "W s", 1.0, 20000.0, "maker", _EXACT, "Ws")
# Maker's guide number with unstated constant: rules say ±0.6 stop, applied where it is used.
GUIDE_NUMBER = Quantity("guide number", "m", 0.5, 200.0, "maker", _EXACT, "length")
EFFICIENCY = Quantity("share of light let through", "", 0.01, 1.0, "typical", _RATIO, "")
STOPS = Quantity(
    "light loss",
    "stop",
    0.0,
    10.0,
    "typical",
    _spreads(Spread(0.1), Spread(0.1), Spread(0.2), Spread(0.3), Spread(0.7)),
    "stop",
)
TRIM = Quantity(
    "correction of an output",
    "stop",
    -6.0,
    6.0,
    "measured",
    _spreads(Spread(0.1), Spread(0.1), Spread(0.2), Spread(0.3), Spread(0.7)),
    "stop",
)
LEVEL = Quantity(
    "sound level",
    "dB",
    0.0,
    130.0,
    "typical",
    _spreads(Spread(1.5), Spread(1.5), Spread(3.0), Spread(4.0), Spread(6.0)),
    "dB",
)
POWER = Quantity(
    "electrical power",
    "W",
    0.0,
    20000.0,
    "maker",
    _spreads(Spread(0, 0.02), Spread(0, 0.02), Spread(0, 0.05), Spread(0, 0.10), Spread(0, 0.25)),
    "W",
)
CURRENT = Quantity("current rating", "A", 0.0, 200.0, "maker", _EXACT, "A")
THICKNESS = Quantity("thickness", "m", 0.0001, 0.3, "maker", _RATIO, "mm")
FORCE = Quantity("force", "N", 0.0, 20000.0, "maker", _RATIO, "N")
TORQUE = Quantity("holding torque", "N m", 0.0, 2000.0, "maker", _RATIO, "N·m")
WATT_HOURS = Quantity(
    "stored energy",
    "W h",
    0.1,
    5000.0,
    "maker",
    _spreads(Spread(0, 0.05), Spread(0, 0.05), Spread(0, 0.10), Spread(0, 0.15), Spread(0, 0.25)),
    "Wh",
)
MINUTES = Quantity("duration", "min", 0.0, 1440.0, "maker", _EXACT, "min")
SECONDS = Quantity("time", "s", 0.00001, 600.0, "maker", _RATIO, "s")
LRV = Quantity(
    "light reflectance value",
    "%",
    0.0,
    99.0,
    "typical",
    _spreads(Spread(1), Spread(2), Spread(2), Spread(5), Spread(10)),
    "%",
)

_LIGHT = _spreads(Spread(0, 0.05), Spread(0, 0.05), Spread(0, 0.15), Spread(0, 0.25), Spread(0, 0.5))
FLUX = Quantity("luminous flux", "lm", 0.1, 1_000_000.0, "maker", _LIGHT, "lm")
ILLUMINANCE = Quantity("illuminance", "lx", 0.0, 200_000.0, "maker", _LIGHT, "lx")
LIGHT_DOSE = Quantity("luminous exposure", "lx s", 0.01, 100_000.0, "maker", _LIGHT, "lx·s")
KELVIN = Quantity(
    "colour temperature",
    "K",
    1500.0,
    25000.0,
    "maker",
    _spreads(Spread(50), Spread(50), Spread(200), Spread(300), Spread(600)),
    "K",
)

RoomLength = Annotated[Figure, ROOM_LENGTH]
Opening = Annotated[Figure, OPENING]
Distance = Annotated[Figure, DISTANCE]
GearLength = Annotated[Figure, GEAR_LENGTH]
BodyLength = Annotated[Figure, BODY_LENGTH]
WishLength = Annotated[Figure, WISH_LENGTH]
Focal = Annotated[Figure, FOCAL]
SensorSide = Annotated[Figure, SENSOR]
FNumber = Annotated[Figure, F_NUMBER]
Mass = Annotated[Figure, MASS]
Load = Annotated[Figure, LOAD]
Energy = Annotated[Figure, ENERGY]
GuideNumber = Annotated[Figure, GUIDE_NUMBER]
Efficiency = Annotated[Figure, EFFICIENCY]
Stops = Annotated[Figure, STOPS]
Trim = Annotated[Figure, TRIM]
Level = Annotated[Figure, LEVEL]
Power = Annotated[Figure, POWER]
Current = Annotated[Figure, CURRENT]
Seconds = Annotated[Figure, SECONDS]
Thickness = Annotated[Figure, THICKNESS]
Force = Annotated[Figure, FORCE]
Torque = Annotated[Figure, TORQUE]
WattHours = Annotated[Figure, WATT_HOURS]
Minutes = Annotated[Figure, MINUTES]
ReflectanceValue = Annotated[Figure, LRV]
Flux = Annotated[Figure, FLUX]
Illuminance = Annotated[Figure, ILLUMINANCE]
LightDose = Annotated[Figure, LIGHT_DOSE]
Kelvin = Annotated[Figure, KELVIN]
