"""How each test is made: where it sits on the path, what to do, what to expect, where the probes go. One row a test."""

from __future__ import annotations

from typing import NamedTuple


class How(NamedTuple):
    """A test as the pad offers it: link, kind, place, short name, what to do, what to expect, its picture."""

    link: str
    kind: str
    at: str | None
    name: str
    do: str
    expect: str
    picture: str = ""


RUNNING = "running"
TESTS: tuple[How, ...] = (
    How("supply", "supply_v", "unit", "volts into the unit", "Meter on AC volts, across the legs that come into the unit.", "Plate volts, 10 % either way.", "volts_in"),
    How("supply", "ecm_power", None, "power at the plug", "AC volts on the two line pins of the motor's plug. Never part it live.", "Plate volts.", "plug_power"),
    How("protection", "breaker", None, "breaker", "Look at the breaker. Do not reset it yet.", "Closed.", "breaker"),
    How("protection", "fuse", None, "fuses", "Each fuse out of its holder: ohms through it.", "Next to nothing.", "fuse"),
    How("protection", "starter_overload", None, "starter overload", "Look at the overload under the starter. Do not reset it yet.", "Closed.", "overload_relay"),
    How("protection", "supply_v", "switch_line", "volts at the switch, line side", "AC volts across the line side of the switch.", "As into the unit.", "volts_line"),
    How("disconnect", "disconnect", None, "disconnect", "Look into the pull-out or switch: a broken blade can stay in.", "Closed, every blade whole.", "disconnect"),
    How("disconnect", "supply_v", "switch_line", "volts at the switch, line side", "AC volts across the line side of the switch.", "As into the unit.", "volts_line"),
    How("control", "control_call", None, "call", "24 V across the coil of the switch or at the board, with the call on.", "Present.", "coil_volts"),
    How("control", "hold", "delay", "delay", "Wait the delay of this unit out.", "No.", "clock"),
    How("control", "hold", "defrost", "defrost", "Heat pump: does the board show defrost?", "No.", "board"),
    How("control", "hold", "door_switch", "door switch", "Is the panel in, and the switch behind it pressed? Never leave it defeated.", "No.", "door"),
    How("control", "hold", "fan_control", "fan control", "Cold outside: does a head-pressure or speed control hold the fan off?", "No.", "board"),
    How("control", "hold", "leak_lockout", "leak lockout", "Does the board show a refrigerant leak?", "No.", "board"),
    How("control", "hold", "board_lockout", "board lockout", "Read the board's code by the unit's own chart.", "No.", "board"),
    How("control", "safety", None, "safety", "Each safety in the coil's circuit: pressure, limit, roll-out, float. Never jumper one to run.", "Closed.", "safety"),
    How("control", "safety", "pressure_switch", "air switch", "The inducer's pressure switch: open at rest, closed when it runs.", "Open at rest.", "safety"),
    How("control", "ecm_command", None, "command", "At the plug: the signal or the powered speed tap, with the call on.", "Present.", "plug_command"),
    How("switching", "switch_pulled_in", None, "pulled in", "Look or listen: is the armature in?", "Yes, when called for.", "armature"),
    How("switching", "supply_v", "switch_load", "volts, load side", "AC volts across the load side of the switch, fan called for.", "As at the line side.", "volts_load"),
    How("switching", "contact_drop_v", None, "drop", "Across one closed contact, under load.", "Under half a volt.", "contact"),
    How("wiring", "supply_v", "motor", "volts at the motor", "AC volts at the motor's own leads or plug, fan called for.", "As at the load side.", "volts_motor"),
    How("wiring", "conductor", None, "the wire", "Both ends off: ohms through it, and to the metal around.", "Through, and clear of metal.", "wire"),
    How("wiring", "ground_ohm", "switch_load", "to ground, from the switch", "Off the load side: each wire to bare metal, motor joined.", "Over range.", "ground_line"),
    How("wiring", "winding_ohm", "switch_load", "windings, from the switch", "Off the load side: the motor's pairs through their wires.", "As at the motor.", "windings_line"),
    How("connections", "connection", None, "terminals", "Look at each terminal and splice; tug each wire.", "Tight and clean.", "terminal"),
    How("connections", "supply_v", "motor", "volts at the motor", "AC volts at the motor's own leads or plug, fan called for.", "As at the load side.", "volts_motor"),
    How("capacitor", "capacitor_look", None, "look", "Sides, top, bottom, terminals.", "No bulge, no oil, nothing burnt.", "can"),
    How("capacitor", "capacitance_uf", None, "microfarads", "Bleed it, take both leads off, meter on µF.", "The label, within its tolerance.", "can_uf"),
    How("capacitor", "capacitor_case_ohm", None, "to the can", "Leads off: ohms from each terminal to bare metal of the can.", "Over range.", "can_frame"),
    How("capacitor", "capacitor_load", None, "running", "Clamp its lead, then volts across it. Hands out, guards on.", "The label, within its tolerance.", "can_load"),
    How("windings", "winding_ohm", None, "winding pairs", "Motor leads off everything. Ohms between each two.", "Largest is the sum of the other two.", "pairs"),
    How("windings", "ecm_winding_ohm", None, "pairs, module off", "Power off 5 minutes, module unplugged: the three pairs of the motor.", "Three alike.", "module_pairs"),
    How("overload", "winding_ohm", None, "winding pairs", "Motor leads off everything. Ohms between each two.", "Largest is the sum of the other two.", "pairs"),
    How("overload", "shell_c", None, "shell temperature", "Thermometer on the motor's shell, out of the sun.", "Near the air around it.", "shell"),
    How("insulation", "ground_ohm", None, "lead to frame", "Leads off. Ohms, highest range, each lead to bare metal.", "Over range.", "ground"),
    How("insulation", "insulation_mohm", None, "insulation tester", "500 V, each lead to frame, one minute. Never with electronics joined.", "Above 100 Mohm at 40 C.", "megger"),
    How("insulation", "ecm_ground_ohm", None, "to frame, module off", "Module unplugged: each motor pin to bare metal.", "Over range.", "module_frame"),
    How("bearings", "spin", None, "turn by hand", "Turn it. Free, stiff, rough or locked? Bearings are judged on the bare shaft.", "Free.", "spin"),
    How("bearings", "side_play", None, "side play", "Push the shaft sideways. A little end play is normal.", "None.", "play"),
    How("load", "load_look", None, "look", "Cracks, bends, hub, ice, a stone, packed fins, rubbing.", "Sound.", "blade"),
    How("load", "belt_look", None, "belt", "Tension, cracks, pulleys in line.", "Sound.", "belt"),
    How("air", "air_path", None, "look", "Look through coil or filter: dirt, leaves, closed grilles, a wall too near.", "Clear.", "coil"),
    How("air", "vent_drain", None, "vent and drain", "Drain, trap, pressure tube and vent: water, nests, ice.", "Clear.", "drain"),
    How("air", "air_speed_fpm", None, "traverse", "Vane meter, points evenly over the face, hub to rim. Minus where it blows back.", "No point reversed.", "vane"),
    How("air", "static_inwc", None, "static", "Probe before filter and behind blower; the difference counts.", "At most the plate's.", "static"),
    How("air", "draught_inwc", None, "draught", "Tee into the pressure switch tube, inducer running.", "What the switch needs, or more.", "tee"),
    How(RUNNING, "turns_way", None, "way it turns", "Called for, power up with people clear.", "The right way.", "turns"),
    How(RUNNING, "turned_before_power", None, "turned before", "Was it turning before power came, by wind or a sister's draught?", "No.", "wind"),
    How(RUNNING, "starts_with_push", None, "push", "A stick through the guard, never a hand. Does it go on by itself?", "Starts by itself.", "stick"),
    How(RUNNING, "noise", None, "noise", "Listen while it runs, then off while it turns.", "Quiet.", "ear"),
    How(RUNNING, "run_amps_a", None, "amps", "Clamp put on dead, around the lead that carries the whole current.", "Plate amps or a little less.", "clamp"),
    How(RUNNING, "background_amps_a", None, "background", "Jaw closed beside the lead, not around it.", "Next to nothing.", "clamp_beside"),
    How(RUNNING, "sister_amps_a", None, "sister's amps", "The same lead of the sister motor.", "Within 10 % of ours.", "clamp"),
    How(RUNNING, "run_rpm", None, "speed", "Strobe or optical meter on a mark, through the guard.", "Plate RPM.", "strobe"),
    How(RUNNING, "shell_c", None, "shell", "Thermometer on the shell, out of the sun.", "Like its sister's.", "shell"),
    How(RUNNING, "sister_shell_c", None, "sister's shell", "The same spot on the sister.", "Like ours.", "shell"),
)  # fmt: skip


NEEDED: dict[tuple[str, str | None], str] = {
    ("ecm_power", None): "ecm", ("ecm_command", None): "ecm", ("ecm_winding_ohm", None): "ecm", ("ecm_ground_ohm", None): "ecm",
    ("fuse", None): "fused", ("starter_overload", None): "starter", ("hold", "defrost"): "heat_pump", ("hold", "door_switch"): "indoor",
    ("hold", "fan_control"): "outdoor", ("hold", "leak_lockout"): "flammable", ("safety", "pressure_switch"): "inducer",
    ("capacitor_look", None): "capacitor", ("capacitance_uf", None): "capacitor", ("capacitor_case_ohm", None): "capacitor",
    ("capacitor_load", None): "capacitor", ("winding_ohm", None): "not_ecm", ("ground_ohm", None): "not_ecm", ("insulation_mohm", None): "not_ecm",
    ("winding_ohm", "switch_load"): "three_phase", ("ground_ohm", "switch_load"): "not_ecm", ("belt_look", None): "belt",
    ("vent_drain", None): "inducer", ("draught_inwc", None): "inducer", ("static_inwc", None): "blower", ("air_speed_fpm", None): "air",
    ("turned_before_power", None): "outdoor", ("sister_amps_a", None): "sisters", ("sister_shell_c", None): "sisters", ("air_path", None): "air",
}  # fmt: skip
"""What a unit must have for the pad to offer a test (`next_test.NEEDS`); tests not named are always offered."""


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
