"""The rule table: what each signal says for or against each fault, in bits (log2 of the odds it moves).

8 and more decides (`D`: measured on the part itself), 3 to 7 is strong, 1 to 2 a hint; `OUT` excludes.  Sources: physics of the circuit and trade practice; a later belief engine takes this table's place
behind `weigh.weigh`.
"""

from __future__ import annotations

D, S, H, OUT = 16.0, 5.0, 1.5, -30.0
_STILL = ("supply_missing", "breaker_tripped", "disconnect_open", "fuse_open", "control_call_absent",
          "switch_not_pulled_in", "switch_contacts_bad", "conductor_open", "connection_bad")  # fmt: skip

EVIDENCE: dict[str, dict[str, float]] = {
    # What the customer says and what was seen
    "symptom.quiet": {name: H for name in _STILL} | {"overload_tripped": H, "winding_open": H, "capacitor_weak": -H},
    "symptom.hums_no_start": {
        "capacitor_weak": 2, "capacitor_open": 2, "winding_start_open": 2, "bearings_seized": 2, "load_jammed": 2,
        "supply_missing": -5, "breaker_tripped": -6, "disconnect_open": -6, "fuse_open": -6, "control_call_absent": -5,
        "winding_run_open": -2, "overload_tripped": -2, "air_restricted": -3,
    },
    "symptom.slow_start": {"capacitor_weak": 3, "bearings_worn": 2, "capacitor_open": H, "supply_low": H, "bearings_seized": -3},
    "symptom.stops_hot": {"overload_tripped": 3, "bearings_worn": H, "air_restricted": H, "capacitor_weak": 2},
    "symptom.trips": {"winding_grounded": 3, "capacitor_grounded": 2, "capacitor_shorted": 2, "conductor_chafed": 3, "breaker_tripped": 2},
    "symptom.runs_backwards": {"wrong_rotation": 5, "capacitor_weak": 3, "capacitor_open": 2, "miswired": 3},
    "symptom.noisy": {"bearings_worn": 3, "load_rubbing": 3, "load_damaged": 2, "hub_loose": 2},
    "symptom.weak_air": {"air_restricted": 3, "capacitor_weak": 2, "hub_loose": 2, "supply_low": 1},
    "symptom.high_pressure_lockout": {"air_restricted": 2, "capacitor_weak": H, "overload_tripped": H},
    # Control and switching
    "control.absent": {"control_call_absent": D},
    "control.present": {"control_call_absent": OUT, "defrost_hold": -4, "delay_hold": -4, "fan_control_hold": -3, "safety_open": -4},
    "hold.defrost": {"defrost_hold": D}, "hold.delay": {"delay_hold": D}, "hold.fan_control": {"fan_control_hold": D},
    "hold.leak_lockout": {"leak_lockout_hold": D}, "hold.board_lockout": {"board_lockout": D},
    "hold.door_switch": {"door_switch_open": D},
    "safety.open": {"safety_open": D}, "safety.stuck": {"pressure_switch_stuck": D},
    "switch.in": {"switch_not_pulled_in": OUT, "control_call_absent": -6},
    "switch.out": {"switch_contacts_bad": -6},
    "switch.out_called": {"switch_not_pulled_in": D},
    "contact_drop.out": {"switch_contacts_bad": D}, "contact_drop.good": {"switch_contacts_bad": -6},
    # Protection
    "breaker.tripped": {"breaker_tripped": D, "supply_missing": -4}, "breaker.closed": {"breaker_tripped": OUT},
    "disconnect.open": {"disconnect_open": D, "supply_missing": -4}, "disconnect.closed": {"disconnect_open": OUT},
    "fuse.open": {"fuse_open": D}, "fuse.closed": {"fuse_open": -4},
    "starter.tripped": {"starter_overload_tripped": D}, "starter.closed": {"starter_overload_tripped": OUT},
    # Volts along the way
    "supply.unit.missing": {"supply_missing": D},
    "supply.unit.good": {"supply_missing": OUT, "supply_low": OUT, "supply_high": OUT},
    "supply.low": {"supply_low": D}, "supply.high": {"supply_high": D},
    "supply.unbalance": {"voltage_unbalance": D}, "supply.phase_lost": {"phase_lost": D},
    "supply.good_at_motor": {
        name: OUT for name in (*_STILL, "supply_missing", "supply_low", "supply_high", "starter_overload_tripped")
    },
    "supply.good_at_load": {
        name: OUT for name in _STILL if name not in ("conductor_open", "connection_bad")
    } | {"supply_low": OUT, "supply_high": OUT},
    "supply.good_at_line": {"supply_missing": OUT, "breaker_tripped": OUT, "disconnect_open": OUT, "fuse_open": OUT},
    "lost.before_switch": {"breaker_tripped": 5, "fuse_open": 4, "disconnect_open": 4},
    "lost.somewhere": {name: 3 for name in _STILL},
    "lost.in_switch_pulled_in": {"switch_contacts_bad": D, "switch_not_pulled_in": OUT},
    "lost.in_switch_not_pulled_in": {"switch_not_pulled_in": D, "switch_contacts_bad": OUT},
    "lost.in_switch": {"switch_contacts_bad": 4, "switch_not_pulled_in": 4},
    "lost.on_the_way": {"conductor_open": 5.5, "connection_bad": 5.5},
    "conductor.open": {"conductor_open": D}, "conductor.chafed": {"conductor_chafed": D},
    "conductor.sound": {"conductor_open": -4, "conductor_chafed": -4},
    "connection.bad": {"connection_bad": D}, "connection.sound": {"connection_bad": -4},
    # Capacitor
    "capacitor.good": {"capacitor_weak": OUT, "capacitor_open": OUT, "capacitor_shorted": OUT, "capacitor_high": OUT},
    "capacitor.weak": {"capacitor_weak": D, "capacitor_open": OUT, "capacitor_shorted": OUT, "capacitor_high": OUT},
    "capacitor.high": {"capacitor_high": D, "capacitor_weak": OUT, "capacitor_open": OUT, "capacitor_shorted": OUT},
    "capacitor.open": {"capacitor_open": D, "capacitor_weak": OUT, "capacitor_shorted": OUT, "capacitor_high": OUT},
    "capacitor.shorted": {"capacitor_shorted": D, "capacitor_weak": OUT, "capacitor_open": OUT, "capacitor_high": OUT},
    "capacitor.borderline": {"capacitor_weak": 3, "capacitor_open": OUT, "capacitor_shorted": OUT},
    "capacitor.wrong_value": {"capacitor_wrong_value": D}, "capacitor.under_rated": {"capacitor_under_rated": D},
    "capacitor.sound": {"capacitor_damaged": OUT}, "capacitor.damaged": {"capacitor_damaged": D},
    "capacitor.case_grounded": {"capacitor_grounded": D}, "capacitor.case_good": {"capacitor_grounded": OUT},
    "herm.weak": {"parallel_load_fault": S}, "herm.open": {"parallel_load_fault": S}, "herm.shorted": {"parallel_load_fault": S},
    # Windings and overload
    "winding.good": {
        "winding_run_open": OUT, "winding_start_open": OUT, "winding_open": OUT, "overload_tripped": OUT, "overload_open": OUT,
        "winding_turns_shorted": -2,
    },
    "winding.start_open": {"winding_start_open": D, "overload_tripped": OUT, "overload_open": OUT},
    "winding.run_open": {"winding_run_open": D, "overload_tripped": OUT, "overload_open": OUT},
    "winding.start_open_hot": {"winding_start_open": D, "overload_open": OUT},
    "winding.run_open_hot": {"winding_run_open": D, "overload_open": OUT},
    "winding.common_open": {"overload_tripped": D, "winding_run_open": OUT, "winding_start_open": OUT},
    "winding.common_open_cool": {"overload_open": D, "overload_tripped": OUT, "winding_run_open": OUT, "winding_start_open": OUT},
    "winding.lead_open": {"overload_tripped": 9, "winding_open": 5},
    "winding.lead_open_cool": {"winding_open": D, "overload_tripped": OUT, "overload_open": 4},
    "winding.two_lead_open": {"overload_tripped": 9, "winding_open": 5},
    "winding.two_lead_open_cool": {"overload_open": 7, "winding_open": D, "overload_tripped": OUT},
    "winding.all_open": {"winding_open": D, "overload_tripped": OUT}, "winding.all_open_hot": {"winding_open": 9},
    "winding.phase_open": {"winding_open": D}, "winding.phase_open_hot": {"winding_open": 9},
    "winding.phase_off": {"winding_turns_shorted": D}, "winding.sum_off": {"winding_turns_shorted": 3},
    "winding.short": {"winding_turns_shorted": 5},
    # Insulation
    "ground.clear": {"winding_grounded": OUT, "insulation_low": -3},
    "ground.grounded": {"winding_grounded": D, "insulation_low": OUT},
    "ground.low": {"insulation_low": D}, "ground.low_dried": {"insulation_low": D},
    "ground.wire_or_motor": {"winding_grounded": 5.5, "conductor_chafed": 5.5},
    # Shaft, blade, air
    "spin.free": {"bearings_seized": OUT, "load_jammed": OUT, "bearings_worn": -H},
    "spin.stiff": {"bearings_worn": 8, "bearings_seized": OUT, "load_rubbing": H},
    "spin.rough": {"bearings_worn": 9, "bearings_seized": OUT},
    "spin.locked_load": {"bearings_seized": 5, "load_jammed": 5},
    "spin.locked_bare": {"bearings_seized": D, "bearings_worn": OUT},
    "spin.locked_clear": {"bearings_seized": 6, "load_jammed": OUT},
    "play.none": {"bearings_worn": -3}, "play.some": {"bearings_worn": 3}, "play.much": {"bearings_worn": D},
    "noise.bearing": {"bearings_worn": 7}, "noise.quiet": {"bearings_worn": -3, "load_rubbing": -4},
    "noise.hum": {"capacitor_weak": 1, "capacitor_open": 1, "winding_start_open": 1, "bearings_seized": 1},
    "noise.rattle": {"hub_loose": 3, "load_damaged": 3},
    "load.sound": {"load_damaged": OUT, "load_jammed": OUT, "load_rubbing": OUT, "hub_loose": -5},
    "load.damaged": {"load_damaged": D}, "load.jammed": {"load_jammed": D}, "load.rubbing": {"load_rubbing": D},
    "load.hub_loose": {"hub_loose": D}, "load.backwards": {"load_damaged": D}, "belt.bad": {"belt_bad": D},
    "air.clear": {"air_restricted": OUT}, "air.restricted": {"air_restricted": D},
    "vent.blocked": {"vent_or_drain_blocked": D}, "vent.clear": {"vent_or_drain_blocked": OUT},
    # Running
    "turns.right": {"wrong_rotation": OUT, "bearings_seized": OUT, "winding_run_open": OUT, "load_jammed": OUT},
    "turns.wrong": {"wrong_rotation": 8}, "turns.wrong_weak": {"wrong_rotation": -9},
    "push.starts": {"capacitor_open": 3, "capacitor_weak": 3, "winding_start_open": 3, "winding_run_open": -4, "bearings_seized": OUT},
    "push.no": {"capacitor_open": -1, "winding_start_open": -1, "bearings_seized": 1},
    "turned.before": {"wrong_rotation": -3, "capacitor_weak": 2},
    "amps.good": {"winding_turns_shorted": -4, "winding_run_open": OUT, "bearings_worn": -1, "air_restricted": -1},
    "amps.watch": {"winding_turns_shorted": -2, "winding_run_open": OUT},
    "amps.over": {"winding_turns_shorted": 3, "air_restricted": 2, "bearings_worn": 2, "capacitor_weak": H, "wrong_motor_fitted": 2},
    "amps.low": {"hub_loose": 2, "wrong_motor_fitted": 2},
    "amps.none": {"winding_run_open": 3, "overload_tripped": 3, "winding_open": 3, "conductor_open": 3, "connection_bad": 2},
    # Everything ahead of it proved, and it does not turn; or everything proved, and it runs
    "dead.all_proved": {"winding_turns_shorted": 13, "bearings_seized": 1},
    "dead.windings_unread": {"winding_open": 4, "winding_start_open": 4, "overload_tripped": 4},
    "all.proved": {"none": 8},
    "runs.well": {"none": 3, "bearings_seized": OUT, "winding_open": OUT, "winding_start_open": -6},
}  # fmt: skip

