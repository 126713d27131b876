"""How each test is made: where it sits on the path, what to do, what to expect. One row a test."""

from __future__ import annotations

from typing import NamedTuple


class How(NamedTuple):
    """A test as the pad offers it: its link, kind, place, short name, what to do in one sentence, what to expect."""

    link: str
    kind: str
    at: str | None
    name: str
    do: str
    expect: str


TESTS: tuple[How, ...] = (
    How("supply", "supply_v", "unit", "volts into the unit", "Meter on AC volts, across the two legs that come into the unit.", "Plate volts, 10 % either way."),
    How("protection", "breaker", None, "breaker", "Look at the breaker. Do not reset it yet.", "Closed."),
    How("protection", "supply_v", "switch_line", "volts at the switch, line side", "AC volts across the line side of the switch.", "As into the unit."),
    How("disconnect", "disconnect", None, "disconnect", "Look into the pull-out: a broken blade can stay in.", "Closed, both blades whole."),
    How("disconnect", "supply_v", "switch_line", "volts at the switch, line side", "AC volts across the line side of the switch.", "As into the unit."),
    How("control", "control_call", None, "call for the fan", "24 V across the coil of the switch, thermostat calling.", "Present."),
    How("control", "hold", "delay", "delay still counting", "Wait the delay of this unit out.", "No."),
    How("control", "hold", "defrost", "in defrost", "Heat pump: does the board show defrost?", "No."),
    How("control", "safety", None, "a safety open", "Each safety in the coil's circuit: pressure, limit, float.", "Closed."),
    How("switching", "switch_pulled_in", None, "switch pulled in", "Look or listen: is the armature in?", "Yes, when called for."),
    How("switching", "supply_v", "switch_load", "volts at the switch, load side", "AC volts across the load side, fan called for.", "As at the line side."),
    How("switching", "contact_drop_v", None, "drop across a contact", "Millivolts across one closed contact, under load.", "Under half a volt."),
    How("wiring", "supply_v", "motor", "volts at the motor", "AC volts at the motor's own leads or plug, fan called for.", "As at the load side."),
    How("wiring", "conductor", None, "the wire itself", "Both ends off: ohms through it, and to the metal around.", "Through, and clear of metal."),
    How("connections", "connection", None, "terminals", "Look at each terminal and splice; tug each wire.", "Tight and clean."),
    How("connections", "supply_v", "motor", "volts at the motor", "AC volts at the motor's own leads or plug, fan called for.", "As at the load side."),
    How("capacitor", "capacitor_look", None, "look", "Sides, top, bottom, terminals.", "No bulge, no oil, nothing burnt."),
    How("capacitor", "capacitance_uf", None, "microfarads", "Bleed it, take both leads off, meter on µF.", "The label, within its tolerance."),
    How("capacitor", "capacitor_case_ohm", None, "to the can", "Leads off: ohms from each terminal to bare metal of the can.", "Over range."),
    How("overload", "winding_ohm", None, "winding pairs", "Motor leads off everything. Ohms between each two.", "Largest is the sum of the other two."),
    How("overload", "shell_c", None, "shell temperature", "Thermometer on the motor's shell, out of the sun.", "Near the air around it before judging an open winding."),
    How("windings", "winding_ohm", None, "winding pairs", "Motor leads off everything. Ohms between each two.", "Largest is the sum of the other two."),
    How("insulation", "ground_ohm", None, "lead to frame", "Leads off. Ohms, highest range, each lead to bare metal.", "Over range."),
    How("insulation", "insulation_mohm", None, "insulation tester", "500 V, each lead to frame, one minute. Note the winding's temperature.", "Above 100 Mohm at 40 C."),
    How("bearings", "spin", None, "turn by hand", "Turn the blade. Free, stiff, rough or locked?", "Free."),
    How("bearings", "side_play", None, "side play", "Push the shaft sideways. A little end play is normal.", "None."),
    How("load", "load_look", None, "blade", "Cracks, bends, hub, ice, a stone, rubbing.", "Sound."),
    How("load", "turns_way", None, "way it turns", "Called for, power up with people clear.", "The right way."),
    How("load", "noise", None, "noise", "Listen while it runs, then off while it turns.", "Quiet."),
    How("air", "air_path", None, "coil and air", "Look through the coil: dirt, leaves, a wall too near.", "Clear."),
    How("air", "run_amps_a", None, "running amps", "Clamp the lead that carries the whole current, guards on.", "Plate amps or a little less."),
)  # fmt: skip


def tests_of(link: str) -> list[How]:
    """The tests the pad offers on a link, in order."""
    return [row for row in TESTS if row.link == link]


def link_of(kind: str, at: str | None) -> str:
    """The link under which the pad offers a test; supply when it has none of its own."""
    return how_of(kind, at).link


def how_of(kind: str, at: str | None) -> How:
    """How a test is made; the first of its kind when not at this place, the first of all when not at all."""
    exact = [row for row in TESTS if row.kind == kind and row.at == at]
    loose = [row for row in TESTS if row.kind == kind]
    return (exact or loose or list(TESTS))[0]
