"""What running readings say of the faults, by the model: legs, speed and capacitor volts together."""

import pytest
from bench.faulted_units import make
from bench.true_motor import runs

from keen_coil.core.diagnosis.assess import assess
from keen_coil.core.diagnosis.case import Case
from keen_coil.core.diagnosis.evidence import QUESTIONS
from keen_coil.core.diagnosis.faults import FAULTS, odds
from keen_coil.core.diagnosis.model_evidence import model_evidence
from keen_coil.core.diagnosis.predicted import AIR, SCENARIOS, SHOWS, shows
from keen_coil.core.limits import DEFAULTS
from keen_coil.core.machine.conditions import Conditions, Model
from keen_coil.core.machine.expected import expected
from keen_coil.core.machine.fit import fit_plate
from keen_coil.core.machine.rated import rated
from keen_coil.core.units import Span
from tests.calls import make_call, reading
from tests.motors import plate

LINE = reading("supply_v", 239, at="unit")
TURNS = reading("turns_way", "right")
FAN = {"motor__fan": "propeller"}


def evidence(*rows, **changes):
    call = make_call(LINE, *rows, **{**FAN, **changes})
    return model_evidence(Case(call, DEFAULTS), tuple(odds(call)), wheel=False)


def amps(value, leg=None):
    return reading("run_amps_a", value, **({"leg": leg} if leg else {}))


def test_every_scenario_and_share_is_of_this_world():
    for fault, parts in SHOWS.items():
        assert fault in FAULTS or fault == "none"
        assert sum(share for _, share in parts) == pytest.approx(1, abs=1e-9)
        assert {name for name, _ in parts} <= {*SCENARIOS, "broad", "dead"}
    assert set(AIR.values()) <= set(SCENARIOS)
    assert all(
        sum(share for _, share in shows(fault, wheel)) == pytest.approx(1)
        for fault in FAULTS
        for wheel in (True, False)
    )


@pytest.mark.parametrize(
    ("rows", "best", "not_"),
    [
        (
            [amps(1.62), amps(0.33, "capacitor"), reading("run_rpm", 1070)],
            {"capacitor_weak", "capacitor_wrong_value"},
            "bearings_worn",
        ),
        (
            [amps(1.62), amps(0.62, "capacitor"), reading("run_rpm", 1062)],
            {"air_restricted", "load_rubbing", "bearings_worn"},
            "capacitor_weak",
        ),
        ([amps(0.85)], {"hub_loose"}, "air_restricted"),
        ([amps(2.2), reading("run_rpm", 1090)], {"winding_turns_shorted", "wrong_motor_fitted"}, "hub_loose"),
        ([amps(3.3)], {"bearings_seized", "load_jammed"}, "none"),
        ([amps(3.3), amps(0.02, "capacitor")], {"capacitor_open", "winding_start_open"}, "bearings_seized"),
        ([amps(0.0)], {"supply_missing", "switch_not_pulled_in", "control_call_absent"}, "capacitor_open"),
        ([amps(1.36), reading("run_rpm", 1100)], {"none"}, "hub_loose"),
        (
            [reading("capacitor_load", {"amps_a": 0.30, "volts_v": 305}), amps(1.65)],
            {"capacitor_weak"},
            "air_restricted",
        ),
    ],
)
def test_what_was_read_ranks_the_faults(rows, best, not_):
    found = evidence(*rows, TURNS) if any(r["kind"] == "run_rpm" for r in rows) else evidence(*rows)
    assert max(found.log_chance[fault] for fault in best) == pytest.approx(0, abs=0.7)
    assert found.log_chance[not_] < -1.4


def test_the_capacitor_that_was_measured_explains_the_amps():
    weak = reading("capacitance_uf", 2.5, section="fan")
    without, with_ = evidence(amps(1.75), TURNS), evidence(weak, amps(1.75), TURNS)
    assert not without.is_normal
    assert with_.is_normal
    assert with_.log_chance["none"] > without.log_chance["none"] + 2


def test_restricted_air_goes_up_on_a_propeller_and_down_on_a_wheel():
    up, down = amps(1.75), amps(1.05)
    assert evidence(up, TURNS).log_chance["air_restricted"] > evidence(down, TURNS).log_chance["air_restricted"]
    call = make_call(LINE, down, TURNS, motor__fan="forward_curved")
    wheel = model_evidence(Case(call, DEFAULTS), tuple(odds(call)), wheel=True)
    assert wheel.log_chance["air_restricted"] == pytest.approx(0, abs=1.5)


def test_what_the_model_does_not_speak_of_keeps_to_the_table():
    call = make_call(LINE, amps(1.9), motor__kind="shaded_pole", motor__capacitor_uf=None, motor__leads=2)
    assert model_evidence(Case(call, DEFAULTS), tuple(odds(call)), wheel=False) is None
    assert assess(call).model is None
    tap = make_call(LINE, reading("run_amps_a", 0.9, speed=3), motor__speeds=3, motor__speed_amps_a=[1.4, 1.1, 0.9])
    assert model_evidence(Case(tap, DEFAULTS), tuple(odds(tap)), wheel=True) is None
    another_class = evidence(reading("run_rpm", 1650), TURNS)
    assert another_class is None
    assert evidence(reading("run_rpm", 1650), amps(1.4), TURNS).replaces == {"amps", "amps_wheel"}
    assert {"amps", "amps_wheel", "rpm"} <= set(QUESTIONS)


def test_a_reading_out_of_power_state_says_nothing():
    assert evidence({**amps(3.3), "power": "dead"}) is None


def test_the_assessment_shows_what_would_read_so():
    answer = assess(make_call(LINE, amps(1.62), amps(0.33, "capacitor"), reading("run_rpm", 1070), TURNS, **FAN))
    assert set(answer.model.read) == {"whole", "capacitor", "rpm"}
    assert answer.model.expected["whole"][0] < 1.4 < answer.model.expected["whole"][2]
    fits = [row.fit for row in answer.model.explained]
    assert fits == sorted(fits, reverse=True)
    assert {"capacitor_weak", "capacitor_wrong_value"} & set(answer.model.explained[0].faults)
    assert answer.model.explained[0].says.startswith("with ")
    assert answer.leading_fault in ("capacitor_weak", None)
    said = [text for row in answer.ranked for text in (*row.speaks_for, *row.speaks_against)]
    assert any("expected)" in text for text in said)


def test_legs_tell_a_weak_capacitor_from_a_drag_that_whole_amps_cannot():
    def ranked(*rows):
        return {row.fault: row.probability for row in assess(make_call(LINE, TURNS, amps(1.62), *rows, **FAN)).ranked}

    assert 0.4 < ranked()["capacitor_weak"] < 0.8 < ranked(amps(0.33, "capacitor"))["capacitor_weak"]
    assert ranked(amps(0.63, "capacitor")).get("capacitor_weak", 0) < 0.25


def test_true_motors_of_other_make_are_mostly_inside_what_is_expected():
    """Motors drawn and solved apart, each known by its printed plate only."""
    inside = right_state = total = 0
    for seed in range(400):
        unit = make(seed)
        if unit.motor is None:
            continue
        true = unit.motor
        volts = "115" if true.volts < 150 else "208-230"
        found = fit_plate(rated(plate(hp=true.hp, volts=volts, amps_a=true.amps, rpm=true.rpm, capacitor_uf=true.uf)))
        for uf, supply in ((true.uf, true.volts), (0.6 * true.uf, true.volts), (true.uf, 0.92 * true.volts)):
            should = expected(Model(found, Conditions(Span(supply, supply), Span(uf, uf))))
            state, whole, *_ = runs(true, supply, round(uf, 2), 1.0, 0.0, "", 0.0)
            band = should.run_amps_a["whole"]
            total += 1
            inside += band.low * 0.96 <= whole <= band.high * 1.04
            right_state += (state == "starts") == should.turns
        if total > 80:
            break
    assert inside > 0.75 * total
    assert right_state > 0.97 * total
