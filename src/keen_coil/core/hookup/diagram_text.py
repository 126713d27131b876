"""A plate's diagram as it is typed, a line a group: `1-6-8 together`, `3-5 to L1 and capacitor`, `2 to capacitor`."""

from __future__ import annotations

import re
from typing import Any

from ..errors import FieldError, InvalidField
from ..installation import DiagramTable

_LINE = re.compile(r"^\s*(?P<leads>.+?)\s*[:,]?\s+(?P<to>together|alone|capped|insulated|to\s+.+)\s*$", re.I)
_SPLIT = re.compile(r"\s*(?:[-+,&;]|\band\b|\s)\s*", re.I)
_JOINED = re.compile(r"\s*(?:,|&|\band\b|\bto\b)\s*", re.I)
LINES = {"l1": "l1", "line1": "l1", "line 1": "l1", "line": "l1", "l2": "l2", "line2": "l2", "line 2": "l2"}
LINES |= {"n": "l2", "neutral": "l2", "common": "l2"}
CAPACITOR = ("capacitor", "cap", "run capacitor", "c")
EXPECTED = "the leads, then where they go, such as 1-6-8 together; 3-5 to L1 and capacitor; 2 to capacitor; 4 to L2"


def read_table(text: str, path: str) -> dict[str, Any] | None:
    """A table of the diagram from its lines, as data of a call file; None where nothing was typed.

    Raises `InvalidField` naming each line that is none, a lead in two groups, or more than two sides of a capacitor.
    """
    table: dict[str, Any] = {"joins": [], "l1": [], "l2": [], "capacitor": []}
    faults: list[FieldError] = []
    seen: dict[str, int] = {}
    for number, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        found = _LINE.match(line)
        leads = [lead for lead in _SPLIT.split(found["leads"].strip()) if lead] if found else []
        goes = _goes(found["to"]) if found else None
        if not leads or goes is None:
            faults.append(FieldError(path, f"line {number}: {line.strip()[:40]}", EXPECTED))
            continue
        for lead in leads:
            if lead in seen:
                faults.append(FieldError(path, f"line {number}: {lead}", f"one group a lead: line {seen[lead]} has it"))
            seen[lead] = number
        _add(table, leads, goes)
    if len(table["capacitor"]) > 2:
        faults.append(FieldError(path, f"{len(table['capacitor'])} lines to capacitor", "its two sides, one line each"))
    if faults:
        raise InvalidField(faults)
    return table if seen else None


def _goes(words: str) -> set[str] | None:
    """Where a group goes: lines, the capacitor, or nowhere; None where that is not understood."""
    if words.lower() in ("together", "alone", "capped", "insulated"):
        return set()
    found = set()
    for part in _JOINED.split(words.strip()[2:].strip()):
        word = part.strip().lower().removeprefix("the ")
        if not word:
            continue
        if word not in LINES and word not in CAPACITOR:
            return None
        found.add(LINES.get(word, "capacitor"))
    return found or None


def _add(table: dict[str, Any], leads: list[str], goes: set[str]) -> None:
    lines = sorted(goes & {"l1", "l2"})
    for line in lines:
        table[line] += leads
    if not lines and (len(leads) > 1 or not goes):
        table["joins"].append(leads)
    if "capacitor" in goes:
        table["capacitor"].append([lines[0]] if lines else leads)


def table_text(table: DiagramTable | None) -> str:
    """A table as lines that read back the same."""
    if table is None:
        return ""
    sides = [list(side) for side in table.capacitor]
    rows = []
    for line in ("l1", "l2"):
        if getattr(table, line):
            also = " and capacitor" if [line] in [[one.lower() for one in side] for side in sides] else ""
            rows.append(f"{'-'.join(getattr(table, line))} to {line.upper()}{also}")
    for group in table.joins:
        at_capacitor = any(set(side) & set(group) for side in sides)
        goes = "to capacitor" if at_capacitor else "together" if len(group) > 1 else "alone"
        rows.append(f"{'-'.join(group)} {goes}")
    grouped = {lead for group in table.joins for lead in group} | {"l1", "l2", "L1", "L2"}
    rows += [f"{'-'.join(side)} to capacitor" for side in sides if not set(side) & grouped]
    return "\n".join(rows)
