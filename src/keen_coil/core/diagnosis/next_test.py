"""The next test: which reading tells most for its minutes, what may not be done yet, and why.

Rate = expected bits / (minutes + minutes to fetch and note it + minutes to change the power state). So tests of the
present power state are worked off before the power is switched; at a tie dead and upstream tests come first.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from pydantic import BaseModel, Field

from ..call import Call
from ..judge.capacitor import fan_section
from ..judge.cooling import still_to_cool
from ..readings import KINDS
from .belief import Belief
from .case import Case
from .compound import amps_question
from .condemn import COMMUTATED, Gate
from .expected import gains, most_in_question
from .faults import FAULTS
from .prior import has_taps, three_phases
from .unit_path import LinkReport, no_overload, not_here_reason

SWITCH_POWER_MINUTES = 3
MOST = 5
HANDLING_MINUTES = 4.0
PROOF_BITS = 0.02
GATE_BITS = 0.6


class NextTest(BaseModel):
    """A test to make next: its kind and qualifiers, why, minutes, power state, and the bits it is expected to tell."""

    kind: str
    at: str | None = None
    section: str | None = None
    with_: str | None = Field(None, serialization_alias="with")
    why: str
    minutes: float
    power: str
    gain_bits: float


class TestRow(NamedTuple):
    """A test that can be made: its question in the evidence table, the links it proves, what the unit must have."""

    kind: str
    at: str | None
    minutes: float
    question: str
    links: tuple[str, ...]
    why: str
    needs: str = ""
    detail: str = ""


SETTLES: dict[str, tuple[str, ...]] = {
    "bearings_seized": ("shaft", "load"), "overload_open": ("conductor",), "winding_grounded": ("ground", "megger"),
    "ecm_motor": ("ecm_windings", "ecm_frame", "turns"), "ecm_module": ("ecm_windings", "ecm_frame", "turns"),
    "ecm_module_or_motor": ("ecm_windings", "ecm_frame", "turns"),
}  # fmt: skip
"""Dead tests that settle a condemnation alone, or part what is still one of two."""

_FEED = ("supply", "protection", "disconnect")
TESTS: tuple[TestRow, ...] = (
    TestRow("breaker", None, 0.5, "breaker", ("protection",), "A tripped breaker is seen, not measured."),
    TestRow("disconnect", None, 0.5, "disconnect", ("disconnect",), "An open disconnect is seen, not measured."),
    TestRow("starter_overload", None, 0.5, "starter", ("protection",), "A tripped starter overload is seen, and says the motor was overloaded.", "starter"),
    TestRow("hold", "delay", 0.5, "hold_delay", (), "A delay still counting looks like a dead motor."),
    TestRow("hold", "defrost", 0.5, "hold_defrost", (), "In defrost the outdoor fan is meant to stand still.", "heat_pump"),
    TestRow("hold", "fan_control", 0.5, "hold_fan_control", (), "In the cold a fan control holds the fan off.", "outdoor"),
    TestRow("hold", "leak_lockout", 0.5, "hold_leak_lockout", (), "A leak lockout holds it off.", "flammable"),
    TestRow("hold", "board_lockout", 0.5, "hold_board_lockout", (), "A board in lockout calls for nothing."),
    TestRow("hold", "door_switch", 0.5, "hold_door_switch", (), "An open door switch takes the control power away.", "indoor"),
    TestRow("safety", None, 1.5, "safety", (), "An open safety keeps the motor off; a stuck one keeps the board from starting."),
    TestRow("control_call", None, 1, "call", ("control",), "Tells a fan that is not called for from one that cannot run."),
    TestRow("switch_pulled_in", None, 0.7, "switch", ("switching", "control"), "Seen or heard: has the switch pulled in?", "switch"),
    TestRow("supply_v", "unit", 1, "volts_unit", ("supply",), "Proves the supply into the unit."),
    TestRow("supply_v", "switch_line", 1, "volts_switch_line", _FEED, "Proves breaker and disconnect too."),
    TestRow("supply_v", "switch_load", 1.5, "volts_switch_load", (*_FEED, "control", "switching"), "Right volts behind the switch prove everything up to there.", "switch"),
    TestRow("supply_v", "motor", 2, "volts_motor", (*_FEED, "control", "switching", "wiring", "connections"), "Right volts at the motor's leads prove the whole way to it.", "not_ecm"),
    TestRow("contact_drop_v", None, 1.5, "contact", ("switching",), "Full volts go through a burnt contact without load: read across it.", "switch"),
    TestRow("ecm_power", None, 1, "ecm_power", (*_FEED, "wiring", "connections"), "Line power at the plug tells module and motor from everything ahead.", "ecm"),
    TestRow("ecm_command", None, 1, "ecm_command", ("control", "switching"), "Without a command the best motor stands still.", "ecm"),
    TestRow("fuse", None, 1, "fuse", ("protection",), "Out of the circuit: through it or not.", "fused"),
    TestRow("capacitor_look", None, 0.5, "cap_look", ("capacitor",), "A bulge or oil condemns a capacitor before the meter is out.", "capacitor"),
    TestRow("capacitance_uf", None, 2, "cap", ("capacitor",), "The part that fails most, and the cheapest.", "capacitor"),
    TestRow("capacitor_case_ohm", None, 1, "cap_can", ("capacitor",), "A capacitor grounded to its can trips the breaker at normal µF.", "capacitor"),
    TestRow("capacitance_uf", None, 1.5, "herm", (), "The same can serves the compressor.", "dual", "herm"),
    TestRow("winding_ohm", None, 3, "winding", ("windings", "overload"), "The pairs tell a burnt winding from the capacitor, and which lead is which.", "not_ecm"),
    TestRow("ecm_winding_ohm", None, 4, "ecm_windings", ("windings",), "Module off: three equal pairs leave the module.", "ecm"),
    TestRow("ground_ohm", None, 1.5, "ground", ("insulation",), "Nothing is energised before this has passed.", "not_ecm"),
    TestRow("insulation_mohm", None, 4, "megger", ("insulation",), "An ohmmeter's few volts do not find weak insulation.", "not_ecm"),
    TestRow("ecm_ground_ohm", None, 1.5, "ecm_frame", ("insulation",), "Module off: each pair far from the frame.", "ecm"),
    TestRow("ground_ohm", "switch_load", 1.5, "line_ground", (), "From the switch on: wire and motor together.", "not_ecm"),
    TestRow("winding_ohm", "switch_load", 3, "run", (), "From the starter's load side: tells wire from motor.", "three_phase"),
    TestRow("conductor", None, 3, "conductor", ("wiring",), "Both ends off: through it, and clear of metal?"),
    TestRow("connection", None, 1, "connection", ("connections",), "Look at the terminals: loose, burnt, off."),
    TestRow("spin", None, 0.5, "spin", ("bearings",), "Turn it by hand: free, stiff, rough or locked."),
    TestRow("spin", None, 4, "shaft", ("bearings",), "With the load off the shaft shows whether bearings or blade hold it.", "", "bare_shaft"),
    TestRow("side_play", None, 0.5, "play", ("bearings",), "Push the shaft sideways: play is bearing wear."),
    TestRow("load_look", None, 0.5, "load", ("load",), "A stone or ice locks a good motor."),
    TestRow("belt_look", None, 0.5, "belt", ("load",), "A belt is seen before anything is measured.", "belt"),
    TestRow("air_path", None, 0.5, "air", ("air",), "A blocked coil or filter cooks the next motor too."),
    TestRow("vent_drain", None, 1.5, "vent", ("air",), "Water in the housing stops an inducer.", "inducer"),
    TestRow("draught_inwc", None, 3, "draught", (), "Draught against what the pressure switch needs.", "inducer"),
    TestRow("static_inwc", None, 3, "static", (), "Static pressure shows a blocked filter or coil.", "blower"),
    TestRow("air_speed_fpm", None, 5, "flow", (), "A traverse shows weak or reversed air.", "air"),
    TestRow("turned_before_power", None, 0.3, "wind", (), "A fan that the wind turned runs on backwards with a weak capacitor.", "outdoor"),
    TestRow("turns_way", None, 1, "turns", (), "Say what it does when it is called for."),
    TestRow("starts_with_push", None, 0.7, "push", (), "With a stick through the guard: a start by push points to capacitor or start winding.", "psc"),
    TestRow("noise", None, 1, "noise", (), "Listen: a hum, a squeal, a rub each say something."),
    TestRow("run_amps_a", None, 2, "amps", (), "Amps tell load, volts and windings from each other."),
    TestRow("sister_amps_a", None, 2, "sister", (), "The sister on the same unit is the best reference.", "sisters"),
    TestRow("run_rpm", None, 3, "rpm", (), "Speed against the plate shows drag, slip and the wrong class."),
    TestRow("shell_c", None, 1, "shell", ("overload",), "The overload can only be judged on a cool motor."),
)  # fmt: skip


def _is(*kinds: str | None) -> Callable[[Call], bool]:
    return lambda call: call.motor.kind in kinds


_OUTDOOR = ("split_condenser", "heat_pump_outdoor", "package_unit", None)
NEEDS: dict[str, Callable[[Call], bool]] = {
    "": lambda call: True,
    "ecm": _is("ecm"), "not_ecm": lambda call: call.motor.kind != "ecm", "psc": _is("psc", None),
    "three_phase": three_phases, "taps": has_taps,
    "capacitor": lambda call: not_here_reason(call) is None,
    "dual": lambda call: call.unit.run_capacitor in ("dual", "compressor_only"),
    "belt": lambda call: call.motor.drive == "belt",
    "starter": lambda call: call.unit.switch is not None and call.unit.switch.kind == "starter",
    "fused": lambda call: three_phases(call) or call.unit.kind in ("furnace", "air_handler", "package_unit"),
    "heat_pump": lambda call: call.unit.kind == "heat_pump_outdoor",
    "outdoor": lambda call: call.motor.role in (None, "condenser_fan") and call.unit.kind in _OUTDOOR,
    "indoor": lambda call: call.motor.role in ("indoor_blower", "inducer"),
    "flammable": lambda call: bool(call.unit.refrigerant_mildly_flammable),
    "inducer": lambda call: call.motor.role == "inducer", "blower": lambda call: call.motor.role == "indoor_blower",
    "air": lambda call: call.motor.role != "inducer", "sisters": lambda call: bool(call.unit.sisters),
    "switch": lambda call: call.motor.kind != "ecm" or call.unit.switch is not None,
}  # fmt: skip
_RUNS_ONLY = ("run_amps_a", "sister_amps_a", "run_rpm", "air_speed_fpm", "static_inwc", "draught_inwc", "contact_drop_v")
_FED = (*_RUNS_ONLY, "turns_way", "starts_with_push", "noise")


def next_tests(case: Case, path: dict[str, LinkReport], belief: Belief, leading: str | None, passed: Gate, verdict: str) -> list[NextTest]:
    """The tests to make next, best first."""
    if verdict == "cool_and_retest":
        cooling = [_offer(row, case, belief, 1.0) for row in TESTS if row.question in ("shell", "winding")]
        return cooling if _shell_read(case) else cooling[::-1]
    state = power_now(case)
    rows = [row for row in TESTS if NEEDS[row.needs](case.call) and _open(row, case, path) and _wise(row, case, path)]
    bits = gains(belief, tuple(dict.fromkeys(_question(row, case) for row in rows if _question(row, case))))
    wanted = set(passed.missing) if _wants_gate(leading) and not passed.definite else set()
    found = []
    for order, row in enumerate(rows):
        gain = bits.get(_question(row, case), 0.0)
        to_prove = any(path[link].state in ("unproved", "suspect") for link in row.links)
        gain += GATE_BITS * len(wanted & set(row.links)) + PROOF_BITS * to_prove
        gain += GATE_BITS * (not passed.definite and row.question in SETTLES.get(leading or "", ()))
        if row.kind == "shell_c" and to_cool(case):
            gain += 1.0
        if gain >= PROOF_BITS / 2:
            found.append((_rate(row, gain, state), KINDS[row.kind].power == "live", order, row, gain))
    found.sort(key=lambda item: (-round(item[0], 4), item[1], item[2]))
    settled = verdict != "not_proved"
    return [_offer(row, case, belief, gain, settled) for _, _, _, row, gain in found[:MOST]]


def _wants_gate(leading: str | None) -> bool:
    return leading is not None and (FAULTS[leading].verdict == "condemn_motor" or leading in COMMUTATED)


def _question(row: TestRow, case: Case) -> str:
    """The question in the evidence table that this row answers on this motor."""
    if row.question == "amps":
        return amps_question(case.call)
    if row.question == "wind":
        return ""
    return "turns_blown" if row.question == "turns" and "wind.yes" in case.signals else row.question


def power_now(case: Case) -> str | None:
    """The power state the latest reading was taken in, if it says."""
    states = [r.power_state for _, r in case.call.standing() if r.power_state != "any"]
    return states[-1] if states else None


def to_cool(case: Case) -> str:
    """What an open winding reading still lacks for a judgement on a cool motor; empty when nothing."""
    if no_overload(case.call) or case.call.motor.protection == "fuse":
        return ""
    opened = [r for i, r in case.call.standing("winding_ohm") if "OL" in str(r.value) and i not in case.superseded]
    tapped = "winding.tap_open" in case.signals
    return still_to_cool(case.call, opened[-1], case.limits) if opened and not tapped else ""


def _shell_read(case: Case) -> bool:
    """Whether the shell was read since a winding was found open: then the windings are what to read again."""
    opened = [i for i, r in case.call.standing("winding_ohm") if "OL" in str(r.value)]
    return any(i > max(opened, default=-1) for i, _ in case.call.standing("shell_c"))


def no_live_tests(case: Case) -> str | None:
    """Why nothing may be energised yet; None when it may."""
    failed = {"ground.grounded", "ground.low", "ground.low_dried", "megger.grounded", "megger.low", "megger.low_dried",
              "line_ground.low", "cap_can.grounded", "cap.shorted", "conductor.chafed"}  # fmt: skip
    if failed & set(case.signals):
        return "The insulation has failed."
    tripped = {"breaker.tripped", "fuse.open"} & set(case.signals)
    if case.call.complaint.symptom == "trips" or tripped:
        cleared = {"ground.clear", "megger.good", "line_ground.clear", "ecm_frame.clear"} & set(case.signals)
        return None if cleared else "Something tripped it: test to ground first."
    return None


def _rate(row: TestRow, gain: float, state: str | None) -> float:
    power = KINDS[row.kind].power
    other = state is not None and power not in (state, "any")
    return gain / (row.minutes + HANDLING_MINUTES + SWITCH_POWER_MINUTES * other)


def _open(row: TestRow, case: Case, path: dict[str, LinkReport]) -> bool:
    """Whether the test has not been made yet with an answer that holds."""
    if row.kind == "shell_c":
        return bool(to_cool(case)) and not _shell_read(case)
    answered = {key.partition(".")[0] for key in case.signals}
    if row.question == "winding":
        return not answered & {"winding"} or bool(to_cool(case)) or "winding.sum_off" in case.signals
    if row.question in ("ground", "line_ground") and {"megger.good"} & set(case.signals):
        return False
    if row.question == "shaft":
        return "shaft" not in answered and bool({"spin.locked", "spin.stiff", "spin.rough"} & set(case.signals))
    proves = row.kind in ("supply_v", "control_call", "switch_pulled_in")
    if proves and all(path[link].state == "proved" for link in row.links):
        return False
    return row.question not in answered and not _made(row, case)


def _made(row: TestRow, case: Case) -> bool:
    """Whether it was made and told nothing; a suspect or borderline reading may be made better once."""
    states = [
        judged.judgement.state
        for index, judged in case.counting
        if (r := case.call.readings[index]).kind == row.kind
        and row.at in (None, r.at, r.place)
        and (row.detail != "herm") == (r.section != "herm")
        and row.question != "shaft"
    ]
    return bool(states) and (len(states) > 1 or states[0] in ("normal", "failed", "unjudged"))


def _wise(row: TestRow, case: Case, path: dict[str, LinkReport]) -> bool:
    """Whether the test may be made now, and makes sense."""
    if KINDS[row.kind].power == "live" and no_live_tests(case):
        return False
    if row.kind == "supply_v" and row.at in ("switch_load", "motor") and path["control"].state == "failed":
        return False
    if row.kind in _RUNS_ONLY and "turns.not" in case.signals and row.kind != "run_amps_a":
        return False
    if row.kind in _FED:
        return path["supply"].state == "proved" and path["control"].state != "failed"
    return True


def _offer(row: TestRow, case: Case, belief: Belief, gain: float, settled: bool = False) -> NextTest:
    section = None
    if row.kind == "capacitance_uf":
        section = "herm" if row.detail == "herm" else fan_section(case.call)
    why = row.why if row.kind != "shell_c" or not to_cool(case) else f"{row.why} Still to do: {to_cool(case)}."
    asked = most_in_question(belief, _question(row, case)) if _question(row, case) else None
    if asked and not settled:
        why += f" It would show or clear: {FAULTS[asked].says[:1].lower()}{FAULTS[asked].says[1:]}"
    return NextTest(
        kind=row.kind, at=row.at, section=section, with_="bare_shaft" if row.detail == "bare_shaft" else None,
        why=why, minutes=row.minutes, power=KINDS[row.kind].power, gain_bits=round(gain, 3),
    )  # fmt: skip
