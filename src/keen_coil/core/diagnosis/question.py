"""One question of the evidence table: its answers, and the chance of each under each fault, by name.

A row is written as it is read: `"good 0.62, over 0.25, low 0.1, none 0.03"`. Answers that a row does not name cannot
be under its faults. Before the bar of the answers stand the normal ones.
"""

from __future__ import annotations

from typing import NamedTuple

Row = tuple[float, ...]
OTHER = "other"
"""The row of every fault that a question does not name, and of no fault."""
SUM_WITHIN = 0.0021

BROUGHT = "the rest comes by a second fault that it brings about"
PHASES = "a lost phase comes from a three-phase unit only"
LEADS = "which answers can come hangs on the motor's leads, and on whether it was cool"
DRIED = "an answer after drying comes from a motor that was dried only"
READ_OR_STATED = "one answer is the label's alone, the other the label's with a reading"
KINDS = "one answer is a commutated motor's, the other that of every other kind"
"""Why a row of the table may not sum to one."""

HELD = "defrost_hold delay_hold fan_control_hold leak_lockout_hold board_lockout door_switch_open safety_open pressure_switch_stuck"
UNFED = f"supply_missing breaker_tripped disconnect_open switch_not_pulled_in control_call_absent ecm_power_absent ecm_command_absent starter_overload_tripped {HELD}"
BROKEN = "winding_open overload_open"
HUMS = "capacitor_open winding_start_open bearings_seized load_jammed"


class Question(NamedTuple):
    """One test or look: its answers, how many of them (the first ones) are normal, the rows."""

    title: str
    answers: tuple[str, ...]
    normal: int
    other: Row
    rows: dict[str, Row]


def question(title: str, answers: str, rows: dict[str, str], loose: dict[str, str] | None = None) -> Question:
    """A question from its written rows; each sums to one, or `loose` says for its faults why it does not.

    Raises `ValueError` on an answer that is none, a chance outside 0 to 1, a sum that is off without a reason.
    """
    normal, _, odd = (part.split() for part in answers.partition("|"))
    names = (*normal, *odd)
    written = {fault: _row(title, names, text) for faults, text in rows.items() for fault in faults.split()}
    reasons = {fault for faults in (loose or {}) for fault in faults.split()}
    for fault, row in written.items():
        if abs(sum(row) - 1) > SUM_WITHIN and fault not in reasons:
            raise ValueError(f"{title}: the chances under {fault} sum to {sum(row):.4f}; expected 1, or a reason why not")
    other = written.pop(OTHER)
    return Question(title, names, len(normal), other, written)


def _row(title: str, answers: tuple[str, ...], text: str) -> Row:
    found = dict.fromkeys(answers, 0.0)
    for part in text.split(","):
        answer, chance = part.split()
        if answer not in found or not 0 <= float(chance) <= 1:
            raise ValueError(f"{title}: got {part.strip()!r}; expected one of {', '.join(answers)} with a chance from 0 to 1")
        found[answer] = float(chance)
    return tuple(found.values())
