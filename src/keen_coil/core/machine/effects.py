"""The questions of the trade, as a table: what is changed, and what the model says comes of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import NamedTuple

from ..plates import Motor
from ..speed import synchronous_speed
from ..units import Span
from .conditions import Conditions, Model
from .expected import Expected, expected
from .load import blade_share
from .rated import Rated

CAPACITOR_SIZES = (1.5, 2, 2.5, 3, 4, 5, 6, 7.5, 10, 12.5, 15, 17.5, 20, 25, 30, 35, 40, 45, 50, 55, 60, 70, 80)
"""Run capacitor values in common supply, µF (trade)."""
DIRTY_COIL, BLOCKED_FILTER, DRAGGING = 1.2, 0.65, 0.25
DIRTY_COIL_AIR, BLOCKED_FILTER_AIR = 0.8, 0.65
"""Air that still passes over the motor, as a share of the plate's (trade)."""
LOW_VOLTS = 0.9


class Question(NamedTuple):
    """A question: its name, how it is asked of this plate, for which fans, what is changed, what it means on site."""

    name: str
    ask: Callable[[Rated], str]
    fans: tuple[str | None, ...]
    change: Callable[[Conditions, Rated], Conditions]
    means: str
    base: Callable[[Conditions, Rated], Conditions] | None = None


def _uf(at: Conditions, factor: float) -> Conditions:
    uf = at.capacitor_uf
    return replace(at, capacitor_uf=Span(uf.low * factor, uf.high * factor))


def size_up(uf: float) -> float:
    """The next capacitor in common supply, µF."""
    return next((size for size in CAPACITOR_SIZES if size > uf * 1.01), uf * 1.25)


def low_volts(plate: Rated) -> float:
    """The low supply asked about: 208 on a 208-230 plate, else a tenth under the plate."""
    return 208.0 if plate.volts_v == 230 else LOW_VOLTS * plate.volts_v


def _high_volts(plate: Rated) -> float:
    return 240.0 if plate.volts_v == 230 else plate.volts_v


def blade_rpm(plate: Rated) -> float:
    """The plate speed of a blade made for two poles more, at the same slip."""
    return (1 - plate.slip) * synchronous_speed(plate.poles + 2, plate.hz)


_PROPELLER = ("propeller", "inducer_wheel", None)
_ANY = (*_PROPELLER, "forward_curved")
QUESTIONS: tuple[Question, ...] = (
    Question(
        "capacitor_low",
        lambda p: "Capacitor 20 % low",
        _ANY,
        lambda at, p: _uf(at, 0.8),
        "Amps and speed hardly show it, the start does. Only the meter finds a weak capacitor.",
    ),
    Question(
        "capacitor_open",
        lambda p: "Capacitor open",
        _ANY,
        lambda at, p: replace(at, capacitor_uf=Span(0, 0)),
        "It hums at rest. A push, or wind, can make it run: a motor seen turning does not clear the capacitor.",
    ),
    Question(
        "capacitor_up",
        lambda p: f"Capacitor one size up, {size_up(p.capacitor_uf):g} µF",
        _ANY,
        lambda at, p: _uf(at, size_up(p.capacitor_uf) / p.capacitor_uf),
        "The start winding carries more than it was wound for and runs hot. Fit what the plate asks for.",
    ),
    Question(
        "volts_low",
        lambda p: f"{low_volts(p):g} V instead of {_high_volts(p):g}",
        _ANY,
        lambda at, p: replace(at, volts_v=Span(low_volts(p), low_volts(p))),
        "Read the volts before judging amps: the same motor draws another current on another supply.",
        lambda at, p: replace(at, volts_v=Span(_high_volts(p), _high_volts(p))),
    ),
    Question(
        "wrong_speed",
        lambda p: f"On a blade for {p.poles + 2} poles",
        ("propeller", None),
        lambda at, p: replace(at, load=at.load * blade_share(p.rpm, blade_rpm(p)), load_low=1.0),
        "Power goes with the cube of speed. The blade is too much for it: same poles as the old motor, always.",
    ),
    Question(
        "dirty_coil",
        lambda p: "Dirty coil",
        ("propeller", None),
        lambda at, p: replace(at, load=at.load * DIRTY_COIL, load_low=1.0, air=at.air * DIRTY_COIL_AIR),
        "A propeller works harder against a dirty coil. Clean it before a new motor is blamed.",
    ),
    Question(
        "blocked_filter",
        lambda p: "Blocked filter",
        ("forward_curved",),
        lambda at, p: replace(at, load=at.load * BLOCKED_FILTER, load_low=1.0, air=at.air * BLOCKED_FILTER_AIR),
        "A wheel that moves less air draws less. Low amps on a blower: look at filter, coil and grilles.",
    ),
    Question(
        "dragging",
        lambda p: "Dragging bearing",
        _ANY,
        lambda at, p: replace(at, drag=DRAGGING),
        "It may still run, but not start when warm or on low volts. Turn it by hand.",
    ),
    Question(
        "swapped",
        lambda p: "Capacitor leads swapped",
        _ANY,
        lambda at, p: replace(at, swapped=True),
        "It turns the other way with the capacitor feeding the main winding: weak, and the start winding burns. "
        "Reverse a motor by its plug or its diagram.",
    ),
)


@dataclass(frozen=True)
class Effect:
    """A question answered: what the motor does before and after, in one sentence."""

    question: Question
    asked: str
    before: Expected
    after: Expected
    says: str


def questions_for(motor: Motor) -> list[Question]:
    """The questions that make sense for a motor's fan."""
    return [row for row in QUESTIONS if motor.fan in row.fans]


def answer(model: Model, name: str) -> Effect:
    """What comes of one question's change. Raises `StopIteration` for a name that is no question."""
    row = next(row for row in QUESTIONS if row.name == name)
    if row.base is not None:
        model = replace(model, conditions=row.base(model.conditions, model.fit.rated))
    before = expected(model)
    changed = replace(model, conditions=row.change(model.conditions, model.fit.rated))
    after = expected(changed)
    return Effect(row, row.ask(model.fit.rated), before, after, compared(before, after))


def compared(before: Expected, after: Expected) -> str:
    """What changes from one condition to another, in one sentence or two."""
    rest = after.rest_amps_a["whole"].mid
    if after.starts == "stalled":
        return f"It does not turn and draws {rest:.2f} A standing still. Left on, the windings burn."
    turns = f"{_speed(before, after)}, {_amps(before, after)}"
    if after.starts == "runs_only_if_pushed":
        return f"It does not start: {rest:.2f} A at rest until the overload opens. Pushed, it {turns}."
    parts = [turns, _start(before, after), _capacitor(after), _start_winding(before, after)]
    return f"It {', '.join(part for part in parts if part)}."


def _speed(before: Expected, after: Expected) -> str:
    change = after.run_rpm.mid - before.run_rpm.mid
    if not before.turns or abs(change) < 1.5:
        return f"turns {after.run_rpm.mid:.0f} rpm"
    return f"turns {after.run_rpm.mid:.0f} rpm ({abs(change):.0f} {'slower' if change < 0 else 'faster'})"


def _amps(before: Expected, after: Expected) -> str:
    old, new = before.run_amps_a["whole"].mid, after.run_amps_a["whole"].mid
    if not before.turns or abs(new / old - 1) < 0.01:
        return f"draws {new:.2f} A"
    return f"draws {new:.2f} A ({100 * abs(new / old - 1):.0f} % {'more' if new > old else 'less'})"


def _start(before: Expected, after: Expected) -> str:
    old, new = before.starting_torque_pct.mid, after.starting_torque_pct.mid
    if old <= 0 or abs(new / old - 1) < 0.02:
        return ""
    return f"starts with {100 * abs(new / old - 1):.0f} % {'more' if new > old else 'less'} torque"


def _capacitor(after: Expected) -> str:
    return "" if after.capacitor_v is None else f"has {after.capacitor_v.mid:.0f} V across the capacitor"


def _start_winding(before: Expected, after: Expected) -> str:
    """With the leads swapped the start winding is the leg without the capacitor."""
    if not after.conditions.swapped or before.conditions.swapped:
        return ""
    was, now = before.run_amps_a["capacitor"].mid, after.run_amps_a["winding"].mid
    return f"and its start winding carries {now:.2f} A instead of {was:.2f}"
