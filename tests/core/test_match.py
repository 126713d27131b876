"""Matching: every refusal on both sides of its limit, the schools, the order."""

import random

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from keen_coil.core.match.catalogue import CatalogueMotor
from keen_coil.core.match.catalogue_filter import bounds
from keen_coil.core.match.expected_run import expected_run
from keen_coil.core.match.rank import match
from keen_coil.core.match.turning import from_shaft_end
from keen_coil.core.plates import Rotation
from keen_coil.core.units import STANDARD_HP
from tests.calls import make_call, reading

STANDARD = [float(size) for size in STANDARD_HP]

TWIN = {
    "part_no": "TW-1",
    "kind": "psc",
    "role": "condenser_fan",
    "hp": 0.25,
    "volts": "208-230",
    "amps_a": 1.4,
    "phase": 1,
    "hz": 60,
    "rpm": 1090,
    "mount": "stud",
    "studs": "far_end",
    "body_diameter_in": 5.6,
    "body_length_in": 4.6,
    "enclosure": "enclosed",
    "protection": "auto",
    "ambient_limit_c": 60,
    "capacitor_uf": 5,
    "capacitor_v": 370,
    "shaft": {"diameter_in": 0.5, "length_in": 4.0},
    "rotation": {"sense": "ccw", "seen_from": "shaft_end"},
    "duty": ["shaft_down"],
    "lead_days": 2,
    "price": 200,
}


def motor(**changes):
    return CatalogueMotor.model_validate({**TWIN, **changes})


def judged(call=None, school="amps", **changes):
    return match(call or make_call(), [motor(**changes)], school).candidates[0]


def refused_fields(candidate):
    return [refusal.field for refusal in candidate.refusals]


def test_the_twin_fits_as_it_is():
    candidate = judged()
    assert candidate.result == "fits"
    assert (candidate.needs_capacitor.uf, candidate.needs_capacitor.volts_v) == (5, 370)
    assert candidate.work[-1].do.startswith("Wait")


OLD = {
    "plain": {},
    "wide": {"motor__shaft__ends": 2},
    "keyed": {"motor__shaft__keyed": True},
    "shaded": {"motor__kind": "shaded_pole", "motor__capacitor_uf": None, "motor__capacitor_v": None},
    "cold": {"motor__ambient_limit_c": None},
    "hot": {"motor__ambient_limit_c": None, "unit__ambient_c": 50},
    "inducer": {"motor__role": "inducer"},
    "taps": {"unit__speeds_used": [1, 2, 3], "motor__speeds": 4},
    "no_volts": {"unit__supply_v": None},
    "fifty": {"motor__hz": 50, "unit__hz": 50},
    "dual": {"unit__supply_v": 115, "motor__volts": "115"},
    "placed": {"load": {"hub_bore_in": 0.5, "hub_length_in": 1.0, "blade_plane_in": 7.6}},
    "ecm": {
        "motor__kind": "ecm",
        "motor__ecm_control": "constant_torque",
        "motor__command": "24 V taps",
        "motor__rpm_min": 600,
        "motor__torque_nm": 1.6,
        "motor__capacitor_uf": None,
        "motor__capacitor_v": None,
    },
}
ECM = {
    "kind": "ecm",
    "ecm_control": "constant_torque",
    "command": "24 V taps",
    "rpm_min": 600,
    "rpm_max": 1200,
    "torque_nm": 1.7,
}
SHORT = {"diameter_in": 0.5, "length_in": 4}


@pytest.mark.parametrize(
    ("field", "old", "fine", "bad"),
    [
        ("kind", "plain", {"kind": "psc"}, {"kind": "three_phase"}),
        ("kind", "plain", {"kind": "psc"}, {"kind": "shaded_pole"}),
        ("kind", "shaded", {"kind": "psc"}, {"kind": "ecm"}),
        ("phase", "plain", {"phase": 1}, {"phase": 3}),
        ("hertz", "plain", {"hz": 60}, {"hz": 50}),
        ("hertz", "fifty", {"hz": 50}, {"hz": 60}),
        ("volts", "plain", {"volts": "230"}, {"volts": "115"}),
        ("volts", "plain", {"volts": "115/230"}, {"volts": "277"}),
        ("volts", "no_volts", {"volts": "230"}, {"volts": "115"}),
        ("volts", "dual", {"volts": "115/230"}, {"volts": "230"}),
        ("RPM", "plain", {"rpm": "1035.5"}, {"rpm": 1035}),
        ("RPM", "plain", {"rpm": "1144.5"}, {"rpm": 1145}),
        ("RPM", "plain", {"rpm": 1144}, {"rpm": 825}),
        ("RPM", "plain", {"rpm": 1090, "poles": 6}, {"rpm": 1090, "poles": 4}),
        ("plate amps", "plain", {"amps_a": "1.366"}, {"amps_a": 1.36}),
        ("plate amps", "plain", {"amps_a": 1.75}, {"amps_a": 1.76}),
        (
            "rotation",
            "plain",
            {"rotation": {"sense": "reversible"}},
            {"rotation": {"sense": "cw", "seen_from": "shaft_end"}},
        ),
        (
            "rotation",
            "plain",
            {"rotation": {"sense": "cw", "seen_from": "lead_end"}},
            {"rotation": {"sense": "ccw", "seen_from": "lead_end"}},
        ),
        (
            "shaft diameter",
            "plain",
            {"shaft": {**SHORT, "diameter_in": 0.505}},
            {"shaft": {**SHORT, "diameter_in": 0.51}},
        ),
        ("shaft diameter", "plain", {"shaft": SHORT}, {"shaft": {**SHORT, "diameter_in": 0.375}}),
        (
            "shaft length",
            "placed",
            {"shaft": {**SHORT, "length_in": "3.375"}},
            {"shaft": {**SHORT, "length_in": "3.37"}},
        ),
        ("body", "placed", {"body_length_in": "6.7", "shaft": SHORT}, {"body_length_in": "7.4", "shaft": SHORT}),
        ("shaft ends", "wide", {"shaft": {**SHORT, "ends": 2}}, {"shaft": {**SHORT, "ends": 1}}),
        ("mounting", "plain", {"studs": "both"}, {"studs": "shaft_end"}),
        ("mounting", "plain", {"mount": "belly_band"}, {"mount": "base"}),
        ("position", "plain", {"duty": ["shaft_down", "shaft_up"]}, {"duty": ["shaft_up"]}),
        ("enclosure", "plain", {"enclosure": "air_over"}, {"enclosure": "open"}),
        ("enclosure", "inducer", {"enclosure": "open"}, {"enclosure": "air_over"}),
        ("ambient limit", "plain", {"ambient_limit_c": 60}, {"ambient_limit_c": 59}),
        ("ambient limit", "cold", {"ambient_limit_c": 41}, {"ambient_limit_c": 40}),
        ("ambient limit", "hot", {"ambient_limit_c": 60}, {"ambient_limit_c": 59}),
        ("protection", "plain", {"protection": "impedance"}, {"protection": "none"}),
        ("speeds", "taps", {"speeds": 3}, {"speeds": 2}),
        ("RPM", "ecm", ECM, {**ECM, "rpm_max": 1080}),
        ("RPM", "ecm", {**ECM, "rpm_min": 1090}, {**ECM, "rpm_min": 1100}),
        ("torque", "ecm", {**ECM, "torque_nm": 1.6}, {**ECM, "torque_nm": 1.5}),
        ("command", "ecm", ECM, {**ECM, "command": "serial data"}),
        ("command", "ecm", ECM, {**ECM, "ecm_control": "constant_airflow"}),
    ],
)
def test_each_hard_refusal_on_both_sides(field, old, fine, bad):
    call = make_call(**OLD[old])
    assert field not in refused_fields(judged(call, **fine))
    refused = judged(call, **bad)
    assert field in refused_fields(refused)
    assert refused.result == "refused"
    assert next(refusal.because for refusal in refused.refusals if refusal.field == field)


@pytest.mark.parametrize(
    ("volts", "supply", "may"),
    [
        ("208-230", 187.2, True),
        ("208-230", 187.1, False),
        ("208-230", 253, True),
        ("208-230", 253.1, False),
        ("230", 207, True),
        ("230", 206.9, False),
        ("460", 506, True),
        ("460", 506.1, False),
        ("115", 103.5, True),
        ("208-230/460", 470, True),
        ("208-230/460", 300, False),
    ],
)
def test_the_window_of_the_new_plate_holds_the_supply(volts, supply, may):
    call = make_call(unit__supply_v=supply)
    assert ("volts" not in refused_fields(judged(call, volts=volts))) == may


def test_the_supply_is_the_latest_one_read_standing():
    running = reading("supply_v", 231.0, at="unit", when="running")
    call = make_call(reading("supply_v", 204.0, at="unit"), running, unit__supply_v=230)
    assert "volts" in refused_fields(judged(call, volts="230"))
    assert "volts" not in refused_fields(judged(make_call(running, unit__supply_v=230), volts="230"))


def test_dual_voltage_is_strapped_and_its_amps_halved():
    candidate = judged(volts="115/230", amps_a=2.9)
    assert any("Connect the leads for 230 V" in work.do for work in candidate.work)
    assert "plate amps" not in refused_fields(candidate)
    assert "plate amps" in refused_fields(judged(volts="115/230", amps_a=2.7))
    assert "plate amps" in refused_fields(judged(volts="115/230", amps_a=2.9, amps_high_a=1.3))


def test_phase_and_speeds():
    assert "phase" in refused_fields(judged(phase=3))
    two = make_call(unit__speeds_used=[1, 2], motor__speeds=2)
    assert "speeds" in refused_fields(judged(two, speeds=1))
    assert any("Cap 1 unused" in work.do for work in judged(two, speeds=3).work)


@pytest.mark.parametrize(
    ("school", "fine", "bad"),
    [
        ("hp_amps", {"hp": 0.333, "amps_a": 1.8}, {"hp": 0.5, "amps_a": 1.8}),
        ("hp_amps", {"amps_a": 1.31}, {"amps_a": 1.30}),
        ("hp_amps", {"hp": 0.25}, {"hp": 0.2}),
        ("ten_percent", {"amps_a": 1.53}, {"amps_a": 1.55}),
        ("ten_percent", {"amps_a": 1.31}, {"amps_a": 1.30}),
        ("ten_percent", {"hp": 0.27}, {"hp": 0.333}),
        ("like", {"part_no": "BW-117"}, {"part_no": "XX-1"}),
        ("like", {"part_no": "NEW", "supersedes": ["BW-117"]}, {"part_no": "NEW", "supersedes": ["OTHER"]}),
        ("like", {"part_no": "BW-117", "amps_a": 1.31}, {"part_no": "BW-117", "amps_a": 1.30}),
        ("amps", {"amps_a": 1.74}, {"amps_a": 1.76}),
        ("hp_amps", {"amps_a": 2.24}, {"amps_a": 2.25}),
        ("ten_percent", {"hp": 0.238}, {"hp": 0.2}),
    ],
)
def test_each_school_on_both_sides(school, fine, bad):
    assert judged(school=school, **fine).result != "refused"
    assert judged(school=school, **bad).result == "refused"


def test_hp_and_amps_flags_what_the_circuit_must_carry():
    assert any("relay" in work.do for work in judged(school="hp_amps", hp=0.333, amps_a=1.9).work)


def test_a_plain_230_on_a_low_208_is_named():
    low = make_call(reading("supply_v", 209, at="unit"))
    assert any("208-230" in work.do for work in judged(low, volts="230").work)
    assert "volts" in refused_fields(judged(make_call(reading("supply_v", 204, at="unit")), volts="230"))
    assert "volts" not in refused_fields(judged(make_call(reading("supply_v", 204, at="unit"))))


def test_a_measured_supply_wins_over_the_nominal_one():
    assert "volts" in refused_fields(judged(make_call(reading("supply_v", 118, at="unit"))))


def test_a_shaft_too_short_for_the_blade_plane_is_refused_and_a_long_one_cut():
    call = make_call(load={"hub_bore_in": 0.5, "hub_length_in": 1.0, "blade_plane_in": 8.0})
    shaft = {"diameter_in": 0.5}
    assert "shaft length" in refused_fields(judged(call, shaft={**shaft, "length_in": 3.7}))
    assert "shaft length" not in refused_fields(judged(call, shaft={**shaft, "length_in": 3.9}))
    assert any("Cut" in work.do for work in judged(call, shaft={**shaft, "length_in": 6}).work)


def test_a_bushing_in_the_kit_saves_a_thinner_shaft():
    thin = {"diameter_in": 0.375, "length_in": 4}
    assert judged(shaft=thin, kit=["shaft bushing 1/2 to 3/8"]).result == "work"


def test_psc_in_place_of_shaded_pole_is_work_sized_by_watts():
    call = make_call(motor__kind="shaded_pole", motor__amps_a=3.2, motor__capacitor_uf=None, motor__capacitor_v=None)
    candidate = judged(call)
    assert candidate.result == "work"
    assert any(row.field == "plate amps" and "Shaft power about" in row.because for row in candidate.rows)


def test_the_unit_plate_is_the_reference_when_the_wrong_motor_came_off():
    call = make_call(motor__rpm=825, unit__fan_rpm=1090)
    answer = match(call, [motor()])
    assert answer.reference == "unit_plate"
    assert "RPM" not in refused_fields(answer.candidates[0])
    assert match(make_call(motor__rpm=825), [motor()]).reference == "old_motor"


def test_mildly_flammable_refrigerant_takes_listed_parts_only():
    call = make_call(unit__refrigerant_mildly_flammable=True)
    assert "listing" in refused_fields(judged(call))
    assert judged(call, mildly_flammable_listed=True).result == "fits"


STOPPERS = {"rotation": "rotation", "shaft": "shaft diameter", "mount": "mounting", "volts": "volts", "rpm": "RPM"}
SILENT = {
    "enclosure": "enclosure",
    "protection": "protection",
    "ambient_limit_c": "ambient limit",
    "body_length_in": "body",
}


@given(st.sets(st.sampled_from(sorted(STOPPERS))), st.sets(st.sampled_from(sorted(SILENT))))
def test_a_blank_is_asked_for_where_it_could_stop_the_job_and_no_work_elsewhere(stoppers, silent):
    candidate = judged(**dict.fromkeys([*stoppers, *silent]))
    by_mark = {row.field: row.mark for row in candidate.rows}
    assert {field for field, mark in by_mark.items() if mark == "work"} >= {STOPPERS[name] for name in stoppers}
    assert set(candidate.not_compared) == {SILENT[name] for name in silent}
    assert (candidate.result, candidate.minutes > 0) == (("work", True) if stoppers else ("fits", False))


def test_viewpoint_of_rotation():
    assert from_shaft_end(Rotation(sense="cw", seen_from="lead_end")) == "ccw"
    assert from_shaft_end(Rotation(sense="cw", seen_from="shaft_end")) == "cw"
    assert from_shaft_end(Rotation(sense="cw")) is None


def test_the_order_is_when_the_unit_runs_again_then_the_work():
    work = {"shaft": {"diameter_in": 0.5, "length_in": 6}}
    shelf = [
        motor(part_no="Z-van", on_van=1, lead_days=2),
        motor(part_no="A-van", on_van=1, **work),
        motor(part_no="Y-counter", lead_days=0, **work),
        motor(part_no="B-tomorrow", lead_days=1, **work),
        motor(part_no="X-two-days", lead_days=2),
        motor(part_no="A-two-days", lead_days=2, **work),
        motor(part_no="A-nobody-knows", lead_days=None),
        motor(part_no="C-no", rpm=825),
        motor(part_no="D-no", rpm=825, hz=50),
    ]
    groups = ["drops_in_now", "work_now", "work_now", "later", "later", "later", "later", "refused", "refused"]
    for seed in range(5):
        shuffled = random.Random(seed).sample(shelf, len(shelf))
        found = match(make_call(), shuffled).candidates
        assert [item.part_no for item in found] == [item.part_no for item in shelf]
        assert [item.group for item in found] == groups


def test_a_van_file_alone_holds_the_stock():
    shelf = [motor(part_no="A", on_van=3), motor(part_no="B")]
    answer = match(make_call(), shelf, van={"B": 1})
    assert [(item.part_no, item.on_van) for item in answer.candidates] == [("B", 1), ("A", 0)]


@given(
    st.lists(
        st.fixed_dictionaries(
            {
                "amps_a": st.sampled_from([1.4, 1.5, 1.9]),
                "rpm": st.sampled_from([1090, 1075, 825]),
                "on_van": st.sampled_from([0, 1]),
                "lead_days": st.sampled_from([None, 1, 2]),
                "price": st.sampled_from([None, 80, 90]),
                "studs": st.sampled_from(["far_end", "both"]),
                "capacitor_uf": st.sampled_from([5, 7.5]),
            }
        ),
        min_size=2,
        max_size=9,
    ),
    st.randoms(),
)
def test_ranking_is_stable_and_does_not_hang_on_the_order_of_the_catalogue(changes, chance):
    shelf = [motor(part_no=f"P{number}", **change) for number, change in enumerate(changes)]
    ranked = [item.part_no for item in match(make_call(), shelf, expect=0).candidates]
    chance.shuffle(shelf)
    assert [item.part_no for item in match(make_call(), shelf, expect=0).candidates] == ranked
    found = match(make_call(), shelf, expect=0).candidates
    groups = ["drops_in_now", "work_now", "later", "refused"]
    assert [item.group for item in found] == sorted((item.group for item in found), key=groups.index)
    waits = [0 if item.on_van else item.lead_days or 1e6 for item in found if item.result != "refused"]
    assert waits == sorted(waits)


def test_an_estimate_may_be_overridden_and_a_rule_may_not():
    shaded = make_call(**OLD["shaded"], motor__amps_a=3.2, motor__hp=None)
    small = judged(shaded, hp=0.05)
    assert (small.result, small.may_override) == ("refused", True)
    assert not judged(rpm=825).may_override
    assert not judged(shaded, hp=0.05, rpm=825).may_override


def test_the_blade_decides_where_no_plate_does():
    foreign = {"motor__belongs": False, "motor__rpm": 825, "motor__hp": 0.125, "motor__amps_a": 0.9}
    answer = match(
        make_call(reading("run_rpm", 830), **foreign), [motor(part_no="FAST"), motor(part_no="SLOW", rpm=825)]
    )
    assert answer.reference == "blade"
    assert "estimate" in answer.because
    fast, slow = ({item.part_no: item for item in answer.candidates}[name] for name in ("FAST", "SLOW"))
    row = next(row for row in slow.rows if row.field == "blade")
    assert row.mark == "work"
    assert "blade" not in refused_fields(slow)
    watts = [float(next(row.new for row in item.rows if row.field == "blade").split(" W")[0]) for item in (fast, slow)]
    assert watts[0] / watts[1] == pytest.approx((1090 / 825) ** 3, rel=0.03)
    named = match(make_call(reading("run_rpm", 830), unit__fan_rpm=1090, unit__fan_amps_a=1.4, **foreign), [motor()])
    assert named.reference == "unit_plate"
    assert named.candidates[0].result != "refused"


def test_a_plate_that_names_nothing_leaves_it_to_the_blade_and_says_what_to_find_out():
    answer = match(make_call(motor__rpm=None, motor__hp=None, motor__amps_a=None), [motor()])
    assert answer.reference == "blade"
    assert {"RPM", "plate amps"} <= {row.field for row in answer.candidates[0].rows if row.mark == "work"}


def test_many_refusals_are_counted():
    answer = match(make_call(), [motor(part_no=f"P{i}", rpm=825) for i in range(201)])
    assert answer.candidates == []
    assert answer.refused_by == {"RPM": 201}


def test_bounds_never_cut_what_could_serve():
    limit = bounds(make_call(), "amps")
    assert limit.rpm == pytest.approx((1035.5, 1144.5))
    assert (limit.phase, limit.hz) == (1, 60)


THREE_QUARTERS = {"motor__hp": 0.75, "motor__amps_a": 4.3, "motor__capacitor_uf": 10}


def load_of(candidate):
    return next(row for row in candidate.rows if row.field == "fan load")


@pytest.mark.parametrize(
    ("amps", "factor", "mark"),
    [(4.3, 1.0, "fits"), (4.0, 1.0, "fits"), (3.95, 1.0, "work"), (3.75, 1.15, "work"), (3.85, 1.0, "refused")],
)
def test_an_overload_by_amps_refuses_beyond_the_band_and_the_service_factor(amps, factor, mark):
    call = make_call(**THREE_QUARTERS)
    for school in ("amps", "hp_amps", "ten_percent", "like"):
        candidate = judged(call, school, hp=0.75, amps_a=amps, service_factor=factor, capacitor_uf=10, part_no="BW-117")
        load = load_of(candidate)
        assert load.mark == mark
        assert f"{100 * 4.3 / amps:.0f} %" in load.because
        assert candidate.result == "refused" or mark != "refused"


OLD_AMPS = {1 / 6: 1.1, 1 / 4: 1.5, 1 / 3: 2.1, 1 / 2: 3.0, 3 / 4: 4.3}


@settings(max_examples=40)
@given(
    st.sampled_from(list(OLD_AMPS)),
    st.sampled_from([1 / 10, 1 / 6, 1 / 5, 1 / 4, 1 / 3, 1 / 2, 3 / 4]),
    st.sampled_from([1075, 1090, 1100, 1140]),
    st.floats(0.6, 1.25),
    st.sampled_from(["amps", "hp_amps", "ten_percent", "like"]),
)
@example(1 / 2, 1 / 4, 1090, 0.95, "amps")
def test_a_motor_of_fewer_amps_is_never_praised_and_one_of_as_many_is_never_refused_by_the_load(
    old_hp, new_hp, rpm, share, school
):
    """What a fan takes is known by amps: no sentence beside a refusal praises, no horsepower refuses under amps first."""
    amps = OLD_AMPS[old_hp]
    call = make_call(motor__hp=old_hp, motor__amps_a=amps, motor__capacitor_uf=10)
    new = motor(hp=new_hp, amps_a=round(amps * share, 3), rpm=rpm, capacitor_uf=10)
    one = match(call, [new], school).candidates[0]
    load = load_of(one) if any(row.field == "fan load" for row in one.rows) else None
    expected = expected_run(call, new)
    asked = (rpm / 1090) ** 3 * amps / new.amps_a
    if asked > 1.105 and expected.load_pct is not None:
        assert one.result == "refused"
        assert expected.says.startswith(("Overloaded", "It would not start"))
    if load is not None and asked < 1.095:
        assert load.mark != "refused"
    if load is not None and school == "amps" and STANDARD.index(old_hp) - STANDARD.index(new_hp) > 1:
        assert one.doubts or one.result == "refused", "two sizes down at the same amps is a doubt to be answered"


@settings(max_examples=25)
@given(st.sampled_from([1 / 6, 1 / 4, 1 / 3, 1 / 2]), st.sampled_from([1 / 10, 1 / 6, 1 / 4, 1 / 2, 3 / 4]))
def test_horsepower_alone_is_a_note_under_amps_first(old_hp, new_hp):
    call = make_call(motor__hp=old_hp, motor__amps_a=None, unit__fan_amps_a=None)
    new = motor(hp=new_hp, amps_a=OLD_AMPS.get(new_hp, 0.7), capacitor_uf=5)
    one = match(call, [new], "amps").candidates[0]
    loads = [row.mark for row in one.rows if row.field == "fan load"]
    assert loads in ([], ["work"])
    assert not expected_run(call, new).heat_says


@pytest.mark.parametrize(
    ("modes", "have", "capped"),
    [({"cooling": 1, "heating": 3, "fan": 3}, 4, "2 unused"), ({"cooling": 2}, 3, "2 unused")],
)
def test_speeds_by_mode_are_the_speeds_used(modes, have, capped):
    call = make_call(motor__role="indoor_blower", motor__speeds=4, unit__modes=modes)
    assert any(capped in work.do for work in judged(call, speeds=have).work)


def test_plates_round_by_two_per_cent_in_every_school():
    call = make_call(motor__amps_a=1.50)
    for school in ("amps", "hp_amps", "ten_percent", "like"):
        near = judged(call, school, amps_a=1.48, part_no="BW-117")
        assert near.result == "fits", school
    row = next(row for row in judged(call, amps_a=1.48).rows if row.field == "plate amps")
    assert "2 %" in row.because
    assert judged(call, amps_a=1.44).result == "refused"


def test_the_same_plate_once_more_fits_in_every_row():
    for change in ({}, {"motor__rotation": {"sense": "reversible"}}, {"unit__supply_v": None}):
        call = make_call(**change)
        again = CatalogueMotor.model_validate(call.motor.model_dump(mode="json", exclude_none=True))
        answer = match(call, [again], "like").candidates[0]
        assert [row.field for row in answer.rows if row.mark not in ("fits", "not_compared")] == []
        assert answer.result == "fits"
