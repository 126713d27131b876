"""Faulted units that do not know the engine: own physics, own rates, meter error, things no table foresees.

Imports nothing from `core/diagnosis` or `core/machine`. A unit is a handful of physical quantities; a fault bends
some of them; every reading is computed from the quantities and then spoilt by a meter or a person. Run-capacitor
motors are solved by `true_motor.py`, each with a plate of its own.
"""

from __future__ import annotations

import random
from dataclasses import dataclass, field
from typing import Any

from .true_motor import TrueMotor, draw, runs

UNFORESEEN_SHARE = 0.25
ROLES = ("condenser_fan", "indoor_blower", "inducer")
KINDS = ("psc", "shaded_pole", "three_phase", "ecm")
MOTOR_FAULTS = {
    "winding_run_open",
    "winding_start_open",
    "winding_open",
    "winding_turns_shorted",
    "winding_grounded",
    "overload_open",
    "bearings_seized",
    "ecm_motor",
    "ecm_module",
}


@dataclass
class Unit:
    """A unit as it really is. Ratios are of the nominal value."""

    role: str
    kind: str
    rng: random.Random
    faults: set[str] = field(default_factory=set)
    unforeseen: str = ""
    nominal: float = 230.0
    supply: float = 1.0
    legs_lost: bool = False
    unbalance: float = 0.0
    blocked: str = ""
    contact_v: float = 0.05
    wire: str = "sound"
    joint: str = "sound"
    uf: float = 5.0
    uf_ratio: float = 1.0
    label_ratio: float = 1.0
    can_mohm: float = 1e4
    cap_look: str = "sound"
    run_ohm: float = 14.0
    start_ohm: float = 38.0
    open: str = ""
    short: float = 0.0
    mohm: float = 400.0
    drag: float = 0.05
    play: float = 0.05
    locked: bool = False
    load: str = "sound"
    slip: float = 0.0
    air: float = 1.0
    vent: bool = True
    belt: str = "sound"
    module: bool = True
    coils: bool = True
    backwards: bool = False
    plate_amps: float = 1.4
    hot: bool = False
    motor: TrueMotor | None = None

    @property
    def three(self) -> bool:
        return self.kind == "three_phase"

    @property
    def sections(self) -> bool:
        return self.kind == "psc"

    @property
    def belted(self) -> bool:
        return self.three and self.role == "indoor_blower"

    def volts(self, at: str) -> float:
        """Volts across the line at a point, called for, as a ratio of nominal."""
        cut = {
            "unit": ("supply",),
            "switch_line": ("supply", "breaker", "disconnect", "fuse"),
            "switch_load": (
                "supply",
                "breaker",
                "disconnect",
                "fuse",
                "starter",
                "call",
                "held",
                "safety",
                "coil",
                "contact",
            ),
        }
        if self.blocked in cut.get(at, (*cut["switch_load"], "power", "command")):
            return self.rng.uniform(0, 0.02)
        if at == "motor" and (self.wire == "open" or self.joint == "off"):
            return self.rng.uniform(0, 0.03)
        drop = self.contact_v / self.nominal if at in ("switch_load", "motor") else 0.0
        return self.supply * (1 - drop) * (0.9 if at == "motor" and self.joint == "burnt" else 1.0)

    @property
    def fed(self) -> bool:
        return self.volts("motor") > 0.5

    @property
    def torque(self) -> float:
        """Starting torque as a ratio of what the load needs."""
        if not self.fed or self.open or not self.module or not self.coils:
            return 0.0
        phase_shift = min(1.2, self.uf_ratio * self.label_ratio) if self.sections else 1.0
        if self.legs_lost:
            phase_shift = 0.0
        return 2.2 * self.volts("motor") ** 2 * phase_shift * (1 - 0.9 * self.short)

    @property
    def state(self) -> tuple[str, float, float, float, float]:
        """A run-capacitor motor under its volts, capacitor, load and drag: as `true_motor.runs` gives it."""
        assert self.motor is not None
        volts = round(self.nominal * self.volts("motor"), 1)
        uf = round(self.uf * self.uf_ratio * self.label_ratio, 2)
        air = (1 / self.air if self.role != "condenser_fan" else self.air) * (1 - 0.9 * self.slip)
        drag = 0.0 if self.drag < 0.1 else 0.8 * self.drag
        cut = {"start": "aux", "run": "main"}.get(self.open, "")
        found = runs(self.motor, volts, uf, round(air, 3), round(drag, 3), cut, round(0.25 * self.short, 3))
        held = self.locked or self.load in ("jammed", "iced")
        return ("stands", found[3], 0.0, found[3], found[4]) if held else found

    @property
    def starts_pushed(self) -> bool:
        """Whether it runs, by itself or once pushed."""
        if self.motor is None:
            return self.open in ("", "start") and self.supply > 0.8
        return self.fed and self.state[0] in ("starts", "pushed")

    def rpm(self) -> float:
        """Speed, rpm."""
        if self.motor is not None:
            return self.state[2]
        return 1075 * (1 - 0.12 * self.short * 4) * (1 - 0.08 * max(0, 1 - self.uf_ratio)) * (1 + 0.05 * self.slip)

    @property
    def turns(self) -> bool:
        if self.motor is not None:
            return self.fed and self.open not in ("all", "common") and self.state[0] == "starts"
        return (
            not self.locked
            and self.load not in ("jammed", "iced")
            and self.torque > 0.75 + 1.2 * self.drag
            and self.belt != "broken"
        )

    @property
    def draws(self) -> bool:
        """Whether current can flow at all."""
        return (
            self.fed and self.open not in ("all", "common") and self.module and (self.coils or self.rng.random() < 0.3)
        )

    def amps(self) -> float:
        """Whole current, A."""
        if not self.draws:
            return 0.0
        if self.motor is not None:
            state, amps, _, rest, _ = self.state
            return amps if state == "starts" else rest
        if not self.turns:
            return (
                self.plate_amps
                * self.rng.uniform(1.7, 2.6)
                * (0.6 if self.open else 1.0)
                * (0.12 if self.kind == "ecm" else 1.0)
            )
        wheel = self.role != "condenser_fan"
        load = (1 / self.air if wheel else self.air) * (1 - 0.75 * self.slip) + 0.6 * self.drag
        weak = 0.45 * max(0.0, 1 - self.uf_ratio * self.label_ratio) if self.sections else 0.0
        size = 0.45 + 0.5 * load + weak + 2.0 * self.short + abs(self.supply - 1) * 1.2
        return self.plate_amps * max(0.3, size) * self.rng.uniform(0.96, 1.02)


def _pick(rng: random.Random, role: str, kind: str) -> str:
    """A fault that this unit can have, by rates of this file."""
    rates: dict[str, float] = {
        "supply_missing": 3,
        "supply_low": 2,
        "breaker_tripped": 2,
        "disconnect_open": 2,
        "control_call_absent": 5,
        "delay_hold": 2,
        "safety_open": 3,
        "switch_not_pulled_in": 4,
        "switch_contacts_bad": 5,
        "conductor_open": 3,
        "connection_bad": 4,
        "conductor_chafed": 3,
        "bearings_worn": 9,
        "bearings_seized": 7,
        "load_jammed": 4,
        "load_rubbing": 3,
        "hub_loose": 3,
        "load_damaged": 3,
        "air_restricted": 8,
        "wrong_rotation": 1 if kind != "shaded_pole" else 0,
        "none": 5,
    }
    if kind == "psc":
        rates |= {
            "capacitor_weak": 16,
            "capacitor_open": 7,
            "capacitor_grounded": 2,
            "capacitor_damaged": 4,
            "capacitor_wrong_value": 3,
            "winding_start_open": 4,
            "winding_run_open": 3,
        }
    if kind != "ecm":
        rates |= {
            "winding_turns_shorted": 3,
            "winding_grounded": 4,
            "insulation_low": 2,
            "overload_tripped": 6,
            "overload_open": 2,
        }
    if kind in ("shaded_pole", "three_phase"):
        rates |= {"winding_open": 5}
    if kind == "three_phase":
        rates |= {"phase_lost": 5, "voltage_unbalance": 4, "fuse_open": 4, "starter_overload_tripped": 4}
        rates |= {"belt_bad": 6} if role == "indoor_blower" else {}
    if kind == "ecm":
        rates |= {"ecm_module": 14, "ecm_motor": 4, "ecm_command_absent": 6, "ecm_power_absent": 5}
        for name in ("switch_contacts_bad", "switch_not_pulled_in", "conductor_chafed"):
            rates.pop(name)
    if role == "inducer":
        rates |= {"vent_or_drain_blocked": 9, "pressure_switch_stuck": 4, "air_restricted": 0}
    names = list(rates)
    return rng.choices(names, [rates[name] for name in names])[0]


def _bend(unit: Unit, fault: str) -> None:
    """What a fault does to the unit's quantities."""
    u = unit.rng.uniform
    blocks = {
        "supply_missing": "supply",
        "breaker_tripped": "breaker",
        "disconnect_open": "disconnect",
        "fuse_open": "fuse",
        "starter_overload_tripped": "starter",
        "control_call_absent": "call",
        "delay_hold": "held",
        "safety_open": "safety",
        "switch_not_pulled_in": "coil",
        "pressure_switch_stuck": "safety",
        "ecm_power_absent": "power",
        "ecm_command_absent": "command",
    }
    changes: dict[str, dict[str, Any]] = {
        "supply_low": {"supply": u(0.9, 0.975) * {460.0: 0.9, 230.0: 0.814, 120.0: 0.8625}[unit.nominal]},
        "voltage_unbalance": {"unbalance": u(5.8, 9)},
        "phase_lost": {"legs_lost": True},
        "switch_contacts_bad": {"contact_v": unit.nominal * u(0.12, 1.0)},
        "conductor_open": {"wire": "open"},
        "connection_bad": {"joint": unit.rng.choice(["burnt", "off"])},
        "conductor_chafed": {"wire": "chafed"},
        "capacitor_weak": {"uf_ratio": u(0.2, 0.88)},
        "capacitor_open": {"uf_ratio": u(0, 0.03)},
        "capacitor_grounded": {"can_mohm": 10 ** u(-5, -1)},
        "capacitor_damaged": {"cap_look": unit.rng.choice(["bulged", "leaking", "burnt"]), "uf_ratio": u(0.1, 1.0)},
        "capacitor_wrong_value": {"label_ratio": unit.rng.choice([0.5, 0.67, 1.5, 2.0])},
        "winding_start_open": {"open": "start"},
        "winding_run_open": {"open": "run"},
        "winding_open": {"open": "all"},
        "winding_turns_shorted": {"short": u(0.12, 0.5)},
        "winding_grounded": {"mohm": 10 ** u(-5, -1.3)},
        "insulation_low": {"mohm": u(0.3, 3.5)},
        "overload_tripped": {"open": "common", "hot": True},
        "overload_open": {"open": "common"},
        "bearings_worn": {"drag": u(0.15, 0.5), "play": u(0.3, 1)},
        "bearings_seized": {"locked": True, "drag": 1.0, "play": u(0, 0.6)},
        "load_jammed": {"load": unit.rng.choice(["jammed", "iced"])},
        "load_rubbing": {"load": "rubbing", "drag": u(0.1, 0.4)},
        "hub_loose": {"load": "hub_loose", "slip": u(0.4, 1.0)},
        "load_damaged": {"load": unit.rng.choice(["bent", "cracked", "packed"])},
        "air_restricted": {"air": u(1.15, 1.6)},
        "vent_or_drain_blocked": {"vent": False, "air": u(1.1, 1.4)},
        "wrong_rotation": {"backwards": True},
        "belt_bad": {"belt": unit.rng.choice(["slack", "broken", "misaligned"]), "slip": u(0.3, 0.8)},
        "ecm_module": {"module": False},
        "ecm_motor": {"coils": False},
    }
    if fault in blocks:
        unit.blocked = blocks[fault]
    for name, value in changes.get(fault, {}).items():
        setattr(unit, name, value)
    trips = {"conductor_chafed": 0.7, "winding_grounded": 0.5, "capacitor_grounded": 0.5}.get(fault, 0.0)
    if unit.rng.random() < trips and not unit.blocked:
        unit.blocked = "fuse" if unit.three and unit.rng.random() < 0.6 else "breaker"
        unit.faults.add("fuse_open" if unit.blocked == "fuse" else "breaker_tripped")
    if fault == "capacitor_damaged" and unit.uf_ratio < 0.94:
        unit.faults.add("capacitor_weak")


UNFORESEEN = (
    "misread",
    "missing_tests",
    "wrong_complaint",
    "second_fault",
    "meter_high",
    "unsure_hands",
    "wrong_label_typed",
    "runs_by_chance",
)


SIZES = {
    "condenser_fan": ((1 / 6, 1 / 4, 1 / 3, 1 / 2), (6, 6, 8)),
    "indoor_blower": ((1 / 4, 1 / 3, 1 / 2), (6,)),
    "inducer": ((1 / 40, 1 / 25, 1 / 15), (2,)),
}


def _fit_motor(unit: Unit) -> None:
    """A motor of its own for the unit, with its plate, its capacitor and its cold ohms."""
    sizes, poles = SIZES[unit.role]
    rng = unit.rng
    unit.motor = draw(rng, 230.0 if unit.nominal == 230 else 115.0, rng.choice(sizes), rng.choice(poles))
    cold = (234.5 + 30) / (234.5 + 95)
    unit.uf, unit.plate_amps = unit.motor.uf, unit.motor.amps
    unit.run_ohm, unit.start_ohm = cold * unit.motor.r1, cold * unit.motor.ra


def make(seed: int) -> Unit:
    """The unit of this seed."""
    rng = random.Random(seed)
    role, kind = rng.choice(ROLES), rng.choices(KINDS, [5, 2, 2, 2])[0]
    while (role == "inducer" and kind == "three_phase") or (
        role == "condenser_fan" and kind == "shaded_pole" and rng.random() < 0.7
    ):
        role, kind = rng.choice(ROLES), rng.choices(KINDS, [5, 2, 2, 2])[0]
    unit = Unit(role, kind, rng)
    unit.nominal = 460.0 if kind == "three_phase" else 120.0 if role != "condenser_fan" and kind != "ecm" else 230.0
    unit.supply = rng.gauss(1.0, 0.015)
    unit.uf, unit.plate_amps = (
        rng.choice([4, 5, 7.5, 10]),
        rng.choice([1.1, 1.4, 2.2, 4.8]) * (230 / unit.nominal if unit.nominal < 200 else 1),
    )
    if kind == "psc":
        _fit_motor(unit)
    unit.uf_ratio, unit.mohm, unit.drag, unit.play = (
        rng.gauss(1.0, 0.018),
        10 ** rng.uniform(2.1, 3.3),
        rng.uniform(0.02, 0.09),
        rng.uniform(0, 0.15),
    )
    if unit.motor is None:
        unit.run_ohm, unit.start_ohm = rng.uniform(6, 25), rng.uniform(30, 80)
    unit.air = rng.uniform(0.95, 1.06)
    fault = _pick(rng, role, kind)
    unit.faults.add(fault)
    _bend(unit, fault)
    if rng.random() < UNFORESEEN_SHARE:
        unit.unforeseen = rng.choice(UNFORESEEN)
        if unit.unforeseen == "second_fault" and fault != "none":
            other = _pick(rng, role, kind)
            if other not in ("none", fault):
                unit.faults.add(other)
                _bend(unit, other)
    return unit


def symptom(unit: Unit) -> str:
    """What the customer says."""
    rng = unit.rng
    if unit.unforeseen == "wrong_complaint" or rng.random() < 0.06:
        return rng.choice(["quiet", "hums_no_start", "noisy", "weak_air", "stops_hot", "other"])
    trips = (
        unit.mohm < 3 or unit.can_mohm < 0.5 or unit.wire == "chafed" or unit.blocked == "breaker" or unit.short > 0.35
    )
    if trips and rng.random() < 0.7:
        return "trips"
    if unit.legs_lost and rng.random() < 0.3:
        return "trips"
    if not unit.turns and unit.draws and unit.open != "all" and unit.kind != "ecm":
        return "hums_no_start" if rng.random() < 0.75 else "quiet"
    if not unit.turns:
        return rng.choices(["quiet", "high_pressure_lockout", "stops_hot", "other"], [8, 1, 3 if unit.hot else 0.3, 1])[
            0
        ]
    if unit.backwards:
        return rng.choices(["runs_backwards", "weak_air"], [2, 1])[0]
    if unit.drag > 0.12 or unit.load in ("rubbing", "bent", "cracked", "hub_loose") or unit.belt != "sound":
        return rng.choices(["noisy", "slow_start", "weak_air", "stops_hot"], [6, 1, 1, 1])[0]
    if unit.uf_ratio < 0.9 and unit.sections:
        return rng.choices(["slow_start", "stops_hot", "weak_air"], [3, 2, 1])[0]
    if unit.air > 1.1 or not unit.vent:
        return rng.choices(["weak_air", "high_pressure_lockout", "stops_hot"], [3, 2, 1])[0]
    if unit.supply < 0.9 or unit.unbalance > 5 or unit.short:
        return rng.choices(["stops_hot", "slow_start", "trips"], [2, 2, 1])[0]
    return rng.choice(["noisy", "weak_air", "stops_hot", "other", "quiet"])


def call(unit: Unit) -> dict[str, Any]:
    """The call file before any reading."""
    plate = {
        "condenser_fan": ("split_condenser", "propeller", "contactor"),
        "indoor_blower": ("air_handler", "forward_curved", "relay"),
        "inducer": ("furnace", "inducer_wheel", "board"),
    }[unit.role]
    label_uf = unit.uf * unit.label_ratio * (1.3 if unit.unforeseen == "wrong_label_typed" else 1.0)
    data: dict[str, Any] = {
        "format": "keen-coil/call",
        "version": 1,
        "complaint": {"symptom": symptom(unit)},
        "unit": {
            "kind": "package_unit" if unit.three else plate[0],
            "supply_v": unit.nominal,
            "phase": 3 if unit.three else 1,
            "hz": 60,
            "ambient_c": 30,
            "age_years": unit.rng.randint(1, 22),
            "run_capacitor": "own" if unit.sections else "none",
            "switch": {"kind": "starter" if unit.belted else plate[2], "poles": 1},
        },
        "motor": {
            "role": unit.role,
            "kind": unit.kind,
            "fan": plate[1],
            "volts": {460: "460", 120: "115", 230: "208-230"}[int(unit.nominal)],
            "amps_a": round(unit.plate_amps, 2),
            "phase": 3 if unit.three else 1,
            "hz": 60,
            "rpm": 1075,
            "drive": "belt" if unit.belted else "direct",
            "leads": 2 if unit.kind == "shaded_pole" else 3,
        },
    }
    if unit.motor is not None:
        data["motor"] |= {"hp": round(unit.motor.hp, 4), "rpm": unit.motor.rpm}
    if unit.sections:
        data["motor"] |= {"capacitor_uf": unit.uf, "capacitor_v": 370}
        data["capacitor"] = {"label": [{"section": "single", "uf": round(label_uf, 2)}], "volts_v": 440}
    return data
