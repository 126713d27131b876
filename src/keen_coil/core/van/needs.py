"""What the units of an area ask for: a need for each capacitor and each motor, with how often and what serves it."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cache, partial
from typing import NamedTuple

from ..call import Call
from ..capacitors.needed import needed
from ..capacitors.parts import Need as Microfarads
from ..capacitors.parts import Section
from ..capacitors.substitute import substitutes
from ..errors import invalid
from ..match.catalogue import CatalogueMotor
from ..match.rank import ranked
from ..units import horsepower_text
from ..vocabulary import PlannedPartKind, SizingSchool


class Rate(NamedTuple):
    """Failures of a part of a motor in this role, a unit and year; trade experience, not a standard."""

    part: PlannedPartKind
    role: str
    per_year: float


RATES: tuple[Rate, ...] = (
    Rate("capacitor", "condenser_fan", 0.08),
    Rate("capacitor", "indoor_blower", 0.05),
    Rate("capacitor", "inducer", 0.03),
    Rate("motor", "condenser_fan", 0.05),
    Rate("motor", "indoor_blower", 0.04),
    Rate("motor", "inducer", 0.05),
)
PRIOR_UNIT_YEARS = 20.0
"""How many unit-years of watching the table counts for against the log."""


def table_rate(part: PlannedPartKind, role: str | None) -> float:
    """Failures a unit and year by the table; a motor of unknown role as a condenser fan's."""
    wanted = role or "condenser_fan"
    return next(row.per_year for row in RATES if row.part == part and row.role == wanted)


def rate_seen(per_year: float, failures: int, unit_years: float) -> float:
    """The table's rate drawn towards what was seen (gamma prior, Poisson counts): failures a unit and year.

    No failures in no time leave the table's rate. Source: Gelman and others, *Bayesian Data Analysis*, 2.6.
    """
    return (per_year * PRIOR_UNIT_YEARS + failures) / (PRIOR_UNIT_YEARS + max(0.0, unit_years))


MOST_WAYS = 30
SPARE = 3
"""Sections of a part that are thought to be there when it is asked what could be joined."""
CapacitorWays = tuple[tuple[frozenset[str], ...], dict[tuple[frozenset[str], str], int]]
"""Ways that serve, and of which part a way takes several."""


@dataclass(frozen=True)
class AreaUnit:
    """A motor in the area as a call would have it, how many like it there are, and what the log has seen of it.

    `failures` counts by part, `unit_years` is how long those units were watched.
    """

    call: Call
    units: int = 1
    failures: Mapping[PlannedPartKind, int] = field(default_factory=dict)
    unit_years: float = 0.0


@dataclass(frozen=True)
class Need:
    """Something the area asks for: its name, how often a year, from how many units, the ways that serve it.

    `pieces` says how many of a part a way takes, where that is more than one.
    """

    key: str
    part: PlannedPartKind
    per_year: float
    units: int
    ways: tuple[frozenset[str], ...]
    pieces: Mapping[tuple[frozenset[str], str], int] = field(default_factory=dict)


def area_needs(
    area: Iterable[AreaUnit],
    motors: Callable[[Call], Sequence[CatalogueMotor]],
    sections: Sequence[Section],
    school: SizingSchool = "amps",
    temporary: bool = True,
) -> list[Need]:
    """Every need of an area, equal ones added up, the most frequent first.

    `motors` gives the catalog to be judged for a call, `sections` what capacitors can be had; without `temporary`
    only what may stay for good counts as serving. Rates a year by the table, drawn towards what was seen.
    """
    found: dict[str, Need] = {}
    with_spare = [Section(s.part_no, s.name, s.uf, s.volts_v, SPARE) for s in sections]
    # an area asks for few values, again and again
    ways_of = cache(partial(_capacitor_ways, sections=with_spare, temporary=temporary))
    for unit in area:
        for need in _of_unit(unit, motors, ways_of, school):
            had = found.get(need.key)
            if had is not None:
                need = replace(had, per_year=need.per_year + had.per_year, units=need.units + had.units)
            found[need.key] = need
    return sorted(found.values(), key=lambda need: (-need.per_year, need.key))


def _of_unit(
    unit: AreaUnit,
    motors: Callable[[Call], Sequence[CatalogueMotor]],
    ways_of: Callable[[Microfarads, Microfarads], CapacitorWays],
    school: SizingSchool,
) -> Iterable[Need]:
    call, motor = unit.call, unit.call.motor
    asked = needed(call)
    if asked is not None:
        want = asked.both or asked.fan
        ways, pieces = ways_of(want, asked.fan)
        yield Need(_capacitor_name(want), "capacitor", _rate(unit, "capacitor"), unit.units, ways, pieces)
    if motor.kind is not None and motor.volts is not None and motor.rpm is not None:
        serving = ranked(call, motors(call), school).serving[:MOST_WAYS]
        ways = tuple(frozenset({str(held.motor.part_no)}) for held in serving)
        yield Need(motor_name(call), "motor", _rate(unit, "motor"), unit.units, ways)


def _rate(unit: AreaUnit, part: PlannedPartKind) -> float:
    """Failures a year of these units together."""
    each = rate_seen(table_rate(part, unit.call.motor.role), unit.failures.get(part, 0), unit.unit_years)
    return each * unit.units


def _capacitor_name(want: Microfarads) -> str:
    both = f"{want.herm_uf:g}+" if want.herm_uf is not None else ""
    return f"capacitor {both}{want.uf:g} µF, {want.volts_v:g} V"


def _capacitor_ways(want: Microfarads, fan: Microfarads, sections: Sequence[Section], temporary: bool) -> CapacitorWays:
    """Ways for the whole can, then for the fan's section alone beside it; fewest parts first."""
    answers = substitutes(want, list(sections)).answers
    if want.herm_uf is not None:
        answers += substitutes(fan, list(sections)).answers
    ways: dict[frozenset[str], Counter[str]] = {}
    for one in (one for one in answers if temporary or one.permanent):
        # sections of one part are one piece, unless the same section is taken twice
        taken = Counter((part.part_no, part.section) for part in one.parts)
        pieces: Counter[str] = Counter()
        for (part_no, _), number in taken.items():
            pieces[part_no] = max(pieces[part_no], number)
        ways.setdefault(frozenset(pieces), pieces)
    best = sorted(ways, key=lambda way: ways[way].total())[:MOST_WAYS]
    several = {(way, part): number for way in best for part, number in ways[way].items() if number > 1}
    return tuple(best), several


def motor_name(call: Call) -> str:
    """A motor need in words: what makes two motors one need."""
    motor, unit = call.motor, call.unit
    hp = f"{horsepower_text(motor.hp)} hp" if motor.hp else ""
    amps = f"{float(motor.amps_a):g} A" if motor.amps_a else ""
    kind = motor.traits.words if motor.kind and motor.traits.words.isupper() else motor.kind
    words = [
        str(motor.role or "motor").replace("_", " "),
        kind,
        hp,
        f"{motor.volts} V",
        amps,
        f"{float(motor.rpm or 0):g} rpm",
        (motor.mount or "").replace("_", " "),
        (unit.mounted or "").replace("_", " "),
    ]
    return ", ".join(str(word).replace("_", " ") for word in words if word)


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
