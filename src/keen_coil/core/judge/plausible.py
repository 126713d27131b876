"""Amps that nobody should believe yet: the usual slips of clamp and plate, and what else was seen beside them.

A running induction motor cannot draw twice its amps and keep its speed and stay cool. Before such a reading fails
anything it is asked about: turns through the jaw, two conductors, another lead, the plate's volts column.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..call import Call
from ..machine.expected import Expected
from ..plates import Motor
from ..readings import Reading
from ..units import WATTS_PER_HP, Span, horsepower_text
from ..voltage import ranges

ODD_FROM = 1.6
"""From this many times what it should draw a turning motor's reading is asked about."""
TURNS = (2, 3, 4, 5, 10)
NEAR = 0.13
"""How near a ratio comes to a whole number of turns, as a share."""
SPEED_KEPT, SPEED_LOST = 0.97, 0.95
HOT_OVER_AIR_C, COOL_OVER_AIR_C = 50.0, 25.0
SISTER_NEAR = 0.2


@dataclass(frozen=True)
class Beside:
    """What else was seen: whether it stands, what agrees with too much current, what speaks against it."""

    stands: bool
    agrees: tuple[str, ...]
    against: tuple[str, ...]


def plate_doubt(motor: Motor) -> str:
    """Why the plate's amps cannot give its horsepower, as a question; empty when they can or nobody knows."""
    share_of_kind = motor.traits.work_share if motor.kind else None
    if motor.hp is None or motor.amps_a is None or motor.volts is None or share_of_kind is None:
        return ""
    low, most = share_of_kind
    volts = ranges(motor.volts)[0].low * (math.sqrt(3) if motor.traits.is_three_phase else 1.0)
    share = motor.hp * WATTS_PER_HP / (volts * motor.amps_a)
    if low <= share <= most:
        return ""
    plate = f"{motor.amps_a:g} A on the plate can't be right for {horsepower_text(motor.hp)} hp at {motor.volts} V"
    return f"{plate}. Read the plate again. A missed decimal point? The other voltage column?"


def amps_doubt(reading: Reading, read: Span, plate: float, should: Expected | None, motor: Motor, call: Call) -> str:
    """Why these amps are asked about before anything fails by them; empty when they may be believed."""
    beside = call.once(("beside", reading.is_proof), lambda: beside_of(call, motor, reading.is_proof))
    turns = reading.turns or 1
    ref = should.run_amps_a["whole"].mid if should is not None and should.turns else plate
    if read.high < 0.8 * ref and turns > 1 and abs(read.mid * turns / ref - 1) < NEAR * 1.5:
        return f"{turns} turns, and it shows what one turn would. Did you already divide? Enter it as displayed."
    ratio = read.mid / ref
    if beside.stands:
        most = max(motor.traits.locked_times * plate, 1.3 * should.rest_amps_a["whole"].high if should else 0.0)
        return (
            ""
            if read.low <= most
            else f"{ratio:.1f} times plate amps is more than it draws locked. {_slips(ratio, turns, motor)}"
        )
    if ratio < ODD_FROM or (beside.agrees and not beside.against):
        return ""
    why = f", with {' and '.join(beside.against)}" if beside.against else ""
    return f"{ratio:.1f} times what it should draw{why}. {_slips(ratio, turns, motor)}"


def _slips(ratio: float, turns: int, motor: Motor) -> str:
    """The slips that would give this ratio, as questions."""
    asks = []
    near = next((n for n in TURNS if abs(ratio / n - 1) < NEAR), None)
    if near and turns == 1:
        asks.append(f"Is the lead through the jaw {near} times?")
    elif near:
        asks.append("Is the number of turns right?")
    if abs(ratio / 2 - 1) < NEAR:
        asks.append("Are two leads in the jaw?")
        asks += ["Is it the other voltage column on the plate?"] if motor.volts and len(ranges(motor.volts)) > 1 else []
    if ratio > 4:
        asks.append("Is it the compressor lead?")
    asks.append("Clamp only the motor's whole-current lead and read again.")
    return " ".join(asks)


def beside_of(call: Call, motor: Motor, proof: bool) -> Beside:
    """What the other readings say of how it runs, each on its own word."""
    way = _last(call, "turns_way", proof)
    push = _last(call, "starts_with_push", proof)
    rpm, shell, sister = (_last(call, kind, proof) for kind in ("run_rpm", "shell_c", "sister_amps_a"))
    stands = (
        way == "not_turning"
        or (way is None and rpm is None and _told_still(call, proof))
        or (isinstance(rpm, float) and rpm < 1)
    )
    agrees, against = [], []
    if isinstance(rpm, (int, float)) and motor.rpm and rpm > 1:
        share = rpm / speed_by_plate(motor, call)
        agrees += ["a slow shaft"] * (share < SPEED_LOST)
        against += ["its speed kept"] * (SPEED_KEPT <= share <= 1.12)
    air = call.unit.ambient_c
    if isinstance(shell, (int, float)) and air is not None:
        agrees += ["a hot motor"] * (shell - air > HOT_OVER_AIR_C)
        against += ["a cool motor"] * (shell - air < COOL_OVER_AIR_C and _minutes_off(call, proof) < 10)
    if isinstance(sister, (int, float)) and motor.amps_a and abs(sister / motor.amps_a - 1) < SISTER_NEAR:
        against.append("a healthy sister")
    if _ohms_off(call):
        agrees.append("its ohms")
    return Beside(stands and push is not True, tuple(agrees), tuple(against))


def speed_by_plate(motor: Motor, call: Call) -> float:
    """The plate's speed at the hertz of the supply, rpm."""
    rpm = float(motor.rpm or 0)
    return rpm * call.unit.hz / motor.hz if motor.hz and call.unit.hz and not motor.traits.is_electronic else rpm


def _last(call: Call, kind: str, proof: bool) -> object:
    rows = [r for _, r in call.standing(kind, proof) if not r.wrong_power and (r.leg or "whole") == "whole"]
    if not rows:
        return None
    turns = rows[-1].turns or 1
    return rows[-1].numbers[0] / turns if rows[-1].row.is_number and rows[-1].numbers else rows[-1].value


def _minutes_off(call: Call, proof: bool) -> float:
    rows = [r for _, r in call.standing("shell_c", proof)]
    return float(rows[-1].minutes_off or 0) if rows else 0.0


def _told_still(call: Call, proof: bool) -> bool:
    held = [r for _, r in call.standing("spin", proof) if r.value == "locked"]
    return not proof and (call.complaint.symptom in ("quiet", "hums_no_start") or bool(held))


def _ohms_off(call: Call) -> bool:
    """Whether the windings' own ohms are odd: three pairs far apart, or a pair that reads next to nothing."""
    for _, reading in call.standing("winding_ohm"):
        ohms = [ohm for ohm in reading.numbers if math.isfinite(ohm)]
        if isinstance(reading.value, list) and len(ohms) == 3 and max(ohms) > 1.08 * min(ohms):
            return True
    return False
