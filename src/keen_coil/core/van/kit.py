"""Which few parts cover most needs: an integer programme over parts, alone and joined (scipy's `milp`).

A need is covered when one of its ways is whole in the kit; a way is one part, or several to be joined. With x a part in
the kit, y a joined way, z a need: maximise the weight of z under z <= sum of its x and y, y <= x of each of its parts.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..errors import invalid

Ways = Mapping[str, Sequence[frozenset[str]]]
"""For each need the ways that serve it, the best first: parts that are needed together."""
_SURE, _EXACT = 1e-5, 1e-9


@dataclass(frozen=True)
class Kit:
    """Parts chosen, in their order; the share of the weight they cover; each need's way; needs that are left."""

    parts: tuple[str, ...]
    share: float
    way_of: Mapping[str, frozenset[str]]
    uncovered: tuple[str, ...]


def covered(kit: frozenset[str] | set[str], weights: Mapping[str, float], ways: Ways) -> float:
    """The share of the weight that a kit covers, 0 to 1; 1 where nothing is asked for."""
    total = sum(weights.values())
    if total <= 0:
        return 1.0
    return sum(weight for need, weight in weights.items() if _way(kit, ways.get(need, ()))) / total


def _way(kit: frozenset[str] | set[str], ways: Sequence[frozenset[str]]) -> frozenset[str] | None:
    return next((way for way in ways if way <= kit), None)


def kit_of(parts: Sequence[str], weights: Mapping[str, float], ways: Ways) -> Kit:
    """A kit of these parts, with what it covers and how."""
    here = frozenset(parts)
    way_of = {need: way for need in weights if (way := _way(here, ways.get(need, ()))) is not None}
    left = tuple(need for need in weights if need not in way_of)
    return Kit(tuple(parts), covered(here, weights, ways), way_of, left)


def best_kit(weights: Mapping[str, float], ways: Ways, costs: Mapping[str, float], most: int) -> Kit:
    """The kit of at most `most` parts that covers the most weight; the cheaper one on a tie. Raises `InvalidField`."""
    _checked(weights, ways, costs)
    if most < 0:
        raise invalid("parts", most, "a number of parts, 0 or more")
    if most == 0:
        return kit_of((), weights, ways)
    first = _solve(weights, ways, costs, most=most) or []
    share = covered(set(first), weights, ways)
    cheaper = _solve(weights, ways, costs, most=most, share=share)
    # the solver's tolerance may let a hair of coverage go, or miss what it found before: then the first stands
    kept = cheaper if cheaper is not None and covered(set(cheaper), weights, ways) >= share - _EXACT else first
    return kit_of(kept, weights, ways)


def least_kit(weights: Mapping[str, float], ways: Ways, costs: Mapping[str, float], share: float) -> Kit | None:
    """The cheapest kit that covers a share of the weight (0 to 1); None where no parts do. Raises `InvalidField`."""
    _checked(weights, ways, costs)
    if not 0 <= share <= 1:
        raise invalid("share", share, "a share of the needs, 0 to 1")
    if covered(set(costs), weights, ways) < share - _EXACT:
        return None
    most = covered(set(costs), weights, ways)
    for asked in (share, min(most, share + 2 * _SURE)):
        found = _solve(weights, ways, costs, share=asked)
        if found is not None and covered(set(found), weights, ways) >= share - _EXACT:
            return kit_of(found, weights, ways)
    return kit_of(list(costs), weights, ways)


def curve(weights: Mapping[str, float], ways: Ways, costs: Mapping[str, float], most: int) -> list[Kit]:
    """The best kit of 0, 1, 2 ... parts, until a part more covers nothing more or `most` is reached."""
    found = [kit_of((), weights, ways)]
    reach = covered(set(costs), weights, ways)
    while len(found) <= most and found[-1].share < reach - _EXACT:
        found.append(best_kit(weights, ways, costs, len(found)))
    return found


def _checked(weights: Mapping[str, float], ways: Ways, costs: Mapping[str, float]) -> None:
    for need, weight in weights.items():
        if not 0 <= weight < float("inf"):
            raise invalid(need, weight, "a weight of 0 or more")
        for part in {part for way in ways.get(need, ()) for part in way}:
            if part not in costs:
                raise invalid(need, part, "a part that has a cost")
    for part, cost in costs.items():
        if not 0 <= cost < float("inf"):
            raise invalid(part, cost, "a cost of 0 or more")


def _solve(
    weights: Mapping[str, float],
    ways: Ways,
    costs: Mapping[str, float],
    most: int | None = None,
    share: float | None = None,
) -> list[str] | None:
    """The parts of the best kit of at most `most`, or of the cheapest that covers `share`; in the costs' order.

    None where the solver finds none.
    """
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_array

    needs = [need for need, weight in weights.items() if weight > 0 and any(ways.get(need, ()))]
    useful = {part for need in needs for way in ways[need] for part in way}
    parts = [part for part in costs if part in useful]
    joined = list(dict.fromkeys((need, way) for need in needs for way in ways[need] if len(way) > 1))
    if not parts:
        return []
    x = {part: at for at, part in enumerate(parts)}
    y = {pair: len(parts) + at for at, pair in enumerate(joined)}
    z = {need: len(parts) + len(joined) + at for at, need in enumerate(needs)}
    entries: dict[tuple[int, int], int] = {}
    for row, need in enumerate(needs):
        entries[row, z[need]] = 1
        for way in ways[need]:
            entries[row, y[need, way] if len(way) > 1 else x[next(iter(way))]] = -1
    uses = [(pair, part) for pair in joined for part in sorted(pair[1])]
    for row, (pair, part) in enumerate(uses, start=len(needs)):
        entries[row, y[pair]], entries[row, x[part]] = 1, -1
    shape = (len(needs) + len(uses), len(x) + len(y) + len(z))
    matrix = coo_array((list(entries.values()), tuple(zip(*entries, strict=True))), shape=shape)
    cost = np.zeros(matrix.shape[1])
    weight = np.array([weights[need] for need in needs]) / sum(weights.values())
    limits = [(np.concatenate([np.ones(len(parts)), np.zeros(len(joined) + len(needs))]), -np.inf, most or np.inf)]
    if share is None:
        cost[-len(needs) :] = -weight
    else:
        cost[: len(parts)] = [1e-3 + costs[part] for part in parts]
        limits.append((np.concatenate([np.zeros(len(x) + len(y)), weight]), share - _SURE, np.inf))
    integral = np.zeros(matrix.shape[1], dtype=np.int64)
    integral[: len(parts)] = 1
    constraints = [LinearConstraint(matrix.tocsr(), -np.inf, 0.0)]
    constraints += [LinearConstraint(row_of[None, :], low, high) for row_of, low, high in limits]
    found = milp(cost, integrality=integral, bounds=Bounds(0, 1), options={"mip_rel_gap": 0.0}, constraints=constraints)
    return None if found.x is None else [part for part in parts if found.x[x[part]] > 0.5]
