"""What a large catalog can be cut by before it is judged: bounds outside which every row is refused for certain."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..call import Call
from ..machine.fan import SPEED_CLASS_PCT
from ..motor_kinds import traits_of
from ..plates import Motor
from ..units import STANDARD_HP
from ..vocabulary import SizingSchool
from ..voltage import Range, plate_amps, ranges
from .body import BORE_TOLERANCE_IN, bore_of
from .place import ambient_asked
from .reference import reference_for
from .schools import INF, ROUNDING, SIZING_RULES, size_index

_SLACK = 1e-6


@dataclass(frozen=True)
class CatalogueFilter:
    """Bounds within which a candidate can pass; None where nothing is known to cut by.

    `amps_a` and `hp` hold for motors of `kind` only, amps where the volts of the two plates meet: the widest window
    begins at or below `same_volts_v[0]` and ends at or above `same_volts_v[1]`.
    """

    kinds: tuple[str, ...] | None
    phase: int | None
    hz: int | None
    rpm: tuple[float, float] | None
    supply_v: float | None
    kind: str | None = None
    amps_a: tuple[float, float] | None = None
    same_volts_v: tuple[float, float] = (INF, 0.0)
    hp: tuple[float, float] | None = None
    shaft_in_most: float | None = None
    ambient_c_least: float | None = None


@dataclass(frozen=True)
class FilterKeys:
    """A motor by what a catalog is cut by: rpm it can run at, volts of its widest window, plate amps and hp.

    `amps_a` is None where the plate has several connections: which one counts depends on the supply.
    """

    rpm: tuple[float, float]
    volts_v: tuple[float, float]
    amps_a: float | None
    hp: float | None
    shaft_in: float | None
    ambient_c: float | None


def filter_keys(motor: Motor) -> FilterKeys:
    """The figures of a motor that bounds are held against: rpm, V, A, hp, in, C. A missing figure cuts nothing."""
    rpm = float(motor.rpm or 0)
    low, high = (rpm, rpm) if rpm else (0.0, INF)
    if motor.traits.is_electronic:
        low, high = float(motor.rpm_min or 0.0), float(motor.rpm_max or rpm or INF) * (1 + SPEED_CLASS_PCT / 100)
    windows = [connection.window() for connection in ranges(motor.volts)] if motor.volts else [(0.0, INF)]
    single = motor.volts is not None and len(windows) == 1
    amps = plate_amps(motor.volts, motor.amps_a, motor.amps_high_a, None) if single else None
    volts = min(window[0] for window in windows), max(window[1] for window in windows)
    shaft = motor.shaft.diameter_in if motor.shaft else None
    return FilterKeys((low, high), volts, _float(amps), _float(motor.hp), _float(shaft), _float(motor.ambient_limit_c))


def _float(value: float | None) -> float | None:
    return None if value is None else float(value)


def bounds(call: Call, school: SizingSchool) -> CatalogueFilter:
    """The bounds of a call under a school."""
    ref = reference_for(call)
    kind = ref.motor.kind
    near = SPEED_CLASS_PCT / 100
    rpm = None if ref.rpm is None else (ref.rpm * (1 - near), ref.rpm * (1 + near))
    bore = bore_of(ref, call)
    amps = None if ref.amps_a is None else _scaled(float(ref.amps_a), SIZING_RULES[school].amps)
    return CatalogueFilter(
        None if kind is None else (kind, *traits_of(kind).stands_in),
        ref.phase,
        ref.hz,
        rpm,
        ref.supply_v,
        kind,
        amps if kind else None,
        _meeting(ref.connection),
        _horsepower(ref.hp, school) if kind else None,
        None if bore is None else bore + BORE_TOLERANCE_IN + _SLACK,
        ambient_asked(ref, call),
    )


def _scaled(value: float, by: tuple[float, float]) -> tuple[float, float]:
    return value * by[0] * ROUNDING - _SLACK, value * by[1] + _SLACK


def _meeting(connection: Range | None) -> tuple[float, float]:
    """Where a single-connection window begins and ends at the most and least for its nominal volts to meet these."""
    if connection is None:
        return INF, 0.0
    begins = Range(connection.high, connection.high).window()[0]
    ends = Range(connection.low, connection.low).window()[1]
    return begins + _SLACK, ends - _SLACK


def _horsepower(hp: float | None, school: SizingSchool) -> tuple[float, float] | None:
    """Horsepower a school takes; None where it does not ask."""
    bound = SIZING_RULES[school]
    if hp is None or (bound.hp == (0.0, INF) and bound.sizes_up is None):
        return None
    low, high = _scaled(float(hp), bound.hp)
    if bound.sizes_up is not None:
        beyond = STANDARD_HP[size_index(hp) + bound.sizes_up + 1 :]
        high = min(high, float(beyond[0])) if beyond else high
    return low, high


def same_supply_and_speed(limit: CatalogueFilter) -> CatalogueFilter:
    """The same bounds without power, shaft and ambient: motors that are out only by what a school or the place asks."""
    return replace(limit, amps_a=None, hp=None, shaft_in_most=None, ambient_c_least=None)
