"""Row of the fan's load: what the fan that is there asks of this motor, by amps; horsepower is only a note or a doubt.

What a fan takes is known from amps before horsepower. An overload beyond the model's own band and the motor's service
factor refuses; horsepower alone never refuses under *amps first*, and never praises.
"""

from __future__ import annotations

from ..call import Call
from ..machine.conditions import fan_on
from ..machine.fan import SAYS, FanShare
from ..machine.rated import NoModel, rated
from ..units import WATTS_PER_HP, horsepower_text
from ..vocabulary import SizingSchool
from ..voltage import range_for
from .catalogue import CatalogueMotor
from .expected_run import BAND
from .reference import Reference
from .row import MatchRow, fits, needs, refused, work
from .schools import SIZING_RULES, size_index

SOURCE = "fan laws, an estimate"
OVERLOADED = 1.075
"""Up to this share of its torque a motor carries the fan: the least a school takes is 0.95 of the old horsepower, and
plates round by 2 %."""
HP_IS_A_NAME = 0.75
"""Efficiency times power factor by the plate above which its horsepower is a name rather than a load (trade)."""
SIZES_DOWN = 2
"""So many standard sizes under the old horsepower are a doubt where no model speaks (trade)."""


def most_of_torque(new: CatalogueMotor) -> float:
    """The share of its torque above which a motor is overloaded beyond the model's band and its service factor."""
    return max(BAND, float(new.service_factor or 1.0))


def load_row(call: Call, ref: Reference, new: CatalogueMotor, school: SizingSchool) -> MatchRow | None:
    """What the fan asks of this motor's rated torque: refused when overloaded; a doubt where nothing tells.

    None where nothing has anything to say.
    """
    asked = None if ref.blade is not None else _asked(call, ref, new)
    if asked is None:
        return _doubt(ref, new, school)
    texts = _takes(ref, asked), _plate(new)
    says = f"The fan needs {100 * asked.share:.0f} % of its torque"
    if asked.how == "horsepower" and (school == "amps" or (ref.whose == "unit_plate" and call.unit.fan_hp is None)):
        why = f"{says}, {SAYS[asked.how]}. No amps of this fan are known."
        return needs("fan load", *texts, why, work("answer_power" if asked.share > BAND else "prove_blade"), SOURCE)
    if asked.share > most_of_torque(new):
        return refused("fan load", *texts, f"Overloaded: {says[0].lower()}{says[1:]}.", SOURCE, estimate=True)
    doubt = _doubt(ref, new, school)
    if doubt is None and asked.share > OVERLOADED:
        within = "its service factor" if asked.share > BAND else "the band of this estimate"
        return needs("fan load", *texts, f"{says}, inside {within}.", work("prove_load"), SOURCE)
    if doubt is not None:
        return doubt
    return fits("fan load", *texts, f"{says}, {SAYS[asked.how]}.", SOURCE)


def _takes(ref: Reference, asked: FanShare) -> str | None:
    by_amps = asked.how in ("old_plate_amps", "amps_read", "unit_plate_amps") and ref.amps_a is not None
    return f"{ref.amps_a:.2f} A" if by_amps else _horsepower(ref.hp)


def _plate(new: CatalogueMotor) -> str | None:
    return _horsepower(new.hp) if new.amps_a is None else f"{new.amps_a:.2f} A"


def _asked(call: Call, ref: Reference, new: CatalogueMotor) -> FanShare | None:
    """The share of the new motor's torque, where its plate is one of the model's and the old horsepower is a load.

    Its rated point is enough: what the fan asks follows by the fan laws, and a fit for each motor of a large catalog
    would take minutes.
    """
    if ref.motor.kind not in (None, new.kind):
        return None
    try:
        asked = fan_on(call, rated(new, call.line_v, ref.hz))
    except NoModel:
        return None
    return None if asked is not None and asked.how == "horsepower" and _is_name(ref) else asked


def _is_name(ref: Reference) -> bool:
    """Whether the reference's horsepower is more than its volts and amps can turn out."""
    at = range_for(ref.motor.volts, ref.supply_v) if ref.motor.volts else None
    volts = at.low if at else ref.supply_v
    if not (ref.hp and ref.amps_a and volts):
        return False
    return ref.hp * WATTS_PER_HP / (volts * ref.amps_a) > HP_IS_A_NAME


def _doubt(ref: Reference, new: CatalogueMotor, school: SizingSchool) -> MatchRow | None:
    """Horsepower two sizes down at the amps of the old one, where the school does not ask for horsepower itself."""
    asks_hp = SIZING_RULES[school].hp[0] > 0
    if asks_hp or ref.hp is None or new.hp is None or ref.motor.kind not in (None, new.kind):
        return None
    down = size_index(ref.hp) - size_index(new.hp)
    if down < SIZES_DOWN:
        return None
    why = f"{down} sizes under the old horsepower at similar amps."
    return needs("fan load", _horsepower(ref.hp), _horsepower(new.hp), why, work("answer_power"))


def _horsepower(hp: float | None) -> str | None:
    return None if hp is None else f"{horsepower_text(hp)} hp"
