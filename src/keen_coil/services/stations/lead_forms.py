"""What is entered of a motor's wiring: leads by the plate's words or by ends, its diagram, the unit's outputs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal, NamedTuple

from ...core.call import Call, read_call
from ...core.errors import FieldError, InvalidField, invalid
from ...core.hookup.diagram import check_diagram, read_table, table_text
from ...core.hookup.functions import WORDS, word_of
from ...core.hookup.leads import read_leads
from ...core.hookup.leads_of_call import by_ohms, ohms_between
from ...core.hookup.terminals import is_contact
from ...core.installation import Diagram
from ...core.outputs import OF_MODES, modes_noted
from ...core.units import whole_number
from ...core.vocabulary import LeadFunction, OutputMode, words_of
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.whole_call import call_data

View = Literal["found", "plan", "try"]
SPARE_ROWS, MOST_ROWS, OUTPUT_ROWS, MOST_SPEEDS, LAST_ROW = 2, 14, 4, 20, 39


class LeadRow(NamedTuple):
    """A row of the form: a lead, what the plate says of it, its ends where those were noted instead, what is asked."""

    lead: str
    says: str
    ends: str
    asks: str = ""


class OutputRow(NamedTuple):
    """A row of the form: what switches an output on, its terminal, its speed."""

    mode: str
    terminal: str
    speed: str


def _key(view: str, call: Call) -> Literal["leads", "new_leads"]:
    """Where the leads of a view's motor are kept: the new motor's apart, those of the one that is there as its own."""
    return "new_leads" if view != "found" and call.chosen_motor is not None else "leads"


def _noted(call: Call, view: View) -> list[Any]:
    rows = getattr(call.hookup, _key(view, call))
    return rows or (call.hookup.new_leads if view != "found" and call.chosen_motor is None else [])


def lead_rows(call: Call, view: View) -> list[LeadRow]:
    """The leads of the view's motor as rows, and empty ones to fill in."""
    motor = call.motor if view == "found" else call.motor_on_proof
    noted = _noted(call, view)
    rows: list[LeadRow] = []
    for row in noted:
        word = row.says or word_of(row.ends)
        again = word == "run" and not row.says and any(other.says == "run" for other in rows)
        rows.append(LeadRow(row.lead, "capacitor_return" if again else word, " ".join(row.ends)))
    measured = None if rows else by_ohms(call, motor)
    if measured is not None:
        rows = [LeadRow("", word_of(ends), "", f"which color is {lead}?") for lead, ends in measured.leads]
    many = max(len(rows) + SPARE_ROWS if rows else 0, min(motor.leads or 4, MOST_ROWS))
    return [*rows, *(LeadRow("", "", "") for _ in range(many - len(rows)))]


def lead_text(call: Call, view: View) -> str:
    """The leads of the view's motor a line a lead: its name, its winding ends."""
    return "\n".join(f"{row.lead}: {' '.join(row.ends)}".rstrip() for row in _noted(call, view))


def diagram_texts(call: Call) -> dict[str, str]:
    """The plate's diagram as it is typed, by its volts."""
    diagram = call.hookup.diagram or Diagram()
    return {"low": table_text(diagram.low), "high": table_text(diagram.high)}


def output_rows(call: Call) -> list[OutputRow]:
    """The outputs of the unit as rows, and empty ones to fill in."""
    found = [OutputRow(mode, at or "", f"{speed:g}" if speed else "") for mode, speed, at in modes_noted(call)]
    return [*found, *(OutputRow("", "", "") for _ in range(max(OUTPUT_ROWS - len(found), 1)))]


def _parsed_leads(text: str, path: str) -> list[dict[str, Any]]:
    """Leads from their lines. Raises `InvalidField` naming the line."""
    rows = []
    for number, line in enumerate(text.splitlines(), start=1):
        name, _, ends = line.partition(":")
        if not name.strip():
            if line.strip():
                raise invalid(path, f"line {number}: {line[:40]}", "a lead's name, a colon, its winding ends")
            continue
        rows.append({"lead": name.strip(), "ends": ends.replace(",", " ").split()})
    return rows


def keep_leads(db: Database, call_id: int, context: ActContext, view: str, text: str) -> None:
    """Note leads by their winding ends, of the old motor or the new one. Raises `InvalidField`."""
    with act_on(db, call_id, context, "keep_leads") as (_, row):
        _keep_rows(row, view, _parsed_leads(text, "leads"), lambda path: "leads")


def keep_lead_words(db: Database, call_id: int, context: ActContext, view: str, typed: Mapping[str, str]) -> None:
    """Note leads by what the plate says of each; a lead that has no word keeps the ends it had.

    Raises `InvalidField` naming the row.
    """
    with act_on(db, call_id, context, "keep_leads") as (_, row):
        data = call_data(row)
        key = _key(view, read_call(data))
        had = {one["lead"]: one.get("ends", []) for one in data.get("hookup", {}).get(key, [])}
        rows, places, faults = [], [], []
        for number in _rows_of(typed, "lead", "says"):
            lead, says = typed.get(f"lead.{number}", "").strip(), typed.get(f"says.{number}", "").strip()
            if says and says not in words_of(LeadFunction):
                faults.append(FieldError(f"says.{number}", says, "a word of the list: " + ", ".join(WORDS.values())))
            if says and not lead:
                faults.append(FieldError(f"lead.{number}", "nothing", f"the lead's color or number: it is {says}"))
            if lead:
                rows.append({"lead": lead, "says": says or None, "ends": [] if says else had.get(lead, [])})
                places.append(number)
        if faults:
            raise InvalidField(faults)

        def field_of(path: str) -> str:
            parts = path.split(".")
            index = next((int(part) for part in parts if part.isdigit()), None)
            if index is None or index >= len(places):
                return "leads"
            return f"{'lead' if parts[-1] == 'lead' else 'says'}.{places[index]}"

        _keep_rows(row, view, rows, field_of)


def _rows_of(typed: Mapping[str, str], *names: str) -> list[int]:
    """The rows of a form that were sent, by number. Raises `InvalidField` on a row that is none."""
    found = set()
    for key in typed:
        name, _, number = key.partition(".")
        if name in names:
            row = whole_number(number, LAST_ROW + 1)
            if row is None:
                raise invalid(key, typed[key][:40], f"a row from 0 to {LAST_ROW}")
            found.add(row)
    return sorted(found)


def _keep_rows(row: tables.Call, view: str, rows: list[dict[str, Any]], field_of: Any) -> None:
    """Keep leads with the motor. Raises `InvalidField`, each path as the form's field."""
    data = call_data(row)
    key = _key(view, read_call(data))
    try:
        call = read_call({**data, "hookup": {**data.get("hookup", {}), key: rows}})
        motor = call.motor if view == "found" else call.motor_on_proof
        read_leads(getattr(call.hookup, key), key, motor.kind, ohms_between(call))
    except InvalidField as error:
        faults = [FieldError(field_of(fault.path), fault.value, fault.expected) for fault in error.errors]
        raise InvalidField(faults) from None
    row.motor.installation = call.installation


def keep_diagram(db: Database, call_id: int, context: ActContext, typed: Mapping[str, str]) -> None:
    """Keep the plate's own diagram, for low and for high volts. Raises `InvalidField` naming the line or the leads."""
    tables_typed = {name: read_table(typed.get(f"diagram.{name}", ""), f"diagram.{name}") for name in ("low", "high")}
    diagram = {name: table for name, table in tables_typed.items() if table}
    try:
        check_diagram(Diagram.model_validate(diagram), (), "diagram")
    except InvalidField as error:
        names = [FieldError(".".join(fault.path.split(".")[:2]), fault.value, fault.expected) for fault in error.errors]
        raise InvalidField(names) from None
    with act_on(db, call_id, context, "keep_diagram") as (_, row):
        store_hookup(row, "diagram", diagram or None)


def keep_outputs(db: Database, call_id: int, context: ActContext, typed: Mapping[str, str]) -> None:
    """Keep which call uses which output and speed. Raises `InvalidField` naming the row."""
    rows, faults, seen = [], [], dict[str, int]()
    for number in _rows_of(typed, "mode", "terminal", "speed"):
        mode, at, speed = (typed.get(f"{name}.{number}", "").strip() for name in ("mode", "terminal", "speed"))
        if not (mode or at or speed):
            continue
        if mode not in words_of(OutputMode):
            expected = "what switches it on: " + ", ".join(words_of(OutputMode))
            faults.append(FieldError(f"mode.{number}", mode or "nothing", expected))
        elif mode in seen:
            faults.append(FieldError(f"mode.{number}", mode, "each mode once"))
        seen[mode] = number
        count = whole_number(speed, MOST_SPEEDS + 1) if speed else None
        if speed and not count:
            faults.append(FieldError(f"speed.{number}", speed, "a speed by its number, 1 the highest"))
        if at and not is_contact(at):
            faults.append(FieldError(f"terminal.{number}", at, "a terminal of the list"))
        rows.append({"mode": mode, "terminal": at or None, "speed": count})
    if faults:
        raise InvalidField(faults)
    with act_on(db, call_id, context, "keep_outputs") as (_, row):
        data = call_data(row)
        speeds = {key: row["speed"] for key, mode in OF_MODES for row in rows if row["mode"] == mode and row["speed"]}
        plate = {**data.get("unit", {}), "outputs": rows, "modes": speeds or None}
        call = read_call({**data, "unit": plate})
        row.motor.unit.plate = call.unit.model_dump(mode="json", by_alias=True, exclude_defaults=True)


def store_hookup(row: tables.Call, part: str, value: Any) -> None:
    """Keep a part of the hook-up with the motor. Raises `InvalidField`."""
    data = call_data(row)
    row.motor.installation = read_call({**data, "hookup": {**data.get("hookup", {}), part: value}}).installation
