"""The leads of the motor on the bench of the pad, and the pairs of them that are worth reading."""

from __future__ import annotations

from itertools import combinations
from string import ascii_uppercase

from ...core.call import Call
from ...core.diagnosis.applies import has_taps, three_phases

FEWEST_LEADS = 2


def lead_names(call: Call) -> list[str]:
    """The motor's leads without ground: as named at Plates, else those touched and letters for the others it has."""
    named = [row.lead for row in call.hookup.leads if row.ends != ["frame"] and row.says != "ground"]
    if len(named) >= FEWEST_LEADS:
        return named
    readings = [*call.standing("winding_ohm"), *call.standing("ground_ohm"), *call.standing("insulation_mohm")]
    touched = dict.fromkeys(lead for _, r in readings for lead in (*(r.pair or ()), *([r.lead] if r.lead else ())))
    count = leads_of(call)
    letters = [f"T{n}" for n in range(1, count + 1)] if three_phases(call) else list(ascii_uppercase[:count])
    spare = [letter for letter in letters if letter not in touched]
    names = [*touched, *spare[: max(count - len(touched), 0)]]
    return sorted(names) if set(names) <= set(letters) else names


def leads_of(call: Call) -> int:
    """How many leads the motor has besides ground: as its plate says, else as such a motor usually brings out."""
    motor = call.motor
    if motor.leads:
        return max(int(motor.leads), FEWEST_LEADS)
    if three_phases(call):
        return 3
    if motor.kind == "shaded_pole":
        return FEWEST_LEADS
    return 3 if (motor.speeds or 1) == 1 else int(motor.speeds or 1) + 2


def pairs_worth(call: Call) -> list[tuple[str, str]]:
    """The pairs of leads worth reading: all of three or four leads, with speed taps those with the line lead."""
    names = lead_names(call)
    pairs = list(combinations(names, 2))
    if not has_taps(call) or len(names) < 4:
        return pairs
    tapped = [set(r.pair) for _, r in call.standing("winding_ohm") if r.pair and r.speed]
    common = set.intersection(*tapped) if len(tapped) > 1 else set()
    told = next((row.lead for row in call.hookup.leads if row.says == "common" or "main.1" in row.ends), names[0])
    line = common.pop() if len(common) == 1 else told
    offered = [(line, name) for name in names if name != line]
    also = (tuple(r.pair) for _, r in call.standing("winding_ohm") if r.pair and line not in r.pair)
    return [*offered, *(pair for pair in also if len(pair) == 2)]
