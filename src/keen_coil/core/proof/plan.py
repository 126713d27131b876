"""The plan of the final readings: what this kind of motor must show, in every mode that is used.

A row that must hold bars the run from passing while it is missing; one that is wanted is worth reading and bars it only
when it has failed. Trade practice (volts and amps running, direction, noise), the combustion chain for an inducer.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from ..call import Call
from ..changes import last_state_of, state_of
from ..outputs import NAMES, modes_noted
from ..plates import phases_of
from ..readings import Reading

DIRECTION = {
    "indoor_blower": "Power up with people clear. The wheel turns from the narrow side of its scroll to the wide side.",
    "inducer": "Power up with people clear. The wheel turns toward its outlet and the vent blows.",
}
DIRECTION_ELSE = "Power up with people clear. Air goes the right way. If not, stop and reverse it."


class Needed(NamedTuple):
    """A check of the run: its reading and how to take it. `must` bars the run from passing while it is missing."""

    name: str
    title: str
    kind: str
    at: str | None = None
    when: str | None = None
    ask: str = ""
    speed: int | None = None
    must: bool = True


class _Row(NamedTuple):
    needed: Needed
    holds: Callable[[Call], bool]


def _kind(*kinds: str) -> Callable[[Call], bool]:
    return lambda call: (call.motor_on_proof.kind or call.motor.kind) in kinds


def _role(role: str) -> Callable[[Call], bool]:
    return lambda call: call.motor.role == role


def _always(call: Call) -> bool:
    return True


def _mains(call: Call) -> bool:
    return not _kind("ecm")(call)


AFTER_AMPS: tuple[_Row, ...] = (
    _Row(
        Needed(
            "noise", "Noise", "noise", ask="After a few minutes, listen for hum, rub or rattle and feel for vibration."
        ),
        _always,
    ),
    _Row(
        Needed("draught", "Draft", "draught_inwc", ask="At the pressure tap, against what its switch needs."),
        _role("inducer"),
    ),
    _Row(
        Needed("vent", "Vent and drain", "vent_drain", ask="Vent connected, drain running, no spillage."),
        _role("inducer"),
    ),
    _Row(
        Needed("room_co", "Carbon monoxide, room", "co_ppm", at="room", ask="Beside the unit, burner on, door closed."),
        _role("inducer"),
    ),
    _Row(
        Needed("flue_co", "Carbon monoxide, flue", "co_ppm", at="flue", ask="In the flue, burner steady.", must=False),
        _role("inducer"),
    ),
    _Row(
        Needed(
            "heat",
            "Motor temperature after 10 min",
            "shell_c",
            ask="Infrared on the motor shell, ten minutes in.",
            must=False,
        ),
        _always,
    ),
    _Row(
        Needed(
            "air", "Air, cfm per ton", "air_speed_fpm", ask="A traverse with its free area, several points.", must=False
        ),
        _role("indoor_blower"),
    ),
    _Row(
        Needed("supply_air", "Supply air", "air_c", at="supply", ask="In the supply, ten minutes in.", must=False),
        _role("indoor_blower"),
    ),
    _Row(
        Needed("return_air", "Return air", "air_c", at="return", ask="In the return, the same minute.", must=False),
        _role("indoor_blower"),
    ),
    _Row(
        Needed("sister", "Sister's amps", "sister_amps_a", ask="The same clamp on the sister motor.", must=False),
        lambda call: bool(call.unit.sisters),
    ),
)
VOLTS: tuple[_Row, ...] = (
    _Row(
        Needed(
            "supply_v",
            "Volts at the load side",
            "supply_v",
            "switch_load",
            "running",
            "Read across the load side while it runs.",
        ),
        _mains,
    ),
    _Row(
        Needed(
            "supply_v", "Volts at its plug", "supply_v", "motor", "running", "Read at the power plug while it runs."
        ),
        _kind("ecm"),
    ),
)


def needed_for(call: Call) -> list[Needed]:
    """The final readings of a call, in the order in which they are taken."""
    ask = DIRECTION.get(call.motor.role or "", DIRECTION_ELSE)
    first = Needed("turns_way", "Direction", "turns_way", ask=ask)
    volts = [row.needed for row in VOLTS if row.holds(call)]
    return [first, *volts, *_amps(call), *(row.needed for row in AFTER_AMPS if row.holds(call))]


def modes_of(call: Call) -> list[tuple[str, int]]:
    """The modes that are used with the speed of each (1 the highest); speeds by number where no mode is noted."""
    found = [(NAMES[mode], speed) for mode, speed, _ in modes_noted(call) if speed is not None]
    return found or [(f"speed {speed}", speed) for speed in sorted(set(call.speeds_used))]


def _amps(call: Call) -> list[Needed]:
    """Amps once for each speed that is used, named by its modes."""
    at: dict[int, list[str]] = {}
    for name, speed in modes_of(call):
        at.setdefault(speed, []).append(name)
    three = phases_of(call.motor_on_proof, call.unit) == 3 and _mains(call)
    ask = "Clamp all three legs." if three else "Clamp the lead that carries the whole current."
    if len(at) < 2:
        title = "Amps, three legs" if three else "Amps, whole current"
        slower = next((speed for speed in at if speed > 1), None)
        named = f"{title}, speed {slower}" if slower else title
        return [Needed("run_amps_a", named, "run_amps_a", ask=ask, speed=slower)]
    return [
        Needed(
            f"run_amps_a.{speed}",
            f"Amps, {' and '.join(names)}{'' if names[0].startswith('speed') else f' (speed {speed})'}",
            "run_amps_a",
            ask=f"Call for {names[0]}. {ask}",
            speed=speed,
        )
        for speed, names in sorted(at.items())
    ]


def proof_reading(needed: Needed, call: Call) -> tuple[int, Reading] | None:
    """The latest standing proof reading for a check, with its index.

    Where the motor stayed, what was read after the last change on the unit proves the run as well.
    """
    found = [(index, reading) for index, reading in _proofs(needed.kind, call) if _suits(needed, reading)]
    return found[-1] if found else None


def _proofs(kind: str, call: Call) -> list[tuple[int, Reading]]:
    changes = call.changes_in_order
    since = [(i, r) for i, r in call.standing(kind) if 0 < state_of(r, changes) == last_state_of(r, changes)]
    return [*(since if call.chosen_motor is None else []), *call.standing(kind, proof=True)]


def _suits(needed: Needed, reading: Reading) -> bool:
    if needed.at not in (None, reading.at) or needed.when not in (None, reading.when):
        return False
    unsaid = needed.speed if needed.name == "run_amps_a" else 1
    if needed.speed is not None and needed.speed != (reading.speed or unsaid):
        return False
    return needed.kind != "run_amps_a" or (reading.leg or "whole") not in ("capacitor", "winding")
