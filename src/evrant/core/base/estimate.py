"""How the ± of inputs becomes the ± of a result.

Rules are plain functions of floats. `estimate` runs one with its inputs and finds, for every
uncertain input, how far the result moves when that input moves by its ± (central difference).
Shares are independent and add in quadrature (JCGM 100:2008, 5.1.2).
"""

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from typing import TypeVar

from evrant.core.base.quantity import Figure

K = TypeVar("K")


@dataclass(frozen=True, slots=True)
class Share:
    """What one input adds to the uncertainty of a result, in the result's unit. `of` is the path of the thing whose
    figure it is, where what adds is one thing's own. What a model leaves out is not `measurable`."""

    label: str
    amount: float
    of: str = ""
    measurable: bool = True


@dataclass(frozen=True, slots=True)
class Estimate:
    """A result with the shares of its inputs."""

    value: float
    shares: tuple[Share, ...] = ()

    @property
    def uncertainty(self) -> float:
        return quadrature(self.shares)

    @property
    def largest(self) -> Share | None:
        """The share of the input that adds most, or None when nothing is uncertain."""
        found = max(self.shares, key=lambda share: share.amount, default=None)
        return found if found and found.amount > 0 else None

    def plus(self, *shares: Share) -> "Estimate":
        return Estimate(self.value, self.shares + shares)


def quadrature(shares: Iterable[Share]) -> float:
    """Root of the sum of squares."""
    return math.sqrt(sum(share.amount**2 for share in shares))


def estimate_over(
    rule: Callable[[Mapping[K, float]], float],
    inputs: Mapping[K, Figure | float],
    label: Callable[[K], str],
) -> Estimate:
    """As `estimate`, for inputs named by anything: `rule` gets their values by key, `label` names their shares."""
    values = {key: raw.value if isinstance(raw, Figure) else raw for key, raw in inputs.items()}
    shares = []
    for key, raw in inputs.items():
        if isinstance(raw, Figure) and raw.pm > 0:
            high = rule({**values, key: raw.value + raw.pm})
            low = rule({**values, key: max(raw.value - raw.pm, 1e-9)})
            span = high - low
            amount = abs(span) / 2 if math.isfinite(span) else math.inf
            if amount > 0:
                shares.append(Share(label(key), amount))
    return Estimate(rule(values), tuple(shares))


def estimate(rule: Callable[..., float], **inputs: Figure | float) -> Estimate:
    """Run `rule` on the inputs' values and find the share of each Figure.

    The label of a share is the argument's name with underscores as spaces.
    """
    return estimate_over(lambda values: rule(**values), inputs, lambda name: name.replace("_", " "))
