"""Winding readings put together: pairs of leads, speed taps, and which lead is which.

The pair that does not touch common reads the sum of the other two; leads joined inside read next to nothing.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

from ..call import Call
from ..plates import Motor
from ..readings import Reading
from ..uncertainty import span
from ..units import Span

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


JOINED_OHM = 0.5
Pair = frozenset[str]


@dataclass(frozen=True)
class Pairs:
    """The standing pair readings of a single-phase motor: finite ones as spans, open ones by name."""

    finite: dict[Pair, Span]
    open: frozenset[Pair]
    indices: dict[Pair, int]

    @property
    def leads(self) -> list[str]:
        """Every lead that was touched, in order of the alphabet."""
        return sorted({lead for pair in self.indices for lead in pair})

    @property
    def all_read(self) -> bool:
        """Three leads and all their pairs read."""
        return len(self.leads) == 3 and len(self.indices) == 3

    def triads(self) -> list[list[Span]]:
        """Every three leads whose pairs all read through, largest pair first."""
        found = []
        for three in combinations(self.leads, 3):
            reads = [self.finite.get(frozenset(pair)) for pair in combinations(three, 2)]
            if all(reads):
                found.append(sorted((read for read in reads if read), key=lambda read: -read.mid))
        return found


@dataclass(frozen=True)
class Tap:
    """A speed tap read from the common line lead: 1 is the highest speed. `read` is None when open."""

    speed: int
    index: int
    read: Span | None


def sound_method(reading: Reading) -> bool:
    """Dead, at the motor, on isolated leads."""
    return not reading.wrong_power and reading.place == "motor" and reading.isolated is not False


def usable(call: Call) -> list[tuple[int, Reading]]:
    """Standing winding readings of one pair or tap, taken by a sound method."""
    return [
        (index, reading)
        for index, reading in call.standing("winding_ohm")
        if (reading.pair or reading.speed) and not isinstance(reading.value, list) and sound_method(reading)
    ]


def standing_pairs(call: Call) -> Pairs:
    """The pairs of the motor as they stand: latest reading of each; leads joined inside count as one."""
    return call.once("pairs", lambda: _standing_pairs(call))


def _standing_pairs(call: Call) -> Pairs:
    finite: dict[Pair, Span] = {}
    indices: dict[Pair, int] = {}
    for index, reading in usable(call):
        if not reading.pair:
            continue
        pair = frozenset(reading.pair)
        indices[pair] = index
        finite.pop(pair, None)
        if reading.value != "OL":
            finite[pair] = span(reading.numbers[0], reading, call.meters)
    return _joined(Pairs(finite, frozenset(set(indices) - set(finite)), indices), call.motor)


def _joined(pairs: Pairs, motor: Motor) -> Pairs:
    """With four leads or more, two that read next to nothing bring out the same winding end."""
    if (motor.leads or 0) < 4 and len(pairs.leads) < 4:
        return pairs
    same = [sorted(pair) for pair, read in pairs.finite.items() if read.mid < JOINED_OHM]
    names = {other: one for one, other in same}
    if not names:
        return pairs

    def merged(pair: Pair) -> Pair:
        return frozenset(names.get(lead, lead) for lead in pair)

    kept = [pair for pair in pairs.indices if len(merged(pair)) == 2]
    finite = {merged(pair): pairs.finite[pair] for pair in kept if pair in pairs.finite}
    indices = {merged(pair): pairs.indices[pair] for pair in kept}
    return Pairs(finite, frozenset(merged(pair) for pair in kept if pair in pairs.open) - set(finite), indices)


def taps(call: Call) -> list[Tap]:
    """The speed taps as they stand, highest speed first: latest reading of each."""
    found = {
        reading.speed: Tap(
            reading.speed,
            index,
            None if reading.value == "OL" else span(reading.numbers[0], reading, call.meters),
        )
        for index, reading in usable(call)
        if reading.speed
    }
    return [found[speed] for speed in sorted(found)]


def two_leads(motor: Motor) -> bool:
    """Whether the motor brings out one winding on two leads."""
    return motor.leads == 2 or (motor.traits.windings == "main" and motor.leads is None and (motor.speeds or 1) == 1)


def terminals(call: Call) -> Terminals:
    """Which lead is common, run and start, from three finite pairs, else from what is written down.

    Run and start stay open when they overlap within the meter's error and nothing written tells them apart.
    """
    return _by_pairs(standing_pairs(call), roles_known(call))


def terminals_by_ohms(call: Call) -> Terminals:
    """Which lead is common, run and start by the ohms alone: neither where they hang nor their names count."""
    return _by_pairs(standing_pairs(call), Terminals())


def _by_pairs(pairs: Pairs, known: Terminals) -> Terminals:
    if not pairs.all_read or len(pairs.finite) != 3:
        return known
    largest = max(pairs.finite, key=lambda pair: pairs.finite[pair].mid)
    common = next(lead for lead in pairs.leads if lead not in largest)
    one, other = sorted(largest, key=lambda lead: pairs.finite[frozenset((common, lead))].mid)
    low, high = pairs.finite[frozenset((common, one))], pairs.finite[frozenset((common, other))]
    others = [span_ for pair, span_ in pairs.finite.items() if pair != largest]
    if any(not pairs.finite[largest].apart(near) for near in others):
        return Terminals(known.common, known.run, known.start)
    if not low.apart(high):
        return Terminals(common, known.run, known.start)
    return Terminals(common, one, other)


def cut_off(pairs: Pairs) -> str | None:
    """The lead that is open to leads which read through among themselves; None when there is no such one."""
    groups = _groups(pairs)
    if any(pair <= group for pair in pairs.open for group in groups):
        return None
    alone = {lead for pair in pairs.open for lead in pair if not any(lead in group for group in groups)}
    return alone.pop() if len(alone) == 1 and pairs.finite else None


def _groups(pairs: Pairs) -> list[set[str]]:
    """Groups of leads that read through among themselves."""
    groups: list[set[str]] = []
    for pair in pairs.finite:
        touching = [group for group in groups if group & pair]
        groups = [group for group in groups if not group & pair] + [set(pair).union(*touching)]
    return groups
