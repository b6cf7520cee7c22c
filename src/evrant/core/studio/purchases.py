"""Buying: shops and their terms, what was bought, and what the room costs to run."""

from typing import Annotated, Literal

from pydantic import Field

from evrant.core.base.model import Model, Name, Note, Slug
from evrant.core.studio.brief import Day, Money

Percent = Annotated[float, Field(ge=0, le=100)]


class Shop(Model):
    """Somewhere things are bought, in words of one's own, with its terms."""

    id: Slug
    name: Name = Field("Shop", title="Name")
    delivery: Money | None = Field(None, title="Delivery of an order")
    free_from: Money | None = Field(None, title="Delivery free from")
    tax: Literal["included", "added"] = Field("included", title="Tax is")
    tax_rate: Percent | None = Field(None, title="Tax added", json_schema_extra={"show": "%"})
    return_days: Annotated[int, Field(ge=0, le=400)] | None = Field(None, title="Takes back within (days)")
    return_cost: Money | None = Field(None, title="Sending back costs")


class Purchase(Model):
    """One thing bought: of the kit's item, at a shop, for what was paid with delivery and tax."""

    id: Slug
    item: Slug = Field(title="What", json_schema_extra={"list": "any gear"})
    count: Annotated[int, Field(ge=1, le=99)] = Field(1, title="How many")
    shop: Slug | None = Field(None, title="Where", json_schema_extra={"list": "shops"})
    bought: Day | None = Field(None, title="Bought on", json_schema_extra={"show": "day"})
    paid: Money | None = Field(None, title="Paid, all of them")
    delivery: Money | None = Field(None, title="Delivery paid")
    arrived: Day | None = Field(None, title="Arrived on", json_schema_extra={"show": "day"})
    checked: bool = Field(False, title="Measured and found as sold")
    return_by: Day | None = Field(None, title="Send back by", json_schema_extra={"show": "day"})
    returned: Day | None = Field(None, title="Sent back on", json_schema_extra={"show": "day"})
    return_cost: Money | None = Field(None, title="Sending back cost")
    warranty: Day | None = Field(None, title="Warranty until", json_schema_extra={"show": "day"})
    notes: Note = Field("", title="Notes")


class Upkeep(Model):
    """Something that costs again and again: software, memory cards, tape, cleaning."""

    id: Slug
    name: Name = Field("Editing software", title="What")
    price: Money | None = Field(None, title="Price")
    every: Literal["month", "year", "session", "once"] = Field("year", title="Paid each")
    lasts: Annotated[float, Field(gt=0, le=100)] | None = Field(
        None, title="Bought once: lasts about (years)", json_schema_extra={"show": "years"}
    )
