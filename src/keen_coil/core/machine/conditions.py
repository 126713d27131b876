"""The conditions a motor of a call runs under: volts, capacitor, winding ohms, as measured, else as written down."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from ..call import NO_VOLTS, Call
from ..judge.capacitor import fan_section, serving, tolerance_pct
from ..judge.cooling import ALUMINIUM_C, COPPER_C
from ..judge.pairs import standing_pairs, terminals
from ..limits import DEFAULTS
from ..plates import Motor
from ..readings import Reading
from ..uncertainty import span, spans
from ..units import Span
from ..vocabulary import InsulationLetter
from .fan import FanShare, fan_by_amps, fan_by_horsepower
from .fit import Fit, Ohms, fit_plate
from .load import Load, blade_share, own_losses_nm
from .operating_point import Feed, flow
from .rated import LOAD_LOW, REBUILT_U, RUNNING_C, RUNNING_U_C, NoModel, Rated, rated
from .warmth import Warmth, warmth_of

IN_THE_AIR = ("condenser_fan", "indoor_blower")
"""Roles whose motor stands in the air it moves, where its plate does not say so (trade)."""


@dataclass(frozen=True)
class HeatPlate:
    """Class A, B, F or H, None where the plate is silent; the ambient it allows, C; `air_over`: cooled by its fan.

    has_overload: False only where the plate says that nothing protects it, or a fuse that opens once.
    """

    insulation_class: InsulationLetter | None = None
    ambient_c: float | None = None
    service_factor: float = 1.0
    air_over: bool = True
    has_overload: bool = True


SILENT_PLATE = HeatPlate()


def heat_plate(motor: Motor) -> HeatPlate:
    """The plate of a motor. An enclosed or open one is cooled by itself; a silent plate goes by its role."""
    in_air = motor.enclosure == "air_over" or (motor.enclosure is None and motor.role in (*IN_THE_AIR, None))
    return HeatPlate(
        insulation_class=motor.insulation_class,
        ambient_c=None if motor.ambient_limit_c is None else float(motor.ambient_limit_c),
        service_factor=float(motor.service_factor or 1.0),
        air_over=in_air,
        has_overload=motor.protection not in ("none", "fuse", "impedance"),
    )


SUPPLY_PCT = 5.0
"""Volts not measured: the supply's nominal volts +/-5 % (ANSI C84.1, range A)."""
UNKNOWN_C = 25.0
UNKNOWN_U_C = 12.0


@dataclass(frozen=True)
class Conditions:
    """What a motor runs under. Volts in V, capacitor in µF (0 = open, infinite = shorted).

    load: the fan's torque as a share of the one through the plate; load_low: the least it may be. drag: constant
    torque as a share of the rated one. ambient_c: air around the motor, None where nobody noted it. air: air moved at
    the same speed, as a share of the plate's. swapped: the capacitor in series with the main winding. `says` tells in
    words where volts and capacitor come from.
    """

    volts_v: Span
    capacitor_uf: Span
    load: float = 1.0
    load_low: float = LOAD_LOW
    drag: float = 0.0
    swapped: bool = False
    says: tuple[str, ...] = ()
    volts_read: bool = False
    uf_read: bool = False
    ambient_c: float | None = None
    air: float = 1.0

    @property
    def uf(self) -> float:
        """The capacitor in the middle of what is known, µF; 0 = open, infinite = shorted."""
        return self.capacitor_uf.low if math.isinf(self.capacitor_uf.low) else self.capacitor_uf.mid

    def at_volts(self, share: float) -> Conditions:
        """The same at another share of its volts."""
        return replace(self, volts_v=Span(share * self.volts_v.low, share * self.volts_v.high))


def as_plate(plate: Rated) -> Conditions:
    """Right volts, the plate's capacitor within its tolerance: how a motor should run."""
    pct = DEFAULTS.capacitor_tolerance_pct / 100
    uf = plate.capacitor_uf
    return Conditions(
        _nominal(plate.volts_v), Span(uf * (1 - pct), uf * (1 + pct)), says=(f"{uf:g} µF as on the plate",)
    )


def _nominal(volts: float) -> Span:
    return Span(volts * (1 - SUPPLY_PCT / 100), volts * (1 + SUPPLY_PCT / 100))


def fan_on(call: Call, plate: Rated) -> FanShare | None:
    """What the unit's fan asks of another motor, as a share of that motor's own rated torque.

    By the speed it was read at with a motor that does not belong, else by amps, by horsepower where none is known
    (`machine/fan.py`); None when none of them is.
    """
    asks = blade_asks(call)
    if asks is not None:
        return FanShare(asks[0] / plate.shaft_w * blade_share(plate.rpm, asks[1]), "speed_read")
    return fan_by_amps(call, plate) or fan_by_horsepower(call, plate)


def blade_asks(call: Call) -> tuple[float, float] | None:
    """Shaft power in W and rpm of the fan that is there, measured with a motor that does not belong.

    What came off turned the fan at the speed that was read: its model says how much power that took (an estimate).
    None while the motor belongs, the unit plate names power and speed, the speed was not read, or the model is silent.
    """
    unit, read = call.unit, [reading for _, reading in call.standing("run_rpm") if not reading.wrong_power]
    if call.motor.belongs is not False or (unit.fan_hp and unit.fan_rpm) or not read:
        return None
    try:
        plate = rated(call.motor, call.supply_now(), unit.hz)
        fit, _ = _fit(plate, winding_ohms(call))
    except NoModel:
        return None
    speed = float(read[-1].numbers[0]) * math.pi / 30
    volts, capacitor = _volts(call, plate, proof=False)[0], _capacitor(call, plate, proof=False)[0]
    if not 0 < speed < fit.windings.synchronous_rad_s or math.isinf(capacitor.low):
        return None
    load = Load(fit.rated.shaft_w, fit.rated_rad_s)
    slip = 1 - speed / fit.windings.synchronous_rad_s
    core, friction = own_losses_nm(fit.windings, load, speed)
    torque = float(flow(fit.windings, Feed(volts.mid, capacitor.mid), slip).torque_nm - core - friction)
    return (torque * speed, float(read[-1].numbers[0])) if torque > 0 else None


def conditions_of(call: Call, plate: Rated, proof: bool = False) -> Conditions:
    """The conditions of a call's motor as found; with `proof`, of the motor that is in now with its own capacitor."""
    if proof and call.chosen_motor is not None:
        fan_share = fan_on(call, plate)
        load, fan = (1.0, ()) if fan_share is None else (fan_share.share, (_fan_says(fan_share),))
    else:
        load, fan = 1.0, ()
    volts, volts_says, volts_read = _volts(call, plate, proof)
    capacitor, capacitor_says, uf_read = _capacitor(call, plate, proof)
    return Conditions(
        volts,
        capacitor,
        load=load,
        says=(volts_says, capacitor_says, *fan),
        volts_read=volts_read,
        uf_read=uf_read,
        ambient_c=None if call.unit.ambient_c is None else float(call.unit.ambient_c),
    )


def _fan_says(asked: FanShare) -> str:
    return f"the old load needs {100 * asked.share:.0f} % of its torque"


def _volts(call: Call, plate: Rated, proof: bool) -> tuple[Span, str, bool]:
    """The volts, in words, and whether they were read."""
    stages = (True, False) if proof else (False,)
    for stage in stages:
        for _, reading in reversed(call.standing("supply_v", proof=stage)):
            read = _mean(spans(reading, call.meters))
            if reading.across != "ground" and not reading.wrong_power and read.mid >= NO_VOLTS:
                return read, f"{read.text('V')} read", True
    volts = call.unit.supply_v or plate.volts_v
    return _nominal(volts), f"{volts:g} V ±{SUPPLY_PCT:g} %, not read yet", False


def _mean(read: list[Span]) -> Span:
    if not read:
        return Span(0.0, 0.0)
    return Span(sum(s.low for s in read) / len(read), sum(s.high for s in read) / len(read))


def _capacitor(call: Call, plate: Rated, proof: bool) -> tuple[Span, str, bool]:
    """The capacitor as measured, else as labeled, else as the plate asks for; in words; if measured."""
    found = [
        reading
        for _, reading in call.standing("capacitance_uf", proof=proof)
        if serving(reading, call) != "herm" and not reading.wrong_power and reading.isolated is not False
    ]
    if found:
        return *_measured_uf(found[-1], call), True
    label = None if proof else call.capacitor.section_uf(fan_section(call))
    uf, whose = (label, "label") if label else (plate.capacitor_uf, "plate")
    pct = tolerance_pct(call, DEFAULTS) / 100
    return Span(uf * (1 - pct), uf * (1 + pct)), f"{uf:g} µF ±{100 * pct:g} % of its {whose}, not read yet", False


def _measured_uf(reading: Reading, call: Call) -> tuple[Span, str]:
    if reading.value == "shorted":
        return Span(float("inf"), float("inf")), "a shorted capacitor"
    read = span(reading.numbers[0], reading, call.meters)
    return Span(max(read.low, 0.0), read.high), f"{read.text('µF')} read"


def winding_ohms(call: Call) -> Ohms | None:
    """Main and auxiliary winding as measured, brought to a warm motor; None until run and start are told apart.

    R2 = R1 * (k + T2) / (k + T1), k 234.5 for copper and 225 for aluminium (IEEE 112).
    """
    pairs, known = standing_pairs(call), terminals(call)
    if not (known.common and known.run and known.start) or (call.motor.speeds or 1) > 1:
        return None
    found = [pairs.finite.get(frozenset((known.common, lead))) for lead in (known.run, known.start)]
    if not all(read is not None and read.low > 0 for read in found):
        return None
    constant = ALUMINIUM_C if call.motor.winding_material == "aluminium" else COPPER_C
    indices = [pairs.indices[frozenset((known.common, lead))] for lead in (known.run, known.start)]
    rows = [
        _warm(read, call.readings[index], constant)
        for read, index in zip(found, indices, strict=True)
        if read is not None
    ]
    return Ohms(*rows[0], *rows[1])


def _warm(read: Span, reading: Reading, constant: float) -> tuple[float, float]:
    """Ohms of a warm motor and their relative uncertainty: the meter's, and that of both temperatures."""
    at = UNKNOWN_C if reading.temperature_c is None else float(reading.temperature_c)
    at_u = UNKNOWN_U_C if reading.temperature_c is None else 2.0
    factor = (constant + RUNNING_C) / (constant + at)
    parts = (read.u / read.mid, RUNNING_U_C / (constant + RUNNING_C), at_u / (constant + at), REBUILT_U)
    return float(read.mid * factor), float(sum(part**2 for part in parts) ** 0.5)


@dataclass(frozen=True)
class MeasuredWarmth:
    """How warm the motor was measured to be, and the conditions it was running under."""

    found: Warmth
    at: Conditions


@dataclass(frozen=True)
class Model:
    """A motor's fit with the conditions it runs under, what was left out in making them, and its measured warmth."""

    fit: Fit
    conditions: Conditions
    doubts: tuple[str, ...] = ()
    heat: HeatPlate = SILENT_PLATE
    warmth: MeasuredWarmth | None = None


def model_of(call: Call, proof: bool = False) -> Model:
    """The model of a call's motor as found, or of the motor that is in now. Raises `NoModel` with the reason."""
    motor: Motor = call.motor_on_proof if proof else call.motor
    plate = rated(motor, call.supply_now(), call.unit.hz)
    ohms = winding_ohms(call) if motor is call.motor else None
    fit, doubts = _fit(plate, ohms)
    at, warm = conditions_of(call, plate, proof), warmth_of(call, proof)
    return Model(
        fit.at_hz(float(call.unit.hz or plate.hz)),
        at,
        (*plate.doubts, *doubts),
        heat_plate(motor),
        None if warm is None else MeasuredWarmth(warm, at),
    )


def _fit(plate: Rated, ohms: Ohms | None) -> tuple[Fit, tuple[str, ...]]:
    try:
        return fit_plate(plate, ohms), ()
    except NoModel:
        if ohms is None:
            raise
    return fit_plate(plate), ("The measured winding ohms do not go with the plate: not used.",)
