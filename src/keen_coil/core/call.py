"""The call file: one complaint, one unit, one motor, its readings. The contract's types, whole."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import BeforeValidator, Field, PrivateAttr, ValidationError, model_validator
from pydantic_core import InitErrorDetails, PydanticCustomError

from .changes import Change
from .errors import InvalidField, field_errors, invalid
from .installation import Hookup, Installation
from .plates import Accuracy, CapacitorLabel, Load, Motor, Space, StrictModel, Unit, phases_of
from .readings import Reading, in_order
from .record import CallRecord
from .tables import complete
from .technician_judgement import TechnicianJudgement
from .units import LongText, Text
from .vocabulary import Symptom, words_of
from .voltage import is_line_to_neutral, ranges

T = TypeVar("T")
FORMAT, VERSION = "keen-coil/call", 1
NO_VOLTS = 20.0
THREE_LINES = ("supply_v", "winding_ohm", "run_amps_a", "background_amps_a", "sister_amps_a")
AMPS = ("run_amps_a", "background_amps_a", "sister_amps_a")


SYMPTOMS: dict[str, str] = {
    "quiet": "Dead, no noise",
    "hums_no_start": "Hums, won't start",
    "slow_start": "Slow to start",
    "stops_hot": "Cuts out when hot",
    "trips": "Trips breaker or fuse",
    "runs_backwards": "Runs backwards",
    "noisy": "Noisy",
    "weak_air": "Weak airflow",
    "high_pressure_lockout": "High-pressure lockout",
    "other": "Other",
}
complete(SYMPTOMS, words_of(Symptom), "SYMPTOMS")


def _no_bool(value: object) -> object:
    if isinstance(value, bool):
        raise ValueError(f"{VERSION}, the version this program reads")
    return value


class Complaint(StrictModel):
    """What the customer says and what was seen on arrival."""

    says: LongText | None = None
    symptom: Symptom | None = None
    board_code: LongText | None = None


class Call(StrictModel):
    """A call as it stands in a `*.call.json` file."""

    format: Literal["keen-coil/call"]
    version: Annotated[Literal[1], BeforeValidator(_no_bool)]
    complaint: Complaint = Complaint()
    unit: Unit = Unit()
    motor: Motor = Motor()
    chosen_motor: Motor | None = None
    load: Load = Load()
    space: Space = Space()
    capacitor: CapacitorLabel = CapacitorLabel()
    meters: Annotated[dict[Text, dict[Text, Accuracy]], Field(max_length=50)] = {}
    readings: Annotated[list[Reading], Field(max_length=2000)] = []
    changes: Annotated[list[Change], Field(max_length=100)] = []
    hookup: Hookup = Hookup()
    judgement: TechnicianJudgement | None = None
    record: CallRecord | None = None

    _worked_out: dict[Any, Any] = PrivateAttr(default_factory=dict)
    _out: frozenset[int] = PrivateAttr(default=frozenset())

    @model_validator(mode="after")
    def _readings_belong(self) -> Call:
        problems = [detail for index, reading in enumerate(self.readings) for detail in self._misfits(index, reading)]
        if problems:
            raise ValidationError.from_exception_data("Call", problems)
        return self

    def _misfits(self, index: int, reading: Reading) -> Iterator[InitErrorDetails]:
        back = reading.replaces
        if back is not None and (back >= index or self.readings[back].kind != reading.kind):
            yield _detail((index, "replaces"), back, "an earlier reading of the same test")
        phase = self.line_phase if reading.kind == "supply_v" else self._phase
        if isinstance(reading.value, list) and reading.kind in THREE_LINES and phase == 1:
            yield _detail((index, "value"), reading.value, "one value: it is single-phase")
        most = (self.motor_on_proof if reading.is_proof else self.motor).speeds or 1000
        if reading.speed is not None and not 1 <= reading.speed <= most:
            yield _detail((index, "speed"), reading.speed, f"a speed from 1 to {most}, 1 the highest")
        if reading.section == "herm" and self.unit.run_capacitor == "own":
            yield _detail((index, "section"), "herm", "single: this fan's own capacitor has no compressor section")
        if reading.section == "fan" and self.unit.run_capacitor == "compressor_only":
            yield _detail((index, "section"), "fan", "herm or single: this capacitor serves the compressor only")
        if reading.kind in AMPS and reading.leg == "capacitor" and not self.motor.traits.run_capacitor:
            yield _detail((index, "leg"), "capacitor", "whole or winding: this kind of motor has no run capacitor")

    @property
    def _phase(self) -> int | None:
        return phases_of(self.motor, self.unit)

    def withdrawn(self) -> set[int]:
        """Indices of readings that a later one replaces."""
        return {reading.replaces for reading in self.readings if reading.replaces is not None}

    def standing(self, kind: str | None = None, proof: bool = False) -> Sequence[tuple[int, Reading]]:
        """Readings that count, with their index: not withdrawn, of this stage and kind, in order of time.

        Where no time tells, the order follows from what the readings say, never from their place in the list.
        """
        return self.once("standing", self._standing).get((kind, proof), ())

    def _standing(self) -> dict[tuple[str | None, bool], list[tuple[int, Reading]]]:
        gone = self.withdrawn() | self._out
        found: dict[tuple[str | None, bool], list[tuple[int, Reading]]] = {}
        for index, reading in in_order(enumerate(self.readings)):
            if index not in gone:
                for key in ((None, reading.is_proof), (reading.kind, reading.is_proof)):
                    found.setdefault(key, []).append((index, reading))
        return found

    def once(self, key: Hashable, work_out: Callable[[], T]) -> T:
        """Something that follows from this call, worked out the first time it is asked for: a call never changes."""
        private: dict[str, Any] = self.__pydantic_private__ or {}  # by its attribute it takes ten times as long
        kept = private["_worked_out"]
        if key not in kept:
            kept[key] = work_out()
        found: T = kept[key]
        return found

    def without(self, out: frozenset[int]) -> Call:
        """The same call with some readings left out of account, their indices kept."""
        if out == self._out:
            return self
        copy = self.model_copy()
        copy._out = out
        return copy

    @property
    def left_out(self) -> frozenset[int]:
        """Readings left out of account."""
        return self._out

    @property
    def changes_in_order(self) -> tuple[Change, ...]:
        """What was done to the unit, in order of time."""
        return tuple(sorted(self.changes, key=lambda change: (change.minutes, change.what)))

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy, which works everything out anew."""
        copy = super().model_copy(update=update, deep=deep)
        copy._worked_out = {}
        copy._out = frozenset() if update and "readings" in update else self._out
        return copy

    @property
    def installation(self) -> Installation:
        """What stands around the motor, as it is kept with it."""
        return Installation(load=self.load, space=self.space, capacitor=self.capacitor, hookup=self.hookup)

    @property
    def motor_on_proof(self) -> Motor:
        """The motor that proof readings are about: the chosen one, else the one that stayed."""
        return self.chosen_motor or self.motor

    @property
    def has_speeds(self) -> bool:
        """Whether the unit's speeds are this motor's: a blower's always, another's where its plate has several."""
        several = any((m.speeds or 1) > 1 or len(m.speed_amps_a) > 1 for m in (self.motor, self.motor_on_proof))
        return several or self.motor.role in ("indoor_blower", None)

    @property
    def speeds_used(self) -> list[int]:
        """The speeds that this motor is used on, 1 the highest; those of another motor of the unit are not its own."""
        return list(self.unit.speeds_used) if self.has_speeds else []

    def supply_now(self) -> float | None:
        """Volts at the supply: the latest line reading taken standing, else the unit's, else one taken running."""
        return self.once("supply_now", self._supply_now)

    def _supply_now(self) -> float | None:
        running = None
        for _, reading in reversed(self.standing("supply_v")):
            if reading.across == "ground" or reading.wrong_power:
                continue
            mean = sum(reading.numbers) / len(reading.numbers)
            if mean >= NO_VOLTS and reading.when != "running":
                return mean
            if mean >= NO_VOLTS and running is None:
                running = mean
        return self.unit.supply_v or running

    @property
    def line_v(self) -> float | None:
        """Volts of the line that the motor hangs on: as read or noted, else as the plate of the motor in the unit says.

        None where nobody read or noted them and the plate is silent or takes two voltages: then they have to be asked.
        """
        return self.supply_now() or plate_line_v(self.motor)

    @property
    def has_neutral_return(self) -> bool:
        """Whether the line is one hot leg and the neutral, as far as anything tells; else it is two hot legs."""
        return self.line_phase != 3 and self.line_v is not None and is_line_to_neutral(float(self.line_v))

    @property
    def line_phase(self) -> int | None:
        """Phases of the unit: as noted, else those of the motor in it."""
        return self.unit.phase or self._phase


def plate_line_v(motor: Motor) -> float | None:
    """The line that a motor's plate is made for, V, the upper figure of a span; None of two voltages or no plate."""
    plates = ranges(motor.volts) if motor.volts else ()
    return plates[0].high if len(plates) == 1 else None


def _detail(loc: tuple[int, str], value: Any, expected: str) -> InitErrorDetails:
    error = PydanticCustomError("reading", "{expected}", {"expected": expected})
    return InitErrorDetails(type=error, loc=("readings", *loc), input=value)


def read_call(data: object) -> Call:
    """A call from parsed JSON. Raises `InvalidField` with every fault, paths as in the file."""
    if not isinstance(data, dict):
        raise invalid("", data, "a call file: an object with format, version, unit, motor, readings")
    if data.get("format") != FORMAT:
        raise invalid("format", data.get("format"), f'"{FORMAT}"')
    if data.get("version") != VERSION or isinstance(data.get("version"), bool):
        raise invalid("version", data.get("version"), f"{VERSION}, the version this program reads")
    try:
        return Call.model_validate(data)
    except ValidationError as error:
        raise InvalidField(field_errors(error)) from None


def write_call(call: Call) -> dict[str, Any]:
    """The call as data for a file: unknown fields left out, typed digits kept."""
    return call.model_dump(mode="json", by_alias=True, exclude_none=True)
