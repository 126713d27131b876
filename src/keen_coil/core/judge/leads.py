"""Which lead is common, run or start, from what is written down: winding ends, wiring as found, plain names."""

from __future__ import annotations

from dataclasses import dataclass

from ..call import Call

_NAMES = {"common": "common", "run": "run", "main": "run", "start": "start", "aux": "start"}
_WORDS: dict[str, str] = {
    "common": "common",
    "neutral": "common",
    "run": "run",
    "line": "run",
    "start": "start",
    "capacitor": "start",
}
"""What a plate calls a lead, and the part it plays in a motor with three of them."""
_LETTERS = {"C": "common", "R": "run", "S": "start"}


@dataclass(frozen=True)
class Terminals:
    """The leads by their part in the motor; None where it is not determined."""

    common: str | None = None
    run: str | None = None
    start: str | None = None

    def role(self, lead: str) -> str | None:
        """The part a lead plays, if it is known."""
        return next((role for role in ("common", "run", "start") if getattr(self, role) == lead), None)


def roles_known(call: Call) -> Terminals:
    """The leads as the hook-up or their names give them; a last one follows from the other two."""
    return _roles(call, _by_name(call) | _by_capacitor(call) | _by_ends(call))


def roles_written(call: Call) -> Terminals:
    """The leads by the diagram or their names alone: where they hang says nothing."""
    return _roles(call, _by_name(call) | _by_ends(call))


def _roles(call: Call, found: dict[str, str]) -> Terminals:
    """The leads by role; of three leads the last one follows from the other two."""
    roles = {role: lead for lead, role in found.items()}
    leads = _leads(call)
    missing = [role for role in ("common", "run", "start") if role not in roles]
    rest = [lead for lead in leads if lead not in roles.values()]
    if len(leads) == 3 and len(missing) == 1 and len(rest) == 1:
        roles[missing[0]] = rest[0]
    return Terminals(roles.get("common"), roles.get("run"), roles.get("start"))


def _leads(call: Call) -> list[str]:
    return sorted({lead for _, r in call.standing("winding_ohm") for lead in r.pair or ()})


def _by_ends(call: Call) -> dict[str, str]:
    found = {}
    for row in call.hookup.leads:
        windings = {end.split(".")[0] for end in row.ends}
        if windings == {"main", "aux"}:
            found[row.lead] = "common"
        elif windings == {"main"}:
            found[row.lead] = "run"
        elif windings == {"aux"}:
            found[row.lead] = "start"
        elif not row.ends and row.says in _WORDS:
            found[row.lead] = _WORDS[row.says]
    return found if len(set(found.values())) == len(found) else {}


def _by_capacitor(call: Call) -> dict[str, str]:
    ends = [(wire.from_, wire.to) for wire in call.hookup.found] + [(wire.to, wire.from_) for wire in call.hookup.found]
    leads = {one[6:] for one, other in ends if one.startswith("motor.") and other == "capacitor.fan"}
    return {lead: "start" for lead in leads} if len(leads) == 1 else {}


def _by_name(call: Call) -> dict[str, str]:
    leads = _leads(call)
    if leads and set(leads) <= set(_LETTERS):
        return {lead: _LETTERS[lead] for lead in leads}
    return {lead: _NAMES[lead.lower()] for lead in leads if lead.lower() in _NAMES}
