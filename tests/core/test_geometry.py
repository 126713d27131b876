"""The section along the shaft: worked lengths, both sides of each limit, nonsense laid out and named."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.match.body import MEASURE_HUB
from keen_coil.core.match.catalogue import CatalogueMotor
from keen_coil.core.match.geometry import axial_layout, face_to_shaft_end, hung_by, rooms, section
from keen_coil.core.match.rank import match
from keen_coil.core.plates import Motor, Space
from tests.calls import make_call

LOAD = {
    "hub_bore_in": 0.5,
    "hub_length_in": 1.0,
    "blade_plane_in": 7.6,
    "diameter_in": 20,
    "set_screw_from_face_in": 0.4,
}
PLATE = {
    "part_no": "TW-1",
    "kind": "psc",
    "hp": 0.25,
    "volts": "208-230",
    "amps_a": 1.4,
    "phase": 1,
    "hz": 60,
    "rpm": 1090,
    "capacitor_uf": 5,
    "capacitor_v": 370,
    "rotation": {"sense": "ccw", "seen_from": "shaft_end"},
}
BLOWER = {
    "motor__fan": "forward_curved",
    "motor__role": "indoor_blower",
    "load": {"hub_length_in": 1.5, "blade_plane_in": 6.0, "width_in": 9.0, "diameter_in": 10},
    "space": {"housing_width_in": 10.0, "inlet_in": 8.0},
}


def motor(**changes):
    shaft = {"diameter_in": 0.5, "length_in": changes.pop("out", 4.0), "flats": changes.pop("flats", 1)}
    if "flat" in changes:
        shaft["flat_length_in"] = changes.pop("flat")
    plate = {"mount": "stud", "studs": "far_end", "body_length_in": 4.6, "body_diameter_in": 5.6, "shaft": shaft}
    return Motor.model_validate({**plate, **changes})


def laid(at=None, call=None, **changes):
    call = call or make_call(load=LOAD, space={"to_coil_in": 10.0, "to_guard_in": 2.5})
    return section(call, call.motor, motor(**changes), at)


def kinds(found, mark="refused"):
    return {item.what for item in found.found if item.mark == mark}


@pytest.mark.parametrize(
    ("changes", "shaft_end"),
    [
        ({}, 4.6),
        ({"studs": "shaft_end"}, 0.0),
        ({"studs": "both"}, 0.0),
        ({"mount": "face"}, 0.0),
        ({"mount": "belly_band"}, 2.3),
        ({"mount": "lug", "face_to_shaft_end_in": 1.1}, 1.1),
        ({"mount": "lug", "body_length_in": None}, None),
    ],
)
def test_where_the_body_ends_by_its_mounting(changes, shaft_end):
    found = face_to_shaft_end(motor(**changes))
    assert found == (None if shaft_end is None else pytest.approx(shaft_end))


def test_the_plane_is_body_plus_shaft_to_the_hub():
    found = laid()
    assert (found.at_in, found.off_in, found.cut_in) == (7.6, 0, 0)
    assert found.hub == pytest.approx((7.1, 8.1))
    assert found.needed_in == pytest.approx(7.6 + 0.5 - 0.125 - 4.6)
    assert kinds(found) == set()


def test_a_longer_shaft_is_cut_to_where_the_old_tip_was_and_not_short_of_the_hub():
    found = laid(out=6.0)
    assert found.left_in == pytest.approx(4.0)
    assert found.cut_in == pytest.approx(2.0)
    assert laid(out=6.0, body_length_in=4.0).left_in == pytest.approx(4.6)
    tight = make_call(load=LOAD, space={"to_coil_in": 8.3})
    assert laid(call=tight, out=6.0).left_in == pytest.approx(3.7)
    assert "tip_meets" in kinds(laid(call=tight, out=6.0), "work")
    assert "tip_meets" in kinds(laid(call=make_call(load=LOAD, space={"to_coil_in": 8.0})))


@pytest.mark.parametrize(("out", "fits"), [(3.5, True), (3.375, True), (3.37, False), (0.8, False)])
def test_the_hub_must_sit_whole_with_the_plane_within_an_eighth(out, fits):
    found = laid(out=out)
    assert (kinds(found) == set()) == fits
    if out < 1.0:
        assert "hub_off_shaft" in kinds(found)


def test_a_body_too_long_pushes_the_hub_out():
    assert kinds(laid(body_length_in=7.1)) == set()
    assert kinds(laid(body_length_in=7.225)) == set()
    assert "plane_moved" in kinds(laid(body_length_in=7.23))
    assert "hub_in_body" in kinds(laid(body_length_in=7.3, at=7.6))


def test_what_clears_coil_and_guard_by_how_much():
    assert [(what, where, round(inches, 2)) for what, where, inches in laid(out=6.0).clear_in] == [
        ("body", "guard", 2.5),
        ("shaft tip", "coil", 1.4),
    ]
    assert laid(mount="face", body_length_in=3, out=8.5).clear_in[0][2] == pytest.approx(-0.5)


def test_moved_by_hand_the_plane_is_judged_on_both_sides():
    assert kinds(laid(at=7.725)) == set()
    assert "plane_moved" in kinds(laid(at=7.73))
    assert "plane_moved" in kinds(laid(at=7.47))
    assert "hub_off_shaft" in kinds(laid(at=8.2))


def test_the_body_against_guard_and_coil_and_shaft_up_exchanges_them():
    assert kinds(laid(mount="face", body_length_in=2.5, out=8.5)) == set()
    assert kinds(laid(mount="face", body_length_in=2.51, out=8.5)) == {"body_meets_behind"}
    space = Space.model_validate({"to_coil_in": 3, "to_guard_in": 9})
    assert rooms(space, "shaft_up") == (9, 3, "guard", "coil")
    assert rooms(space, "shaft_down") == rooms(space, "horizontal") == (3, 9, "coil", "guard")
    up = make_call(load=LOAD, space={"to_coil_in": 2.0, "to_guard_in": 10.0}, unit__mounted="shaft_up")
    found = section(up, up.motor, motor())
    assert kinds(found) == set()
    assert found.rooms.behind_is == "coil"


@pytest.mark.parametrize(
    ("changes", "what"),
    [
        ({"flats": 0}, "no_flat"),
        ({"flats": None}, "flat_unknown"),
        ({"flat": 0.9}, "screw_off_flat"),
        ({"flat": 1.2}, None),
    ],
)
def test_the_set_screw_and_its_flat(changes, what):
    found = kinds(laid(**changes), "work") & {"no_flat", "flat_unknown", "screw_off_flat"}
    assert found == ({what} if what else set())


def test_stud_ends_in_the_blades_way():
    front = {"mount": "stud", "studs": "shaft_end", "out": 8.5}
    assert "studs_meet" not in kinds(laid(**front, stud_length_in=7.1), "work")
    assert "studs_meet" in kinds(laid(**front, stud_length_in=7.2), "work")
    assert "studs_meet" in kinds(laid(stud_length_in=2.6), "work")
    assert "studs_unknown" in kinds(laid(**front), "fits")


def test_a_wheel_sits_in_the_middle_of_its_housing():
    call = make_call(**BLOWER)
    wheel = {"mount": "face", "out": 7.0}
    found = section(call, call.motor, motor(**wheel))
    assert found.gaps_in == pytest.approx((0.5, 0.5))
    assert "gaps_uneven" not in kinds(section(call, call.motor, motor(**wheel), 6.03), "work")
    assert "gaps_uneven" in kinds(section(call, call.motor, motor(**wheel), 6.04), "work")
    assert "wheel_rubs" in kinds(section(call, call.motor, motor(**wheel), 6.6))


def test_a_body_that_hangs_in_the_inlet_clears_it():
    call = make_call(**BLOWER)
    assert "inlet_narrow" not in kinds(section(call, call.motor, motor(body_diameter_in=7.9, out=3)))
    assert "inlet_narrow" in kinds(section(call, call.motor, motor(body_diameter_in=8.0, out=3)))
    assert "inlet_narrow" not in kinds(section(call, call.motor, motor(body_diameter_in=9.0, mount="face", out=7)))


LENGTH = st.one_of(st.none(), st.floats(0.01, 240))


@given(
    st.fixed_dictionaries(
        {name: LENGTH for name in ("plane", "hub", "screw", "width", "coil", "guard", "housing", "inlet")}
    ),
    st.fixed_dictionaries(
        {"body_length_in": LENGTH, "body_diameter_in": LENGTH, "out": LENGTH, "stud_length_in": LENGTH}
    ),
    st.sampled_from(["stud", "belly_band", "face", None]),
    st.sampled_from(["far_end", "shaft_end", "both"]),
    st.sampled_from(["propeller", "forward_curved"]),
    st.one_of(st.none(), st.floats(-240, 240)),
)
def test_whatever_is_measured_is_laid_out(sizes, body, mount, studs, fan, at):
    load = {
        "blade_plane_in": sizes["plane"],
        "hub_length_in": sizes["hub"],
        "set_screw_from_face_in": sizes["screw"],
        "width_in": sizes["width"],
    }
    space = {
        "to_coil_in": sizes["coil"],
        "to_guard_in": sizes["guard"],
        "housing_width_in": sizes["housing"],
        "inlet_in": sizes["inlet"],
    }
    call = make_call(load=load, space=space, motor__fan=fan)
    new = motor(mount=mount, studs=studs, **body)
    found = section(call, call.motor, new, at)
    assert found.cut_in >= 0
    place = axial_layout(new, hung_by(call, call.motor))
    if (
        place is not None
        and place.tip is not None
        and found.hub
        and not kinds(found) & {"hub_off_shaft", "screw_off_shaft"}
    ):
        assert found.hub[1] <= place.tip - found.cut_in + 1e-6, "the cut never takes the hub's place"
    for item in found.found:
        assert item.says.endswith(".")
        assert item.over_in is None or abs(item.over_in) < 1000


@pytest.mark.parametrize("old_studs", ["far_end", "both"])
@pytest.mark.parametrize("new_studs", ["far_end", "both"])
@pytest.mark.parametrize("plane", [None, 7.6])
def test_a_body_one_inch_longer_is_a_cut_told_once(old_studs, new_studs, plane):
    load = {**LOAD, "blade_plane_in": plane} if plane else {"hub_bore_in": 0.5}
    call = make_call(load=load, motor__studs=old_studs, motor__shaft={"diameter_in": 0.5, "length_in": 4.0})
    new = motor(studs=new_studs, body_length_in=5.6)
    answer = match(call, [CatalogueMotor(**PLATE, **new.model_dump(exclude_none=True, exclude={"speed_amps_a"}))])
    one = answer.candidates[0]
    assert [item.key for item in one.work if item.key not in ("wait_for_delivery", "set_drains")] == ["cut_shaft"]
    row = next(row for row in one.rows if row.field == "shaft length")
    assert "1.00 in longer" in row.because
    assert "1.00 in further out" in row.because


@given(
    st.sampled_from(["shaft_end", "far_end", "both"]),
    st.floats(3, 7).map(lambda value: round(value, 2)),
    st.sampled_from([None, 3.0, 7.6]),
)
def test_studs_on_both_ends_are_hung_by_the_end_the_old_ones_were(old, body, plane):
    load = {"hub_length_in": 1.0, **({"blade_plane_in": plane} if plane else {})}
    call = make_call(load=load, motor__studs=old)
    by = "far_end" if old == "far_end" or (old == "both" and plane != 3.0) else "shaft_end"
    both, same = (section(call, call.motor, motor(studs=studs, body_length_in=body)) for studs in ("both", by))
    assert both.laid.shaft_end == same.laid.shaft_end
    assert (both.end_moved_in, both.cut_in) == (same.end_moved_in, same.cut_in)


@pytest.mark.parametrize(("out", "mark"), [(3.9, "fits"), (3.2, "work"), (2.9, "refused")])
def test_a_shaft_shorter_by_more_than_the_hub_is_refused_until_its_place_is_measured(out, mark):
    plate = {**PLATE, **motor(out=out).model_dump(exclude_none=True, exclude={"speed_amps_a"})}

    def row(**load):
        one = match(make_call(load={"hub_bore_in": 0.5, **load}), [CatalogueMotor(**plate)]).candidates[0]
        return next(row for row in one.rows if row.field == "shaft length")

    assert row().mark == mark
    assert (MEASURE_HUB in row().because) == (mark == "refused")
    assert row(hub_length_in=1.0, blade_plane_in=6.5).mark in ("fits", "work"), "measured: it reaches"
