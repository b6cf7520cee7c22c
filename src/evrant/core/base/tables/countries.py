"""Mains supply and socket circuits by country.

Sources, by column: nominal voltage and frequency, IEC 60038 standard voltages; ordinary socket
circuit and plug ratings and the continuous-load share, from the country's wiring rules as named
in `source` (from memory; the app defers to the local code and a licensed electrician).
"""

from dataclasses import dataclass
from typing import Literal, get_args

from evrant.core.base.tables.conductors import IEC_20, JIS_20, TABLE_8

Country = Literal["DE", "FR", "NL", "AT", "IE", "GB", "US", "CA", "JP", "AU", "other"]


@dataclass(frozen=True, slots=True)
class Mains:
    """Supply of a country: volts [V], frequency [Hz], ordinary socket breaker and plug [A], and how near to water a
    socket without residual-current protection may be [m]. `others` are frequencies of other parts of the country."""

    name: str
    volts: float
    hertz: float
    breaker: float | None
    plug: float | None
    continuous_share: float
    currency: str
    source: str
    wet: float = 2.5
    drop: float = 0.03
    others: tuple[float, ...] = ()


WET_SOURCE = {
    "US": "NFPA 70, 210.8(A): within 6 ft of a sink, from memory",
    "CA": "CSA C22.1, 26-704: within 1.5 m of a sink, from memory",
}
"""Where a country's distance to water comes from; others: IEC 60364-7-701, no socket within 2.5 m of a bath or
shower, taken here for sinks too (from memory, cautious)."""
SPLASH = 0.60
"""Least distance of anything electrical to water, protected or not [m]: width of zone 2, IEC 60364-7-701 (from
memory)."""
DROP_SOURCE = "IEC 60364-5-52, table G.52.1 (3 % for lighting); NFPA 70, 210.19(A) informational note (3 %)"


MAINS: dict[Country, Mains] = {
    "DE": Mains("Germany", 230, 50, 16, 16, 1.0, "EUR", "IEC 60038; DIN VDE 0100 practice, from memory"),
    "FR": Mains("France", 230, 50, 16, 16, 1.0, "EUR", "IEC 60038; NF C 15-100 practice, from memory"),
    "NL": Mains("Netherlands", 230, 50, 16, 16, 1.0, "EUR", "IEC 60038; NEN 1010 practice, from memory"),
    "AT": Mains("Austria", 230, 50, 13, 16, 1.0, "EUR", "IEC 60038; OVE E 8101 practice, from memory"),
    "IE": Mains("Ireland", 230, 50, 32, 13, 1.0, "EUR", "IEC 60038; BS 1363 fused plug, from memory"),
    "GB": Mains("United Kingdom", 230, 50, 32, 13, 1.0, "GBP", "IEC 60038; BS 1363 fused plug, from memory"),
    "US": Mains("United States", 120, 60, 15, 15, 0.8, "USD", "NFPA 70, 210.20(A) continuous loads, from memory", 1.83),
    "CA": Mains("Canada", 120, 60, 15, 15, 0.8, "CAD", "CSA C22.1, 8-104 continuous loads, from memory", 1.5),
    "JP": Mains("Japan", 100, 50, 20, 15, 0.8, "JPY", "JIS C 8303 plug, from memory", others=(60.0,)),
    "AU": Mains("Australia", 230, 50, 16, 10, 1.0, "AUD", "IEC 60038; AS/NZS 3112 plug, from memory"),
    "other": Mains("another country", 230, 50, None, None, 0.8, "EUR", "no table; enter the breaker yourself"),
}

IN_GAUGE, IN_JIS = 150.0, 110.0
"""Below the one leads are sold by wire gauge, below the other by the sizes of Japan; their plugs fit no socket of a
higher supply [V]."""


def lead_sizes(country: Country) -> frozenset[str]:
    """Conductors of leads as they are sold there, with the plug that fits its sockets."""
    volts = MAINS[country].volts
    return frozenset(IEC_20 if volts >= IN_GAUGE else TABLE_8 if volts >= IN_JIS else JIS_20)


COUNTRIES: tuple[Country, ...] = get_args(Country)
