"""The check of a hook-up: what its joints show, then what flows, which way it turns, what burns."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..call import Call
from ..errors import invalid
from ..machine.conditions import Model, model_of
from ..machine.rated import NoModel
from ..match.turning import from_shaft_end, opposite, shipped_way
from ..outputs import outputs_of, speed_asked
from ..plates import Motor
from ..units import fixed
from ..voltage import is_low_connection, plate_amps
from .answer import Check, Currents, Finding, ModeRun, Turns
from .by_table import check_by_table, check_ecm, check_three_phase
from .circuit import Circuit, circuit, outputs
from .faults import finding, in_order
from .laying import table_for, tap_of_each
from .leads import MotorLeads
from .leads_of_call import leads_for
from .solve import Operating, operating
from .structure import across, structural
from .terminals import Join, joins, outputs_must_be_terminals, terminal_words
from .turning_round import turn_round

NO_AMPS = 0.005
OVER = 1.25
"""Line amps above this share of the plate's are no running state (trade)."""
NOTHING = Currents(line=None, main=None, aux=None)


def motor_of(call: Call, planned: bool) -> Motor:
    """The motor that is wired: the chosen one in a plan, the one that came off as found."""
    return call.chosen_motor if planned and call.chosen_motor is not None else call.motor


def check_call(call: Call, planned: bool = True) -> Check:
    """Check `hookup.planned` of a call, or `hookup.found`. Raises `InvalidField` on a terminal or lead that is none."""
    outputs_must_be_terminals(call.unit.outputs)
    path = "hookup.planned" if planned else "hookup.found"
    wires = joins(call.hookup.planned if planned else call.hookup.found, path)
    if not wires:
        raise invalid(path, "nothing", "the wires, from a terminal to a terminal")
    motor = motor_of(call, planned)
    names = {wire.lead for wire in wires if wire.lead}
    return check(call, motor, leads_for(call, motor, names, of_old=not planned), wires, planned)


def check(call: Call, motor: Motor, leads: MotorLeads, wires: list[Join], planned: bool = True) -> Check:
    """What a hook-up does, of one motor with these leads on these wires."""
    if motor.traits.is_three_phase:
        return check_three_phase(call, motor, leads, wires)
    if motor.traits.is_electronic:
        return check_ecm(call, motor, leads, wires)
    table = table_for(call, motor)
    if table is not None and not any(end.startswith("main") for end in leads.ends):
        return check_by_table(call, motor, leads, wires, table)
    if not any(end.startswith("main") for end in leads.ends):
        has = ", ".join(sorted(leads.ends)) or "no ends"
        raise invalid("hookup.leads", has, "the ends of a main winding: look at the diagram")
    found: list[Finding] = []
    modes: list[ModeRun] = []
    first: Check | None = None
    outs: list[str | None] = [*outputs(call, wires)]
    for active in outs or [None]:
        laid = circuit(call, motor, leads, wires, active, planned)
        here = _one(call, motor, laid, wires, planned)
        found += here.findings
        if active is not None:
            modes.append(_mode(call, laid, active, here))
        if first is None or (here.currents_a.line or 0) > (first.currents_a.line or 0):
            first = here
    if first is None:
        raise invalid("hookup", "nothing", "wires")
    if planned:
        found += speed_findings(call, leads, wires, modes)
    listed = in_order(_or_why_not(first, found))
    danger = any(item.severity == "danger" for item in listed)
    return first.model_copy(update={"findings": listed, "runs": first.runs and not danger, "modes": modes})


def _or_why_not(first: Check, found: list[Finding]) -> list[Finding]:
    """The findings; a hook-up that does not start is never nothing wrong, even where no joint shows why."""
    silent = first.solved and first.turns == "not_turning" and not any(item.severity != "untidy" for item in found)
    return [*found, finding("does_not_start", first.says)] if silent else found


def _mode(call: Call, laid: Circuit, active: str, here: Check) -> ModeRun:
    """What an output feeds when it is on."""
    asked = next((out for out in outputs_of(call) if out.terminal == active), None)
    net = laid.net_of(active)
    fed = [tap for tap in laid.leads.taps if laid.net_of(f"end.{tap}") == net]
    fed = fed or [end for end in ("main.2", "main.1") if laid.net_of(f"end.{end}") == net][:1]
    return ModeRun(
        mode=asked.mode if asked else None,
        terminal=active,
        speed=asked.speed if asked else None,
        leads=list(dict.fromkeys(lead for end in fed for lead in laid.leads.having(end))),
        rpm=here.rpm,
        line_a=here.currents_a.line,
    )


def speed_findings(
    call: Call, leads: MotorLeads, wires: list[Join], modes: list[ModeRun], assumed: bool = False
) -> Iterator[Finding]:
    """Outputs that the unit switches on and that feed nothing, or another tap than they ask for.

    With `assumed`, outputs too that nobody noted, where something hangs on them.
    """
    used = {end for wire in wires for end in (wire.a, wire.b)}
    wanted = [out for out in outputs_of(call) if not out.assumed or (assumed and out.terminal in used)]
    many = len(leads.taps)
    given = tap_of_each([speed_asked(out, many) for out in wanted], many) if many else {}
    at = {run.terminal: run for run in modes}
    for out in wanted:
        if out.terminal not in used:
            what = f"{out.name} gets nothing. No lead on {terminal_words(out.terminal)}."
            yield finding("wrong_speed", what[:1].upper() + what[1:])
        elif many and out.terminal in at:
            lead = leads.having(leads.taps[given[speed_asked(out, many)] - 1])[0]
            if lead not in at[out.terminal].leads:
                on = ", ".join(at[out.terminal].leads) or "no tap"
                what = f"{out.name} asks for {lead} and {terminal_words(out.terminal)} feeds {on}."
                yield finding("wrong_speed", what[:1].upper() + what[1:])


def joints_pass(call: Call, motor: Motor, leads: MotorLeads, wires: list[Join]) -> bool:
    """Whether the joints alone show nothing dangerous or wrong: what a solved check need not be asked for."""
    if not motor.traits.has_main_winding:
        return True
    outs: list[str | None] = [*outputs(call, wires)]
    return not any(
        item.severity != "untidy"
        for active in outs or [None]
        for item in structural(circuit(call, motor, leads, wires, active, planned=True), motor, wires)
    )


def _one(call: Call, motor: Motor, laid: Circuit, wires: list[Join], planned: bool) -> Check:
    """The check with one output on."""
    found = structural(laid, motor, wires)
    plate = plate_amps(motor.volts, motor.amps_a, motor.amps_high_a, call.line_v)
    try:
        model = model_for(call, motor)
        at = operating(laid, model, low_connection(call, motor, laid))
    except (NoModel, np.linalg.LinAlgError) as error:
        return _by_rule(motor, laid, found, plate, error)
    turns = _turns(call, motor, at)
    if turns == "wrong":
        back = finding("reversed", "the other way than it must")
        found.append(back.model_copy(update={"cure": turn_round(motor, laid.leads)}))
    over = plate is not None and at.line_a > OVER * plate
    runs = at.way != 0 and not over
    return Check(
        runs=runs,
        turns=turns,
        currents_a=Currents(line=at.line_a, main=at.main_a, aux=at.aux_a),
        capacitor_v=at.capacitor_v,
        findings=found,
        rpm=at.rpm,
        plate_amps_a=plate,
        says=_says(at, turns, plate),
    )


def model_for(call: Call, motor: Motor) -> Model:
    """The model of the motor that is wired. Raises `NoModel` with the reason."""
    fitted = call if motor is call.motor else call.model_copy(update={"chosen_motor": motor})
    return model_of(fitted, proof=motor is not call.motor)


def low_connection(call: Call, motor: Motor, laid: Circuit) -> bool:
    """Whether the fit is for the low connection of a motor whose halves are brought out: there they are in parallel."""
    halves = any(coil.turns == 0.5 for coil in laid.coils)
    return halves and motor.volts is not None and is_low_connection(motor.volts, call.line_v) is True


def _by_rule(motor: Motor, laid: Circuit, found: list[Finding], plate: float | None, error: Exception) -> Check:
    """No circuit is solved for this motor: only what the joints say."""
    grave = any(item.severity in ("danger", "wrong") for item in found)
    mains = [coil for coil in laid.coils if coil.axis == "main"]
    fed = bool(mains) and any((across(laid, c.start, c.end) or 0) > 1 for c in mains)
    why = error.because if isinstance(error, NoModel) else "this wiring has no single solution"
    says = f"From its connections only, no currents: {why}."
    return Check(
        runs=fed and not grave,
        turns="unknown" if fed and not grave else "not_turning",
        currents_a=NOTHING,
        capacitor_v=None,
        findings=found,
        plate_amps_a=plate,
        says=says,
        solved=False,
    )


def _turns(call: Call, motor: Motor, at: Operating) -> Turns:
    """Right, wrong or unknown: the way of the plate against the way that is needed."""
    if at.way == 0:
        return "not_turning"
    rotation = motor.rotation
    if rotation is None or rotation.sense != "reversible":
        return "right" if at.way > 0 else "wrong"
    wanted, shipped = from_shaft_end(call.motor.rotation), shipped_way(rotation)
    if shipped is None or wanted is None:
        return "unknown"
    turned = shipped if at.way > 0 else opposite(shipped)
    return "right" if turned == wanted else "wrong"


def _says(at: Operating, turns: Turns, plate: float | None) -> str:
    if at.line_a < NO_AMPS:
        return "It does not start. No current flows."
    against = "" if plate is None else f", {100 * at.line_a / plate:.0f} % of its plate"
    amps = f"{fixed(at.line_a)} A{against}"
    if at.way == 0:
        return f"It does not start: {amps} locked."
    return f"It runs at about {at.rpm:.0f} rpm on {amps}."
