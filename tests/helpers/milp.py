"""The kit's choice as a plain mixed-integer programme for HiGHS, written from the data alone: a second opinion.

Covers what is linear: slots, clauses, purchases, budget. Firing parts and stowage are left out, so instances for it
have neither.
"""

import numpy as np
from scipy.optimize import Bounds, LinearConstraint, milp
from scipy.sparse import coo_array

from evrant.core.search.kit.case import NOTHING
from evrant.core.search.kit.master import MOST_OF_ONE, Master


def highs_best(master: Master, budget: int, seconds: float = 1e9) -> tuple[int, int] | None:  # noqa: C901
    """Worth of the shots made and cost [cents] of the best choice; None when the solver finds none, or none in time."""
    names: dict[tuple[str, ...], int] = {}

    def var(*name: str) -> int:
        return names.setdefault(name, len(names))

    rows: list[tuple[dict[int, float], float, float]] = []
    for case in master.cases:
        done = var("done", case.id)
        uses: dict[str, list[int]] = {}
        for slot in case.slots.values():
            row = {var("fill", case.id, slot.name, key): 1.0 for key in slot.keys}
            rows.append(({**row, done: -1.0}, 0.0, 0.0))
            for key in slot.keys:
                if key != NOTHING:
                    uses.setdefault(key, []).append(var("fill", case.id, slot.name, key))
        for key, row_vars in uses.items():
            good = master.market.by_key[key]
            row = dict.fromkeys(row_vars, 1.0)
            if good.cents is not None:
                row[var("buy", key)] = -1.0
            rows.append((row, -np.inf, float(good.owned)))
        known = [(case.id, clause) for clause in case.clauses]
        for owner, clause in [*known, *master.cuts.clauses]:
            literals = [("fill", case.id, slot, key) for slot, key in clause.never]
            if owner == case.id and all(name in names for name in literals):
                rows.append((dict.fromkeys((names[name] for name in literals), 1.0), -np.inf, len(literals) - 1.0))
    cents = {good.key: good.cents for good in master.market.goods if good.cents is not None}
    paid = {var("buy", key): float(price) for key, price in cents.items()}
    rows.append((paid, -np.inf, float(budget)))
    size = len(names)
    at = [(number, column, value) for number, (row, _, _) in enumerate(rows) for column, value in row.items()]
    matrix = coo_array(
        ([v for _, _, v in at], ([r for r, _, _ in at], [c for _, c, _ in at])), shape=(len(rows), size)
    ).tocsr()
    low, high = [r[1] for r in rows], [r[2] for r in rows]
    upper = np.ones(size)
    for name, column in names.items():
        if name[0] == "buy":
            upper[column] = MOST_OF_ONE
    worth = np.zeros(size)
    for case in master.cases:
        worth[names["done", case.id]] = master.weights[case.id]
    cost = np.zeros(size)
    for column, price in paid.items():
        cost[column] = price
    limits = LinearConstraint(matrix, low, high)
    whole, bounds = np.ones(size), Bounds(np.zeros(size), upper)
    options = {"time_limit": seconds / 2}
    first = milp(-worth, constraints=limits, integrality=whole, bounds=bounds, options=options)
    if not first.success:
        return None
    best = round(-first.fun)
    keep = LinearConstraint(coo_array(worth[None, :]), best, np.inf)
    second = milp(cost, constraints=[limits, keep], integrality=whole, bounds=bounds, options=options)
    return (best, round(second.fun)) if second.success else None
