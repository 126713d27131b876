"""The hook-up bench without a database: plan or check a call file, for the command line and the API."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ...core.call import Call
from ...core.errors import invalid, paths_under
from ...core.hookup.answer import HookupAnswer, PlannedWire
from ...core.hookup.check import check_call, low_connection, model_for, motor_of
from ...core.hookup.circuit import circuit, outputs
from ...core.hookup.drawing import lay_out, svg
from ...core.hookup.leads import MotorLeads
from ...core.hookup.leads_of_call import leads_for
from ...core.hookup.plan import plan
from ...core.hookup.solve import halves, operating
from ...core.hookup.spice import netlist
from ...core.hookup.terminals import Join, joins
from ...core.machine.rated import NoModel
from ...core.plates import Motor
from ...core.vocabulary import CapacitorSchool, words_of
from ...formats.call_file import load_call
from ...formats.catalogue_csv import read_catalogue
from ..stations.match import motor_fields
from .requests import HookupOfCall, HookupRequest, read_request

SCHOOLS: tuple[CapacitorSchool, ...] = words_of(CapacitorSchool)


@dataclass(frozen=True)
class Wired:
    """A hook-up with its answer: the motor, its leads, the wires."""

    call: Call
    motor: Motor
    leads: MotorLeads
    wires: list[Join]
    answer: HookupAnswer


def hookup_file(
    data: bytes, to: str | None = None, catalogue: bytes | None = None, school: str | None = None, check: bool = False
) -> Wired:
    """Plan the hook-up of a call file, or check its planned one. Raises `InvalidField`."""
    call = load_call(data)
    motor = None
    if to is not None:
        if catalogue is None:
            raise invalid("to", to, "a catalog to take it from")
        row = next((motor for motor in read_catalogue(catalogue) if motor.part_no == to), None)
        if row is None:
            raise invalid("to", to, "a part number of the catalog")
        motor = Motor.model_validate(motor_fields(row.model_dump(mode="json", by_alias=True, exclude_defaults=True)))
    return wired(call, motor, school, check)


def wired(call: Call, to: Motor | None, school: str | None, check: bool) -> Wired:
    """Plan or check a call; `to` goes on, else the chosen motor, else the one that is there. Raises `InvalidField`."""
    chosen = _school(school)
    if to is not None:
        call = call.model_copy(update={"chosen_motor": to})
    motor = motor_of(call, planned=True)
    if check:
        wires = joins(call.hookup.planned, "hookup.planned")
        found = check_call(call)
        rows = [PlannedWire(from_=wire.a, to=wire.b) for wire in wires]
        answer = HookupAnswer(moves=[], planned=rows, check=found)
    else:
        answer = plan(call, motor, chosen)
        wires = [Join(row.from_, row.to) for row in answer.planned]
    leads = leads_for(call, motor, {wire.lead for wire in wires if wire.lead})
    return Wired(call, motor, leads, wires, answer)


def _school(school: Any) -> CapacitorSchool | None:
    if school is None:
        return None
    found = next((name for name in SCHOOLS if name == school), None)
    if found is None:
        raise invalid("school", school, "one of " + ", ".join(SCHOOLS))
    return found


def hookup_request(data: bytes) -> HookupAnswer:
    """The answer to an API request, a `HookupRequest`. Raises `InvalidField`."""
    asked: Call | HookupOfCall = read_request(HookupRequest, data)  # type: ignore[arg-type]  # a union is no class
    if isinstance(asked, Call):
        return wired(asked, None, None, check=False).answer
    with paths_under("call"):
        return wired(asked.call, asked.to, asked.school, asked.check).answer


def as_svg(done: Wired) -> str:
    """The drawing of a hook-up as an SVG file."""
    return svg(lay_out(done.leads, done.wires, []), done.answer.check)


def as_spice(done: Wired) -> str:
    """The hook-up as a SPICE netlist at the slip it comes to run at, else standing still. Raises `InvalidField`."""
    try:
        model = model_for(done.call, done.motor)
    except NoModel as error:
        raise invalid("motor", done.motor.kind, f"a motor that is solved as a circuit: {error.because}") from None
    active = next(iter(outputs(done.call, done.wires)), None)
    laid = circuit(done.call, done.motor, done.leads, done.wires, active, planned=True)
    low = low_connection(done.call, done.motor, laid)
    at = operating(laid, model, low)
    return netlist(laid, halves(model.fit.windings, low), at.slip, f"hook-up at slip {at.slip:.4f}")
