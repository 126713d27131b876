"""A motor's leads: the winding ends each brings out, what the ends make, and what colors are the custom.

Colors prove nothing: a hook-up that leans on this table says so and asks for the diagram or a resistance reading.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace

from ..errors import FieldError, InvalidField, invalid, shown
from ..installation import Lead
from ..plates import Motor
from ..vocabulary import MotorKind
from ..voltage import ranges
from .functions import LeadQuestion, Ohms, by_function

_END = re.compile(
    r"(main|aux)\.[12]|main\.s[1-9]|(main|aux)_[ab]\.[12]|t[1-9]|t1[0-2]|frame|(power|command)\.[1-9]|tap\.[1-9]"
)
_EXPECTED = "winding ends such as main.1, main.2, aux.1, aux.2, main.s1, main_a.1, t1, power.1, command.1, frame"
FRAME = "frame"
GROUND_COLORS = ("green", "green/yellow", "bare")
_COMMON = ("black", ("main.1", "aux.1"))
_TAPPED = ("white", ("main.1", "aux.1"))
_SPEEDS = {
    2: ("black", "red"),
    3: ("black", "blue", "red"),
    4: ("black", "yellow", "blue", "red"),
    5: ("black", "yellow", "orange", "blue", "red"),
}
CUSTOM: dict[str, tuple[tuple[str, tuple[str, ...]], ...]] = {
    "psc 3": (_COMMON, ("white", ("main.2",)), ("brown", ("aux.2",))),
    "psc 4": (_COMMON, ("white", ("main.2",)), ("brown", ("aux.2",)), ("brown/white", ("main.2",))),
    "two": (("black", ("main.1",)), ("white", ("main.2",))),
    "tap capacitor": (("brown", ("aux.2",)), ("brown/white", ("main.s1",))),
    "three 3": (("T1", ("t1",)), ("T2", ("t2",)), ("T3", ("t3",))),
    "three 9": tuple((f"T{n}", (f"t{n}",)) for n in range(1, 10)),
    **{
        f"taps {count}": (_TAPPED, *((colour, (f"main.s{n}",)) for n, colour in enumerate(colours, start=1)))
        for count, colours in _SPEEDS.items()
    },
}
"""Lead names and ends as they are usually met (trade custom, no standard)."""
FEWEST_OF_HALVES = 4
"""A motor of two voltages with more leads than this brings out the halves of its main winding (trade)."""
OF_HALVES = "its leads by number and the plate's diagram for low and high volts: no color tells how it is strapped"


@dataclass(frozen=True)
class MotorLeads:
    """The leads of one motor. `by_custom`: their ends are a color custom and not read from plate or diagram.

    `plugged` are the reversing leads, that bring out nothing; `questions` what the plate's words leave open.
    """

    leads: tuple[tuple[str, tuple[str, ...]], ...]
    by_custom: bool = False
    plugged: frozenset[str] = frozenset()
    questions: tuple[LeadQuestion, ...] = ()

    def having(self, *ends: str) -> list[str]:
        """Leads that bring out all of these ends, in order."""
        return [lead for lead, out in self.leads if set(ends) <= set(out)]

    @property
    def names(self) -> list[str]:
        """Every lead, in order."""
        return [lead for lead, _ in self.leads]

    @property
    def ends(self) -> set[str]:
        """Every end that is brought out."""
        return {end for _, out in self.leads for end in out}

    @property
    def taps(self) -> list[str]:
        """The speed taps, highest speed first."""
        return sorted(end for end in self.ends if end.startswith("main.s"))

    @property
    def noted(self) -> bool:
        """Whether of every lead it is known what it brings out."""
        return all(out or lead in self.plugged for lead, out in self.leads)

    @property
    def windings(self) -> int:
        """How many leads carry windings: all but the frame's."""
        return sum(out != (FRAME,) and lead not in self.plugged for lead, out in self.leads)

    @property
    def whole(self) -> bool:
        """Whether each winding of which one end is brought out has its other end too."""
        ends = self.ends
        main = ends & {"main.1", "main.2"}
        return len(main) + bool(self.taps) > 1 and len(ends & {"aux.1", "aux.2"}) != 1

    def only(self, names: Iterable[str]) -> MotorLeads:
        """These leads alone."""
        kept = set(names)
        return replace(self, leads=tuple(row for row in self.leads if row[0] in kept))

    def swapped(self) -> MotorLeads:
        """The same with the reversing plug exchanged: the ends of the auxiliary change places."""
        other = {"aux.1": "aux.2", "aux.2": "aux.1"}
        turned = tuple((lead, tuple(other.get(end, end) for end in out)) for lead, out in self.leads)
        return replace(self, leads=turned)


def read_leads(
    rows: Iterable[Lead], path: str = "hookup.leads", kind: MotorKind | None = None, ohms: Ohms | None = None
) -> MotorLeads:
    """Leads of a call file, by their ends or by what the plate says of them.

    Parameters: the motor's `kind`; `ohms` between pairs of leads, as far as they were read, for what the words leave
    open. Raises `InvalidField` on an unknown end, a name twice, or leads that cannot make a motor.
    """
    rows = list(rows)
    named = by_function(rows, kind, ohms or {}, path)
    faults, seen = list(named.faults), set[str]()
    found = []
    for index, row in enumerate(rows):
        for place, end in enumerate(row.ends):
            if not _END.fullmatch(end):
                faults.append(FieldError(f"{path}.{index}.ends.{place}", shown(end), _EXPECTED))
        if row.lead in seen:
            faults.append(FieldError(f"{path}.{index}.lead", shown(row.lead), "a name of its own for each lead"))
        seen.add(row.lead)
        found.append((row.lead, tuple(row.ends) or named.ends.get(row.lead, ())))
    if faults:
        raise InvalidField(faults)
    plugged = frozenset(row.lead for row in rows if row.says == "reversing" and not row.ends)
    leads = MotorLeads(tuple(found), plugged=plugged, questions=tuple(named.questions))
    if found and leads.noted:
        _must_make_a_motor(leads, path)
    return leads


def _must_make_a_motor(leads: MotorLeads, path: str) -> None:
    """Ends that cannot be a motor: fewer than two leads, or a winding of which one end only is brought out."""
    ends = leads.ends
    if leads.windings < 2:
        raise invalid(path, f"{leads.windings} lead", "at least two leads that carry a winding: look at the diagram")
    if any(end.startswith(("t", "power")) and end[:3] != "tap" for end in ends):
        return
    main = {end for end in ends if end.startswith("main")}
    if not main:
        raise invalid(path, ", ".join(sorted(ends)), "the ends of a main winding: look at the diagram")
    whole = main & {"main.1", "main.2"}
    taps = leads.taps
    if not any("_" in end for end in main) and len(whole) + bool(taps) < 2:
        raise invalid(path, ", ".join(sorted(main)), "both ends of the main winding: look at the diagram")
    for half in ("main_a", "main_b", "aux"):
        mine = {end for end in ends if end.startswith(half + ".")}
        if len(mine) == 1:
            raise invalid(path, next(iter(mine)), f"both ends of {half}: look at the diagram")


def customary(motor: Motor) -> MotorLeads:
    """Leads of a motor by custom, from its kind, lead count and speeds. A ground lead is one only where it was noted.

    Raises `InvalidField` where there is no custom.
    """
    count, speeds = motor.leads, motor.speeds or 1
    two_voltages = motor.volts is not None and len(ranges(motor.volts)) > 1
    if motor.traits.is_three_phase:
        rows = CUSTOM.get(f"three {count or (9 if two_voltages else 3)}")
    elif two_voltages and (count is None or count > FEWEST_OF_HALVES):
        raise invalid("hookup.leads", f"{motor.volts} V", OF_HALVES)
    elif motor.traits.is_electronic:
        raise invalid("hookup.leads", "nothing", "line, ground and command leads from the new motor's own diagram")
    elif speeds > 1:
        rows = CUSTOM.get(f"taps {speeds}")
        if rows and motor.capacitor_uf:
            rows = (*rows, *CUSTOM["tap capacitor"])
    elif motor.traits.windings == "main" or count == 2:
        rows = CUSTOM["two"]
    else:
        rows = CUSTOM.get(f"psc {count or 3}")
    if rows is None:
        raise invalid("hookup.leads", f"{count} leads", "the lead names and winding ends from the motor's own diagram")
    return MotorLeads(tuple(rows), by_custom=True)
