"""The practice case: what the learner sees of a call, and what is hidden in it. A JSON file to write and share."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError, model_validator
from pydantic_core import InitErrorDetails, PydanticCustomError

from ..call import Call
from ..diagnosis.faults import FAULTS, MUTUALLY_EXCLUSIVE, possible
from ..errors import FieldError, InvalidField, field_errors, invalid, paths_under
from ..hookup.leads import FRAME, customary, read_leads
from ..judge.capacitor import fan_section
from ..machine.fit import fit_plate
from ..machine.rated import NoModel, rated
from ..plates import StrictModel
from ..units import Celsius, LongText, Number, Text, Volts
from ..vocabulary import CaseEnd, CaseStart
from .plate_motor import plate_motor

FORMAT, VERSION = "keen-coil/case", 1
MOST_FAULTS = 3
LARGEST_SEED = 10**12
NOT_HIDDEN = ("none", "ecm_module_or_motor")
SPAN = ("arrive", "finding", "match", "hook-up", "run-proof", "hand-over")
"""The stations at which a case begins or ends, in their order."""
_NEEDED = ("role", "kind", "hp", "volts", "amps_a", "rpm", "phase")


class HiddenFault(StrictModel):
    """A fault and how far it has gone, in per cent: 0 just there, 100 as bad as it gets."""

    fault: Text
    size_pct: Annotated[float, Number(0, 100)] = 50.0


class Surroundings(StrictModel):
    """What is so besides: volts at the supply where not the plate's, wind on the fan, the air's temperature in C."""

    supply_v: Volts | None = None
    wind: bool = False
    air_c: Celsius | None = None


class Case(StrictModel):
    """A practice case. `call` is what the learner is given; `faults` is what is so; no fault is a case as well.

    `draw` says in which draw its seed gives it, absent in the first. It is played from station `starts` to `ends`.
    """

    format: Literal["keen-coil/case"]
    version: Literal[1]
    title: Text
    teaches: LongText | None = None
    rung: Text | None = None
    seed: Annotated[int, Number(0, LARGEST_SEED, whole=True)]
    draw: Annotated[int, Number(1, 1000, whole=True)] | None = None
    call: Call
    faults: Annotated[list[HiddenFault], Field(max_length=MOST_FAULTS)] = []
    last_visit: LongText | None = None
    around: Surroundings = Surroundings()
    starts: CaseStart = "arrive"
    ends: CaseEnd = "finding"

    @property
    def truth(self) -> frozenset[str]:
        """Names of the faults that are there."""
        return frozenset(row.fault for row in self.faults)

    @model_validator(mode="after")
    def _can_be(self) -> Case:
        problems = [*self._of_call(), *self._of_faults(), *self._of_span()]
        if problems:
            raise ValidationError.from_exception_data("Case", problems)
        return self

    def _of_call(self) -> Iterator[InitErrorDetails]:
        motor = self.call.motor
        for name in _NEEDED:
            if getattr(motor, name) is None:
                yield _detail(("call", "motor", name), "nothing", "a value: the case's motor is made from its plate")
        if self.call.readings or self.call.record or self.call.chosen_motor:
            yield _detail(("call", "readings"), len(self.call.readings), "a call that is only beginning")

    def _of_span(self) -> Iterator[InitErrorDetails]:
        if SPAN.index(self.starts) > SPAN.index(self.ends):
            yield _detail(("ends",), self.ends, f"a station after {self.starts}")

    @property
    def is_job(self) -> bool:
        """Whether it goes on past Finding."""
        return self.ends != "finding"

    def _of_faults(self) -> Iterator[InitErrorDetails]:
        seen: set[str] = set()
        for n, row in enumerate(self.faults):
            loc = ("faults", n, "fault")
            if row.fault not in FAULTS or row.fault in NOT_HIDDEN:
                yield _detail(loc, row.fault, "a fault of the contract")
                continue
            if not possible(row.fault, self.call):
                yield _detail(loc, row.fault, "a fault this unit can have")
            clash = next((g for g in MUTUALLY_EXCLUSIVE if row.fault in g and seen & set(g)), ())
            if row.fault in seen or clash:
                yield _detail(loc, row.fault, "at most one fault of the same part")
            lacking = _not_shown(row.fault, self.call)
            if lacking:
                yield _detail(loc, row.fault, lacking)
            seen.add(row.fault)


def _not_shown(fault: str, call: Call) -> str:
    """What the plates must show for a fault that is seen on them; empty when they do."""
    motor, unit = call.motor, call.unit
    label = call.capacitor.section_uf(fan_section(call))
    if fault == "capacitor_wrong_value" and (label is None or label == motor.capacitor_uf):
        return "a capacitor label of another value than the motor's plate"
    volts = call.capacitor.volts_v
    if fault == "capacitor_under_rated" and not (volts and motor.capacitor_v and volts < motor.capacitor_v):
        return "a capacitor label of fewer volts than the motor's plate"
    if fault == "wrong_motor_fitted" and (unit.fan_rpm or motor.rpm) == motor.rpm and not unit.fan_amps_a:
        return "a unit plate (fan_rpm, fan_amps_a) of another motor"
    if fault == "miswired" and not call.hookup.found:
        return "hookup.found, the wiring as it is"
    return ""


def _detail(loc: tuple[str | int, ...], value: Any, expected: str) -> InitErrorDetails:
    error = PydanticCustomError("case", "{expected}", {"expected": expected})
    return InitErrorDetails(type=error, loc=loc, input=value)


def read_case(data: object) -> Case:
    """A case from parsed JSON. Raises `InvalidField` with every fault, paths as in the file."""
    if not isinstance(data, dict):
        raise invalid("", data, "a practice case: an object with format, version, title, seed, call, faults")
    if data.get("format") != FORMAT:
        raise invalid("format", data.get("format"), f'"{FORMAT}"')
    if data.get("version") != VERSION or isinstance(data.get("version"), bool):
        raise invalid("version", data.get("version"), f"{VERSION}, the version this program reads")
    try:
        case = Case.model_validate(data)
    except ValidationError as error:
        raise InvalidField(field_errors(error)) from None
    with paths_under("call"):
        _must_turn(case.call)
    return case


def _must_turn(call: Call) -> None:
    """The motor can be made from its plate, and its leads are known. Raises `InvalidField`, paths under the call."""
    noted = [row for row in call.hookup.leads if row.ends != [FRAME]]
    if call.motor.traits.has_main_winding:
        if noted and all(row.ends for row in noted):
            read_leads(call.hookup.leads)
        else:
            customary(call.motor)
    if call.motor.kind and call.motor.traits.is_modelled:
        try:
            fit_plate(rated(call.motor, call.unit.supply_v, call.unit.hz))
        except NoModel as error:
            raise InvalidField([FieldError(f.path, f.value, f.expected) for f in error.errors]) from None
    elif not call.motor.traits.is_electronic:
        plate_motor(call.motor, call.unit.supply_v, call.unit.hz)


def write_case(case: Case) -> dict[str, Any]:
    """A case as data for a file: unknown fields left out, typed digits kept."""
    data = case.model_dump(mode="json", by_alias=True, exclude_none=True, exclude_defaults=True)
    call = case.call.model_dump(mode="json", by_alias=True, exclude_none=True, exclude_defaults=True)
    return {**data, "format": FORMAT, "version": VERSION, "call": {"format": "keen-coil/call", "version": 1, **call}}
