"""What a motor should read: bands from what is open, conditions from the call, the questions of the trade."""

import pytest

from keen_coil.core.judge.readings import judge_readings
from keen_coil.core.limits import DEFAULTS
from keen_coil.core.machine.answer import model_answer, read_changes
from keen_coil.core.machine.conditions import Conditions, Model, as_plate, model_of, winding_ohms
from keen_coil.core.machine.effects import QUESTIONS, answer, questions_for, size_up
from keen_coil.core.machine.expected import expected
from keen_coil.core.machine.fit import Ohms, fit_plate
from keen_coil.core.machine.rated import NoModel, rated
from keen_coil.core.match.expected_run import expected_run
from keen_coil.core.units import Span
from tests.calls import make_call, pair, reading
from tests.motors import TAPPED, fitted, plate

LINE = reading("supply_v", 240, at="unit")


def width(range_):
    return range_.high - range_.low


def under(found, volts=(229, 231), uf=(4.95, 5.05), **more):
    return expected(Model(found, Conditions(Span(*volts), Span(*uf), **more)))


def test_a_band_holds_its_middle_and_the_plate():
    found = under(fitted())
    for band in (
        *found.run_amps_a.values(),
        found.run_rpm,
        found.capacitor_v,
        found.shaft_w,
        found.starting_torque_pct,
    ):
        assert band.low <= band.mid <= band.high
    assert found.run_amps_a["whole"].mid == pytest.approx(1.4, rel=0.01)
    assert found.run_amps_a["whole"].low < 1.4 < found.run_amps_a["whole"].high
    assert found.sure_of_state


def test_measured_ohms_make_the_bands_narrower():
    free = fitted()
    ohms = Ohms(float(free.windings.r1_ohm), 0.05, float(free.windings.r1a_ohm), 0.05)
    known = fit_plate(rated(plate()), ohms)
    for at in ({}, {"volts": (207, 209)}, {"uf": (3.9, 4.1)}):
        wide, narrow = under(free, **at), under(known, **at)
        assert width(narrow.run_amps_a["winding"]) < width(wide.run_amps_a["winding"])
        assert width(narrow.rest_amps_a["whole"]) < width(wide.rest_amps_a["whole"])
        assert width(narrow.starting_torque_pct) < width(wide.starting_torque_pct)
        assert width(narrow.run_rpm) < width(wide.run_rpm) * 1.001


@pytest.mark.parametrize("worse", [{"volts": (220, 240)}, {"uf": (4.5, 5.5)}])
def test_a_worse_meter_makes_the_band_wider(worse):
    assert width(under(fitted(), **worse).run_amps_a["whole"]) > width(under(fitted()).run_amps_a["whole"])


def test_above_plate_volts_the_iron_widens_the_band():
    at, above = under(fitted()), under(fitted(), volts=(264, 266))
    assert width(above.run_amps_a["winding"]) > 1.3 * width(at.run_amps_a["winding"])


def test_an_open_capacitor_has_no_volts_and_no_start():
    found = under(fitted(), uf=(0, 0))
    assert found.starts == "runs_only_if_pushed"
    assert found.capacitor_v is None
    assert found.starting_torque_pct.mid == pytest.approx(0, abs=1e-9)
    assert found.rest_amps_a["whole"].mid > 1.5 * 1.4
    assert found.backwards_rpm == pytest.approx(found.run_rpm.mid, rel=1e-3)


def test_near_the_edge_it_is_said_that_the_state_is_not_sure():
    assert not under(fitted(), drag=0.30).sure_of_state


def test_a_call_is_taken_as_it_was_measured():
    model = model_of(make_call(LINE, reading("capacitance_uf", 2.1, section="fan")))
    assert model.conditions.volts_v.mid == pytest.approx(240)
    assert model.conditions.capacitor_uf.mid == pytest.approx(2.1)
    assert (model.conditions.volts_read, model.conditions.uf_read) == (True, True)
    untouched = model_of(make_call())
    assert untouched.conditions.volts_v.mid == 230
    assert untouched.conditions.capacitor_uf.mid == 5
    assert "not read yet" in untouched.conditions.says[0]
    assert model_of(
        make_call(reading("capacitance_uf", "shorted", section="fan"))
    ).conditions.capacitor_uf.low == float("inf")
    still_on = model_of(make_call(reading("capacitance_uf", 2.1, section="fan", isolated=False)))
    assert still_on.conditions.capacitor_uf.mid == 5
    herm = model_of(make_call(reading("capacitance_uf", 39, section="herm")))
    assert herm.conditions.capacitor_uf.mid == 5


def test_winding_ohms_are_brought_to_a_warm_motor():
    rows = [pair("C", "R", 29.0, temperature_c=25), pair("C", "S", 42.0, temperature_c=25), pair("R", "S", 71.0)]
    ohms = winding_ohms(make_call(*rows))
    assert ohms.main_ohm == pytest.approx(29.0 * (234.5 + 95) / (234.5 + 25))
    assert ohms.aux_ohm == pytest.approx(42.0 * (234.5 + 95) / (234.5 + 25))
    assert winding_ohms(make_call(*rows, motor__winding_material="aluminium")).main_ohm == pytest.approx(29 * 320 / 250)
    assert winding_ohms(make_call(pair("a", "b", 29.0), pair("b", "c", 42.0))) is None
    assert model_of(make_call(*rows)).fit.measured_ohms


def test_ohms_that_do_not_go_with_the_plate_are_left_out_and_said():
    rows = [pair("C", "R", 300.0), pair("C", "S", 900.0), pair("R", "S", 1200.0)]
    model = model_of(make_call(*rows))
    assert not model.fit.measured_ohms
    assert "do not go with the plate" in model.doubts[-1]


def test_the_new_motor_is_expected_with_its_own_capacitor_on_the_fan_that_is_there():
    new = {
        **make_call().motor.model_dump(exclude_none=True),
        "hp": 0.333,
        "amps_a": 1.9,
        "capacitor_uf": 7.5,
        "part_no": "BW-130",
    }
    model = model_of(make_call(LINE, reading("capacitance_uf", 2.1, section="fan"), chosen_motor=new), proof=True)
    assert model.conditions.capacitor_uf.mid == 7.5
    assert model.conditions.load == pytest.approx(1.4 / 1.9, abs=0.01)
    assert expected(model).run_amps_a["whole"].mid < 1.9


def test_a_candidate_is_told_what_it_would_read_and_when_the_fan_is_too_much():
    call = make_call(LINE)
    same = expected_run(call, call.motor)
    assert same.load_pct == pytest.approx(100)
    assert same.run_amps_a[0] < 1.4 < same.run_amps_a[2]
    small = expected_run(call, plate(hp=1 / 6, amps_a=1.05, capacitor_uf=5))
    assert small.load_pct == pytest.approx(100 * 1.4 / 1.05, abs=1)
    assert small.says.startswith("Overloaded: the fan needs 133 %")
    wrong = expected_run(make_call(LINE, motor__rpm=825), plate())
    assert wrong.load_pct == pytest.approx(100 * (1090 / 825) ** 3, rel=0.01)
    other = expected_run(call, plate(kind="ecm"))
    assert other.run_amps_a is None
    assert other.says.startswith("From its plate only")


def test_legs_are_judged_by_the_model_and_never_failed_by_an_estimate():
    def judged(*rows):
        call = make_call(LINE, reading("capacitance_uf", 5.0, section="fan"), *rows)
        return [row.judgement for row in judge_readings(call, DEFAULTS).values()][2:]

    right, odd, dead = judged(
        reading("run_amps_a", 0.65, leg="capacitor"),
        reading("run_amps_a", 2.6, leg="winding"),
        reading("run_amps_a", 0.0, leg="capacitor", turns=10),
    )
    assert (right.state, right.finding) == ("normal", "good")
    assert odd.state == "borderline"
    assert (dead.state, dead.finding) == ("failed", "open")
    assert all(row.source and row.band for row in (right, odd, dead))


def test_a_reading_of_another_tap_keeps_to_its_own_plate_amps():
    motor = {**make_call().motor.model_dump(exclude_none=True), "speeds": 3, "speed_amps_a": [1.4, 1.0, 0.8]}
    call = make_call(LINE, reading("run_amps_a", 0.82, speed=3), reading("run_amps_a", 1.35, speed=1), motor=motor)
    low, high = (judge_readings(call, DEFAULTS)[i].judgement for i in (1, 2))
    assert "expected" not in low.says
    assert "expected here" in high.says


def test_amps_beside_what_they_should_be_with_a_tired_capacitor():
    rows = LINE, reading("capacitance_uf", 2.5, section="fan"), reading("run_amps_a", 1.38)
    found = judge_readings(make_call(*rows), DEFAULTS)[2].judgement
    assert found.state == "normal"
    assert "Less than the" in found.says


@pytest.mark.parametrize(
    ("name", "speed", "amps", "start"),
    [
        ("capacitor_low", "slower", "more", "less"),
        ("capacitor_up", "faster", "less", "more"),
        ("volts_low", "slower", "more", "less"),
        ("wrong_speed", "slower", "more", None),
        ("dirty_coil", "slower", "more", None),
        ("dragging", "slower", "more", None),
        ("swapped", "slower", None, "less"),
    ],
)
def test_the_questions_of_the_trade(name, speed, amps, start):
    says = answer(Model(fitted(), as_plate(rated(plate()))), name).says
    assert speed in says
    assert amps is None or f"% {amps})" in says
    assert start is None or f"% {start} torque" in says


def test_questions_by_the_fan_and_their_words():
    wheel = plate(**{**TAPPED, "fan": "forward_curved"})
    assert {q.name for q in questions_for(wheel)} == {q.name for q in QUESTIONS} - {"dirty_coil", "wrong_speed"}
    assert "blocked_filter" not in {q.name for q in questions_for(plate())}
    model = Model(fitted(**{**TAPPED, "fan": "forward_curved"}), as_plate(rated(wheel)))
    blocked = answer(model, "blocked_filter")
    assert "less)" in blocked.says
    opened = answer(Model(fitted(), as_plate(rated(plate()))), "capacitor_open")
    assert opened.says.startswith("It does not start")
    assert "start winding carries" in answer(Model(fitted(), as_plate(rated(plate()))), "swapped").says
    assert [size_up(uf) for uf in (5, 7.5, 80)] == [6, 10, 100]
    assert answer(model, "volts_low").asked == "103.5 V instead of 115"


@pytest.mark.parametrize(
    ("changes", "starts"),
    [
        ({"capacitor_uf": "4"}, "starts_and_runs"),
        ({"capacitor_uf": "open"}, "runs_only_if_pushed"),
        ({"capacitor_uf": "shorted"}, "runs_only_if_pushed"),
        ({"supply_v": 50}, "stalled"),
        ({"drag_pct": 150}, "stalled"),
        ({"blade_rpm": 830}, "starts_and_runs"),
        ({"leads_swapped": True}, "starts_and_runs"),
        ({"load_pct": 0}, "starts_and_runs"),
    ],
)
def test_the_answer_under_changes(changes, starts):
    found = model_answer(make_call(LINE), read_changes(changes))
    assert found.starts == starts
    assert len(found.conditions) >= 2
    assert (
        found.point.run_amps_a["whole"][0] <= found.point.run_amps_a["whole"][1] <= found.point.run_amps_a["whole"][2]
    )


def test_no_model_says_why():
    with pytest.raises(NoModel, match=r"motor\.kind"):
        model_answer(make_call(motor__kind="shaded_pole", motor__capacitor_uf=None))
