"""Readings: take one, judge one before it is saved. A correction replaces; nothing is ever overwritten."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime, timedelta
from itertools import combinations
from string import ascii_uppercase
from typing import Any

from sqlalchemy.orm import Session

from ...core.call import Call, read_call
from ...core.diagnosis.applies import has_taps, three_phases
from ...core.errors import FieldError, InvalidField, invalid
from ...core.judge.judged import Judgement
from ...core.judge.readings import ask_about, judge_readings
from ...core.readings import KINDS, ReadingKind
from ...core.temperature import in_celsius
from ...core.units import plain, whole_number
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on, say_of, technician_of
from ..people.settings import limits_in
from .call_view import CallView
from .whole_call import call_data

_PLAIN = ("at", "when", "across", "section", "lead", "leg", "with", "stage", "tap", "note", "method")
_NUMBERS = ("turns", "speed", "minutes_off", "temperature_c", "test_v", "free_area_ft2", "needs_inwc", "volts_v", "u")
ALL_PAIRS = "all."
"""Fields of the pairs of leads that are typed in one go, by their leads: `all.A|B`."""
LONGEST_WAITED = timedelta(days=3)
CLOCK_BACK_S = 120
"""A clock that stands so far behind the last reading stepped back."""
POWER_WORD = {"energised": "live", "dead": "dead"}


def reading_data(fields: Mapping[str, str], power: str, power_at: datetime | None, now: datetime) -> dict[str, Any]:
    """A reading of the call file from a form's text, with the power state of the strip and the time.

    A winding read after locking out notes the minutes since then. Raises `InvalidField`.
    """
    kind = KINDS.get(fields.get("kind", ""))
    if kind is None:
        raise invalid("kind", fields.get("kind", ""), "a reading kind: " + ", ".join(KINDS))
    degrees = fields.get("degrees", "")
    data: dict[str, Any] = {"kind": kind.name, "value": _value(kind, fields)}
    if kind.unit == "C" and isinstance(data["value"], str):
        data["value"] = in_celsius(data["value"], degrees)
    data |= {name: fields[name].strip() for name in (*_PLAIN, *_NUMBERS) if fields.get(name, "").strip()}
    if "temperature_c" in data:
        data["temperature_c"] = in_celsius(data["temperature_c"], degrees)
    data["taken_at"] = _typed_at(fields.get("typed_at", ""), now).isoformat(timespec="seconds")
    data |= _touched(fields)
    if fields.get("isolated") == "no":
        data["isolated"] = False
    if fields.get("dried") == "yes":
        data["dried"] = True
    replaces = whole_number(fields.get("replaces", ""))
    if replaces is not None:
        data["replaces"] = replaces
    if kind.power != "any":
        data["power"] = POWER_WORD[power]
    if kind.name in ("winding_ohm", "shell_c") and "minutes_off" not in data and power == "dead" and power_at:
        data["minutes_off"] = max(0, int((now - power_at).total_seconds() // 60))
    return data


def _touched(fields: Mapping[str, str]) -> dict[str, Any]:
    """The leads a reading was taken on: those named on the pad itself, else the pair that was tapped."""
    named = [fields.get(name, "").strip() for name in ("lead_a", "lead_b")]
    if named[0] and "lead_b" not in fields:
        return {"lead": named[0]}
    if any(named):
        missing = "lead_b" if named[0] else "lead_a"
        if not all(named) or named[0] == named[1]:
            raise invalid(missing, "nothing" if not all(named) else named[1], "the name of the other lead")
        return {"pair": named}
    return {"pair": fields["pair"].split("|")} if fields.get("pair") else {}


def _typed_at(text: str, now: datetime) -> datetime:
    """When a reading was typed that had to wait for the connection; now where that is not said or cannot be."""
    try:
        typed = datetime.fromisoformat(text)
    except ValueError:
        return now
    return typed if typed.tzinfo is not None and now - LONGEST_WAITED <= typed <= now else now


def _value(kind: ReadingKind, fields: Mapping[str, str]) -> Any:
    """The value as typed: a word, yes or no, one number, three, a list, or amps and volts."""
    text = fields.get("value", "").strip()
    if kind.yes_no and text in ("yes", "no"):
        return text == "yes"
    if kind.name == "capacitor_load":
        return {"amps_a": fields.get("amps_a", "").strip(), "volts_v": fields.get("volts_v", "").strip()}
    if kind.many:
        return text.replace(",", " ").split()
    if "value_2" in fields and text not in kind.words:
        return [_scaled(part, fields) for part in (text, fields["value_2"].strip(), fields.get("value_3", "").strip())]
    return _scaled(text, fields) if kind.is_number else text


def _scaled(text: str, fields: Mapping[str, str]) -> str:
    """Ohms typed as kilohm or megohm, in ohms; the digits stay."""
    power = {"k": 3, "M": 6}.get(fields.get("ohm_unit", ""), 0)
    if not power or not text.replace(".", "", 1).isdigit():
        return "OL" if text.upper() == "OL" else text
    return plain(float(text) * 10**power)


def fits_power(kind: str, power: str) -> bool:
    """Whether a kind of reading may be taken in the strip's power state."""
    return KINDS[kind].power in ("any", POWER_WORD[power])


def take_reading(db: Database, call_id: int, context: ActContext, fields: Mapping[str, str]) -> int:
    """Save a reading; its index. One that does not fit the power strip needs `anyway`, and is kept as suspect.

    Several pairs of leads may come in one go (`all.LEAD|LEAD`, each with its ohms): one reading each, all or none; the
    index of the last. Raises `InvalidField` naming the field of the form.
    """
    pairs = {name: text.strip() for name, text in fields.items() if name.startswith(ALL_PAIRS) and text.strip()}
    with act_on(db, call_id, context, "take_reading") as (session, row):
        for name, text in pairs.items():
            one = {**fields, "pair": name.removeprefix(ALL_PAIRS), "value": text, "lead_a": "", "lead_b": ""}
            try:
                position = _take_one(session, row, context, one)
            except InvalidField as error:
                at = [FieldError(name if e.path == "value" else e.path, e.value, e.expected) for e in error.errors]
                raise InvalidField(at) from None
        return position if pairs else _take_one(session, row, context, fields)


def _take_one(session: Session, row: tables.Call, context: ActContext, fields: Mapping[str, str]) -> int:
    data = reading_data(fields, row.power, row.power_at, context.now)
    if not fits_power(data["kind"], row.power) and fields.get("anyway") != "yes":
        raise invalid(
            "power", row.power, f"{KINDS[data['kind']].power}: set the power strip, or say that you go on anyway"
        )
    data |= _in_order(row, data["taken_at"], context.now)
    odd = ask_about(with_reading(call_data(row), data).readings[-1], limits_in(session))
    if odd and fields.get("sure") != "yes":
        raise invalid("sure", str(data["value"]), odd)
    say_of(session, context, f"read {KINDS[data['kind']].title}: {_shown(data['value'])}")
    position = len(row.readings)
    row.readings.append(
        tables.Reading(position=position, kind=data["kind"], body=data, technician=technician_of(session, context))
    )
    return position


def last_taken(row: tables.Call) -> datetime | None:
    """When the last reading of a call was taken; None where none says."""
    times = [datetime.fromisoformat(reading.body["taken_at"]) for reading in row.readings if "taken_at" in reading.body]
    return max((at for at in times if at.tzinfo is not None), default=None)


def _in_order(row: tables.Call, taken_at: str, now: datetime) -> dict[str, str]:
    """The time of a reading, never before what was done last, which may be of the same second.

    A clock that stepped back is noted, not believed. A reading that waited for the connection keeps its own time.
    """
    made = max((change.at for change in row.changes.made if change.at.tzinfo is not None), default=None)
    last = max(filter(None, (last_taken(row), made)), default=now)
    if (last - now).total_seconds() >= CLOCK_BACK_S:
        return {"taken_at": _whole_second(last), "note": f"The clock of this machine stepped back to {now:%H:%M}."}
    is_of_now = taken_at == now.isoformat(timespec="seconds")
    too_early = is_of_now and made is not None and made > datetime.fromisoformat(taken_at)
    return {"taken_at": _whole_second(made)} if made is not None and too_early else {}


def _whole_second(at: datetime) -> str:
    """A time with its seconds, none of it cut off."""
    return (at + timedelta(microseconds=-at.microsecond % 1_000_000)).isoformat(timespec="seconds")


def _shown(value: Any) -> str:
    return " / ".join(map(str, value)) if isinstance(value, list) else str(value)


def with_reading(data: dict[str, Any], reading: dict[str, Any]) -> Call:
    """The call with one reading more. Raises `InvalidField` with the reading's own field names."""
    index = len(data["readings"])
    try:
        return read_call({**data, "readings": [*data["readings"], reading]})
    except InvalidField as error:
        mine = f"readings.{index}."
        raise InvalidField(
            [FieldError(fault.path.removeprefix(mine), fault.value, fault.expected) for fault in error.errors]
        ) from None


def judge_typed(view: CallView, fields: Mapping[str, str], now: datetime) -> Judgement:
    """What the core says of a value that is typed but not saved. Raises `InvalidField`."""
    data = reading_data(fields, view.row.power, view.row.power_at, now)
    call = with_reading(call_data(view.row), data)
    return judge_readings(call, view.limits)[len(call.readings) - 1].judgement


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
    if motor.traits.windings == "main":
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
