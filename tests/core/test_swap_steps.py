"""The step list: one feature of the job changed, and the steps that come and go; the trade's usual mistakes named."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.core.match.geometry import section
from keen_coil.core.match.reference import reference_for
from keen_coil.core.record import KeptWork
from keen_coil.core.swap.job import Plan, drains_to_open, job_for, way_on_plate
from keen_coil.core.swap.marks import MARKS, put_back, read_mark
from keen_coil.core.swap.schedule import schedule
from keen_coil.core.swap.steps import PHASES, ROWS, carry_list, steps_for, tasks
from tests.calls import make_call, reading

NEW = {
    "role": "condenser_fan",
    "kind": "psc",
    "hp": 0.25,
    "volts": "208-230",
    "amps_a": 1.45,
    "phase": 1,
    "hz": 60,
    "rpm": 1090,
    "capacitor_uf": 5,
    "capacitor_v": 370,
    "part_no": "TM-1",
    "mount": "stud",
    "studs": "far_end",
    "body_length_in": 4.6,
    "body_diameter_in": 5.6,
    "enclosure": "enclosed",
    "leads": 3,
    "shaft": {"diameter_in": 0.5, "length_in": 4.0, "flats": 1},
    "rotation": {"sense": "ccw", "seen_from": "shaft_end"},
}
PLAIN = {"unit__age_years": 2}
"""A young condenser: its hub comes off."""


def job(plan=None, new=None, readings=(), verdict="", **changes):
    """The job of the plain condenser fan with these changes; `new` changes fields of the chosen motor."""
    chosen = None if new is False else {**NEW, **(new or {})}
    call = make_call(*readings, chosen_motor=chosen, **{**PLAIN, **changes})
    laid = section(call, reference_for(call).motor, call.chosen_motor, None) if chosen else None
    return job_for(call, plan or Plan(), laid, verdict)


def keys(found):
    return {step.key for step in steps_for(found)}


FLATS = {"motor__shaft": {"diameter_in": 0.5, "length_in": 4.0, "flats": 1}}
CHAFED = (reading("conductor", "chafed", leg="L1"),)
REPAIRED = {"what": "wire_repaired", "at": "2026-03-14T10:00:00Z"}
BASE = keys(job())
CLEAR = (reading("air_path", "clear"),)


@pytest.mark.parametrize(
    ("name", "changed", "come", "gone"),
    [
        ("hub stuck, flats", {"plan": Plan(hub="stuck"), **FLATS}, {"oil", "hub_wrench"}, set()),
        ("hub stuck, no flats", {"plan": Plan(hub="stuck")}, {"oil", "hub_puller"}, set()),
        ("puller needed", {"plan": Plan(hub="hard"), **FLATS}, {"oil", "hub_wrench", "hub_puller"}, set()),
        ("old enough to be stuck", {"unit__age_years": 12, **FLATS}, {"oil", "hub_wrench"}, set()),
        ("hub on a clip", {"load__hub": "clip", "unit__age_years": 12}, {"hub_clip"}, {"hub_free"}),
        ("hub pressed on", {"load__hub": "pressed"}, {"hub_pressed"}, {"hub_free"}),
        ("keyed", {"motor__shaft__keyed": True}, {"keyed"}, set()),
        ("wheel packed", {"readings": (reading("load_look", "packed"),)}, {"wash_wheel"}, set()),
        ("blade bent", {"readings": (reading("load_look", "bent"),)}, {"new_wheel"}, set()),
        ("wire chafed", {"readings": (reading("conductor", "chafed", leg="L1"),)}, {"repair_wire"}, set()),
        ("wire chafed, and repaired", {"readings": CHAFED, "changes": [REPAIRED]}, set(), set()),
        ("loose connection", {"readings": (reading("connection", "loose"),)}, {"remake_connection"}, set()),
        ("a nest", {"readings": (reading("load_look", "jammed"),)}, {"clear_nest"}, set()),
        ("a nest, written", {"complaint__says": "Mice in the box, wires chewed."}, {"clear_nest"}, set()),
        (
            "coil cleaned already",
            {"changes": [{"what": "coil_cleaned", "at": "2026-03-14T10:00:00Z"}]},
            set(),
            {"clean"},
        ),
        (
            "nobody noted how it is held",
            {"motor__mount": None, "new": {"mount": None}},
            {"out_any", "in_any"},
            {"out_stud", "in_stud"},
        ),
        ("motor and blade out together", {"plan": Plan(removal="together")}, {"bench_hub_free"}, {"hub_free"}),
        (
            "band instead of studs",
            {"motor__mount": "belly_band", "new": {"mount": "belly_band"}},
            {"out_belly_band", "in_belly_band", "band_place", "isolators"},
            {"out_stud", "in_stud"},
        ),
        ("studs to band", {"new": {"mount": "belly_band"}}, {"remount", "in_belly_band", "isolators"}, {"in_stud"}),
        (
            "stud ends too long",
            {"plan": Plan(work=[KeptWork(do="Cut the stud ends, nuts on first", minutes=6)])},
            {"studs"},
            set(),
        ),
        (
            "shaft too long",
            {"new": {"shaft": {"diameter_in": 0.5, "length_in": 6.0}}, "load__blade_plane_in": 7.6},
            {"shaft"},
            set(),
        ),
        ("either way round", {"new": {"rotation": {"sense": "reversible"}}}, {"rotation"}, set()),
        ("dual voltage", {"new": {"volts": "115/230"}}, {"straps"}, set()),
        ("the fan's own capacitor beside the dual", {"plan": Plan(hook_up="own")}, {"own_capacitor"}, {"dual_section"}),
        ("no dual at all", {"unit__run_capacitor": "own"}, set(), {"dual_section"}),
        (
            "the capacitor stays",
            {"plan": Plan(capacitor_says="Kept", capacitor_stays=True)},
            {"capacitor_kept"},
            {"capacitor"},
        ),
        (
            "two capacitors strapped for now",
            {"plan": Plan(capacitor_says="2.5 + 2.5", capacitor_parts=("A", "B"), temporary=True)},
            {"capacitor_joined", "temporary"},
            {"capacitor"},
        ),
        ("a lead to spare", {"plan": Plan(capped=("brown/white",))}, {"cap"}, set()),
        ("air already clear", {"readings": CLEAR}, set(), {"clean"}),
        ("still hot", {"readings": (reading("shell_c", 78),)}, {"cool"}, set()),
        ("on order, here this afternoon", {"plan": Plan(on_van=False, wait_min=90)}, {"order"}, set()),
        (
            "on order, here in two days",
            {"plan": Plan(on_van=False, wait_min=2880)},
            {"order", "make_do", "back"},
            set(),
        ),
        ("on order, nobody knows when", {"plan": Plan(on_van=False)}, {"order", "make_do", "back"}, set()),
        ("a sister motor", {"unit__sisters": 1}, {"sister"}, set()),
        (
            "on a roof",
            {"unit__kind": "package_unit"},
            {"open_guard", "bench_hub_free", "close_guard"},
            {"open_top", "hub_free", "close_top"},
        ),
        ("an open motor", {"new": {"enclosure": "open"}}, set(), {"drains"}),
        (
            "other work of the match",
            {"plan": Plan(work=[KeptWork(do="Check circuit, relay and board rating", minutes=5)])},
            {"work_1"},
            set(),
        ),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_one_feature_changed_changes_these_steps(name, changed, come, gone):
    found = keys(job(**changed))
    assert (found - BASE, BASE - found) == (come, gone)


BLOWER = {
    "motor__role": "indoor_blower",
    "motor__fan": "forward_curved",
    "motor__mount": "belly_band",
    "unit__run_capacitor": "own",
}
INSIDE = {**NEW, "role": "indoor_blower", "mount": "belly_band", "enclosure": "open"}
INDUCER = {
    "motor__role": "inducer",
    "motor__kind": "shaded_pole",
    "motor__fan": "inducer_wheel",
    "motor__mount": "lug",
    "motor__capacitor_uf": None,
    "unit__run_capacitor": "none",
}


@pytest.mark.parametrize(
    ("kind", "changes", "new", "has", "has_not"),
    [
        (
            "split_condenser",
            {},
            NEW,
            {"open_top", "blade_height", "drains", "route_out", "close_top"},
            {"gas", "low_volt", "wheel_on"},
        ),
        ("heat_pump_outdoor", {}, NEW, {"open_top", "blade_height", "drains", "close_top"}, {"monoxide"}),
        ("package_unit", {}, NEW, {"open_guard", "close_guard"}, {"open_top"}),
        (
            "furnace",
            BLOWER,
            INSIDE,
            {"open_drawer", "low_volt", "wheel_place", "drawer_out", "wheel_on", "drawer_in", "close_inside"},
            {"drains", "vent", "blade_on"},
        ),
        ("air_handler", BLOWER, INSIDE, {"drawer_out", "wheel_on", "low_volt"}, {"drains", "gas"}),
        ("fan_coil", BLOWER, INSIDE, {"open_coil_unit", "wheel_on", "low_volt"}, {"drawer_out", "drains"}),
        (
            "furnace",
            INDUCER,
            {**NEW, "role": "inducer", "kind": "shaded_pole", "capacitor_uf": None, "mount": "lug"},
            {"gas", "open_inducer", "tube_note", "assembly_out", "gasket", "tube", "route_inducer", "vent", "monoxide"},
            {"bleed", "capacitor", "drains"},
        ),
        (
            "package_unit",
            {
                **BLOWER,
                "motor__drive": "belt",
                "motor__mount": "base",
                "motor__kind": "three_phase",
                "motor__capacitor_uf": None,
            },
            {**INSIDE, "kind": "three_phase", "capacitor_uf": None, "mount": "base"},
            {"belt_note", "belt_off", "belt_on", "out_base", "in_base", "megger"},
            {"wheel_on", "hub_free", "bench_hub_free", "capacitor"},
        ),
        (
            "air_handler",
            {**BLOWER, "motor__kind": "ecm"},
            {**INSIDE, "kind": "ecm", "capacitor_uf": None},
            {"module_wait"},
            {"capacitor"},
        ),
    ],
)
def test_each_kind_of_unit_has_its_own_way_in_and_out(kind, changes, new, has, has_not):
    found = keys(job(new=new, unit__kind=kind, **changes))
    assert has <= found
    assert not has_not & found
    phases = [step.phase for step in steps_for(job(new=new, unit__kind=kind, **changes))]
    assert list(dict.fromkeys(phases)) == [phase for phase in PHASES if phase in phases]


@pytest.mark.parametrize(
    "plan",
    [
        Plan(hub="hard", removal=way, on_van=False, wait_min=wait)
        for way in ("together", "blade_first")
        for wait in (30, 2880)
    ],
)
@pytest.mark.parametrize(
    "changes",
    [{}, {**BLOWER, "unit__kind": "furnace"}, {**INDUCER, "unit__kind": "furnace"}],
    ids=["condenser", "blower", "inducer"],
)
def test_the_order_of_the_list_keeps_to_what_must_come_before(plan, changes):
    found = steps_for(job(plan=plan, **changes))
    place = {step.key: number for number, step in enumerate(found)}
    assert all(place[name] < place[step.key] for step in found for name in step.after)
    planned = schedule(tasks(found))
    assert planned.chain <= planned.elapsed <= planned.total
    first = {slot.key: slot.start for slot in planned.slots}
    assert first["power"] == max(
        first[key]
        for key in first
        if key not in ("figures", "monoxide", "sister", "power", "make_do") or key == "power"
    )


def test_nothing_comes_apart_before_a_part_that_is_days_away():
    found = schedule(tasks(steps_for(job(plan=Plan(on_van=False, wait_min=2880)))))
    assert found.end_of("dead") > 2880
    assert schedule(tasks(steps_for(job(plan=Plan(on_van=False, wait_min=60))))).end_of("picture") < 60


def test_a_capacitor_alone_and_a_module_alone_are_short_jobs():
    alone = keys(job(new=False, verdict="replace_capacitor"))
    assert {"bleed", "capacitor", "connect_capacitor", "figures"} <= alone
    assert not {"blade_height", "in_stud", "connect"} & alone
    module = keys(
        job(new=False, verdict="replace_module", **{**BLOWER, "motor__kind": "ecm", "unit__kind": "air_handler"})
    )
    assert {"module_wait", "module_out", "module_in", "connect_module"} <= module
    assert steps_for(job(new=False, verdict="not_the_motor")) == []


RECORDED = st.fixed_dictionaries(
    {
        "load_look": st.sampled_from([None, "packed", "bent", "jammed"]),
        "conductor": st.sampled_from([None, "chafed", "sound"]),
        "connection": st.sampled_from([None, "burnt", "sound"]),
        "vent_drain": st.sampled_from([None, "blocked"]),
        "air_path": st.sampled_from([None, "clear", "dirty"]),
    }
)
PLACES = [
    {},
    {"unit__kind": "package_unit"},
    {**BLOWER, "unit__kind": "furnace"},
    {**BLOWER, "unit__kind": "fan_coil"},
    {**INDUCER, "unit__kind": "furnace"},
]


@given(
    st.sampled_from(PLACES),
    RECORDED,
    st.sampled_from(["free", "stuck", "hard"]),
    st.sampled_from([None, "set_screw", "clip", "pressed", "bolted"]),
    st.sampled_from([None, 0, 1, 2]),
    st.sampled_from(["motor", "assembly"]),
    st.booleans(),
)
def test_steps_of_any_job_are_in_order_whole_and_what_was_recorded_is_put_right(
    place, recorded, hub, held, flats, build, keyed
):
    readings = tuple(reading(kind, value) for kind, value in recorded.items() if value)
    shaft = {"diameter_in": 0.5, "length_in": 4.0, "flats": flats, "keyed": keyed}
    changes = {**place, "motor__shaft": shaft, "load__hub": held}
    found = steps_for(job(plan=Plan(hub=hub, build=build), readings=readings, **changes))
    at = {step.key: number for number, step in enumerate(found)}
    assert all(at[name] < at[step.key] for step in found for name in step.after)
    slots = {slot.key: slot.end for slot in schedule(tasks(found)).slots}
    late = {"power", "figures", "monoxide", "sister"}
    assert all(end <= slots["power"] for key, end in slots.items() if key not in late), "all is done before the power"
    wanted = {"packed": "wash_wheel", "bent": "new_wheel", "jammed": "clear_nest", "burnt": "remake_connection"}
    wanted |= {"chafed": "repair_wire", "dirty": "clean"}
    whole = build == "assembly" and place.get("motor__role") == "inducer"
    wanted = {value: key for value, key in wanted.items() if not (whole and key in ("wash_wheel", "new_wheel"))}
    for kind, value in recorded.items():
        if value in wanted and not (value == "dirty" and place.get("motor__role") == "inducer"):
            assert wanted[value] in at, (kind, value)
    wheel = place.get("motor__fan")
    assert not (wheel and {"hub_wrench", "bench_hub_wrench"} & set(at)), "no wrench on the shaft of a wheel"
    assert not ({"hub_wrench", "bench_hub_wrench"} & set(at) and not flats), "wrenches only where there are flats"
    if wheel == "forward_curved" and hub != "free" and held not in ("clip", "pressed"):
        assert "bench_hub_puller" in at
    if place.get("motor__role") == "inducer":
        alone = {"wheel_mark", "inducer_wheel_on", "cooling_fan", "gasket"}
        assert (alone if build == "motor" else {"assembly_dress", "assembly_in"}) <= set(at)
        assert not (alone & set(at) if build == "assembly" else {"assembly_in"} & set(at))
        assert {"assembly_out", "tube", "vent", "monoxide"} <= set(at)
        if build == "motor" and held not in ("clip", "pressed"):
            assert at["inducer_hub"] < at["out_lug"], "the wheel comes off before the motor"


@pytest.mark.parametrize("verdict", ["condemn_motor", "replace_capacitor", "replace_module"])
@pytest.mark.parametrize("kind", [None, "heat_pump_outdoor", "package_unit", "furnace", "air_handler"])
def test_no_power_before_hands_are_out_and_it_is_closed(kind, verdict):
    steps = {
        step.key: step
        for step in steps_for(job(unit__kind=kind, verdict=verdict, new=None if verdict == "condemn_motor" else False))
    }

    def before(key):
        return {key}.union(*(before(name) for name in steps[key].after))

    assert {key for key, step in steps.items() if step.phase not in ("before", "run")} <= before("power")


def test_a_capacitor_alone_opens_the_electrical_panel_and_not_the_top():
    alone = keys(job(new=False, verdict="replace_capacitor"))
    assert {"open_panel", "close_panel"} <= alone
    assert not {"open_top", "close_top"} & alone


MISTAKES = (
    "No picture",
    "Blade height not measured",
    "No note of lead direction",
    "position in its band",
    "Studs cut before the nuts",
    "left long enough to hit the blade",
    "Not measured before the cut, not dressed after",
    "Puller bolted on the wrong side",
    "the motor not supported",
    "washers lost",
    "Bumping limits, roll-out switch or board",
    "Low-voltage wires not noted",
    "put back on backwards",
    "Set screw not on the flat",
    "second screw tightened where there is no flat",
    "Wheel not centered",
    "Weep plugs left in",
    "isolators not lined up with the bracket",
    "Ground left off",
    "Old gasket left",
    "heat-proof sealant would have done",
    "Bad grommets reused",
    "against hot metal",
    "Not giving the oil time",
    "sharp edge with no loom",
    "loose wires near the blade",
    "Blade not at the height it was before",
)


@pytest.mark.parametrize("mistake", MISTAKES)
def test_what_people_get_wrong_stands_at_a_step(mistake):
    assert any(mistake in row.mistake for row in ROWS)


def test_one_trip_tools_and_parts_of_this_very_job():
    plan = Plan(
        capacitor_says="One can: 40 + 5",
        capacitor_parts=("FD-40-5",),
        work=[KeptWork(do="Change the band", part="band 5 in", minutes=6)],
    )
    found = carry_list(job(plan=plan))
    assert found.parts[:3] == ("motor TM-1", "capacitor FD-40-5", "band 5 in")
    assert "hub puller" not in found.tools
    assert "hub puller" in carry_list(job(plan=Plan(hub="hard"))).tools
    assert "inducer gasket or heat-proof sealant" in carry_list(job(**{**INDUCER, "unit__kind": "furnace"})).parts
    assert len(set(found.tools)) == len(found.tools)


@pytest.mark.parametrize(
    ("mounted", "opened"),
    [
        ("shaft_down", "at the shaft end,"),
        ("shaft_up", "at the far end,"),
        ("horizontal", "lower side"),
        (None, "lowest as it hangs"),
    ],
)
def test_the_lowest_drains_are_opened(mounted, opened):
    assert opened in drains_to_open(mounted)
    step = next(step for step in steps_for(job(unit__mounted=mounted)) if step.key == "drains")
    assert opened in step.do


@pytest.mark.parametrize(
    ("name", "first", "second", "right"),
    [
        ("blade_height_after", "2.5", "2.6", True),
        ("blade_height_after", "2.5", "2.625", True),
        ("blade_height_after", "2.5", "2.63", False),
        ("blade_height_after", "2.5", "2.3", False),
        ("gap_near_after", "0.5", "0.5625", True),
        ("gap_near_after", "0.5", "0.57", False),
        ("band_at_after", "1.25", "1.1", False),
    ],
)
def test_a_mark_that_comes_back_within_its_tolerance(name, first, second, right):
    marks = {MARKS[name].of: first, name: second}
    assert put_back(name, marks).right is right
    assert put_back(name, {name: second}) is None


def test_the_way_it_turned_is_held_against_the_plate():
    for sense, seen_from, way in (("ccw", "shaft_end", "counter-clockwise"), ("ccw", "lead_end", "clockwise")):
        plate = way_on_plate(make_call(**{**PLAIN, "motor__rotation": {"sense": sense, "seen_from": seen_from}}))
        assert plate == way
        marked = [put_back("turns", {"turns": turns}, plate).right for turns in ("clockwise", "counter-clockwise")]
        assert marked == [way == "clockwise", way == "counter-clockwise"]
    assert put_back("turns", {"turns": "clockwise"}, "") is None


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("blade_height", "two"),
        ("blade_height", "-1"),
        ("leads_at", "13"),
        ("turns", "up"),
        ("nothing", "1"),
        ("belt_size", "x" * 61),
    ],
)
def test_a_mark_that_is_none_is_told(name, text):
    with pytest.raises(InvalidField) as error:
        read_mark(name, text)
    assert error.value.errors[0].path == name
