"""How a candidate would run on this blade at this supply, by the motor model."""

from __future__ import annotations

from pydantic import BaseModel

from ..call import Call
from ..machine.conditions import fan_on, model_of
from ..machine.expected import SOURCE, expected
from ..machine.rated import NoModel
from ..plates import Motor
from ..thermal.cost import heat_sentence
from ..thermal.winding import heat_of
from ..vocabulary import RunState

Band = tuple[float, float, float]
BAND = 1.10
"""The model's own band of torque."""


class ExpectedRun(BaseModel):
    """What a candidate would read here, as least, middle and most; or why the model does not say.

    load_pct is what the fan asks of its rated torque; `shaft_w` what it then gives. winding_c on average;
    life_of_plate against the candidate's own plate, never in years.
    """

    run_amps_a: Band | None = None
    run_rpm: Band | None = None
    shaft_w: Band | None = None
    load_pct: float | None = None
    starts: RunState | None = None
    winding_c: Band | None = None
    life_of_plate: Band | None = None
    heat_says: str = ""
    says: str
    source: str | None = None


def expected_run(call: Call, new: Motor) -> ExpectedRun:
    """How a motor would run in this call's unit: its own capacitor, the fan that is there, the volts of the supply."""
    fitted = call.model_copy(update={"chosen_motor": new.model_copy()})
    try:
        model = model_of(fitted, proof=True)
    except NoModel as error:
        return ExpectedRun(says=f"From its plate only: {error.because}.")
    heat = heat_of(model)
    found, load = expected(model), model.conditions.load
    asked = fan_on(fitted, model.fit.rated)
    by_name = asked is None or asked.how == "horsepower"
    amps, rpm, watts = found.run_amps_a["whole"], found.run_rpm, found.shaft_w
    plate_amps = model.fit.rated.amps_a
    says = f"{amps.text('A')} at {model.conditions.volts_v.mid:.0f} V, plate {plate_amps:g} A; {rpm.text('rpm', 4)}."
    if found.starts != "starts_and_runs":
        says = f"It would not start this fan: {found.rest_amps_a['whole'].mid:.2f} A at rest."
    elif by_name:
        says = f"{says} By horsepower alone: no amps of this fan are known. Prove it on the first run."
    elif load > max(BAND, float(new.service_factor or 1.0)):
        says = f"Overloaded: the fan needs {100 * load:.0f} % of its torque. {says}"
    return ExpectedRun(
        run_amps_a=amps.ends,
        run_rpm=rpm.ends,
        shaft_w=watts.ends,
        load_pct=100 * load,
        starts=found.starts,
        winding_c=heat.winding_c.ends,
        life_of_plate=heat.life_of_plate.ends,
        heat_says="" if by_name else heat_sentence(heat),
        says=says,
        source=SOURCE,
    )
