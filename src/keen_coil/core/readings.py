"""Readings: the table of kinds, and the type of one reading in a call file."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import groupby
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationInfo, field_serializer, field_validator
from pydantic_core import PydanticCustomError

from .moments import AnyMoment
from .plates import StrictModel
from .units import Celsius, Count, Figure, LongText, Number, Text, as_typed, slip_of
from .vocabulary import CapacitorSection, NoiseHeard, words_of

Power = Literal["live", "dead", "any"]
SUPPLY_AT = ("unit", "switch_line", "switch_load", "motor")
DEAD_AT = ("motor", "switch_load")
CO_AT = ("flue", "room")
AIR_AT = ("supply", "return")
TRIALS = ("good_capacitor", "other_speed", "push", "other_module", "direct_power")
"""What a trial was made with."""
SHAFT = ("load", "bare_shaft")
HOLDS = ("defrost", "delay", "fan_control", "leak_lockout", "board_lockout", "door_switch")


def minutes_of(reading: Reading) -> float | None:
    """When a reading was taken, in minutes since 1970; None when that is not known."""
    return None if reading.taken_at is None else _as_utc(reading.taken_at).timestamp() / 60


def minutes_between(first: Reading, second: Reading) -> float | None:
    """Minutes from one reading to another, negative when it was before; None when a time is missing."""
    if first.taken_at is None or second.taken_at is None:
        return None
    return (_as_utc(second.taken_at) - _as_utc(first.taken_at)).total_seconds() / 60


def _as_utc(moment: datetime) -> datetime:
    return moment.replace(tzinfo=UTC) if moment.tzinfo is None else moment.astimezone(UTC)


@dataclass(frozen=True)
class ReadingKind:
    """A row of the contract's table: what is read, in which unit, in which power state."""

    name: str
    title: str
    power: Power
    words: tuple[str, ...] = ()
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    yes_no: bool = False
    three: bool = False
    many: bool = False
    at: tuple[str, ...] = ()

    @property
    def sign(self) -> str:
        """The unit as a text writes it behind a figure."""
        return "°C" if self.unit == "C" else self.unit

    @property
    def is_number(self) -> bool:
        """Whether a number is read."""
        return bool(self.unit)

    def expected(self) -> str:
        """What the value may be, in words."""
        kinds = [Number(self.low, self.high).expected() + f" ({self.unit})"] * self.is_number
        kinds += ["three of them in a list"] * self.three
        kinds = ["a list of numbers (fpm)"] if self.many else kinds
        kinds += ["true or false"] * self.yes_no
        kinds += ["one of " * (not self.is_number) + ", ".join(f'"{word}"' for word in self.words)] * bool(self.words)
        return ", or ".join(kinds)


def _words(name: str, title: str, power: Power, *words: str, at: tuple[str, ...] = ()) -> ReadingKind:
    return ReadingKind(name, title, power, words=words, at=at)


def _yes_no(name: str, title: str, power: Power, at: tuple[str, ...] = ()) -> ReadingKind:
    return ReadingKind(name, title, power, yes_no=True, at=at)


_ROWS = (
    _words("control_call", "call for fan (24 V)", "live", "present", "absent"),
    _yes_no("hold", "held off by", "any", at=HOLDS),
    _words("breaker", "breaker", "any", "closed", "tripped"),
    _words("disconnect", "disconnect", "any", "closed", "open"),
    _words("safety", "safety switch", "any", "closed", "open", "stuck_closed"),
    ReadingKind("supply_v", "volts", "live", unit="V", high=1000, three=True, at=SUPPLY_AT),
    _yes_no("switch_pulled_in", "contactor or relay pulled in", "live"),
    ReadingKind("contact_drop_v", "volts across a closed contact", "live", unit="V", high=1000),
    _words("fuse", "fuse", "dead", "closed", "open"),
    _words("starter_overload", "starter overload", "any", "closed", "tripped"),
    _words("capacitor_look", "capacitor, visual check", "any", "sound", "bulged", "leaking", "burnt"),
    ReadingKind("capacitance_uf", "capacitance", "dead", unit="µF", high=500, words=("shorted",)),
    ReadingKind("capacitor_case_ohm", "capacitor terminal to can", "dead", unit="ohm", high=1e9, words=("OL",)),
    ReadingKind("capacitor_load", "capacitor under load", "live", words=()),
    ReadingKind("winding_ohm", "winding", "dead", unit="ohm", high=1e9, words=("OL",), three=True, at=DEAD_AT),
    ReadingKind("ground_ohm", "winding to ground", "dead", unit="ohm", high=1e9, words=("OL",), at=DEAD_AT),
    ReadingKind("insulation_mohm", "insulation", "dead", unit="Mohm", high=1e6, words=("OL",), at=DEAD_AT),
    _words("conductor", "wire", "dead", "sound", "open", "shorted", "chafed"),
    _words("connection", "connection", "dead", "sound", "loose", "burnt", "off"),
    _words("spin", "turn by hand", "dead", "free", "stiff", "rough", "locked", "brakes"),
    _words("side_play", "shaft side play", "dead", "none", "some", "much"),
    _words(
        "load_look",
        "blade or wheel, visual check",
        "any",
        "sound",
        "bent",
        "cracked",
        "packed",
        "iced",
        "jammed",
        "hub_loose",
        "rubbing",
        "backwards",
        "off",
    ),
    _words("belt_look", "belt, visual check", "any", "sound", "slack", "broken", "misaligned"),
    _words("air_path", "air path", "any", "clear", "dirty", "blocked"),
    _words("vent_drain", "vent and drain", "any", "clear", "blocked"),
    _yes_no("starts_with_push", "starts with a push", "live"),
    _words("trial", "trial", "live", "runs", "runs_weak", "no_change"),
    _yes_no("turned_before_power", "windmilling", "any"),
    ReadingKind("run_amps_a", "running amps", "live", unit="A", high=500, three=True),
    ReadingKind("background_amps_a", "background amps", "live", unit="A", high=500, three=True),
    ReadingKind("sister_amps_a", "sister motor amps", "live", unit="A", high=500, three=True),
    ReadingKind("run_rpm", "running speed", "live", unit="rpm", high=10000),
    ReadingKind("shell_c", "motor temperature", "any", unit="C", low=-60, high=300),
    ReadingKind("sister_shell_c", "sister motor temperature", "any", unit="C", low=-60, high=300),
    _words("noise", "noise", "any", *words_of(NoiseHeard)),
    _words("turns_way", "rotation", "live", "right", "wrong", "not_turning"),
    ReadingKind("air_speed_fpm", "air speed", "live", unit="fpm", low=-6000, high=6000, many=True),
    ReadingKind("static_inwc", "static pressure", "live", unit="in. w.c.", low=-20, high=20),
    ReadingKind("draught_inwc", "draft", "live", unit="in. w.c.", low=-20, high=20),
    ReadingKind("co_ppm", "carbon monoxide", "any", unit="ppm", high=10000, at=CO_AT),
    ReadingKind("air_c", "air temperature", "live", unit="C", low=-60, high=300, at=AIR_AT),
    _words("ecm_power", "line power at the plug", "live", "present", "absent"),
    _words("ecm_command", "command at the plug", "live", "present", "absent"),
    ReadingKind("ecm_winding_ohm", "windings, module off", "dead", unit="ohm", high=1e9, words=("OL",), three=True),
    ReadingKind("ecm_ground_ohm", "winding to ground, module off", "dead", unit="ohm", high=1e9, words=("OL",)),
)
KINDS: Mapping[str, ReadingKind] = {row.name: row for row in _ROWS}


class LoadPair(StrictModel):
    """Amps in the capacitor lead and volts across it, while it runs."""

    amps_a: Annotated[float, Number(0, 500)]
    volts_v: Annotated[float, Number(0, 1000, above=True)]


def _refusal(expected: str) -> PydanticCustomError:
    return PydanticCustomError("reading", "{expected}", {"expected": expected})


def _take_value(kind: ReadingKind, value: Any) -> Any:
    if kind.name == "capacitor_load":
        return LoadPair.model_validate(value)
    if kind.yes_no and isinstance(value, bool):
        return value
    if isinstance(value, str) and value in kind.words:
        return value
    if isinstance(value, list):
        if not kind.many and not (kind.three and len(value) == 3) or not 1 <= len(value) <= 400:
            raise _refusal(kind.expected())
        return [_take_figure(kind, item) for item in value]
    if not kind.is_number or kind.many:
        raise _refusal(kind.expected())
    return _take_figure(kind, value)


def _take_figure(kind: ReadingKind, value: Any) -> Any:
    if value == "OL" and "OL" in kind.words:
        return value
    try:
        return Number(kind.low, kind.high, unit=kind.unit).take(value)
    except PydanticCustomError:
        slip = (
            slip_of(float(value), kind.low, kind.high, kind.unit)
            if isinstance(value, (int, float)) and not isinstance(value, bool)
            else ""
        )
        raise _refusal(kind.expected() + slip) from None


class Reading(StrictModel):
    """One reading with its qualifiers; `value` and `u` as displayed, before dividing by `turns`."""

    kind: str
    value: Any
    at: Text | None = None
    when: Literal["standing", "running", "rest"] | None = None
    across: Literal["line", "ground"] | None = None
    section: CapacitorSection | None = None
    pair: Annotated[list[Text], Field(min_length=2, max_length=2)] | None = None
    lead: Text | None = None
    leg: Text | None = None
    speed: Count | None = None
    tap: Text | None = None
    with_: Annotated[Text | None, Field(alias="with")] = None
    method: Literal["tachometer", "sound"] | None = None
    power: Power | None = None
    stage: Literal["found", "proof"] | None = None
    isolated: bool | None = None
    dried: bool | None = None
    temperature_c: Celsius | None = None
    minutes_off: Annotated[float, Number(0, 1e6)] | None = None
    test_v: Annotated[float, Number(0, 10000)] | None = None
    volts_v: Annotated[float, Number(0, 1000)] | None = None
    free_area_ft2: Annotated[float, Number(0, 1000, above=True)] | None = None
    needs_inwc: Annotated[float, Number(-20, 20)] | None = None
    u: Annotated[float, Number(0, 1e9)] | None = None
    meter: Text | None = None
    turns: Annotated[int, Number(1, 100, whole=True)] | None = None
    taken_at: AnyMoment | None = None
    replaces: Count | None = None
    note: LongText | None = None

    @field_validator("kind")
    @classmethod
    def _known_kind(cls, kind: str) -> str:
        if kind not in KINDS:
            raise _refusal("a reading kind: " + ", ".join(KINDS))
        return kind

    @field_validator("value", mode="before")
    @classmethod
    def _value_of_kind(cls, value: Any, info: ValidationInfo) -> Any:
        row = KINDS.get(str(info.data.get("kind")))
        return value if row is None else _take_value(row, value)

    @field_validator("at")
    @classmethod
    def _place_of_kind(cls, at: str | None, info: ValidationInfo) -> str | None:
        row = KINDS.get(str(info.data.get("kind")))
        if at is not None and row is not None and row.at and at not in row.at:
            raise _refusal("one of " + ", ".join(row.at))
        return at

    @field_validator("with_")
    @classmethod
    def _with_of_kind(cls, with_: str | None, info: ValidationInfo) -> str | None:
        trial = info.data.get("kind") == "trial"
        if with_ is not None and with_ not in (TRIALS if trial else SHAFT):
            raise _refusal("one of " + ", ".join(TRIALS if trial else SHAFT))
        return with_

    @field_validator("isolated", "dried", mode="before")
    @classmethod
    def _boolean(cls, value: Any) -> Any:
        if value is not None and not isinstance(value, bool):
            raise _refusal("true or false")
        return value

    @field_validator("pair")
    @classmethod
    def _two_leads(cls, pair: list[str] | None) -> list[str] | None:
        if pair is not None and (pair[0] == pair[1] or not all(pair)):
            raise _refusal("two different lead names")
        return pair

    @field_serializer("value")
    def _value_as_typed(self, value: Any) -> Any:
        if isinstance(value, list):
            return [as_typed(item) if isinstance(item, float) else item for item in value]
        return as_typed(value) if isinstance(value, Figure) else value

    @property
    def row(self) -> ReadingKind:
        """The row of the table this reading belongs to."""
        return KINDS[self.kind]

    @property
    def numbers(self) -> list[float]:
        """The numbers read, one or several; over range is infinite, words give none."""
        values = self.value if isinstance(self.value, list) else [self.value]
        taken = [float("inf") if item == "OL" else item for item in values]
        return [float(item) for item in taken if isinstance(item, (int, float)) and not isinstance(item, bool)]

    @property
    def power_state(self) -> Power:
        """The power state it was taken in; the table's when the reading is silent."""
        return self.power or self.row.power

    @property
    def wrong_power(self) -> bool:
        """Taken in a state contrary to the table: proves nothing."""
        return self.row.power != "any" and self.power_state != self.row.power

    @property
    def is_proof(self) -> bool:
        """Taken on the new motor after the swap."""
        return self.stage == "proof"

    @property
    def place(self) -> str:
        """Where it was taken, with the contract's default (motor for ohms and megohms, unit for volts)."""
        return self.at or ("unit" if self.kind == "supply_v" else "motor")

    def content(self) -> str:
        """All it says, to put readings in an order that does not hang on their place in a list."""
        return repr(
            sorted(
                (name, repr(value)) for name, value in vars(self).items() if value is not None and name != "replaces"
            )
        )

    def qualifiers(self) -> tuple[object, ...]:
        """What makes two readings be about the same thing."""
        pair = tuple(sorted(self.pair)) if self.pair else ()
        return (
            self.kind,
            self.at,
            self.when or "standing",
            self.across or "line",
            self.section,
            pair,
            self.lead,
            self.leg or "whole",
            self.speed,
            self.tap,
            self.with_ or "load",
            self.stage or "found",
            self.dried,
        )


def in_order(readings: Iterable[tuple[int, Reading]]) -> list[tuple[int, Reading]]:
    """Readings by time, untimed ones first; where time does not tell, by kind and content."""
    rows = sorted(
        ((minutes_of(r) or float("-inf"), r.kind, float(r.minutes_off or 0), i, r) for i, r in readings),
        key=lambda row: row[:3],
    )
    found: list[tuple[int, Reading]] = []
    for _, group in groupby(rows, key=lambda row: row[:3]):
        tied = [(i, r) for *_, i, r in group]
        found += sorted(tied, key=lambda row: row[1].content()) if len(tied) > 1 else tied
    return found
