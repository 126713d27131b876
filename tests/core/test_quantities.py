"""Each quantity of the reckoning: worked figures, both sides of its limit, its source shown."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.diagnosis.case import Case
from keen_coil.core.judge.air import cfm, mean_fpm
from keen_coil.core.judge.cooling import class_average_c, winding_c
from keen_coil.core.judge.current import uneven_pct
from keen_coil.core.judge.readings import judge_readings
from keen_coil.core.judge.supply import derating, unbalance_pct
from keen_coil.core.judge.windings import difference_u_pct, phase_difference_pct
from keen_coil.core.limits import DEFAULTS, tightened
from keen_coil.core.readings import KINDS
from tests.calls import COOL, make_call, pair, reading
from tests.core.test_faults import BLOWER, ECM, INDUCER, THREE


def judged(row, *before, limits=DEFAULTS, **changes):
    call = make_call(*before, row, **changes)
    return judge_readings(call, limits)[len(before)].judgement


def signals(*rows, **changes):
    return set(Case(make_call(*rows, **changes), DEFAULTS).signals)


def test_worked_figures():
    assert unbalance_pct([236, 229, 241]) == pytest.approx(2.69, abs=0.005)
    assert derating(2.69) == pytest.approx(0.90, abs=0.002)
    assert [derating(u) for u in (0.5, 1, 2, 3, 4, 5)] == [1.0, 1.0, 0.95, 0.88, 0.82, 0.75]
    assert derating(5.1) is None
    assert phase_difference_pct([6.0, 6.0, 6.6]) == pytest.approx(6.45, abs=0.005)
    assert difference_u_pct([10, 10, 10], 0.1) == pytest.approx(0.816, abs=0.001)
    assert uneven_pct([10, 10, 7]) == pytest.approx(22.2, abs=0.05)
    assert mean_fpm([600, 800, -200]) == pytest.approx(400)
    assert cfm([600, 800, -200], 2.5) == pytest.approx(1000)
    assert [class_average_c(letter) for letter in ("A", "B", "F", "H", None)] == [95, 120, 145, 170, 120]


@given(st.floats(0, 1), st.floats(0, 1))
def test_more_unbalance_never_allows_more_load(a, b):
    low, high = sorted((5 * a, 5 * b))
    assert derating(low) >= derating(high)


def test_winding_temperature_by_its_ohms():
    cold, hot = pair("C", "R", 12.40, temperature_c=24), pair("C", "R", 16.90)
    assert winding_c(make_call(cold, hot), 1) == pytest.approx(117.8, abs=0.05)
    assert winding_c(make_call(cold, hot, motor__winding_material="aluminium"), 1) == pytest.approx(114.4, abs=0.05)
    assert winding_c(make_call(hot), 0) is None
    whole = (pair("C", "S", 30.0), pair("R", "S", 46.9))
    says = judged(hot, cold, *whole).says
    assert "about 118 °C" in says
    assert "over the 95 °C of class A" in judged(hot, cold, *whole, motor__insulation_class="A").says
    assert Case(make_call(cold, hot), DEFAULTS).contradictions == []


@pytest.mark.parametrize(
    ("row", "changes", "state", "finding"),
    [
        (reading("run_rpm", 1085, u=2), {}, "normal", "good"),
        (reading("run_rpm", 900), {}, "failed", "out"),
        (reading("run_rpm", 1900, u=2), {}, "suspect", None),
        (reading("run_rpm", 1085, speed=2), {"motor__speeds": 3}, "unjudged", None),
        (reading("air_speed_fpm", [900, 850, -120, 400]), {}, "failed", "out"),
        (reading("air_speed_fpm", [400, 400, 400], free_area_ft2=3), BLOWER, "normal", "good"),
        (reading("air_speed_fpm", [220, 230, 210], free_area_ft2=3), BLOWER, "failed", "out"),
        (reading("air_speed_fpm", [220, 230]), BLOWER, "unjudged", None),
        (reading("static_inwc", 0.8, needs_inwc=0.5), BLOWER, "failed", "out"),
        (reading("static_inwc", -0.4, needs_inwc=0.5), BLOWER, "normal", "good"),
        (reading("draught_inwc", -1.1, needs_inwc=-0.9), INDUCER, "normal", "good"),
        (reading("draught_inwc", -0.4, needs_inwc=-0.9), INDUCER, "failed", "out"),
        (reading("draught_inwc", -0.9, needs_inwc=-0.9), INDUCER, "borderline", "borderline"),
        (reading("shell_c", 140), {}, "failed", "over"),
        (reading("shell_c", 33), {}, "normal", "good"),
        (reading("background_amps_a", 0.03), {}, "normal", "good"),
        (reading("background_amps_a", 0.3), {}, "borderline", "borderline"),
        (reading("contact_drop_v", 2.5), {}, "failed", "out"),
        (reading("ecm_power", "present", volts_v=236), ECM, "normal", "good"),
        (reading("ecm_power", "present", volts_v=170), ECM, "suspect", None),
        (reading("ecm_power", "absent"), ECM, "failed", "out"),
        (reading("ecm_command", "present"), ECM, "normal", "good"),
        (reading("ecm_winding_ohm", [6.1, 6.1, 6.1]), ECM, "normal", "good"),
        (reading("ecm_winding_ohm", [6.1, 6.1, 4.0]), ECM, "failed", "out"),
        (reading("ecm_winding_ohm", [6.1, 6.1, 4.0], isolated=False), ECM, "suspect", None),
        (reading("ecm_winding_ohm", [6.1, 6.1, "OL"]), ECM, "failed", "open"),
        (reading("ecm_ground_ohm", "OL"), ECM, "normal", "watch"),
        (reading("ecm_ground_ohm", 5000), ECM, "failed", "grounded"),
        (
            reading("run_amps_a", [9.0, 8.9, 9.1]),
            {**THREE, "unit": {**THREE["unit"], "supply_v": 230}},
            "normal",
            "watch",
        ),
        (reading("run_amps_a", [4.2, 4.1, 4.2]), THREE, "normal", "good"),
        (reading("run_amps_a", [4.4, 3.1, 4.4]), THREE, "failed", "out"),
        (reading("run_amps_a", [6.0, 6.1, 0.02]), THREE, "failed", "out"),
        (reading("supply_v", [462, 460, 458], at="motor"), THREE, "normal", "good"),
        (reading("supply_v", [462, 430, 405], at="motor"), THREE, "failed", "out"),
        (reading("run_amps_a", 4.9, speed=3), BLOWER, "normal", "watch"),
        (reading("run_amps_a", 6.6, speed=3), BLOWER, "failed", "over"),
        (reading("spin", "rough"), ECM, "suspect", None),
        (reading("spin", "brakes"), {}, "suspect", None),
        (reading("winding_ohm", 14200, pair=["A", "B"]), {}, "suspect", "out"),
        (reading("winding_ohm", [6.8, 6.8, 6.9]), THREE, "normal", "good"),
        (reading("winding_ohm", [6.8, 6.8, 7.1]), THREE, "borderline", "borderline"),
        (reading("winding_ohm", [6.8, 6.8, 5.9]), THREE, "failed", "out"),
    ],
)
def test_both_sides_of_each_limit(row, changes, state, finding):
    found = judged(row, **changes)
    assert (found.state, found.finding) == (state, finding), found.says
    if state in ("normal", "failed"):
        assert found.source


def test_pairs_of_a_three_phase_motor_given_one_by_one_are_judged_together():
    rows = [pair("T1", "T2", 6.8), pair("T2", "T3", 6.8), pair("T3", "T1", 5.9)]
    assert judged(rows[2], *rows[:2], **THREE).finding == "out"
    assert judged(rows[1], rows[0], **THREE).state == "unjudged"


def test_four_leads_of_which_two_are_one():
    rows = (
        pair("black", "white", 14.2),
        pair("white", "brown/white", 0.1),
        pair("black", "brown", 38.1),
        pair("brown", "white", 52.3),
        pair("black", "brown/white", 14.2),
        pair("brown", "brown/white", 52.2),
    )
    assert "winding.good" in signals(*rows, motor__leads=4)


def test_taps_out_of_order_are_suspect_and_prove_nothing():
    rows = [pair("white", "black", 6.0, speed=1), pair("white", "red", 3.1, speed=3)]
    assert judged(rows[1], rows[0], **BLOWER).state == "suspect"


def test_the_sister_is_compared_within_the_meters_error():
    ours = reading("run_amps_a", 1.30)
    assert judged(reading("sister_amps_a", 1.32, u=0.01), {**ours, "u": 0.01}).finding == "good"
    assert judged(reading("sister_amps_a", 1.44), ours).state == "borderline"
    assert judged(reading("sister_amps_a", 1.9), ours).state == "failed"
    assert judged(reading("sister_amps_a", 1.9)).state == "unjudged"
    assert judged(reading("sister_shell_c", 35), reading("shell_c", 75)).finding == "over"


def test_a_drop_from_standing_to_running_is_named():
    standing = reading("supply_v", 240, at="switch_load")
    assert judged(reading("supply_v", 222, at="switch_load", when="running"), standing).state == "failed"
    assert judged(reading("supply_v", 236, at="switch_load", when="running"), standing).state == "normal"


def test_a_tightened_limit_judges_harder_and_a_label_wider_than_the_shop_does_not_win():
    tight = tightened({"capacitor_tolerance_pct": 3, "amps_over_pct": 5})
    assert judged(reading("capacitance_uf", 4.75, section="fan"), limits=tight).state != "normal"
    assert (
        judged(reading("capacitance_uf", 4.6, section="fan"), limits=tight, capacitor__tolerance_pct=10).state
        == "failed"
    )
    assert judged(reading("run_amps_a", 1.52, u=0.005), limits=tight).finding == "over"


def test_withdrawn_and_wrong_power_prove_nothing_for_every_kind():
    for kind, row in KINDS.items():
        if row.power == "any":
            continue
        value = row.words[0] if row.words else True if row.yes_no else [500, 510] if row.many else 5
        value = {"amps_a": 1.3, "volts_v": 400} if kind == "capacitor_load" else value
        wrong = reading(
            kind,
            value,
            power="live" if row.power == "dead" else "dead",
            pair=["A", "B"] if kind == "winding_ohm" else None,
        )
        call = make_call(
            {key: item for key, item in wrong.items() if item is not None},
            motor__kind="ecm" if kind.startswith("ecm") else "psc",
        )
        assert judge_readings(call, DEFAULTS)[0].judgement.state == "suspect", kind
        assert not Case(call, DEFAULTS).signals, kind


def test_an_overload_needs_its_times_and_a_later_cool_reading_counts():
    early = [
        pair("C", "R", "OL", taken_at="2026-07-01T10:00:00Z"),
        pair("C", "S", "OL", taken_at="2026-07-01T10:00:00Z"),
        pair("R", "S", 52),
    ]
    late = [{**row, **COOL, "taken_at": "2026-07-01T11:30:00Z"} for row in early[:2]]
    assert "winding.common_open" in signals(*early)
    assert "winding.common_open_cool" in signals(*early, *late)
