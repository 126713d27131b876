"""Features of a job by what was recorded: how the hub sits and is held, what was found damaged, dirty or in the way."""

from __future__ import annotations

import re

from ..call import Call
from ..thermal.winding import cooling_minutes
from ..vocabulary import Hub

HOT_C = 50.0
"""A shell hotter than this is left to cool before hands go to it."""
USUAL_AIR_C, NEAR_AIR_K = 25.0, 4.0
"""The air where nobody noted it; how near to air that is too warm for a hand's touch a shell is left to cool."""


def features_of_hub(call: Call, hub: Hub, found: set[str]) -> set[str]:
    """How blade or wheel comes off: by what holds it and how hard it sits. No wrench on the shaft of a wheel."""
    shaft = call.motor.shaft
    keyed = {"keyed"} if shaft is not None and shaft.keyed else set()
    if "direct" not in found:
        return keyed
    held = {"clip": {"clip_on"}, "pressed": {"pressed_on"}}.get(call.load.hub or "", set()) | keyed
    if hub == "free" or held & {"clip_on", "pressed_on"}:
        return held
    if call.motor.role == "inducer":
        return held | {"stuck_hub"}
    flats = bool(shaft is not None and shaft.flats) and "blade" in found
    held |= {"stuck"} | ({"hard"} if hub == "hard" else set()) | ({"wrenches"} if flats else set())
    return held | ({"puller"} if hub == "hard" or not flats else set())


NEST_WORDS = re.compile(r"\b(nests?|mice|mouse|rats?|rodents?|chewed|gnawed|wasps?|birds?)\b", re.IGNORECASE)
"""What a technician writes who found a nest."""


def features_of_findings(call: Call) -> set[str]:
    """What was recorded and is to be put right on the way, unless that was done already."""
    done = {change.what for change in call.changes}

    def last(kind: str) -> set[str]:
        at = {(reading.at, reading.leg): str(reading.value) for _, reading in call.standing(kind)}
        return set(at.values())

    looks, found = last("load_look"), set()
    found |= {"packed"} if "packed" in looks else set()
    found |= {"damaged_load"} if looks & {"bent", "cracked"} else set()
    found |= {"bad_wire"} if last("conductor") - {"sound"} and "wire_repaired" not in done else set()
    found |= {"bad_connection"} if last("connection") - {"sound"} and "connection_remade" not in done else set()
    drains = last("vent_drain") or ({"blocked"} if call.motor.role == "inducer" else set())
    found |= {"blocked_drain"} if "blocked" in drains and "drain_cleared" not in done else set()
    written = [call.complaint.says or "", *(reading.note or "" for _, reading in call.standing())]
    nest = "jammed" in looks or any(NEST_WORDS.search(text) for text in written)
    return found | ({"nest"} if nest and "load_freed" not in done else set())


def minutes_to_cool(call: Call) -> float:
    """Minutes until the shell can be held in the air that is there, from its latest temperature; rough."""
    shells = [reading for _, reading in call.standing("shell_c")]
    if not shells or shells[-1].numbers[0] <= HOT_C:
        return 0.0
    air = float(call.unit.ambient_c or USUAL_AIR_C)
    found = cooling_minutes(shells[-1].numbers[0], air) or cooling_minutes(shells[-1].numbers[0], air, air + NEAR_AIR_K)
    return float(round(found.mid)) if found else 0.0
