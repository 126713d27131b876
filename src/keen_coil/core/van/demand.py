"""How many of a part to carry: demand between restocks is Poisson with the area's rate."""

from __future__ import annotations

import math

from ..errors import invalid

DAYS_A_YEAR = 365.0
MOST_CARRIED = 1000


def expected_between(per_year: float, days: float) -> float:
    """Pieces asked for between two restocks, on average."""
    return per_year * days / DAYS_A_YEAR


def chance_enough(mean: float, stock: int) -> float:
    """P(D <= stock) for Poisson demand with this mean; stock in pieces."""
    term = total = math.exp(-mean)
    for number in range(1, stock + 1):
        term *= mean / number
        total += term
    return min(total, 1.0)


def level(mean: float, service: float) -> int:
    """The smallest stock with P(D <= stock) at least `service` (0 to under 1), pieces. Raises `InvalidField`."""
    if not 0 < service < 1:
        raise invalid("level", service, "a level of service over 0 and under 1, such as 0.95")
    if not 0 <= mean <= MOST_CARRIED / 2:
        raise invalid("demand", mean, f"0 to {MOST_CARRIED / 2:g} pieces between restocks")
    stock = 0
    while chance_enough(mean, stock) < service and stock < MOST_CARRIED:
        stock += 1
    return stock
