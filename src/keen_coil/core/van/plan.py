"""The van's plan: what to carry and to buy, what covers how much, what never moves."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from pydantic import BaseModel

from ..errors import invalid
from ..vocabulary import PlannedPartKind
from .kit import Kit, best_kit, curve, kit_of
from .needs import Need, chance_enough, expected_between, level

CURVE_TO = 40


class PartLine(BaseModel):
    """A part of the plan: pieces asked for between restocks, its level, what to carry, what is there, what to buy.

    `level` is the least stock that lasts as often as asked; a part of the kit is carried once even where that is none.
    `enough_pct` is the chance that what is there lasts until the next restock, `serves` the needs that fall to it.
    """

    part_no: str
    kind: PlannedPartKind
    between: float
    level: int
    carry: int
    stock: int
    buy: int
    enough_pct: float
    serves: list[str]


class NeedLine(BaseModel):
    """A need with how often a year, and what the kit serves it with; empty where it does not."""

    need: str
    per_year: float
    units: int
    served_by: list[str]


class CurvePoint(BaseModel):
    """How much of the needs the best kit of so many parts covers; which part this one brings in, which it drops."""

    parts: int
    covered_pct: float
    added: list[str]
    dropped: list[str]


class VanPlan(BaseModel):
    """What to carry at a level of service between restocks of so many days."""

    days: float
    service: float
    covered_pct: float
    possible_pct: float
    parts: list[PartLine]
    needs: list[NeedLine]
    curve: list[CurvePoint]
    never_moves: list[str]


def plan_van(
    needs: list[Need],
    stock: Mapping[str, int],
    costs: Mapping[str, float],
    days: float = 14,
    service: float = 0.95,
    most: int | None = None,
) -> VanPlan:
    """Plan a van for an area's needs.

    Args: needs with their ways; stock on the van by part number (motors and capacitors); costs of every part that
    can be had; days between restocks; service, P(a part lasts until the next restock); most, how many kinds of part may
    be carried, all that help when None. Raises `InvalidField`.
    """
    if not 0 < days <= 366:
        raise invalid("days", days, "days between restocks, over 0 to 366")
    weights = {need.key: need.per_year for need in needs}
    ways = {need.key: need.ways for need in needs}
    asked = {part for need in needs for way in need.ways for part in way}
    all_costs = {part: costs.get(part, 1.0) for part in [*costs, *sorted(asked - set(costs))] if part in asked}
    points = curve(weights, ways, all_costs, CURVE_TO if most is None else min(most, CURVE_TO))
    kit = points[-1] if most is None or most <= CURVE_TO else best_kit(weights, ways, all_costs, most)
    lines = _lines(needs, kit, stock, days, service)
    return VanPlan(
        days=days,
        service=service,
        covered_pct=100 * kit.share,
        possible_pct=100 * kit_of(list(all_costs), weights, ways).share,
        parts=lines,
        needs=[
            NeedLine(need=n.key, per_year=n.per_year, units=n.units, served_by=sorted(kit.way_of.get(n.key, ())))
            for n in needs
        ],
        curve=_points(points),
        never_moves=sorted(part for part, there in stock.items() if there and part not in asked),
    )


def _lines(needs: Iterable[Need], kit: Kit, stock: Mapping[str, int], days: float, service: float) -> list[PartLine]:
    """Each part of the kit with the demand of the needs that fall to it."""
    between: dict[str, float] = dict.fromkeys(kit.parts, 0.0)
    serves: dict[str, list[str]] = {part: [] for part in kit.parts}
    kinds: dict[str, PlannedPartKind] = {}
    for need in needs:
        way = kit.way_of.get(need.key, frozenset())
        for part in sorted(way):
            between[part] += expected_between(need.per_year, days) * need.pieces.get((way, part), 1)
            serves[part].append(need.key)
            kinds[part] = need.part
    lines = []
    for part in (part for part in kit.parts if serves[part]):
        least, there = level(between[part], service), stock.get(part, 0)
        carried = max(1, least)
        lines.append(
            PartLine(
                part_no=part,
                kind=kinds[part],
                between=between[part],
                level=least,
                carry=carried,
                stock=there,
                buy=max(0, carried - there),
                enough_pct=100 * chance_enough(between[part], there),
                serves=serves[part],
            )
        )
    return sorted(lines, key=lambda line: (-line.between, line.part_no))


def _points(kits: list[Kit]) -> list[CurvePoint]:
    found = []
    for number, kit in enumerate(kits):
        before = set(kits[number - 1].parts) if number else set()
        now = set(kit.parts)
        point = CurvePoint(
            parts=len(kit.parts), covered_pct=100 * kit.share, added=sorted(now - before), dropped=sorted(before - now)
        )
        found.append(point)
    return found
