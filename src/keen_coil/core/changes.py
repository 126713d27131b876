"""What was done to a unit in the middle of a call: what each act touches, and which faults it can cure. One table.

A reading taken after a change that touches what it measures belongs to the new state of the unit. A reading without
a time counts as taken as found.
"""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Literal, NamedTuple

from .plates import Plate
from .readings import Reading, minutes_of
from .units import LongText, Text

ChangeKind = Literal[
    "coil_cleaned", "filter_changed", "capacitor_changed", "connection_remade", "wire_repaired", "protection_reset",
    "tap_changed", "load_freed", "belt_set", "drain_cleared", "other",
]  # fmt: skip


class Change(Plate):
    """Something done to the unit, and when."""

    what: ChangeKind
    at: datetime
    note: LongText | None = None
    part_no: Text | None = None

    @property
    def minutes(self) -> float:
        """When it was done, in minutes since 1970."""
        moment = self.at.replace(tzinfo=UTC) if self.at.tzinfo is None else self.at
        return moment.timestamp() / 60


class ChangeRow(NamedTuple):
    """An act: its words, the kinds of reading it touches (`kind` or `kind@place`), the faults it can cure.

    `asked_by` names the answers after which a page offers it.
    """

    says: str
    touches: frozenset[str]
    cures: tuple[str, ...] = ()
    asked_by: tuple[tuple[str, tuple[str, ...]], ...] = ()


RUNNING = frozenset({
    "run_amps_a", "run_rpm", "turns_way", "noise", "starts_with_push", "shell_c", "capacitor_load", "trial", "contact_drop_v",
    "air_speed_fpm", "static_inwc", "draught_inwc",
})  # fmt: skip
"""What any act on the way of the current, the shaft or the air may move."""
_BEHIND = frozenset({"supply_v@switch_load", "supply_v@motor", "ecm_power", "ecm_command"})
_FED = _BEHIND | {"supply_v@switch_line", "control_call", "switch_pulled_in"}


def _row(says: str, touches: str, cures: str, more: frozenset[str] = frozenset(), **asked_by: str) -> ChangeRow:
    asked = tuple((kind, tuple(words.split())) for kind, words in asked_by.items())
    return ChangeRow(says, RUNNING | more | frozenset(touches.split()), tuple(cures.split()), asked)


_CAPACITOR = "capacitor_open capacitor_weak capacitor_high capacitor_shorted capacitor_grounded capacitor_damaged capacitor_wrong_value capacitor_under_rated"
CHANGES: dict[str, ChangeRow] = {
    "coil_cleaned": _row("Coil cleaned", "air_path", "air_restricted", air_path="dirty blocked"),
    "filter_changed": _row("Filter changed", "air_path", "air_restricted", air_path="dirty blocked"),
    "capacitor_changed": _row("Capacitor changed", "capacitance_uf capacitor_look capacitor_case_ohm", _CAPACITOR, _BEHIND,
                              capacitance_uf="", capacitor_look="bulged leaking burnt", capacitor_case_ohm="", capacitor_load=""),
    "connection_remade": _row("Connection remade", "connection conductor", "connection_bad miswired", _BEHIND, connection="loose burnt off"),
    "wire_repaired": _row("Wire repaired", "conductor ground_ohm@switch_load insulation_mohm@switch_load winding_ohm@switch_load",
                          "conductor_open conductor_chafed", _BEHIND, conductor="open shorted chafed", ground_ohm="", insulation_mohm=""),
    "protection_reset": _row("Breaker, fuse or overload reset", "breaker fuse starter_overload disconnect",
                             "breaker_tripped fuse_open starter_overload_tripped disconnect_open", _FED,
                             breaker="tripped", fuse="open", starter_overload="tripped", disconnect="open"),
    "tap_changed": _row("Speed tap changed", "", "winding_tap_open", turns_way="not_turning", trial=""),
    "load_freed": _row("Ice, stone or rub removed", "load_look spin", "load_jammed load_rubbing load_damaged hub_loose",
                       load_look="packed iced jammed rubbing hub_loose bent cracked backwards off"),
    "belt_set": _row("Belt set or renewed", "belt_look", "belt_bad", belt_look="slack broken misaligned"),
    "drain_cleared": _row("Vent or drain cleared", "vent_drain safety", "vent_or_drain_blocked safety_open", vent_drain="blocked"),
    "other": _row("Something else changed", "", ""),
}  # fmt: skip


def touches(change: Change, reading: Reading) -> bool:
    """Whether what a reading measures may be another thing after the change. Running volts move with the load."""
    row = CHANGES[change.what]
    if reading.kind == "supply_v" and reading.when == "running" and row.touches >= RUNNING:
        return True
    return reading.kind in row.touches or f"{reading.kind}@{reading.place}" in row.touches


def state_of(reading: Reading, changes: tuple[Change, ...]) -> int:
    """How many changes that touch it were made before a reading was taken: 0 is as found."""
    at = minutes_of(reading)
    return 0 if at is None else sum(change.minutes <= at and touches(change, reading) for change in changes)


def last_state_of(reading: Reading, changes: tuple[Change, ...]) -> int:
    """How many changes touch what a reading measures: the state it stands in at the end of the visit."""
    return sum(touches(change, reading) for change in changes)
