"""What a practice case really is: a handful of physical quantities, made sound by chance, then bent by each fault."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from ..call import Call
from ..judge.capacitor import fan_section
from ..machine.fan import fan_by_horsepower
from ..machine.rated import NoModel, rated
from .case import Case
from .chance import Chance

FEED = ("supply", "breaker", "fuse", "disconnect")
"""What can be open between the supply and the switch, in order."""
HOLDS = {
    "defrost_hold": "defrost",
    "delay_hold": "delay",
    "fan_control_hold": "fan_control",
    "leak_lockout_hold": "leak_lockout",
    "board_lockout": "board_lockout",
    "door_switch_open": "door_switch",
}
HOT_RISE_C, WARM_RISE_C = 72.0, 26.0
"""Above the air: a motor whose overload has just opened, and one that ran or hummed until it was switched off."""
HOLDS_MOHM = 0.05
"""Less to ground than this and no breaker stays in."""


@dataclass
class UnitState:
    """A unit as it is. Ratios are of the nominal value, sizes as named; `cut` names what is open on the way.

    fed_uf: what the start winding is fed through where the wiring is wrong, in place of the capacitor that is there.
    """

    call: Call
    chance: Chance
    supply_v: float
    spread: tuple[float, float, float] = (1.0, 1.0, 1.0)
    lost_line: bool = False
    cut: set[str] = field(default_factory=set)
    held: set[str] = field(default_factory=set)
    safety_stuck: bool = False
    contact_share: float = 0.0
    wire: str = "sound"
    joint: str = "sound"
    joint_share: float = 0.0
    welded: bool = False
    uf: float = 0.0
    fed_uf: float | None = None
    uf_shorted: bool = False
    herm_ratio: float = 1.0
    can_mohm: float = 2000.0
    look: str = "sound"
    open: str = ""
    tap_open: int = 0
    overload: str = "closed"
    short: float = 0.0
    mohm: float = 500.0
    wet: bool = False
    drag: float = 0.03
    play: str = "none"
    locked: bool = False
    feel: str = "free"
    load: float = 0.92
    load_look: str = "sound"
    rub: float = 0.0
    slip: float = 0.0
    air: float = 0.0
    vent_blocked: bool = False
    belt: str = "sound"
    backwards: bool = False
    swapped: bool = False
    module: bool = True
    coils: bool = True
    rise_c: float = 4.0
    air_c: float = 25.0
    wind: bool = False
    runs: dict[tuple[int, bool], Any] = field(default_factory=dict, repr=False)

    @property
    def three(self) -> bool:
        """Whether its lines are three."""
        return self.call.motor.traits.is_three_phase

    @property
    def wheel(self) -> bool:
        """Whether it turns a wheel in a housing, which is asked for less when its air is held up."""
        motor = self.call.motor
        return motor.fan in ("forward_curved", "inducer_wheel") or (motor.fan is None and motor.role != "condenser_fan")

    @property
    def jammed(self) -> bool:
        """Whether blade or wheel cannot turn, whatever the bearings are."""
        return self.load_look in ("jammed", "iced")

    def asked(self) -> float:
        """What the fan asks of the motor, as a share of its rated torque at its rated speed."""
        air = (1 - 0.62 * self.air if self.wheel else 1 + 0.6 * self.air) * (1 - 0.95 * self.slip)
        return self.load * air * (0.02 if self.belt == "broken" else 0.75 if self.belt == "slack" else 1.0)

    def drags(self) -> float:
        """Constant torque of bearings and rubbing, as a share of the rated one."""
        return self.drag + self.rub


FaultEffect = Callable[[UnitState, float], None]


def truth_of(case: Case) -> UnitState:
    """What is so in a case: a sound unit of its seed, bent by each hidden fault at its size."""
    call, chance = case.call, Chance(case.seed).part("truth")
    nominal = float(call.unit.supply_v or 230)
    truth = UnitState(
        call,
        chance,
        float(case.around.supply_v or nominal * (1 + chance.spread("supply", 0.012))),
        mohm=10 ** chance.between("mohm", 2.3, 3.2),
        drag=chance.between("drag", 0.01, 0.05),
        load=chance.between("load", 0.84, 1.0),
        wind=case.around.wind,
        air_c=float(case.around.air_c or call.unit.ambient_c or 25),
        uf=_labelled(call) * (1 + chance.spread("uf", 0.012)),
        herm_ratio=1 + chance.spread("herm", 0.012),
        can_mohm=10 ** chance.between("can", 2.5, 3.5),
    )
    truth.load *= _asked_by_plates(call)
    for row in case.faults:
        FAULT_EFFECTS[row.fault](truth, float(row.size_pct) / 100)
    if to_ground(truth):
        truth.cut.add("breaker")
    return truth


def to_ground(truth: UnitState) -> bool:
    """Whether something live lies on metal, so that the breaker cannot hold."""
    return min(truth.mohm, truth.can_mohm) < HOLDS_MOHM or truth.wire == "chafed"


def _labelled(call: Call) -> float:
    """What the capacitor that is in the unit holds by its label, µF; the motor's plate where it has none."""
    return float(call.capacitor.section_uf(fan_section(call)) or call.motor.capacitor_uf or 0)


def _asked_by_plates(call: Call) -> float:
    """Share of its rating that the unit's fan asks of the motor that is in, by the unit's plate."""
    if not (call.motor.kind and call.motor.traits.is_modelled):
        return 1.0
    try:
        fan = fan_by_horsepower(call, rated(call.motor, call.unit.supply_v, call.unit.hz))
        return fan.share if fan else 1.0
    except NoModel:
        return 1.0


def _cut(*names: str) -> FaultEffect:
    return lambda truth, size: truth.cut.update(names)


def _hold(name: str) -> FaultEffect:
    return lambda truth, size: truth.held.add(name)


def _set(**values: object) -> FaultEffect:
    def bend(truth: UnitState, size: float) -> None:
        for name, value in values.items():
            setattr(truth, name, value)

    return bend


def _supply(low: float, high: float) -> FaultEffect:
    """Volts outside the plate's window: `low` where it is only just outside, `high` at its worst, of nominal."""

    def bend(truth: UnitState, size: float) -> None:
        text, nominal = str(truth.call.motor.volts), float(truth.call.unit.supply_v or 230)
        edge = 208 / nominal if low < 1 and text.startswith(("208", "200")) and nominal > 215 else 1.0
        truth.supply_v = nominal * edge * (low + (high - low) * size)

    return bend


def _unbalance(truth: UnitState, size: float) -> None:
    off = 0.055 + 0.04 * size
    truth.spread = (1 + off, 1.0, 1 - off)


def _contacts(truth: UnitState, size: float) -> None:
    truth.contact_share = math.inf if size > 0.8 else 0.12 + 1.6 * size


def _joint(truth: UnitState, size: float) -> None:
    truth.joint = "off" if size > 0.66 else "burnt" if size > 0.33 else "loose"
    truth.joint_share = {"off": math.inf, "burnt": 0.4, "loose": 0.12}[truth.joint]


def _times_uf(low: float, high: float) -> FaultEffect:
    def bend(truth: UnitState, size: float) -> None:
        truth.uf *= low + (high - low) * size

    return bend


def _damaged(truth: UnitState, size: float) -> None:
    truth.look = truth.chance.pick("damaged", ("bulged", "leaking", "burnt"))
    truth.uf *= 1 - 0.5 * max(0.0, size - 0.3)


def _opened(which: str) -> FaultEffect:
    def bend(truth: UnitState, size: float) -> None:
        truth.open, truth.rise_c = which, WARM_RISE_C * 0.3

    return bend


def _tap(truth: UnitState, size: float) -> None:
    used = truth.call.unit.speeds_used
    truth.tap_open = int(used[0]) if used else int(truth.call.motor.speeds or 2)


def _shorted(truth: UnitState, size: float) -> None:
    truth.short, truth.rise_c = 0.05 + 0.25 * size, WARM_RISE_C


def _grounded(truth: UnitState, size: float) -> None:
    truth.mohm = 10 ** (-1.2 - 3.5 * size)


def _welded(truth: UnitState, size: float) -> None:
    """Nobody calls any more, and its contacts stay closed."""
    truth.welded = True
    truth.cut.add("call")


def _damp(truth: UnitState, size: float) -> None:
    truth.mohm, truth.wet = 3.2 - 2.6 * size, True


def _overload(state: str) -> FaultEffect:
    def bend(truth: UnitState, size: float) -> None:
        truth.overload, truth.rise_c = state, HOT_RISE_C if state == "open" else truth.rise_c

    return bend


def _worn(truth: UnitState, size: float) -> None:
    truth.drag = 0.1 + 0.3 * size
    truth.play = "much" if size > 0.5 else "some"
    truth.feel, truth.rise_c = "rough" if truth.chance.happens("rough", 0.6) else "stiff", WARM_RISE_C


def _seized(truth: UnitState, size: float) -> None:
    truth.locked, truth.feel, truth.rise_c = True, "locked", WARM_RISE_C
    truth.play = "some" if size > 0.5 else "none"


def _look(*looks: str, rub: float = 0.0) -> FaultEffect:
    def bend(truth: UnitState, size: float) -> None:
        iced = truth.air_c < 6 and "iced" in looks
        truth.load_look = "iced" if iced else truth.chance.pick("look", [look for look in looks if look != "iced"])
        truth.rub += rub * (0.4 + size)

    return bend


def _hub(truth: UnitState, size: float) -> None:
    truth.load_look, truth.slip = "hub_loose", 0.4 + 0.55 * size


def _belt(truth: UnitState, size: float) -> None:
    truth.belt = "broken" if size > 0.7 else "slack" if size > 0.3 else "misaligned"
    truth.drag += 0.06 * (truth.belt == "misaligned")


def _air(truth: UnitState, size: float) -> None:
    truth.air = 0.25 + 0.7 * size


def _blocked_vent(truth: UnitState, size: float) -> None:
    truth.vent_blocked, truth.air = True, 0.35 + 0.5 * size


def _other_part(truth: UnitState, size: float) -> None:
    """Something else on the circuit, the compressor's section of a shared capacitor where there is one."""
    truth.herm_ratio = 0.55 if truth.call.unit.run_capacitor == "dual" else 1.0


FAULT_EFFECTS: dict[str, FaultEffect] = {
    "supply_missing": _cut("supply"),
    "supply_low": _supply(0.89, 0.8),
    "supply_high": _supply(1.12, 1.2),
    "voltage_unbalance": _unbalance,
    "phase_lost": _set(lost_line=True),
    "breaker_tripped": _cut("breaker"),
    "disconnect_open": _cut("disconnect"),
    "fuse_open": _cut("fuse"),
    "starter_overload_tripped": _cut("starter"),
    "switch_not_pulled_in": _cut("coil"),
    "switch_contacts_bad": _contacts,
    "switch_welded": _welded,
    "control_call_absent": _cut("call"),
    **{fault: _hold(name) for fault, name in HOLDS.items()},
    "safety_open": _cut("safety"),
    "pressure_switch_stuck": _set(safety_stuck=True),
    "conductor_open": _set(wire="open"),
    "conductor_chafed": _set(wire="chafed"),
    "connection_bad": _joint,
    "miswired": _set(swapped=True),
    "capacitor_open": _times_uf(0.0, 0.02),
    "capacitor_weak": _times_uf(0.88, 0.3),
    "capacitor_high": _times_uf(1.12, 1.35),
    "capacitor_shorted": _set(uf_shorted=True),
    "capacitor_grounded": _set(can_mohm=0.004),
    "capacitor_damaged": _damaged,
    "capacitor_wrong_value": lambda truth, size: None,
    "capacitor_under_rated": lambda truth, size: None,
    "winding_run_open": _opened("run"),
    "winding_start_open": _opened("start"),
    "winding_open": _opened("all"),
    "winding_tap_open": _tap,
    "winding_turns_shorted": _shorted,
    "winding_grounded": _grounded,
    "insulation_low": _damp,
    "overload_tripped": _overload("open"),
    "overload_open": _overload("failed"),
    "bearings_worn": _worn,
    "bearings_seized": _seized,
    "load_damaged": _look("bent", "cracked", "packed"),
    "load_jammed": _look("jammed", "iced"),
    "load_rubbing": _look("rubbing", rub=0.25),
    "hub_loose": _hub,
    "belt_bad": _belt,
    "wrong_rotation": _set(backwards=True),
    "wrong_motor_fitted": _set(rise_c=WARM_RISE_C),
    "air_restricted": _air,
    "vent_or_drain_blocked": _blocked_vent,
    "ecm_command_absent": _cut("command"),
    "ecm_power_absent": _cut("power"),
    "ecm_module": _set(module=False),
    "ecm_motor": _set(coils=False),
    "parallel_load_fault": _other_part,
}
"""What each fault of the contract does to the quantities, at a size from 0 to 1."""
