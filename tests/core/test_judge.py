"""Each quantity against its limit, by the worked figures and on both sides of the line."""

import pytest

from keen_coil.core.judge.capacitor import bleed_s, microfarads_under_load
from keen_coil.core.judge.cooling import copper_temperature
from keen_coil.core.judge.insulation import at_40_c
from keen_coil.core.judge.readings import judge_readings
from keen_coil.core.judge.supply import unbalance_pct
from keen_coil.core.limits import ABOUT, DEFAULTS, Limits, tightened
from keen_coil.core.speed import poles_of, slip
from tests.calls import make_call, reading


def judged(row, *before, **changes):
    call = make_call(*before, row, **changes)
    return judge_readings(call, DEFAULTS)[len(before)].judgement


def test_worked_figures():
    assert microfarads_under_load(1.31, 402, 60) == pytest.approx(8.64, abs=0.005)
    for uf, seconds in ((40, 4), (55, 6), (15, 2), (3, 1)):
        assert bleed_s(make_call(capacitor={"label": [{"section": "single", "uf": uf}]})) == seconds
    dual = [{"section": "fan", "uf": 5}, {"section": "herm", "uf": 45}]
    assert bleed_s(make_call(capacitor={"label": dual})) == 5
    assert bleed_s(make_call(capacitor={}, motor__capacitor_uf=None)) is None
    assert at_40_c(30, 20) == pytest.approx(7.5)
    assert at_40_c(30, 60) == pytest.approx(120)
    assert unbalance_pct([236, 229, 241]) == pytest.approx(2.69, abs=0.005)
    assert copper_temperature(12.40, 24, 16.90) == pytest.approx(117.8, abs=0.05)
    assert copper_temperature(12.40, 24, 16.90, constant=225) == pytest.approx(114.4, abs=0.05)
    assert [poles_of(rpm, 60) for rpm in (1090, 830, 1625, 3350)] == [6, 8, 4, 2]
    assert slip(1090, 6, 60) == pytest.approx(0.092, abs=0.0005)


@pytest.mark.parametrize(
    ("value", "state", "finding"),
    [
        (5.0, "normal", "good"),
        (4.90, "normal", "good"),
        (4.75, "borderline", "borderline"),
        (2.1, "failed", "weak"),
        (0.1, "failed", "open"),
        (6.0, "failed", "high"),
        ("shorted", "failed", "shorted"),
    ],
)
def test_capacitance(value, state, finding):
    found = judged(reading("capacitance_uf", value, section="fan"))
    assert (found.state, found.finding) == (state, finding)
    assert found.source


def test_label_tolerance_wins_over_the_default():
    assert judged(reading("capacitance_uf", 4.6, section="fan"), capacitor__tolerance_pct=10).state == "borderline"
    assert judged(reading("capacitance_uf", 4.65, section="fan"), capacitor__tolerance_pct=10).finding == "good"


def test_a_healthy_capacitor_of_the_wrong_value_has_failed():
    label = [{"section": "fan", "uf": 7.5}]
    found = judged(reading("capacitance_uf", 7.5, section="fan"), capacitor__label=label)
    assert (found.state, found.finding) == ("failed", "wrong_value")


def test_leads_still_on_may_pass_and_cannot_fail():
    assert judged(reading("capacitance_uf", 2.1, section="fan", isolated=False)).state == "suspect"
    assert judged(reading("capacitance_uf", 5.0, section="fan", isolated=False)).state == "normal"
    assert judged(reading("ground_ohm", 500, isolated=False)).state == "suspect"


def test_the_compressor_section_goes_by_its_own_label():
    assert judged(reading("capacitance_uf", 39.5, section="herm")).finding == "good"
    assert judged(reading("capacitance_uf", 20, section="herm")).finding == "weak"


@pytest.mark.parametrize("kind", ["supply_v", "capacitance_uf", "winding_ohm", "ground_ohm", "spin"])
def test_the_wrong_power_state_proves_nothing(kind):
    value = {"spin": "free"}.get(kind, 5)
    row = reading(kind, value, power="live" if kind != "supply_v" else "dead", pair=["A", "B"])
    assert judged(row).state == "suspect"


@pytest.mark.parametrize(
    ("volts", "state"),
    [
        (238, "normal"),
        (190, "normal"),
        (188, "borderline"),
        (184, "failed"),
        (252, "borderline"),
        (257, "failed"),
        (0, "failed"),
    ],
)
def test_volts_in_the_window(volts, state):
    assert judged(reading("supply_v", volts, at="unit")).state == state


def test_no_volts_behind_the_switch_mean_nothing_without_a_call():
    dead = reading("supply_v", 0.4, at="switch_load")
    assert judged(dead).state == "unjudged"
    assert judged(dead, reading("control_call", "present")).state == "failed"


@pytest.mark.parametrize(
    ("amps", "turns", "state", "finding"),
    [
        (1.30, 1, "normal", "good"),
        (1.44, 1, "normal", "watch"),
        (1.52, 1, "borderline", "borderline"),
        (7.45, 5, "normal", "watch"),
        (1.80, 1, "failed", "over"),
        (0.6, 1, "suspect", "low"),
        (0.0, 1, "failed", "open"),
    ],
)
def test_running_amps(amps, turns, state, finding):
    found = judged(reading("run_amps_a", amps, turns=turns))
    assert (found.state, found.finding) == (state, finding)


def test_service_factor_and_tolerance_are_not_added_up():
    assert judged(reading("run_amps_a", 1.65), motor__service_factor=1.25).state == "normal"
    assert judged(reading("run_amps_a", 1.9), motor__service_factor=1.25).state == "failed"
    assert judged(reading("run_amps_a", 1.61), motor__service_factor=1.05).state == "failed"


def test_background_is_taken_off_with_its_own_error_and_a_large_one_hides_the_reading():
    assert judged(reading("run_amps_a", 2.2), reading("background_amps_a", 0.5)).state == "suspect"
    assert judged(reading("run_amps_a", 1.98), reading("background_amps_a", 0.2)).interval == pytest.approx(
        (1.78 - 0.0696 - 0.034, 1.78 + 0.0696 + 0.034)
    )
    assert judged(reading("run_amps_a", 9.6, turns=5), reading("background_amps_a", 0.2)).state == "failed"
    assert (
        judged(reading("run_amps_a", 1.58), reading("background_amps_a", 0.07), motor__amps_a=1.1, motor__hp=None).state
        == "failed"
    )


def test_a_winding_leg_is_not_held_against_the_plate():
    assert judged(reading("run_amps_a", 2.2, leg="winding"), motor__hp=None).state == "unjudged"
    assert judged(reading("run_amps_a", 2.2, leg="winding")).state == "borderline"


@pytest.mark.parametrize(
    ("ohm", "state", "finding"),
    [
        ("OL", "normal", "watch"),
        (5e6, "normal", "watch"),
        (5e5, "failed", "do_not_energise"),
        (5e4, "failed", "grounded"),
    ],
)
def test_ohmmeter_to_ground(ohm, state, finding):
    found = judged(reading("ground_ohm", ohm, lead="black"))
    assert (found.state, found.finding) == (state, finding)
    assert finding != "good"


@pytest.mark.parametrize(("mohm", "finding"), [(600, "good"), (60, "watch"), (8, "do_not_energise"), (0.2, "grounded")])
def test_insulation_tester_at_40_c(mohm, finding):
    assert judged(reading("insulation_mohm", mohm, temperature_c=20)).finding == finding


def test_shop_limits_may_tighten_and_never_loosen():
    assert tightened({"capacitor_tolerance_pct": 5}).capacitor_tolerance_pct == 5
    for wish in (
        {"capacitor_tolerance_pct": 8},
        {"insulation_floor_mohm": 2},
        {"capacitor_open_pct": 4},
        {"nonsense": 1},
    ):
        with pytest.raises(ValueError, match=next(iter(wish))):
            tightened(wish)


def test_every_limit_says_its_source():
    assert set(ABOUT) == set(Limits.__dataclass_fields__)
    assert all(row.source and row.says for row in ABOUT.values())
