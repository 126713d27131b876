"""The cause behind the failure, and the cautions: tables, each row with the condition it hangs on."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from pydantic import BaseModel

from ..judge.capacitor import bleed_seconds
from .applies import has
from .case import Case
from .faults import Verdict
from .unit_path import is_welded

BLEED_FACTOR = 10


class Cause(BaseModel):
    """Something that kills the next part too, and what to do about it."""

    cause: str
    says: str
    do: str


class CauseRow(NamedTuple):
    """A cause, the signals that show it, the verdicts it matters for."""

    cause: str
    signals: tuple[str, ...]
    says: str
    do: str


CAUSES: tuple[CauseRow, ...] = (
    CauseRow("air_restricted", ("air.restricted", "flow.reversed", "static.high"), "The air path is dirty or blocked: a propeller fan works harder, a wheel in a housing moves less.", "Clean coil or filter before the new part runs."),
    CauseRow("supply_low", ("volts_unit.low", "volts_unit.half", "volts_switch_line.low"), "Low volts make a motor draw more and run hot.", "Find the drop, or tell the utility."),
    CauseRow("supply_high", ("volts_unit.high", "volts_switch_line.high", "volts_motor.high"), "High volts overheat motor and capacitor.", "Tell the utility; check transformer taps."),
    CauseRow("voltage_unbalance", ("volts_unit.unbalance", "volts_switch_line.unbalance", "volts_switch_load.unbalance", "volts_motor.unbalance"), "Unbalance heats a three-phase motor.", "Cure it before the new motor runs."),
    CauseRow("phase_lost", ("volts_unit.phase_lost", "volts_switch_load.phase_lost", "legs.one_dead"), "A three-phase motor on two phases burns in minutes.", "Find the lost phase first."),
    CauseRow("switch_contacts_bad", ("contact.out", "drop.large"), "Burnt contacts drop volts under load and chatter.", "Renew the switch with the motor."),
    CauseRow("capacitor_weak", ("cap.weak", "cap.open", "cap_look.damaged"), "A weak capacitor overheats the windings.", "Renew it; clamp the motor's amps afterwards."),
    CauseRow("capacitor_wrong_value", ("cap_label.wrong", "cap_label.stated_wrong"), "A capacitor of another value was fitted earlier.", "Fit what the motor plate asks for."),
    CauseRow("capacitor_under_rated", ("cap_volts.under",), "The capacitor's volts are below what the motor asks for.", "Fit one with the plate's volts or more."),
    CauseRow("parallel_load_fault", ("herm.bad",), "The compressor section of the dual capacitor is off its label.", "Renew the whole part: the compressor suffers next."),
    CauseRow("load_damaged", ("load.damaged",), "A bent, packed or wrongly mounted blade shakes the bearings.", "Renew, clean or turn it round."),
    CauseRow("load_rubbing", ("load.rubbing", "noise.rub"), "A rubbing blade loads the motor.", "Set the blade clear."),
    CauseRow("hub_loose", ("load.loose", "noise.rattle"), "A loose hub cuts into the shaft.", "Set the screw on the flat; dress the shaft."),
    CauseRow("belt_bad", ("belt.bad",), "A bad or over-tight belt wears bearings.", "Renew it, line the pulleys up, set the tension."),
    CauseRow("conductor_chafed", ("conductor.chafed", "line_ground.low"), "A wire has rubbed through.", "Renew it and protect the edge."),
    CauseRow("connection_bad", ("connection.bad",), "A bad connection heats and drops volts.", "Renew it."),
    CauseRow("vent_or_drain_blocked", ("vent.blocked", "draught.short"), "Water or a blocked vent stops an inducer and rusts its bearings.", "Clear vent, drain and tube; check the flue is joined."),
    CauseRow("insulation_low", ("ground.low", "megger.low"), "Water has been in the motor.", "Find where it came in: drains, cap, a leak above."),
    CauseRow("wrong_motor_fitted", ("plate_fit.wrong", "rpm.other_class"), "What was fitted earlier does not belong here.", "Size the new one against the unit plate."),
    CauseRow("miswired", ("wired.wrong",), "Somebody wired it wrong before you.", "Note each terminal, then put the leads where the diagram says."),
    CauseRow("bearings_worn", ("play.much", "spin.rough", "shaft.rough", "noise.bearing"), "Worn bearings drag and end by seizing.", "Plan the motor; it squeals today and seizes soon."),
)  # fmt: skip
_NOT_LOOKED: tuple[tuple[str, str, str], ...] = (
    ("air", "Nobody has looked at the coil yet.", "Look at it before the new motor runs."),
    ("supply", "The supply has not been measured.", "Read it standing and running."),
    ("load", "Nobody has looked at the blade yet.", "Look for cracks, bends and rubbing."),
)
_DRAINS = Cause(
    cause="drains", says="Water kills motors whose drain plugs were left in.",
    do="Open the lowest drains for the way it is mounted, plug the upper ones.",
)  # fmt: skip


def causes(case: Case, verdict: Verdict, signals: set[str], states: Mapping[str, str]) -> list[Cause]:
    """Causes shown by readings; for a condemned motor also what nobody has looked at."""
    found = [Cause(cause=row.cause, says=row.says, do=row.do) for row in CAUSES if signals & set(row.signals)]
    if verdict != "condemn_motor":
        return found
    found += [Cause(cause=link, says=says, do=do) for link, says, do in _NOT_LOOKED if states[link] == "unproved"]
    return [*found, _DRAINS] if case.call.motor.role in (None, "condenser_fan") else found


class CautionRow(NamedTuple):
    """A caution and the condition it hangs on."""

    when: Callable[[Case], bool]
    says: str


def _has_capacitor(case: Case) -> bool:
    return has(case.call, "capacitor")


def _single_pole(case: Case) -> bool:
    switch = case.call.unit.switch
    return switch is not None and switch.poles == 1


def _signal(*keys: str) -> Callable[[Case], bool]:
    return lambda case: bool(set(keys) & set(case.signals))


def _motor_and_wire_clear(case: Case) -> bool:
    """After a trip: the motor tested to ground and its wire as well, and neither is what tripped it."""
    keys = set(case.signals)
    tripped = bool({"breaker.tripped", "fuse.open", "starter.tripped"} & keys) or case.call.complaint.symptom == "trips"
    return tripped and bool({"ground.clear", "megger.good", "ecm_frame.clear"} & keys) and bool({"line_ground.clear", "conductor.sound"} & keys)


CAUTIONS: tuple[CautionRow, ...] = (
    CautionRow(lambda case: True, "Pull the disconnect and open the breaker, lock and tag. Prove the tester, test dead, prove the tester again."),
    CautionRow(_single_pole, "A single-pole contactor leaves one leg, motor and capacitor live when it is open. Only the pulled disconnect counts."),
    CautionRow(lambda case: case.call.motor.kind == "ecm", "Commutated motor: power off 5 minutes before touching; never mate or part its plugs live."),
    CautionRow(_signal("breaker.tripped", "fuse.open"), "Do not reset a breaker or renew a fuse before the dead tests to ground have passed."),
    CautionRow(_signal("ground.low", "megger.low", "ground.grounded", "megger.grounded", "line_ground.low"), "The insulation has failed: nothing is energised until it is dried or renewed and tested again."),
    CautionRow(_motor_and_wire_clear, "Motor and wire are clear of ground: test what else is on that circuit, the compressor, a heater, a second fan, before it is reset."),
    CautionRow(is_welded, "Its contacts are welded: the fan starts or runs with nothing calling. Only the pulled disconnect stops it."),
    CautionRow(_signal("conductor.chafed", "fuse.open"), "A wire has rubbed through or a fuse has blown: nothing is energised before it is repaired and tested to ground."),
    CautionRow(_signal("noise.bearing"), "A motor that squeals today seizes soon and cooks its windings: stop it when it is heard."),
    CautionRow(lambda case: case.call.unit.kind == "furnace" and case.call.motor.role != "inducer", "Gas furnace: never jumper a limit, roll-out or pressure switch to keep it running."),
    CautionRow(lambda case: case.call.motor.role == "inducer", "The inducer is part of the combustion safety chain: never jumper a switch; check vent and carbon monoxide at the end."),
    CautionRow(lambda case: 3 in (case.call.unit.phase, case.call.motor.phase), "Three-phase is for people qualified for it."),
    CautionRow(lambda case: bool(case.call.unit.refrigerant_mildly_flammable), "Mildly flammable refrigerant: only parts listed for it; no sparks."),
    CautionRow(lambda case: True, "Local code and licensed practice decide."),
)  # fmt: skip


MEANWHILE: tuple[CautionRow, ...] = (
    CautionRow(lambda case: case.call.unit.kind == "heat_pump_outdoor", "Until the outdoor fan runs, set the thermostat to auxiliary heat."),
    CautionRow(lambda case: case.call.motor.role == "condenser_fan" and case.call.unit.kind != "heat_pump_outdoor", "Until the condenser fan runs, leave the unit off: the compressor suffers first."),
    CautionRow(lambda case: case.call.motor.role == "indoor_blower", "Until the blower runs, leave heating and cooling off: the coil freezes, the heat exchanger overheats."),
    CautionRow(lambda case: case.call.motor.role == "inducer", "Until the inducer is proved, the furnace stays off."),
)  # fmt: skip
_RUNS_ON: frozenset[Verdict] = frozenset({"no_fault_found"})


def meanwhile(case: Case, verdict: Verdict) -> list[str]:
    """What to do with the unit until the part is in."""
    return [] if verdict in _RUNS_ON else [row.says for row in MEANWHILE if row.when(case)]


def cautions(case: Case) -> list[str]:
    """The cautions for this unit, the capacitor's bleed time computed."""
    found = [row.says for row in CAUTIONS if row.when(case)]
    if _has_capacitor(case):
        found.insert(1, bleed_caution(case))
    return found


def bleed_caution(case: Case) -> str:
    """How long to hold the resistor on the capacitor, ten times the computed time, for every pair."""
    label = case.call.capacitor
    uf = max([row.uf for row in label.label], default=case.call.motor.capacitor_uf or 80)
    volts = label.volts_v or case.call.motor.capacitor_v or 440
    hold = BLEED_FACTOR * bleed_seconds(uf, volts)
    pairs = "for each pair of its terminals" if len(label.label) > 1 else "across its terminals"
    return (
        f"Bleed the capacitor through a 20 kohm 5 W resistor, {max(1, round(hold))} seconds {pairs}, then read it with the "
        "meter. A resistor makes no arc and spares the part; a screwdriver does neither."
    )
