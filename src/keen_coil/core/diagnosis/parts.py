"""The parts of the path in this unit, from the supply to the air: computed from the unit, one rule a row.

Each part belongs to a link of the contract and to the test that looks at it. Control parts lead to the switch.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from ..call import Call
from ..tables import complete
from ..unit_kinds import has_compressor
from ..vocabulary import SwitchKind, words_of
from .applies import has, has_taps, switch_kind, three_phases
from .compound import turns_wheel

Place = Literal["way", "control", "aside"]


@dataclass(frozen=True)
class Part:
    """A part of the path: its key, link, name for the technician, the test that looks at it, where it is drawn."""

    key: str
    link: str
    name: str
    kind: str
    at: str | None
    place: Place
    note: str = ""


Says = Callable[[Call], str]


@dataclass(frozen=True)
class Rule:
    """A row: the part, its name (fixed or from the unit), what the unit must have for it to be there (`applies`)."""

    key: str
    link: str
    name: str | Says
    kind: str
    at: str | None
    place: Place
    needs: str = ""


def _inducer(call: Call) -> bool:
    return call.motor.role == "inducer"


def _ecm(call: Call) -> bool:
    return call.motor.traits.is_electronic


_SWITCH = {
    "contactor": "contactor",
    "relay": "relay",
    "sequencer": "sequencer",
    "board": "board relay",
    "starter": "starter",
    "remote_switch": "speed switch",
}
complete(_SWITCH, words_of(SwitchKind), "_SWITCH")


def _switch_name(call: Call) -> str:
    return _SWITCH[switch_kind(call)]


def _note(key: str, call: Call) -> str:
    """What a part wants to be known for before it is tested: a one-pole switch leaves a leg live."""
    one_pole = key == "switch" and call.unit.switch is not None and call.unit.switch.poles == 1
    return "1 pole" if one_pole and switch_kind(call) in ("contactor", "relay", "sequencer") else ""


def _windings_name(call: Call) -> str:
    if has_taps(call):
        speeds = max(call.motor.speeds or 1, len(call.motor.speed_amps_a), len(call.speeds_used))
        return f"{speeds} speed taps" if speeds > 1 else "speed taps"
    return "module, motor" if _ecm(call) else "three phases" if three_phases(call) else "windings"


def _air_name(call: Call) -> str:
    if _inducer(call):
        return "vent and drain"
    return "filter, ducts" if call.motor.role == "indoor_blower" else "coil"


def _capacitor_name(call: Call) -> str:
    return {"dual": "dual capacitor", "own": "own capacitor"}.get(call.unit.run_capacitor or "", "capacitor")


def _safety_name(call: Call) -> str:
    if _inducer(call):
        return "limits, roll-out"
    if call.motor.role == "indoor_blower":
        return "limit" if call.unit.kind in ("furnace", "package_unit") else "float switch"
    return "pressure sw."


RULES: tuple[Rule, ...] = (
    Rule("supply", "supply", lambda call: "three lines" if three_phases(call) else "supply", "supply_v", "unit", "way"),
    Rule("breaker", "protection", "breaker", "breaker", None, "way"),
    Rule("fuses", "protection", "three fuses", "fuse", None, "way", "three_phase"),
    Rule(
        "disconnect",
        "disconnect",
        lambda call: "disconnect" if has_compressor(call.unit.kind) else "service switch",
        "disconnect",
        None,
        "way",
    ),
    Rule("switch", "switching", _switch_name, "supply_v", "switch_load", "way"),
    Rule("starter_overload", "protection", "its overload", "starter_overload", None, "way", "starter"),
    Rule("wire", "wiring", "wire", "supply_v", "motor", "way"),
    Rule("joints", "connections", lambda call: "plug" if _ecm(call) else "connections", "connection", None, "way"),
    Rule("capacitor", "capacitor", _capacitor_name, "capacitance_uf", None, "way", "psc"),
    Rule("overload", "overload", "overload", "winding_ohm", None, "way", "overload"),
    Rule("windings", "windings", _windings_name, "winding_ohm", None, "way", "not_ecm"),
    Rule("module", "windings", _windings_name, "ecm_winding_ohm", None, "way", "ecm"),
    Rule("bearings", "bearings", "bearings", "spin", None, "way"),
    Rule("belt", "load", "belt", "belt_look", None, "way", "belt"),
    Rule("load", "load", lambda call: "wheel" if turns_wheel(call) else "blade", "load_look", None, "way"),
    Rule("air", "air", _air_name, "air_path", None, "way", "not_inducer"),
    Rule("vent", "air", _air_name, "vent_drain", None, "way", "inducer"),
    Rule(
        "call",
        "control",
        lambda call: "call for heat" if _inducer(call) else "call for fan",
        "control_call",
        None,
        "control",
    ),
    Rule("door", "control", "door switch", "hold", "door_switch", "control", "indoor"),
    Rule("safeties", "control", _safety_name, "safety", None, "control"),
    Rule("pressure", "control", "air switch", "safety", "pressure_switch", "control", "inducer"),
    Rule("defrost", "control", "defrost", "hold", "defrost", "control", "heat_pump"),
    Rule("delay", "control", "delay", "hold", "delay", "control", "not_inducer"),
    Rule("lockout", "control", "board lockout", "hold", "board_lockout", "control", "board"),
    Rule("leak", "control", "leak lockout", "hold", "leak_lockout", "control", "flammable"),
    Rule("command", "control", "command", "ecm_command", None, "control", "ecm"),
    Rule("frame", "insulation", "winding to ground", "ground_ohm", None, "aside", "not_ecm"),
    Rule("frame_ecm", "insulation", "winding to ground", "ecm_ground_ohm", None, "aside", "ecm"),
    Rule("running", "running", "how it runs", "turns_way", None, "aside"),
    Rule(
        "sister",
        "running",
        lambda call: "sister fan" if (call.unit.sisters or 0) == 1 else "sister fans",
        "sister_amps_a",
        None,
        "aside",
        "sisters",
    ),
)


def parts_of(call: Call) -> list[Part]:
    """The parts of this unit's path, in the order of the current; then control, then what hangs beside."""
    return [
        Part(
            rule.key,
            rule.link,
            rule.name if isinstance(rule.name, str) else rule.name(call),
            rule.kind,
            rule.at,
            rule.place,
            _note(rule.key, call),
        )
        for rule in RULES
        if has(call, rule.needs)
    ]
