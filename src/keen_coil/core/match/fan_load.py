"""Row of the fan's load: what the fan that is there asks of this motor, by the motor model; without it, a doubt.

Plate amps say what a motor draws, not what it turns: of two motors with the same amps the smaller can be asked for more
than it has. An overload by the model refuses in every school; where no model speaks, much less horsepower is a doubt.
"""

from __future__ import annotations

from ..call import Call
from ..machine.conditions import blade_on
from ..machine.rated import NoModel, rated
from ..units import WATTS_PER_HP, horsepower_text
from ..vocabulary import SizingSchool
from ..voltage import range_for
from .catalogue import CatalogueMotor
from .expected_run import OVERLOADED
from .reference import Reference
from .row import MatchRow, fits, needs, refused
from .schools import SIZING_RULES, size_index
from .work import work

SOURCE = "motor model and fan laws, an estimate"
HP_IS_A_NAME = 0.75
"""Efficiency times power factor by the plate above which its horsepower is a name rather than a load (trade)."""
SIZES_DOWN = 2
"""So many standard sizes under the old horsepower are a doubt where no model speaks (trade)."""


def load_row(call: Call, ref: Reference, new: CatalogueMotor, school: SizingSchool) -> MatchRow | None:
    """What the fan asks of this motor's rated torque: refused when overloaded; a doubt where the model is silent.

    None where neither has anything to say.
    """
    share = None if ref.blade is not None else _asked(call, ref, new)
    if share is None:
        return _doubt(ref, new, school)
    texts = _horsepower(ref.hp), _horsepower(new.hp)
    says = f"The fan needs {100 * share:.0f} % of its torque."
    if share > OVERLOADED and ref.whose == "unit_plate" and call.unit.fan_hp is None:
        why = f"{says[:-1]} by the old motor, which was not the right one."
        return needs("fan load", *texts, why, work("answer_power"), SOURCE)
    if share > OVERLOADED:
        return refused("fan load", *texts, f"Overloaded: {says[0].lower()}{says[1:]}", SOURCE, estimate=True)
    return fits("fan load", *texts, says, SOURCE)


def _asked(call: Call, ref: Reference, new: CatalogueMotor) -> float | None:
    """The share of the new motor's torque, where its plate is one of the model's and the old horsepower is a load.

    Its rated point is enough: what the fan asks follows by the fan laws, and a fit for each motor of a large catalogue
    would take minutes.
    """
    if ref.motor.kind not in (None, new.kind) or _is_name(ref):
        return None
    try:
        return blade_on(call, rated(new, ref.supply_v, ref.hz))
    except NoModel:
        return None


def _is_name(ref: Reference) -> bool:
    """Whether the reference's horsepower is more than its volts and amps can turn out."""
    at = range_for(ref.motor.volts, ref.supply_v) if ref.motor.volts else None
    volts = at.low if at else ref.supply_v
    if not (ref.hp and ref.amps_a and volts):
        return False
    return ref.hp * WATTS_PER_HP / (volts * ref.amps_a) > HP_IS_A_NAME


def _doubt(ref: Reference, new: CatalogueMotor, school: SizingSchool) -> MatchRow | None:
    """Horsepower two sizes down where the school does not ask for horsepower itself."""
    asks_hp = SIZING_RULES[school].hp[0] > 0
    if asks_hp or ref.hp is None or new.hp is None or ref.motor.kind not in (None, new.kind):
        return None
    down = size_index(ref.hp) - size_index(new.hp)
    if down < SIZES_DOWN:
        return None
    why = f"{down} sizes under the old horsepower at similar amps, and no model to say if it carries this fan."
    return needs("fan load", _horsepower(ref.hp), _horsepower(new.hp), why, work("answer_power"))


def _horsepower(hp: float | None) -> str | None:
    return None if hp is None else f"{horsepower_text(hp)} hp"
