"""Matching: every refusal on both sides of its limit, the schools, the order."""

import random

import pytest

from keen_coil.core.match.bounds import bounds
from keen_coil.core.match.catalogue import CatalogueMotor
from keen_coil.core.match.rank import match
from keen_coil.core.match.turning import from_shaft_end
from keen_coil.core.plates import Rotation
from tests.calls import make_call, reading

TWIN = {
    "part_no": "TW-1", "kind": "psc", "role": "condenser_fan", "hp": 0.25, "volts": "208-230", "amps_a": 1.4, "phase": 1,
    "hz": 60, "rpm": 1090, "mount": "stud", "studs": "far_end", "body_diameter_in": 5.6, "body_length_in": 4.6,
    "enclosure": "enclosed", "protection": "auto", "ambient_limit_c": 60, "capacitor_uf": 5, "capacitor_v": 370,
    "shaft": {"diameter_in": 0.5, "length_in": 4.0}, "rotation": {"sense": "ccw", "seen_from": "shaft_end"},
    "duty": ["shaft_down"], "lead_days": 2, "price": 200,
}  # fmt: skip


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


@pytest.mark.parametrize(
    ("field", "fine", "bad"),
    [
        ("RPM", {"rpm": 1040}, {"rpm": 1030}),
        ("RPM", {"rpm": 1144}, {"rpm": 825}),
        ("plate amps", {"amps_a": 1.393}, {"amps_a": 1.39}),
        ("plate amps", {"amps_a": 1.75}, {"amps_a": 1.76}),
        ("volts", {"volts": "230"}, {"volts": "115"}),
        ("hertz", {"hz": 60}, {"hz": 50}),
        ("kind", {"kind": "psc"}, {"kind": "three_phase"}),
        ("ambient limit", {"ambient_limit_c": 60}, {"ambient_limit_c": 59}),
        ("protection", {"protection": "impedance"}, {"protection": "none"}),
        ("enclosure", {"enclosure": "air_over"}, {"enclosure": "open"}),
        ("position", {"duty": ["shaft_down", "shaft_up"]}, {"duty": ["shaft_up"]}),
        ("rotation", {"rotation": {"sense": "reversible"}}, {"rotation": {"sense": "cw", "seen_from": "shaft_end"}}),
        ("rotation", {"rotation": {"sense": "cw", "seen_from": "lead_end"}}, {"rotation": {"sense": "ccw", "seen_from": "lead_end"}}),
        ("shaft diameter", {"shaft": {"diameter_in": 0.503, "length_in": 4}}, {"shaft": {"diameter_in": 0.375, "length_in": 4}}),
        ("mounting", {"studs": "both"}, {"studs": "shaft_end"}),
        ("mounting", {"mount": "belly_band"}, {"mount": "base"}),
    ],
)  # fmt: skip
def test_each_hard_refusal_on_both_sides(field, fine, bad):
    assert field not in refused_fields(judged(**fine))
    assert field in refused_fields(judged(**bad))


def test_phase_and_speeds():
    assert "phase" in refused_fields(judged(phase=3))
    two = make_call(unit__speeds_used=[1, 2], motor__speeds=2)
    assert "speeds" in refused_fields(judged(two, speeds=1))
    assert any("Cap 1 unused" in work.do for work in judged(two, speeds=3).work)


@pytest.mark.parametrize(
    ("school", "fine", "bad"),
    [
        ("hp_amps", {"hp": 0.333, "amps_a": 1.8}, {"hp": 0.5, "amps_a": 1.8}),
        ("hp_amps", {"amps_a": 1.33}, {"amps_a": 1.32}),
        ("hp_amps", {"hp": 0.25}, {"hp": 0.2}),
        ("ten_percent", {"amps_a": 1.53}, {"amps_a": 1.55}),
        ("ten_percent", {"amps_a": 1.34}, {"amps_a": 1.32}),
        ("ten_percent", {"hp": 0.27}, {"hp": 0.333}),
        ("amps", {"hp": 0.1}, {"hp": 0.1, "amps_a": 1.0}),
        ("like", {"part_no": "BW-117"}, {"part_no": "XX-1"}),
        ("like", {"part_no": "NEW", "supersedes": ["BW-117"]}, {"part_no": "NEW", "supersedes": ["OTHER"]}),
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
    assert any(row.field == "plate amps" and "Shaft about" in row.because for row in candidate.rows)


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


def test_not_known_is_work_to_find_out_and_never_a_silent_fit():
    candidate = judged(rotation=None, enclosure=None, shaft=None)
    assert candidate.result == "work"
    assert {"rotation", "enclosure", "shaft diameter"} <= {row.field for row in candidate.rows if row.mark == "work"}


def test_viewpoint_of_rotation():
    assert from_shaft_end(Rotation(sense="cw", seen_from="lead_end")) == "ccw"
    assert from_shaft_end(Rotation(sense="cw", seen_from="shaft_end")) == "cw"
    assert from_shaft_end(Rotation(sense="cw")) is None


def test_order_is_by_work_then_van_and_not_by_the_catalogue():
    work = {"shaft": {"diameter_in": 0.5, "length_in": 6}}
    shelf = [
        motor(part_no="Z-fit"), motor(part_no="A-van", on_van=1, **work), motor(part_no="B-far", **work),
        motor(part_no="C-no", rpm=825), motor(part_no="D-no", rpm=825, hz=50),
    ]  # fmt: skip
    expected = ["Z-fit", "A-van", "B-far", "C-no", "D-no"]
    for seed in range(5):
        shuffled = random.Random(seed).sample(shelf, len(shelf))
        assert [item.part_no for item in match(make_call(), shuffled).candidates] == expected


def test_a_van_file_alone_holds_the_stock():
    shelf = [motor(part_no="A", on_van=3), motor(part_no="B")]
    answer = match(make_call(), shelf, van={"B": 1})
    assert [(item.part_no, item.on_van) for item in answer.candidates] == [("B", 1), ("A", 0)]


def test_many_refusals_are_counted():
    answer = match(make_call(), [motor(part_no=f"P{i}", rpm=825) for i in range(201)])
    assert answer.candidates == []
    assert answer.refused_by == {"RPM": 201}


def test_bounds_never_cut_what_could_serve():
    limit = bounds(make_call(), "amps")
    assert limit.rpm == pytest.approx((1035.5, 1144.5))
    assert (limit.phase, limit.hz) == (1, 60)
