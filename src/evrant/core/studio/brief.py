"""The brief: what binds the plan before any measuring."""

from datetime import date
from decimal import Decimal
from typing import Annotated, Literal

from pydantic import AfterValidator, Field
from pydantic_core import PydanticCustomError

from evrant.core.base.model import Model, Note
from evrant.core.base.quantity import BodyLength, Distance
from evrant.core.base.tables.countries import Country
from evrant.core.base.tables.towns import Town

Currency = Literal["EUR", "GBP", "USD", "CAD", "JPY", "AUD", "CHF"]
Money = Annotated[Decimal, Field(ge=0, le=10_000_000, decimal_places=2, max_digits=12)]
Units = Literal["metric", "imperial"]


def _day(text: str) -> str:
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        raise PydanticCustomError("day", "Write a day as year-month-day, for instance 2027-03-31.") from None


Day = Annotated[str, Field(max_length=10), AfterValidator(_day)]
"""A calendar day as ISO 8601 text."""


class Schools(Model):
    """Where practitioners disagree; the choice changes defaults and advice."""

    source: Literal["flash", "continuous", "window", "mixed"] | None = Field(None, title="Light source")
    walls: Literal["use the room", "control the room"] | None = Field(None, title="The room's walls")
    background: Literal["paper", "fabric", "boards or wall"] | None = Field(None, title="Background")
    fixing: Literal["fixed to the building", "freestanding"] | None = Field(None, title="Holders")
    metering: Literal["meter", "test frames"] | None = Field(None, title="Exposure found by")
    lens: Literal["long lens, step back", "normal lens, stay close"] | None = Field(None, title="Lens")
    standing: Literal["leave it standing", "strike every time"] | None = Field(None, title="After a session")
    heads: Literal["few strong heads", "many small flashes"] | None = Field(None, title="Heads")


MEANS = frozenset({"purpose", "budget", "monthly", "start"})
"""Fields of a brief that say what can be spent and on what, and nothing of what may stand where."""


class Brief(Model):
    """Purpose, tenancy, money, country and schools."""

    purpose: Note = Field("", title="What it is for")
    country: Country = Field("other", title="Country")
    town: Town | None = Field(None, title="Nearest town, for the sun")
    latitude: Annotated[float, Field(ge=-66, le=66)] | None = Field(
        None, title="Or: latitude, north positive", json_schema_extra={"show": "°"}
    )
    longitude: Annotated[float, Field(ge=-180, le=180)] | None = Field(
        None, title="Longitude, east positive", json_schema_extra={"show": "°"}
    )
    units: Units = Field("metric", title="Units")
    currency: Currency = Field("EUR", title="Currency")
    budget: Money | None = Field(None, title="Budget")
    monthly: Money | None = Field(None, title="Can spend a month")
    start: Day | None = Field(None, title="Buying starts on", json_schema_extra={"show": "day"})
    tenure: Literal["owned", "rented, small holes allowed", "no drilling"] | None = Field(
        None, title="May walls and ceiling be drilled?"
    )
    setter: BodyLength | None = Field(None, title="Height of the person who sets up")
    step: Distance | None = Field(None, title="Height of a firm step stool at hand")
    way_out: Distance | None = Field(None, title="Width the way out must keep (empty: 60 cm, about 2 ft)")
    animals: bool = Field(False, title="Animals in the room")
    children: bool = Field(False, title="Children in the room")
    public: bool = Field(False, title="Visitors who do not know the room")
    caution: Literal["light", "usual", "strict"] = Field("usual", title="Caution with what may tip")
    schools: Schools = Schools()
