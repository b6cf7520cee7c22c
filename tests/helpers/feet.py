"""Text of a studio in feet and pounds: metric measures left in it, names of things aside."""

import re
from collections.abc import Iterable

from evrant.catalogue import load
from evrant.core.judge.rules.power.wiring import LEADS
from evrant.core.studio.studio import Studio

METRIC = re.compile(r"(?<![\w.])(?:\d[\d.,]*\s?(?:cm|m|kg|g|m²|m³|°C|litres?)|\d{1,2}(?:\.\d)?\s?K)(?![\w²³])")
"""Sizes of sensors, lenses and conductors are in millimetres everywhere, colours of light in kelvin."""


def in_feet(studio: Studio) -> Studio:
    return studio.changed(brief=studio.brief.changed(units="imperial"))


def metric_in(text: str, studio: Studio) -> list[str]:
    """Metric measures of a text, each with what is before it; what things are called may hold one."""
    for name in _names(studio):
        text = re.sub(re.escape(name), "…", text, flags=re.I)
    return [text[max(found.start() - 60, 0) : found.end()] for found in METRIC.finditer(text)]


def _names(studio: Studio) -> list[str]:
    """The longest first."""
    return sorted({*_called(studio), *(f"mains lead of {lead[0]}" for lead in LEADS)}, key=len, reverse=True)


def _called(studio: Studio) -> Iterable[str]:
    for item in (*studio.gear, *load().all()):
        yield from (item.name, item.called)
        yield item.name.split(",")[0]
