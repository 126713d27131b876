"""What faults do to a run-capacitor motor, as changes of the model: one row a scenario, one row a fault.

A scenario is a span of severities; the model answers each. Shares are trade judgement: how often a fault shows as that
scenario. `broad` is anything at all, `dead` no current.
"""

from __future__ import annotations

from typing import Literal, NamedTuple

What = Literal["nothing", "uf", "volts", "load", "drag", "aux_open", "main_open", "swapped", "shorted", "locked"]


class Scenario(NamedTuple):
    """A change of the model from one end to the other, as a factor of what is right, and how it is put in words."""

    what: What
    low: float
    high: float
    says: str


SCENARIOS: dict[str, Scenario] = {
    "healthy": Scenario("nothing", 1, 1, "as it should be"),
    "weak_capacitor": Scenario("uf", 0.15, 0.92, "with {uf:.1f} µF"),
    "small_capacitor": Scenario("uf", 0.45, 0.8, "with {uf:.1f} µF"),
    "large_capacitor": Scenario("uf", 1.2, 2.1, "with {uf:.1f} µF"),
    "open_auxiliary": Scenario("aux_open", 1, 1, "on the main winding alone"),
    "shorted_capacitor": Scenario("uf", float("inf"), float("inf"), "with the capacitor shorted"),
    "open_main": Scenario("main_open", 1, 1, "on the start winding alone"),
    "shorted_turns": Scenario("shorted", 0.015, 0.2, "with {pct:.0f} % of the main turns shorted"),
    "low_volts": Scenario("volts", 0.75, 0.93, "on {volts:.0f} V"),
    "bad_contact": Scenario("volts", 0.35, 0.95, "on {volts:.0f} V behind the contact"),
    "high_volts": Scenario("volts", 1.08, 1.2, "on {volts:.0f} V"),
    "dragging": Scenario("drag", 0.04, 0.6, "with a drag of {pct:.0f} % of its torque"),
    "held_fast": Scenario("locked", 1, 1, "held fast"),
    "starved_propeller": Scenario("load", 1.08, 1.6, "with the fan asking {pct:.0f} % of its torque"),
    "starved_wheel": Scenario("load", 0.35, 0.85, "with the wheel asking {pct:.0f} % of its torque"),
    "odd_fan": Scenario("load", 0.5, 1.5, "with the fan asking {pct:.0f} % of its torque"),
    "slipping": Scenario("load", 0.02, 0.65, "with the fan asking {pct:.0f} % of its torque"),
    "other_fan": Scenario("load", 0.3, 2.6, "with the fan asking {pct:.0f} % of its torque"),
    "swapped_leads": Scenario("swapped", 1, 1, "with the capacitor in the main winding"),
}

_CUT = (("dead", 0.96), ("healthy", 0.02), ("broad", 0.02))
_SAME = (("healthy", 0.95), ("broad", 0.05))
SHOWS: dict[str, tuple[tuple[str, float], ...]] = {
    "none": (("healthy", 1.0),),
    "capacitor_weak": (("weak_capacitor", 1.0),),
    "capacitor_damaged": (("healthy", 0.5), ("weak_capacitor", 0.5)),
    "capacitor_open": (("open_auxiliary", 1.0),),
    "winding_start_open": (("open_auxiliary", 1.0),),
    "capacitor_shorted": (("shorted_capacitor", 0.8), ("broad", 0.2)),
    "capacitor_high": (("large_capacitor", 1.0),),
    "capacitor_wrong_value": (("small_capacitor", 0.5), ("large_capacitor", 0.5)),
    "winding_run_open": (("open_main", 1.0),),
    "winding_turns_shorted": (("shorted_turns", 0.85), ("broad", 0.15)),
    "supply_low": (("low_volts", 1.0),),
    "supply_high": (("high_volts", 1.0),),
    "switch_contacts_bad": (("bad_contact", 0.4), ("dead", 0.4), ("healthy", 0.2)),
    "connection_bad": (("bad_contact", 0.4), ("dead", 0.4), ("healthy", 0.2)),
    "bearings_worn": (("dragging", 0.7), ("healthy", 0.3)),
    "load_rubbing": (("dragging", 0.8), ("healthy", 0.2)),
    "bearings_seized": (("held_fast", 1.0),),
    "load_jammed": (("held_fast", 1.0),),
    "load_damaged": (("odd_fan", 0.7), ("healthy", 0.3)),
    "hub_loose": (("slipping", 0.8), ("healthy", 0.2)),
    "belt_bad": (("slipping", 0.8), ("healthy", 0.2)),
    "wrong_rotation": (("odd_fan", 0.8), ("healthy", 0.2)),
    "wrong_motor_fitted": (("other_fan", 0.8), ("healthy", 0.2)),
    "miswired": (("swapped_leads", 0.4), ("broad", 0.4), ("open_auxiliary", 0.1), ("dead", 0.1)),
    "winding_grounded": (("healthy", 0.3), ("broad", 0.5), ("dead", 0.2)),
    "conductor_open": (("dead", 0.7), ("open_auxiliary", 0.2), ("open_main", 0.1)),
    "fuse_open": (("dead", 0.9), ("broad", 0.1)),
    "winding_open": _CUT,
    "overload_open": _CUT,
    "overload_tripped": _CUT,
}
AIR = {"propeller": "starved_propeller", "wheel": "starved_wheel"}
"""What restricted air is to the two kinds of fan; its share of the fault's showing at all is 0.75."""
_HELD = (
    "defrost_hold delay_hold fan_control_hold leak_lockout_hold board_lockout door_switch_open safety_open "
    "pressure_switch_stuck supply_missing breaker_tripped disconnect_open switch_not_pulled_in control_call_absent"
).split()


def shows(fault: str, wheel: bool) -> tuple[tuple[str, float], ...]:
    """How a fault shows in amps, speed and capacitor volts: scenarios with their shares."""
    if fault == "air_restricted":
        return ((AIR["wheel" if wheel else "propeller"], 0.75), ("healthy", 0.25))
    if fault in _HELD:
        return _CUT
    return SHOWS.get(fault, _SAME)
