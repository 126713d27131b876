"""Small pictures of where probes, clamp, eye or hand go: a base drawn once, tips put on it. One row a picture."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

_CAN = "M54 38h60v46a30 8 0 0 1-60 0ZM54 38a30 8 0 0 1 60 0a30 8 0 0 1-60 0M64 34v-12M84 31v-12M104 34v-12"
_MOTOR = "M52 42h62v42H52ZM114 63h34M60 42c0-14-18-8-26-20M74 42c0-14-12-14-14-26M88 42c0-14 0-14 4-26"
_CONTACTOR = (
    "M50 22h68v62H50ZM62 22v-8M106 22v-8M62 84v8M106 84v8M62 30v14l8 14v0M62 62v14M106 30v14l8 14M106 62"
    "v14M42 53h8M118 53h8"
)
_PLUG = "M44 40h84v28H44ZM58 40v-14M72 40v-14M86 40v-14M100 40v-14M114 40v-14M86 68v22"
_WIRE = (
    "M14 44c30-16 50 18 80 4s40-4 60 0M20 78h128M24 78l-6 10M40 78l-6 10M56 78l-6 10M72 78l-6 10M88 78"
    "l-6 10M104 78l-6 10M120 78l-6 10M136 78l-6 10"
)
_FUSE = "M40 44h88v20H40ZM40 44a6 10 0 0 0 0 20M128 44a6 10 0 0 1 0 20M58 44v20M110 44v20M58 54c12-10 40 10 52 0"
_BLADE = (
    "M84 46a8 8 0 1 1-.1 0M84 46c-20-12-14-30 0-30s16 20 0 30M90 60c20-12 34 0 26 12s-26 2-26-12M78 60"
    "c-2 22-22 26-28 14s10-22 28-14"
)
_SHAFT = "M30 36h50v44H30ZM80 54h58v8H80M128 46c10 4 10 20 0 24M132 70l-6 2 2-8"
_COIL = "M28 20h112v66H28ZM40 20v66M52 20v66M64 20v66M76 20v66M88 20v66M100 20v66M112 20v66M124 20v66"
_LEGS = "M62 12v80M106 12v80M54 12h16M98 12h16M54 92h16M98 92h16"
_BOX = "M46 18h76v70H46ZM58 32h52M58 46h34M58 60h44M104 70a5 5 0 1 1-.1 0"
_BREAKER = "M60 14h48v78H60ZM72 34h24v38H72ZM72 54h24"
_DUCT = "M14 26h140M14 82h140M66 26v56M72 26v56M104 38a16 16 0 1 1-.1 0M104 54h30"


class Picture(NamedTuple):
    """A base, the two probe tips (or one of clamp, eye, hand, ear) and the words for who does not see it."""

    base: str
    tips: tuple[tuple[int, int], ...]
    sign: str
    says: str


_P = Picture
PICTURES: dict[str, Picture] = {
    "volts_in": _P(_LEGS, ((62, 30), (106, 30)), "", "A probe on each of the two legs that come in."),
    "volts_line": _P(_CONTACTOR, ((62, 16), (106, 16)), "", "Probes on the two line screws, at the top of the switch."),
    "volts_load": _P(
        _CONTACTOR, ((62, 90), (106, 90)), "", "Probes on the two load screws, at the bottom of the switch."
    ),
    "volts_motor": _P(_MOTOR, ((34, 22), (60, 16)), "", "Probes on the motor's two line leads."),
    "contact": _P(_CONTACTOR, ((62, 16), (62, 90)), "", "Probes above and below one closed contact."),
    "coil_volts": _P(_CONTACTOR, ((42, 53), (126, 53)), "", "Probes on the two coil terminals, at the sides."),
    "armature": _P(_CONTACTOR, (), "eye", "Look at the armature of the switch."),
    "plug_power": _P(_PLUG, ((58, 26), (72, 26)), "", "Probes on the two line pins of the plug."),
    "plug_command": _P(_PLUG, ((100, 26), (114, 26)), "", "Probes on the command pin and its return."),
    "module_pairs": _P(_PLUG, ((72, 26), (100, 26)), "", "Probes on two of the motor's three pins, module off."),
    "module_frame": _P(_PLUG, ((86, 26), (86, 90)), "", "One probe on a motor pin, one on bare metal."),
    "breaker": _P(_BREAKER, (), "eye", "Look at the breaker's handle."),
    "overload_relay": _P(_BREAKER, (), "eye", "Look at the overload's flag."),
    "disconnect": _P(_BREAKER, (), "eye", "Look into the disconnect."),
    "fuse": _P(_FUSE, ((40, 54), (128, 54)), "", "A probe on each end of the fuse, out of its holder."),
    "can": _P(_CAN, (), "eye", "Look at the capacitor from all sides."),
    "can_uf": _P(_CAN, ((64, 22), (84, 19)), "", "Probes on common and on the section's terminal."),
    "can_frame": _P(_CAN, ((84, 19), (114, 66)), "", "One probe on a terminal, one on bare metal of the can."),
    "can_load": _P(_CAN, ((64, 22), (104, 22)), "clamp", "Clamp around its lead, then probes across it."),
    "pairs": _P(_MOTOR, ((34, 22), (92, 16)), "", "Probes on two of the motor's leads, all of them off everything."),
    "windings_line": _P(_CONTACTOR, ((62, 90), (106, 90)), "", "Probes on the load side, wires to the motor joined."),
    "ground": _P(_MOTOR, ((60, 16), (106, 42)), "", "One probe on a lead, one on bare metal of the motor."),
    "ground_line": _P(_CONTACTOR, ((62, 90), (118, 80)), "", "One probe on a load wire, one on bare metal."),
    "megger": _P(_MOTOR, ((60, 16), (106, 42)), "", "Tester from a lead to bare metal of the motor."),
    "wire": _P(_WIRE, ((20, 42), (150, 46)), "", "A probe on each end of the wire, both ends off."),
    "terminal": _P(_CONTACTOR, (), "hand", "Tug each wire at its terminal."),
    "spin": _P(_SHAFT, (), "hand", "Turn the shaft by hand."),
    "play": _P(_SHAFT, (), "hand", "Push the shaft sideways."),
    "blade": _P(_BLADE, (), "eye", "Look at the blade or wheel."),
    "turns": _P(_BLADE, (), "eye", "Watch which way it turns, people clear."),
    "wind": _P(_BLADE, (), "eye", "See whether it turned before power came on."),
    "stick": _P(_BLADE, (), "hand", "Push it with a stick, never a hand."),
    "ear": _P(_BLADE, (), "ear", "Listen."),
    "belt": _P("M44 54a20 20 0 1 1 .1 0M124 54a12 12 0 1 1 .1 0M44 34h80M44 74h80", (), "eye", "Look along the belt."),
    "coil": _P(_COIL, (), "eye", "Look through the fins."),
    "vane": _P(_COIL, ((46, 34), (120, 74)), "", "Vane meter at points spread over the face."),
    "drain": _P(_DUCT, (), "eye", "Look at drain, trap and vent."),
    "static": _P(_DUCT, ((40, 26), (134, 26)), "", "Probe before the filter and behind the blower."),
    "tee": _P(_DUCT, ((134, 54),), "", "Tee into the pressure switch tube."),
    "clamp": _P("M20 54h128", (), "clamp", "The jaw around the one lead that carries it all."),
    "clamp_beside": _P("M20 22h128", (), "clamp", "The jaw closed beside the lead, not around it."),
    "strobe": _P(_SHAFT, (), "eye", "Optical meter on a mark."),
    "shell": _P(_MOTOR, ((84, 64),), "", "Thermometer on the motor shell."),
    "board": _P(_BOX, (), "eye", "Read the board."),
    "clock": _P(_BOX, (), "eye", "Wait, and watch the board."),
    "door": _P(_BOX, (), "hand", "Feel the switch behind the panel."),
    "safety": _P(
        "M34 54h34l24-18M100 54h34M68 54v0M84 24v8M60 70h48v14H60Z",
        ((34, 54), (134, 54)),
        "",
        "A probe on each side of the safety.",
    ),
}
SIGNS = {
    "eye": "M118 20c8-10 24-10 32 0c-8 10-24 10-32 0ZM134 15a5 5 0 1 1-.1 0",
    "hand": "M124 34v-16a3 3 0 0 1 6 0v8a3 3 0 0 1 6 0v2a3 3 0 0 1 6 0v2a3 3 0 0 1 6 0v10c0 8-22 8-24-6",
    "ear": "M126 30c-8-16 18-24 20-6c0 8-8 8-9 14c-1 6-9 6-9 0M132 22c4-6 10-2 6 4",
    "clamp": "M72 54a14 16 0 1 1 24 0M74 66h20v22H74ZM78 66v-8M90 66v-8",
}


@dataclass(frozen=True)
class Drawn:
    """A picture ready to be placed."""

    base: str
    leads: list[tuple[str, str]]
    tips: list[tuple[int, int, str]]
    sign: str
    says: str


def picture_of(name: str) -> Drawn | None:
    """The picture of a test by its name; None when it has none."""
    found = PICTURES.get(name)
    if found is None:
        return None
    ends = ((6, 96), (162, 96))
    colours = ("red", "black")
    leads = [
        (f"M{ex} {ey}C{ex} {y + 20} {x + (-12 if i == 0 else 12)} {y + 18} {x} {y}", colours[i])
        for i, ((x, y), (ex, ey)) in enumerate(zip(found.tips, ends, strict=False))
    ]
    return Drawn(
        found.base,
        leads,
        [(x, y, colours[i]) for i, (x, y) in enumerate(found.tips)],
        SIGNS.get(found.sign, ""),
        found.says,
    )
