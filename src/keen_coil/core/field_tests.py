"""The tests of the trade, one record each: where it sits, how it is made, what it is expected to read, what it tells.

The pad, the path's drawing, the next test and the practice bench all read this table.
"""

from __future__ import annotations

from typing import NamedTuple

RUNNING = "running"


class FieldTest(NamedTuple):
    """A test: kind and place of its reading, links under which the pad offers it, name, what to do, what to expect, picture.

    Then what the next test is chosen by: minutes of work, its question in the evidence table, the links it proves, why
    it is made, what the unit must have (`diagnosis.applies`), what it is made with, minutes of waiting before it. A
    test without a question is offered on the pad only.
    """

    kind: str
    at: str | None
    links: tuple[str, ...]
    name: str
    do: str
    expect: str
    picture: str = ""
    minutes: float = 2
    question: str = ""
    proves: tuple[str, ...] = ()
    why: str = ""
    needs: str = ""
    detail: str = ""
    waits: float = 0

    @property
    def link(self) -> str:
        """The first link under which the pad offers it."""
        return self.links[0]


TESTS: tuple[FieldTest, ...] = (
    FieldTest("supply_v", "unit", ("supply",), "volts into the unit", "Meter on AC volts, across the legs that come into the unit.", "Plate volts, 10 % either way.", "volts_in",
              1, "volts_unit", ("supply",), "Proves the supply into the unit."),
    FieldTest("ecm_power", None, ("supply",), "power at the plug", "AC volts on the two line pins of the motor's plug. Never part it live.", "Plate volts.", "plug_power",
              1, "ecm_power", ("supply", "protection", "disconnect", "wiring", "connections"), "Line power at the plug tells module and motor from everything ahead.", "ecm"),
    FieldTest("breaker", None, ("protection",), "breaker", "Look at the breaker. Do not reset it yet.", "Closed.", "breaker",
              0.5, "breaker", ("protection",), "A tripped breaker is seen, not measured."),
    FieldTest("fuse", None, ("protection",), "fuses", "Each fuse out of its holder: ohms through it.", "Next to nothing.", "fuse",
              1, "fuse", ("protection",), "Out of the circuit: through it or not.", "fused"),
    FieldTest("starter_overload", None, ("protection",), "starter overload", "Look at the overload under the starter. Do not reset it yet.", "Closed.", "overload_relay",
              0.5, "starter", ("protection",), "A tripped starter overload is seen, and says the motor was overloaded.", "starter"),
    FieldTest("supply_v", "switch_line", ("protection", "disconnect"), "volts at the switch, line side", "AC volts across the line side of the switch.", "As into the unit.", "volts_line",
              1, "volts_switch_line", ("supply", "protection", "disconnect"), "Proves breaker and disconnect too."),
    FieldTest("disconnect", None, ("disconnect",), "disconnect", "Look into the pull-out or switch: a broken blade can stay in.", "Closed, every blade whole.", "disconnect",
              0.5, "disconnect", ("disconnect",), "An open disconnect is seen, not measured."),
    FieldTest("control_call", None, ("control",), "call", "24 V across the coil of the switch or at the board, with the call on.", "Present.", "coil_volts",
              1, "call", ("control",), "Tells a fan that is not called for from one that cannot run."),
    FieldTest("hold", "delay", ("control",), "delay", "Wait the delay of this unit out.", "No.", "clock",
              0.5, "hold_delay", (), "A delay still counting looks like a dead motor."),
    FieldTest("hold", "defrost", ("control",), "defrost", "Heat pump: does the board show defrost?", "No.", "board",
              0.5, "hold_defrost", (), "In defrost the outdoor fan is meant to stand still.", "heat_pump"),
    FieldTest("hold", "door_switch", ("control",), "door switch", "Is the panel in, and the switch behind it pressed? Never leave it defeated.", "No.", "door",
              0.5, "hold_door_switch", (), "An open door switch takes the control power away.", "indoor"),
    FieldTest("hold", "fan_control", ("control",), "fan control", "Cold outside: does a head-pressure or speed control hold the fan off?", "No.", "board",
              0.5, "hold_fan_control", (), "In the cold a fan control holds the fan off.", "outdoor"),
    FieldTest("hold", "leak_lockout", ("control",), "leak lockout", "Does the board show a refrigerant leak?", "No.", "board",
              0.5, "hold_leak_lockout", (), "A leak lockout holds it off.", "flammable"),
    FieldTest("hold", "board_lockout", ("control",), "board lockout", "Read the board's code by the unit's own chart.", "No.", "board",
              0.5, "hold_board_lockout", (), "A board in lockout calls for nothing."),
    FieldTest("safety", None, ("control",), "safety", "Each safety in the coil's circuit: pressure, limit, roll-out, float. Never jumper one to run.", "Closed.", "safety",
              1.5, "safety", (), "An open safety keeps the motor off; a stuck one keeps the board from starting."),
    FieldTest("safety", "pressure_switch", ("control",), "air switch", "The inducer's pressure switch: open at rest, closed when it runs.", "Open at rest.", "safety",
              2, "", (), "", "inducer"),
    FieldTest("ecm_command", None, ("control",), "command", "At the plug: the signal or the powered speed tap, with the call on.", "Present.", "plug_command",
              1, "ecm_command", ("control", "switching"), "Without a command the best motor stands still.", "ecm"),
    FieldTest("switch_pulled_in", None, ("switching",), "pulled in", "Look or listen: is the armature in?", "Yes, when called for.", "armature",
              0.7, "switch", ("switching", "control"), "Seen or heard: has the switch pulled in?", "switch"),
    FieldTest("supply_v", "switch_load", ("switching",), "volts, load side", "AC volts across the load side of the switch, fan called for.", "As at the line side.", "volts_load",
              1.5, "volts_switch_load", ("supply", "protection", "disconnect", "control", "switching"), "Right volts behind the switch prove everything up to there.", "switch"),
    FieldTest("contact_drop_v", None, ("switching",), "drop", "Across one closed contact, under load.", "Under half a volt.", "contact",
              1.5, "contact", ("switching",), "Full volts go through a burnt contact without load: read across it.", "switch"),
    FieldTest("supply_v", "motor", ("wiring", "connections"), "volts at the motor", "AC volts at the motor's own leads or plug, fan called for.", "As at the load side.", "volts_motor",
              2, "volts_motor", ("supply", "protection", "disconnect", "control", "switching", "wiring", "connections"), "Right volts at the motor's leads prove the whole way to it.", "not_ecm"),
    FieldTest("conductor", None, ("wiring",), "the wire", "Both ends off: ohms through it, and to the metal around.", "Through, and clear of metal.", "wire",
              3, "conductor", ("wiring",), "Both ends off: through it, and clear of metal?"),
    FieldTest("ground_ohm", "switch_load", ("wiring",), "to ground, from the switch", "Off the load side: each wire to bare metal, motor joined.", "Over range.", "ground_line",
              1.5, "line_ground", (), "From the switch on: wire and motor together.", "not_ecm"),
    FieldTest("winding_ohm", "switch_load", ("wiring",), "windings, from the switch", "Off the load side: the motor's pairs through their wires.", "As at the motor.", "windings_line",
              3, "run", (), "From the starter's load side: tells wire from motor.", "three_phase"),
    FieldTest("connection", None, ("connections",), "terminals", "Look at each terminal and splice; tug each wire.", "Tight and clean.", "terminal",
              1, "connection", ("connections",), "Look at the terminals: loose, burnt, off."),
    FieldTest("capacitor_look", None, ("capacitor",), "look", "Sides, top, bottom, terminals.", "No bulge, no oil, nothing burnt.", "can",
              0.5, "cap_look", ("capacitor",), "A bulge or oil condemns a capacitor before the meter is out.", "capacitor"),
    FieldTest("capacitance_uf", None, ("capacitor",), "microfarads", "Bleed it, take both leads off, meter on µF.", "The label, within its tolerance.", "can_uf",
              2, "cap", ("capacitor",), "The part that fails most, and the cheapest.", "capacitor"),
    FieldTest("capacitor_case_ohm", None, ("capacitor",), "to the can", "Leads off: ohms from each terminal to bare metal of the can.", "Over range.", "can_frame",
              1, "cap_can", ("capacitor",), "A capacitor grounded to its can trips the breaker at normal µF.", "capacitor"),
    FieldTest("capacitor_load", None, ("capacitor",), "running", "Clamp its lead, then volts across it. Hands out, guards on.", "The label, within its tolerance.", "can_load",
              2, "", (), "", "capacitor"),
    FieldTest("winding_ohm", None, ("windings", "overload"), "winding pairs", "Motor leads off everything. Ohms between each two.", "Largest is the sum of the other two.", "pairs",
              3, "winding", ("windings", "overload"), "The pairs tell a burnt winding from the capacitor, and which lead is which.", "not_ecm"),
    FieldTest("ecm_winding_ohm", None, ("windings",), "pairs, module off", "Power off 5 minutes, module unplugged: the three pairs of the motor.", "Three alike.", "module_pairs",
              4, "ecm_windings", ("windings",), "Module off: three equal pairs leave the module.", "ecm", "", 5),
    FieldTest("shell_c", None, ("overload", "running"), "shell temperature", "Thermometer on the motor's shell, out of the sun.", "Near the air around it.", "shell",
              1, "shell", ("overload",), "The overload can only be judged on a cool motor."),
    FieldTest("ground_ohm", None, ("insulation",), "lead to frame", "Leads off. Ohms, highest range, each lead to bare metal.", "Over range.", "ground",
              1.5, "ground", ("insulation",), "Nothing is energised before this has passed.", "not_ecm"),
    FieldTest("insulation_mohm", None, ("insulation",), "insulation tester", "500 V, each lead to frame, one minute. Never with electronics joined.", "Above 100 Mohm at 40 C.", "megger",
              4, "megger", ("insulation",), "An ohmmeter's few volts do not find weak insulation.", "not_ecm"),
    FieldTest("ecm_ground_ohm", None, ("insulation",), "to frame, module off", "Module unplugged: each motor pin to bare metal.", "Over range.", "module_frame",
              1.5, "ecm_frame", ("insulation",), "Module off: each pair far from the frame.", "ecm", "", 5),
    FieldTest("spin", None, ("bearings",), "turn by hand", "Turn it. Free, stiff, rough or locked? Bearings are judged on the bare shaft.", "Free.", "spin",
              0.5, "spin", ("bearings",), "Turn it by hand: free, stiff, rough or locked."),
    FieldTest("side_play", None, ("bearings",), "side play", "Push the shaft sideways. A little end play is normal.", "None.", "play",
              0.5, "play", ("bearings",), "Push the shaft sideways: play is bearing wear."),
    FieldTest("load_look", None, ("load",), "look", "Cracks, bends, hub, ice, a stone, packed fins, rubbing.", "Sound.", "blade",
              0.5, "load", ("load",), "A stone or ice locks a good motor."),
    FieldTest("belt_look", None, ("load",), "belt", "Tension, cracks, pulleys in line.", "Sound.", "belt",
              0.5, "belt", ("load",), "A belt is seen before anything is measured.", "belt"),
    FieldTest("air_path", None, ("air",), "look", "Look through coil or filter: dirt, leaves, closed grilles, a wall too near.", "Clear.", "coil",
              0.5, "air", ("air",), "A blocked coil or filter cooks the next motor too."),
    FieldTest("vent_drain", None, ("air",), "vent and drain", "Drain, trap, pressure tube and vent: water, nests, ice.", "Clear.", "drain",
              1.5, "vent", ("air",), "Water in the housing stops an inducer.", "inducer"),
    FieldTest("air_speed_fpm", None, ("air",), "traverse", "Vane meter, points evenly over the face, hub to rim. Minus where it blows back.", "No point reversed.", "vane",
              5, "flow", (), "A traverse shows weak or reversed air.", "not_inducer"),
    FieldTest("static_inwc", None, ("air",), "static", "Probe before filter and behind blower; the difference counts.", "At most the plate's.", "static",
              3, "static", (), "Static pressure shows a blocked filter or coil.", "blower"),
    FieldTest("draught_inwc", None, ("air",), "draught", "Tee into the pressure switch tube, inducer running.", "What the switch needs, or more.", "tee",
              3, "draught", (), "Draught against what the pressure switch needs.", "inducer"),
    FieldTest("co_ppm", None, ("air",), "carbon monoxide", "Probe in the flue, then in the room, burner on.", "The flue steady and low, the room nothing.", "tee",
              2, "", (), "", "inducer"),
    FieldTest("air_c", None, ("air",), "air temperature", "Thermometer in the supply and in the return, after ten minutes.", "The split of the unit's plate.", "vane",
              2, "", (), "", "blower"),
    FieldTest("turns_way", None, ("running",), "way it turns", "Called for, power up with people clear.", "The right way.", "turns",
              1, "turns", (), "Say what it does when it is called for."),
    FieldTest("turned_before_power", None, ("running",), "turned before", "Was it turning before power came, by wind or a sister's draught?", "No.", "wind",
              0.3, "wind", (), "A fan that the wind turned runs on backwards with a weak capacitor.", "outdoor"),
    FieldTest("starts_with_push", None, ("running",), "push", "A stick through the guard, never a hand. Does it go on by itself?", "Starts by itself.", "stick",
              0.7, "push", (), "With a stick through the guard: a start by push points to capacitor or start winding.", "psc"),
    FieldTest("trial", None, (RUNNING,), "good capacitor tried", "Power off, bled: a good capacitor of the plate's value clipped on. Then power, hands out.", "It runs, or nothing changes.", "can",
              4, "trial_good_capacitor", (), "A good capacitor clipped on tells the capacitor from the windings.", "psc", "good_capacitor"),
    FieldTest("trial", None, (RUNNING,), "other speed tried", "Power off: the lead moved to another speed tap. Then power.", "It runs, or nothing changes.", "pairs",
              3, "trial_other_speed", (), "One tap can be open while the others run.", "taps", "other_speed"),
    FieldTest("trial", None, (RUNNING,), "other module tried", "Power off 5 minutes, a good module of the same part number on. Then power.", "It runs, or nothing changes.", "module_pairs",
              12, "trial_other_module", (), "Another module tells module from motor.", "ecm", "other_module", 5),
    FieldTest("trial", None, (RUNNING,), "fed directly", "Power off: fused test leads straight to the motor with its capacitor. Then power, hands out.", "It runs, or nothing changes.", "volts_motor",
              5, "trial_direct_power", (), "Fed directly, motor and way to it are told apart.", "not_ecm", "direct_power"),
    FieldTest("noise", None, ("running",), "noise", "Listen while it runs, then off while it turns.", "Quiet.", "ear",
              1, "noise", (), "Listen: a hum, a squeal, a rub each say something."),
    FieldTest("run_amps_a", None, ("running",), "amps", "Clamp put on dead, around the lead that carries the whole current.", "Plate amps or a little less.", "clamp",
              2, "amps", (), "Amps tell load, volts and windings from each other."),
    FieldTest("background_amps_a", None, ("running",), "background", "Jaw closed beside the lead, not around it.", "Next to nothing.", "clamp_beside",
              2, "", ()),
    FieldTest("sister_amps_a", None, ("running",), "sister's amps", "The same lead of the sister motor.", "Within 10 % of ours.", "clamp",
              2, "sister", (), "The sister on the same unit is the best reference.", "sisters"),
    FieldTest("run_rpm", None, ("running",), "speed", "Strobe or optical meter on a mark, through the guard.", "Plate RPM.", "strobe",
              3, "rpm", (), "Speed against the plate shows drag, slip and the wrong class."),
    FieldTest("sister_shell_c", None, ("running",), "sister's shell", "The same spot on the sister.", "Like ours.", "shell",
              2, "", (), "", "sisters"),
    FieldTest("capacitance_uf", None, ("capacitor",), "microfarads", "Bleed it, take both leads off, meter on µF.", "The label, within its tolerance.", "can_uf",
              1.5, "herm", (), "The same can serves the compressor.", "dual", "herm"),
    FieldTest("spin", None, ("bearings",), "turn by hand", "Turn it. Free, stiff, rough or locked? Bearings are judged on the bare shaft.", "Free.", "spin",
              4, "shaft", ("bearings",), "With the load off the shaft shows whether bearings or blade hold it.", "", "bare_shaft"),
)  # fmt: skip
OTHERWISE: dict[tuple[str, str], str] = {("winding_ohm", "three_phase"): "Three alike, within 3 %.", ("winding_ohm", "taps"): "Rising from the high speed to the low."}
"""What a test is expected to read on a unit that has a feature, where that differs: by kind and feature."""
PADS = tuple(row for row in TESTS if not row.detail or row.kind == "trial" and row.detail == "good_capacitor")


def tests_of(link: str) -> list[FieldTest]:
    """The tests the pad offers on a link, in order."""
    return [row for row in PADS if link in row.links]


def link_of(kind: str, at: str | None) -> str:
    """The link under which the pad offers a test; supply when it has none of its own."""
    return how_of(kind, at).link


def how_of(kind: str, at: str | None, detail: str | None = None) -> FieldTest:
    """How a test is made; the first of its kind when not at this place, the first of all when not at all."""
    exact = [row for row in TESTS if row.kind == kind and row.at == at and row.detail == (detail or "")]
    loose = [row for row in TESTS if row.kind == kind and detail in (None, row.detail)] or [row for row in TESTS if row.kind == kind]
    return (exact or loose or list(TESTS))[0]
