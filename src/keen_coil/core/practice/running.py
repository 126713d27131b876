"""How a practice unit runs now: volts at each place under its load, whether the motor turns, what it draws."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..machine.circuit import Windings
from ..machine.fit import fit_plate
from ..machine.load import Load
from ..machine.operating_point import Feed, Points, backwards_points, operating_points, resting_points
from ..machine.rated import rated
from ..motor_kinds import traits_of
from .plate_motor import plate_motor, run
from .unit_state import FEED, UnitState

PLACES = ("unit", "switch_line", "switch_load", "motor")
TAP_VOLTS = 0.86
"""Volts that a speed tap leaves to the main winding, for each step down (its turns are in series)."""
STEPS, CLOSE_V = 25, 0.05
STANDBY_A = 0.06
FOLDS_BACK = 0.18
"""An ECM that cannot turn limits its own current, share of plate amps (trade)."""


@dataclass(frozen=True)
class Run:
    """What is so while power is on: amps by leg (one value or three lines), rpm, volts at the motor and the capacitor.

    state: `turns`, `pushed` (stands, would go on with a push) or `stands`. `loaded_v` by place, for each pair.
    """

    state: str
    amps: tuple[float, ...]
    capacitor_a: float
    winding_a: float
    rpm: float
    capacitor_v: float
    loaded_v: dict[str, tuple[float, ...]]
    backwards: bool = False

    @property
    def turns(self) -> bool:
        """Whether the motor turns by itself."""
        return self.state == "turns"


def called(truth: UnitState) -> bool:
    """Whether the call reaches the switch: nothing holds it off, no safety is open, control has power."""
    return not (truth.cut & {"call", "safety", "supply"} or truth.held or truth.safety_stuck)


def call_present(truth: UnitState) -> bool:
    """Whether the call stands at the switch: indoors its control power comes through breaker and disconnect."""
    indoors = truth.call.motor.role != "condenser_fan"
    return called(truth) and not (indoors and truth.cut & {"breaker", "disconnect"})


def pulled_in(truth: UnitState) -> bool:
    """Whether the switch is in when called for."""
    return call_present(truth) and not truth.cut & {"coil", "starter"}


def commanded(truth: UnitState) -> bool:
    """Whether a command reaches an ECM's plug."""
    return called(truth) and not truth.cut & {"coil", "command"}


def open_before(truth: UnitState, place: str) -> bool:
    """Whether the way from the supply to a place is open in all its lines."""
    if truth.cut & ({"supply"} if place == "unit" else {*FEED, "power"} - ({"fuse"} if truth.three else set())):
        return True
    if place in ("unit", "switch_line"):
        return False
    ecm = truth.call.motor.traits.is_electronic
    if not ecm and not truth.welded and (not pulled_in(truth) or math.isinf(truth.contact_share)):
        return True
    return place == "motor" and not truth.three and (truth.wire == "open" or truth.joint == "off")


def lines(truth: UnitState, place: str) -> tuple[float, ...]:
    """Volts across each pair at a place with nothing drawn; one value on a single-phase unit."""
    if open_before(truth, place):
        return (0.0, 0.0, 0.0) if truth.three else (0.0,)
    if not truth.three:
        return (truth.supply_v,)
    lost = truth.lost_line or (place != "unit" and "fuse" in truth.cut)
    lost = lost or (place == "motor" and (truth.wire == "open" or truth.joint == "off"))
    if lost:
        return (truth.supply_v * truth.spread[0], 0.0, 0.0)
    return tuple(truth.supply_v * share for share in truth.spread)


def run_of(truth: UnitState, speed: int = 1, open_overload: bool = False) -> Run:
    """How it runs on a speed tap (1 the highest), its internal overload open or not; worked out once."""
    key = (speed, open_overload)
    if key not in truth.runs:
        truth.runs[key] = _run_of(truth, speed, open_overload)
    found: Run = truth.runs[key]
    return found


def _run_of(truth: UnitState, speed: int, open_overload: bool) -> Run:
    here = lines(truth, "motor")
    kind = truth.call.motor.kind
    if traits_of(kind).is_electronic:
        return _commutated(truth, here)
    dead = not any(here) or open_overload or truth.open == "all" or truth.tap_open == speed
    if dead:
        return Run("stands", tuple(0.0 for _ in here), 0.0, 0.0, 0.0, 0.0, _loaded(truth, here, 0.0))
    return _two_windings(truth, here[0], speed) if kind and traits_of(kind).is_modelled else _plate(truth, here)


def _series_share(truth: UnitState) -> float:
    """Ohms of contact and joint, in plate volts over plate amps."""
    shares = [share for share in (truth.contact_share, truth.joint_share) if math.isfinite(share)]
    return 0.0008 + sum(shares)


def _loaded(truth: UnitState, here: tuple[float, ...], lost_v: float) -> dict[str, tuple[float, ...]]:
    """Volts at each place with so many lost between supply and motor by what the motor draws."""
    found = {place: lines(truth, place) for place in PLACES}
    parts = _series_share(truth)
    contact = truth.contact_share if math.isfinite(truth.contact_share) else 0.0
    for place, share in (("switch_load", (contact + 0.0004) / parts), ("motor", 1.0)):
        found[place] = tuple(max(0.0, volts - share * lost_v) if volts else 0.0 for volts in found[place])
    return found


def windings_of(truth: UnitState) -> tuple[Windings, Load]:
    """This very motor: one of those its plate may stand for, and the fan on it."""
    fit = fit_plate(rated(truth.call.motor, truth.call.unit.supply_v, truth.call.unit.hz))
    one = int(truth.chance.unit("motor") * 12)

    def taken(value: object) -> float:
        values = getattr(value, "__len__", None)
        return float(value[one % values()]) if values else float(value)  # type: ignore[index,arg-type]

    drawn = Windings(**{name: taken(value) for name, value in vars(fit.draws).items()})
    return drawn, Load(fit.rated.shaft_w, fit.rated_rad_s, truth.asked(), truth.drags())


def _two_windings(truth: UnitState, source_v: float, speed: int) -> Run:
    """A run-capacitor motor behind its contact and joint: volts at the motor are what the drop leaves."""
    windings, load = windings_of(truth)
    volts, share = source_v, TAP_VOLTS ** (speed - 1)
    ohm = _series_share(truth) * source_v / float(truth.call.motor.amps_a or 1)
    for _ in range(STEPS):
        points = _points(truth, windings, load, volts * share)
        current = complex(points.solved.line_a[0])
        seen = volts / current if abs(current) > 1e-6 else complex(1e9)
        following = abs(source_v * seen / (seen + ohm))
        if abs(following - volts) < CLOSE_V:
            break
        volts += 0.6 * (following - volts)
    state = ("turns", "pushed", "stands")[int(points.state[0])]
    if truth.wind and state != "stands":
        back = backwards_points(windings, _feed(truth, volts * share), load)
        points, state = (back, "turns") if int(back.state[0]) < 2 else (points, state)
    solved = points.solved
    main, aux = abs(complex(solved.main_a[0])), abs(complex(solved.aux_a[0]))
    return Run(
        state,
        (abs(complex(solved.line_a[0])),),
        main if truth.swapped else aux,
        aux if truth.swapped else main,
        abs(float(points.rpm[0])) if state == "turns" else 0.0,
        float(solved.capacitor_v[0]),
        _loaded(truth, (volts,), source_v - volts),
        backwards=float(points.rpm[0]) < 0,
    )


def _feed(truth: UnitState, volts: float) -> Feed:
    through = truth.uf if truth.fed_uf is None else truth.fed_uf
    uf = math.inf if truth.uf_shorted else through
    return Feed(
        volts,
        uf,
        truth.swapped,
        math.inf if truth.open == "run" else 0.0,
        math.inf if truth.open == "start" else 0.0,
        0.0 if truth.open else truth.short,
    )


def _points(truth: UnitState, windings: Windings, load: Load, volts: float) -> Points:
    """Where it runs; at rest under power where it is held or needs a push."""
    feed = _feed(truth, volts)
    held = truth.locked or truth.jammed
    found = resting_points(windings, feed, load) if held else operating_points(windings, feed, load, roughly=True)
    if int(found.state[0]) != 1:
        return found
    rest = resting_points(windings, feed, load)
    return Points(found.state, rest.slip, rest.rpm, rest.solved, rest.shaft_w, rest.starting_nm)


def _plate(truth: UnitState, here: tuple[float, ...]) -> Run:
    """Three-phase and shaded-pole motors, by their circuit."""
    call = truth.call
    motor = plate_motor(call.motor, call.unit.supply_v, call.unit.hz)
    ohm = _series_share(truth) * motor.volts_v / float(call.motor.amps_a or 1)
    held = truth.locked or truth.jammed
    found = run(motor, here, truth.asked(), truth.drags(), held, truth.short, ohm)
    lost = ohm * max(found.amps) * (math.sqrt(3) if truth.three else 1.0) * 0.7
    state = "turns" if found.turns else "pushed" if found.would_if_pushed else "stands"
    return Run(state, found.amps, 0.0, max(found.amps), found.rpm, 0.0, _loaded(truth, here, lost))


def _commutated(truth: UnitState, here: tuple[float, ...]) -> Run:
    """An ECM: power and command make it turn; its control holds speed, torque or air flow."""
    motor = truth.call.motor
    fed = any(here)
    loaded = _loaded(truth, here, 0.0)
    plate = float(motor.amps_a or 1)
    if not fed or not commanded(truth) or not truth.module or not truth.coils:
        awake = STANDBY_A if fed and truth.module else 0.0
        return Run("stands", (awake,), 0.0, 0.0, 0.0, 0.0, loaded)
    if truth.locked or truth.jammed:
        return Run("stands", (FOLDS_BACK * plate,), 0.0, 0.0, 0.0, 0.0, loaded)
    asked, held_up = truth.asked() + truth.drags(), truth.air
    speed = {"constant_airflow": 1 + 0.25 * held_up, "constant_torque": max(0.4, asked) ** -0.4}
    rpm = float(motor.rpm or 1000) * min(1.2, speed.get(str(motor.ecm_control), 1.0))
    power = asked * (1 + 0.9 * held_up) if motor.ecm_control == "constant_airflow" else asked
    amps = plate * (0.12 + 0.86 * power) * float(truth.call.unit.supply_v or here[0]) / here[0]
    return Run("turns", (amps,), 0.0, 0.0, rpm, 0.0, loaded)
