"""What dead tests and looks at capacitor, windings, shaft, blade and plates show, by fault. How to read a row: `evidence.py`."""

from __future__ import annotations

from .question import BROKEN, DRIED, LEADS, OTHER, READ_OR_STATED, Question, question

MOTOR: dict[str, Question] = {
    "cap_look": question("look of the capacitor", "sound | damaged", {
        OTHER: "sound 0.999, damaged 0.001",
        "capacitor_damaged": "sound 0.02, damaged 0.98",
    }),
    "cap": question("microfarads", "good | weak high open shorted borderline", {
        OTHER: "good 0.957, weak 0.0012, high 0.0004, open 0.0007, shorted 0.0007, borderline 0.04",
        "capacitor_weak": "good 0.01, weak 0.86, borderline 0.13",
        "capacitor_open": "weak 0.01, open 0.985, borderline 0.005",
        "capacitor_high": "good 0.01, high 0.9, borderline 0.09",
        "capacitor_shorted": "open 0.02, shorted 0.98",
    }),
    "cap_can": question("capacitor to its can", "good | grounded", {
        OTHER: "good 0.9999, grounded 0.0001",
        "capacitor_grounded": "grounded 1",
    }),
    "cap_label": question("label against motor plate", "right | stated_wrong wrong", {
        OTHER: "right 0.985, stated_wrong 0.0148, wrong 0.0002",
        "capacitor_wrong_value": "stated_wrong 1, wrong 1",
    }, {"capacitor_wrong_value": READ_OR_STATED}),
    "cap_volts": question("capacitor volts", "right | under", {
        OTHER: "right 0.9999, under 0.0001",
        "capacitor_under_rated": "under 1",
    }),
    "herm": question("compressor section", "good | bad", {
        OTHER: "good 0.9993, bad 0.0007",
        "parallel_load_fault": "good 0.5, bad 0.5",
    }),
    "winding": question("winding pairs", "good | start_open run_open lead_open common_open two_lead_open all_open phase_open start_open_cool run_open_cool lead_open_cool common_open_cool two_lead_open_cool all_open_cool phase_open_cool tap_open taps_wrong phase_off sum_off short", {
        OTHER: "good 0.9815, start_open 0.0001, run_open 0.0001, lead_open 0.0001, common_open 0.0001, two_lead_open 0.0001, all_open 0.0001, phase_open 0.0001, start_open_cool 0.0001, run_open_cool 0.0001, lead_open_cool 0.0001, common_open_cool 0.0001, two_lead_open_cool 0.0001, all_open_cool 0.0001, phase_open_cool 0.0001, tap_open 0.0001, taps_wrong 0.004, phase_off 0.0001, sum_off 0.01, short 0.003",
        "winding_start_open": "start_open 1, lead_open 0.1, all_open 0.02, start_open_cool 1, lead_open_cool 0.8",
        "winding_run_open": "run_open 1, lead_open 0.1, all_open 0.02, run_open_cool 1, lead_open_cool 0.8",
        "winding_open": "lead_open 0.05, two_lead_open 0.12, all_open 1, phase_open 1, lead_open_cool 0.8, two_lead_open_cool 0.9, all_open_cool 1, phase_open_cool 1",
        "overload_tripped": "lead_open 0.7, common_open 1, two_lead_open 1",
        "overload_open": "lead_open 0.1, common_open 0.2, two_lead_open 0.2, lead_open_cool 0.6, common_open_cool 1, two_lead_open_cool 0.3",
        "winding_turns_shorted": "good 0.25, taps_wrong 0.1, phase_off 1, sum_off 0.3, short 0.4",
        "winding_tap_open": "good 0.3, tap_open 1",
        "winding_grounded": "good 0.9483, start_open 0.0001, run_open 0.0001, lead_open 0.0001, common_open 0.0001, two_lead_open 0.0001, all_open 0.0001, phase_open 0.0001, start_open_cool 0.0001, run_open_cool 0.0001, lead_open_cool 0.0001, common_open_cool 0.0001, two_lead_open_cool 0.0001, all_open_cool 0.0001, phase_open_cool 0.0001, tap_open 0.0001, taps_wrong 0.0001, phase_off 0.01, sum_off 0.04, short 0.0001",
    }, {"winding_start_open winding_run_open winding_open overload_tripped overload_open winding_turns_shorted winding_tap_open": LEADS}),
    "taps": question("speed taps", "good | odd", {
        OTHER: "good 0.99, odd 0.01",
        "winding_run_open overload_tripped overload_open winding_tap_open": "odd 1",
    }),
    "run": question("windings from the starter's load side", "good | off", {
        OTHER: "good 0.998, off 0.002",
        f"{BROKEN} overload_tripped": "off 1",
        "winding_turns_shorted": "good 0.15, off 0.85",
        "conductor_open": "good 0.1, off 0.9",
        "connection_bad": "good 0.4, off 0.6",
        "conductor_chafed": "good 0.5, off 0.5",
    }),
    "ground": question("lead to frame, ohmmeter", "clear | grounded low low_dried", {
        OTHER: "clear 0.999, grounded 0.0003, low 0.0002, low_dried 0.0002",
        "winding_grounded": "clear 0.05, grounded 0.93, low 0.015, low_dried 0.005",
        "insulation_low": "clear 0.45, low 0.55, low_dried 1",
    }, {"insulation_low": DRIED}),
    "megger": question("insulation tester", "good | grounded low low_dried", {
        OTHER: "good 0.9994, grounded 0.0002, low 0.0002, low_dried 0.0001",
        "winding_grounded": "grounded 0.993, low 0.004, low_dried 0.002",
        "insulation_low": "good 0.02, low 0.98, low_dried 1",
    }, {"insulation_low": DRIED}),
    "leak": question("ohms to the frame that show at all", "none | some", {
        OTHER: "none 0.985, some 0.015",
        "insulation_low": "none 0.3, some 0.7",
        "winding_grounded": "none 0.5, some 0.5",
    }),
    "left": question("the pair that still reads", "| one both", {
        OTHER: "one 0.5, both 0.5",
        "winding_start_open winding_run_open": "one 0.85, both 0.15",
        "overload_tripped overload_open": "one 0.15, both 0.85",
    }),
    "line_ground": question("to ground from the switch's load side", "clear | low", {
        OTHER: "clear 0.999, low 0.0005",
        "winding_grounded": "clear 0.04, low 0.96",
        "insulation_low": "clear 0.3, low 0.7",
        "conductor_chafed": "clear 0.2, low 0.8",
        "capacitor_grounded": "clear 0.5, low 0.5",
    }),
    "spin": question("turned by hand, load on", "free | stiff rough locked brakes", {
        OTHER: "free 0.962, stiff 0.03, rough 0.004, locked 0.002, brakes 0.002",
        "bearings_worn": "free 0.3, stiff 0.3, rough 0.39, locked 0.01",
        "bearings_seized": "stiff 0.03, locked 0.97",
        "load_jammed": "free 0.02, stiff 0.05, rough 0.02, locked 0.91",
        "load_rubbing": "free 0.25, stiff 0.38, rough 0.33, locked 0.04",
        "ecm_module": "free 0.77, stiff 0.01, rough 0.01, locked 0.01, brakes 0.2",
        "ecm_motor": "free 0.75, stiff 0.08, rough 0.05, locked 0.07, brakes 0.05",
        "hub_loose": "free 0.95, stiff 0.02, rough 0.03",
    }),
    "shaft": question("bare shaft turned by hand", "free | stiff rough locked", {
        OTHER: "free 0.966, stiff 0.03, rough 0.004, locked 0.0004",
        "bearings_worn": "free 0.2, stiff 0.35, rough 0.43, locked 0.02",
        "bearings_seized": "stiff 0.02, locked 0.98",
        "ecm_motor": "free 0.85, stiff 0.06, rough 0.05, locked 0.04",
    }),
    "play": question("side play", "none | some much", {
        OTHER: "none 0.915, some 0.08, much 0.004",
        "bearings_worn": "none 0.25, some 0.35, much 0.4",
        "bearings_seized": "none 0.65, some 0.25, much 0.1",
        "load_rubbing": "none 0.75, some 0.2, much 0.05",
    }),
    "load": question("look of blade or wheel", "sound | damaged jammed rubbing loose", {
        OTHER: "sound 0.9965, damaged 0.001, jammed 0.0005, rubbing 0.001, loose 0.001",
        "load_damaged": "sound 0.03, damaged 0.95, rubbing 0.01, loose 0.01",
        "load_jammed": "sound 0.03, jammed 0.97",
        "load_rubbing": "sound 0.12, damaged 0.02, rubbing 0.86",
        "hub_loose": "sound 0.25, loose 0.75",
    }),
    "belt": question("belt", "sound | bad", {
        OTHER: "sound 0.9999, bad 0.0001",
        "belt_bad": "sound 0.02, bad 0.98",
    }),
    "vent": question("vent and drain", "clear | blocked", {
        OTHER: "clear 0.9999, blocked 0.0001",
        "vent_or_drain_blocked": "clear 0.05, blocked 0.95",
    }),
    "air": question("air path", "clear | restricted", {
        OTHER: "clear 0.999, restricted 0.001",
        "air_restricted": "clear 0.02, restricted 0.98",
    }),
    "ecm_windings": question("pairs, module unplugged", "even | failed", {
        OTHER: "even 0.999, failed 0.001",
        "ecm_motor": "even 0.25, failed 0.75",
    }),
    "ecm_frame": question("frame, module unplugged", "clear | failed", {
        OTHER: "clear 0.9996, failed 0.0004",
        "ecm_motor": "clear 0.6, failed 0.4",
    }),
    "plate_fit": question("motor plate against unit plate", "right | wrong", {
        OTHER: "right 0.9999, wrong 0.0001",
        "wrong_motor_fitted": "right 0.4, wrong 0.6",
    }),
    "wired": question("wiring as found", "right | wrong", {
        OTHER: "right 0.9999, wrong 0.0001",
        "miswired": "right 0.4, wrong 0.6",
    }),
}  # fmt: skip
