"""What a technician does: acts are whole, once, and on the call the page showed."""

from datetime import timedelta

import pytest

from keen_coil.core.call import read_call
from keen_coil.core.errors import InvalidField, NotFound
from keen_coil.core.unit_kinds import roles_in
from keen_coil.core.vocabulary import Role, UnitKind, words_of
from keen_coil.services.acts import CallClosed, DuplicateSubmission, StaleVersion
from keen_coil.services.calls import call_files, calls, readings
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.ledger import ledger
from keen_coil.services.calls.rail import STATION
from keen_coil.services.catalog import shelf, shelf_import
from keen_coil.services.demo.demo import DATA, build_demo
from keen_coil.services.people import settings
from keen_coil.services.stations import capacitor, hand_over, make_safe, match, plates, typed_motor
from keen_coil.services.stations.pad import pad_for
from keen_coil.store import tables
from keen_coil.store.database import Database
from tests.calls import call_data, reading
from tests.fixtures import NOW, closed, every_step, stamp

SITE = {"site": "Seed library", "unit": "roof", "technician": "Corin Hask", "role": "condenser_fan", "symptom": "quiet"}


@pytest.fixture
def call_id(db):
    """A new call."""
    return calls.open_call(db, stamp(0), SITE)


def test_a_new_call_starts_on_its_unit_and_takes_up_the_motor_again(db, call_id):
    again = calls.open_call(db, stamp(0), SITE)
    one, other = open_call_view(db, call_id), open_call_view(db, again)
    assert one.row.motor_id == other.row.motor_id
    assert one.call.unit.kind is None, "nobody said what kind of unit it is"


@pytest.mark.parametrize("kind", ["heat_pump_outdoor", "fan_coil"])
def test_a_new_unit_is_of_the_kind_that_was_asked_for(db, kind):
    with pytest.raises(InvalidField, match="unit_kind"):
        calls.open_call(db, stamp(0), {**SITE, "unit_kind": ""})
    with pytest.raises(InvalidField, match="unit_kind"):
        calls.open_call(db, stamp(0), {**SITE, "unit_kind": "toaster"})
    by_kind = {key: text for key, text in SITE.items() if key != "role"}
    number = calls.open_call(db, stamp(0), {**by_kind, "unit_kind": kind})
    again = calls.open_call(db, stamp(0), {**by_kind, "unit_kind": ""})
    assert [open_call_view(db, one).call.unit.kind for one in (number, again)] == [kind, kind]


@pytest.mark.parametrize("kind", words_of(UnitKind))
@pytest.mark.parametrize("role", ["", *words_of(Role)])
def test_the_motor_is_one_that_a_unit_of_the_kind_has(db, kind, role):
    """What the kind says is not asked; what it cannot have is told, on the new call and on the plates."""
    fields = {**SITE, "unit_kind": kind, "role": role}
    here = roles_in(kind)
    if role in here or (not role and len(here) == 1):
        call = calls.open_call(db, stamp(0), fields)
        assert open_call_view(db, call).call.motor.role == (role or here[0])
        for wrong in set(words_of(Role)) - set(here):
            with pytest.raises(InvalidField, match=r"motor\.role"):
                plates.save_plates(db, call, stamp(), {"motor.role": wrong})
    else:
        with pytest.raises(InvalidField, match="role: got"):
            calls.open_call(db, stamp(0), fields)


@pytest.mark.parametrize(
    ("typed", "volts", "kept", "shown"),
    [
        ("12.4/6.2", "115/230", (12.4, 6.2), "12.4/6.2"),
        ("12.4 / 6.2 A", "115/230", (12.4, 6.2), "12.4/6.2"),
        ("3.6-3.4/1.7", "208-230/460", (3.6, 1.7), "3.6/1.7"),
        ("1.40", "208-230", (1.4, None), "1.40"),
        ("1.6-1.4", "208-230", (1.6, None), "1.6"),
        ("12.4/6.2", "230", None, ""),
        ("12.4/", "115/230", None, ""),
        ("12.4/6.2/3.1", "115/230", None, ""),
    ],
)
def test_the_amps_of_both_voltages_are_typed_as_the_plate_has_them(db, call_id, typed, volts, kept, shown):
    fields = {"motor.amps_a": typed, "motor.volts": volts}
    if kept is None:
        with pytest.raises(InvalidField, match=r"motor\.amps_a"):
            plates.save_plates(db, call_id, stamp(), fields)
        return
    plates.save_plates(db, call_id, stamp(), fields)
    motor = open_call_view(db, call_id).call.motor
    assert (motor.amps_a, motor.amps_high_a) == kept
    assert plates.plate_texts(open_call_view(db, call_id).call)["motor.amps_a"] == shown
    plates.save_plates(db, call_id, stamp(2), {"motor.amps_a": "5"})
    assert open_call_view(db, call_id).call.motor.amps_high_a is None


@pytest.mark.parametrize("field", ["site", "unit"])
def test_a_new_call_needs_its_place(db, field):
    with pytest.raises(InvalidField) as error:
        calls.open_call(db, stamp(0), {**SITE, field: "  "})
    assert error.value.errors[0].path == field
    assert calls.board(db) == ([], [])


def test_the_same_act_twice_is_done_once(db, call_id):
    form = {"kind": "air_path", "value": "clear"}
    readings.take_reading(db, call_id, stamp(1, act_id="the-same-act"), form)
    with pytest.raises(DuplicateSubmission) as error:
        readings.take_reading(db, call_id, stamp(1, act_id="the-same-act"), form)
    assert error.value.call_id == call_id
    assert len(open_call_view(db, call_id).call.readings) == 1


def test_an_act_on_an_old_page_changes_nothing(db, call_id):
    readings.take_reading(db, call_id, stamp(1), {"kind": "air_path", "value": "clear"})
    with pytest.raises(StaleVersion):
        readings.take_reading(db, call_id, stamp(1), {"kind": "air_path", "value": "dirty"})
    assert len(open_call_view(db, call_id).call.readings) == 1


def test_no_such_call(db):
    with pytest.raises(NotFound):
        make_safe.set_power(db, 99, stamp(1), "dead")


def test_a_refused_reading_saves_nothing_and_spends_no_act(db, call_id):
    form = {"kind": "supply_v", "value": "23O", "at": "unit"}
    with pytest.raises(InvalidField) as error:
        readings.take_reading(db, call_id, stamp(1, act_id="act-again"), form)
    assert error.value.errors[0].path == "value"
    readings.take_reading(db, call_id, stamp(1, act_id="act-again"), {**form, "value": "230"})
    assert str(open_call_view(db, call_id).call.readings[0].value) == "230"


def test_the_power_strip_decides_what_fits(db, call_id):
    form = {"kind": "capacitance_uf", "value": "2.10"}
    with pytest.raises(InvalidField) as error:
        readings.take_reading(db, call_id, stamp(1), form)
    assert error.value.errors[0].path == "power"
    readings.take_reading(db, call_id, stamp(1), {**form, "anyway": "yes"})
    assert open_call_view(db, call_id).assessment.judgements[0].state == "suspect"
    make_safe.set_power(db, call_id, stamp(2), "dead")
    readings.take_reading(db, call_id, stamp(3), form)
    assert open_call_view(db, call_id).call.readings[1].power == "dead"


def test_a_winding_reading_knows_how_long_power_has_been_off(db, call_id):
    make_safe.set_power(db, call_id, stamp(1), "dead")
    form = {"kind": "winding_ohm", "value": "OL", "pair": "A|B"}
    readings.take_reading(db, call_id, stamp(2, NOW + timedelta(minutes=71)), form)
    assert open_call_view(db, call_id).call.readings[0].minutes_off == 71


def test_make_safe_sets_the_strip_and_going_live_unticks_it(db, call_id):
    make_safe.tick_steps(db, call_id, stamp(1), ["thermostat", "disconnect", "tester_before", "dead", "tester_after"])
    assert open_call_view(db, call_id).row.power == "energised"
    make_safe.tick_steps(db, call_id, stamp(2), sorted(make_safe.PROVED_DEAD | {"thermostat"}))
    assert open_call_view(db, call_id).row.power == "dead"
    make_safe.set_power(db, call_id, stamp(3), "energised")
    assert set(open_call_view(db, call_id).ticked) == {"thermostat"}


def test_a_correction_keeps_the_old_value(db, call_id):
    readings.take_reading(db, call_id, stamp(1), {"kind": "supply_v", "value": "123.40", "at": "unit"})
    readings.take_reading(db, call_id, stamp(2), {"kind": "supply_v", "value": "234.0", "at": "unit", "replaces": "0"})
    rows = ledger(open_call_view(db, call_id))
    assert [(row.value.split()[0], row.withdrawn_by) for row in rows] == [("234.0", None), ("123.40", 1)]


def test_plates_are_saved_whole_or_not_at_all(db, call_id):
    with pytest.raises(InvalidField) as error:
        plates.save_plates(db, call_id, stamp(1), {"motor.hp": "1/4", "motor.rpm": "0", "capacitor.fan": "x"})
    assert {fault.path for fault in error.value.errors} == {"motor.rpm", "capacitor.fan"}
    assert open_call_view(db, call_id).call.motor.hp is None


def test_plates_keep_digits_and_cleared_fields_are_gone(db, call_id):
    typed = {
        "motor.hp": "1/4",
        "motor.amps_a": "1.40",
        "motor.rpm": "1090",
        "capacitor.fan": "5.0",
        "leads": "red, blue",
    }
    plates.save_plates(db, call_id, stamp(1), typed)
    shown = plates.plate_texts(open_call_view(db, call_id).call)
    assert {key: shown[key] for key in typed} == typed
    plates.save_plates(db, call_id, stamp(2), {**typed, "motor.rpm": ""})
    call = open_call_view(db, call_id).call
    assert call.motor.rpm is None
    assert call.motor.role == "condenser_fan"


def test_a_catalogue_is_brought_in_whole_or_not_at_all(db):
    good = (DATA / "motors.csv").read_bytes()
    assert shelf_import.import_all(db, stamp(0), good).added >= 60
    with pytest.raises(InvalidField):
        shelf_import.import_all(db, stamp(0), good.replace(b",1075,", b",0,"))
    assert shelf_import.import_all(db, stamp(0), good).same == len(list(shelf.all_motors(db)))
    changed = shelf_import.import_all(db, stamp(0), good.replace(b"Skerry Electric", b"Skerry Motors"))
    assert changed.changed > 0
    assert changed.added == 0


def imported(db, *rows, **changes):
    return call_files.import_call(db, stamp(0), read_call(call_data(*rows, **changes)), "x.call.json")


def test_cutting_by_sql_loses_nothing_that_could_serve(stocked):
    sheet = open_call_view(stocked, imported(stocked))
    for school in ("amps", "hp_amps", "ten_percent", "like"):
        near = match.match_call(stocked, sheet, school, None, everything=False)
        every = match.match_call(stocked, sheet, school, None, everything=True)
        serving = [[held.motor.part_no for held in view.found.serving] for view in (near, every)]
        assert serving[0] == serving[1]
        assert near.outside > 0
        assert every.outside == 0


def test_a_refused_motor_cannot_be_chosen(stocked):
    call_id = imported(stocked)
    for part_no in ("SE-4240", "no-such-part"):
        with pytest.raises(InvalidField) as error:
            match.pick_motor(stocked, call_id, stamp(1), part_no)
        assert error.value.errors[0].path == "part_no"
    match.pick_motor(stocked, call_id, stamp(1), "TM-4027")
    assert open_call_view(stocked, call_id).call.chosen_motor.part_no == "TM-4027"
    match.pick_motor(stocked, call_id, stamp(2), "")
    assert open_call_view(stocked, call_id).call.chosen_motor is None


def test_closing_needs_a_passed_run_or_a_named_exception(db, call_id):
    with pytest.raises(InvalidField) as error:
        hand_over.close_call(db, call_id, stamp(1), {})
    assert error.value.errors[0].path == "exception"
    hand_over.close_call(db, call_id, stamp(1), {"exception": "Waits for the ferry."})
    with pytest.raises(CallClosed):
        readings.take_reading(db, call_id, stamp(2), {"kind": "air_path", "value": "clear"})


def test_the_new_motor_takes_the_old_ones_place(stocked):
    call_id = imported(stocked)
    match.pick_motor(stocked, call_id, stamp(1), "TM-4027")
    with pytest.raises(InvalidField, match="not done or skipped"):
        hand_over.close_call(stocked, call_id, stamp(2), {"exception": "Run proof tomorrow."})
    every_step(stocked, call_id)
    closed(stocked, call_id)
    with stocked.reading() as session:
        old, new = session.query(tables.Motor).order_by(tables.Motor.id)
        assert old.removed_at == new.installed_at == NOW
        assert (new.plate["part_no"], new.plate["role"]) == ("TM-4027", "condenser_fan")


def test_a_call_file_comes_in_and_goes_out_unchanged(db):
    data = call_data(reading("capacitance_uf", "2.10", section="fan"), reading("spin", "free"))
    sheet = open_call_view(db, call_files.import_call(db, stamp(0), read_call(data), "x.call.json"))
    assert read_call(call_files.export_call(sheet)).model_copy(update={"record": None}) == read_call(data)


def test_the_pad_goes_to_the_suggested_test(db, call_id):
    sheet = open_call_view(db, call_id)
    first = sheet.assessment.next_tests[0]
    assert pad_for(sheet, "").kind.name == first.kind
    assert pad_for(sheet, "windings").how.kind == "winding_ohm"
    assert [choice.label for choice in pad_for(sheet, "windings").qualifiers["pair"]] == ["A - B", "A - C", "B - C"]


def test_the_demo_is_the_same_every_time_but_for_the_clock(demo_path, tmp_path):
    def content(path):
        database = Database(path)
        with database.reading() as session:
            rows = [(c.complaint, [r.body for r in c.readings], c.opened_at) for c in session.query(tables.Call)]
        database.close()
        first = min(at for _, _, at in rows)
        return [(says, [{**body, "taken_at": ""} for body in bodies], at - first) for says, bodies, at in rows]

    build_demo(tmp_path / "later.db", NOW + timedelta(days=400))
    assert content(demo_path) == content(tmp_path / "later.db")


def test_a_refusal_by_estimate_is_overridden_only_with_a_written_reason(db):
    shaded = {
        "motor__kind": "shaded_pole",
        "motor__capacitor_uf": None,
        "motor__capacitor_v": None,
        "motor__hp": None,
        "motor__amps_a": 3.2,
    }
    call_id = imported(db, **shaded)
    plate = {
        "motor.part_no": "SMALL",
        "motor.kind": "psc",
        "motor.hp": "1/20",
        "motor.volts": "208-230",
        "motor.amps_a": "0.4",
        "motor.phase": "1",
        "motor.hz": "60",
        "motor.rpm": "1090",
        "motor.mount": "stud",
        "motor.studs": "far_end",
        "motor.enclosure": "enclosed",
        "motor.protection": "auto",
        "motor.rotation.sense": "reversible",
        "motor.ambient_limit_c": "60",
        "motor.shaft.diameter_in": "0.5",
        "motor.shaft.length_in": "4",
    }
    assert typed_motor.add_plate(db, call_id, stamp(1), plate) == "SMALL"
    for reason in ("", "because"):
        with pytest.raises(InvalidField) as error:
            match.pick_motor(db, call_id, stamp(2), "SMALL", reason)
        assert error.value.errors[0].path == "reason"
    match.pick_motor(db, call_id, stamp(2), "SMALL", "The fan was measured: it takes 30 W.")
    plan = open_call_view(db, call_id).row.plan
    assert plan.override.reason.startswith("The fan was measured")
    assert "Shaft power about" in plan.override.against[0]
    assert any(item.do.startswith("Mount and wire a run capacitor") for item in plan.work)


def test_a_typed_plate_is_judged_everywhere_and_taken_away_again(stocked):
    call_id = imported(stocked)
    with pytest.raises(InvalidField) as error:
        typed_motor.add_plate(
            stocked, call_id, stamp(1), {"motor.part_no": "X", "motor.kind": "psc", "motor.volts": "23O"}
        )
    assert {"motor.hp", "motor.rpm", "motor.volts"} <= {fault.path for fault in error.value.errors}
    plate = {
        "motor.part_no": "X",
        "motor.kind": "psc",
        "motor.hp": "1/4",
        "motor.volts": "115",
        "motor.amps_a": "3",
        "motor.phase": "1",
        "motor.hz": "60",
        "motor.rpm": "1090",
    }
    typed_motor.add_plate(stocked, call_id, stamp(1), plate)
    view = match.match_call(stocked, open_call_view(stocked, call_id), "amps", "X")
    assert view.one.refusals[0].field == "volts"
    typed_motor.drop_plate(stocked, call_id, stamp(2), "X")
    assert open_call_view(stocked, call_id).row.plan.by_hand == []


@pytest.mark.parametrize(
    ("fields", "parts"),
    [
        ({}, 4),
        ({"van": "yes"}, 1),
        ({"days": "0"}, 1),
        ({"days": "2"}, 4),
        ({"price": "100"}, 1),
        ({"van": "yes", "price": "100"}, 0),
    ],
)
def test_the_list_is_narrowed_by_van_delivery_and_price(stocked, fields, parts):
    sheet = open_call_view(stocked, imported(stocked))
    view = match.match_call(stocked, sheet, "amps", filters=match.filters_of(fields))
    assert (len(view.serving), len(view.serving) + view.hidden) == (parts, 4)
    with pytest.raises(InvalidField) as error:
        match.filters_of({"days": "soon"})
    assert error.value.errors[0].path == "days"


def test_the_shops_schools_are_what_a_new_call_begins_with(db):
    settings.save_schools(db, stamp(0), {"sizing": "ten_percent", "renewal": "outside_label"})
    for fields in ({"sizing": "best", "renewal": "always"}, {"sizing": "amps", "renewal": "never"}):
        with pytest.raises(InvalidField):
            settings.save_schools(db, stamp(0), fields)
    call_id = calls.open_call(db, stamp(0), {"site": "Quay", "unit": "one", "role": "condenser_fan"})
    sheet = open_call_view(db, call_id)
    assert sheet.row.school == "ten_percent"
    assert capacitor.capacitor_view(db, sheet).renewal == "outside_label"


def test_a_capacitor_of_the_van_is_chosen_and_one_that_is_gone_is_not(stocked):
    call_id = imported(stocked)
    view = capacitor.capacitor_view(stocked, open_call_view(stocked, call_id))
    assert view.both[0].key == "both:FD-40-5-RD.herm,FD-40-5-RD.fan"
    assert all(volts >= 370 for answer in (*view.both, *view.fan) for volts in [min(answer.answer.volts_on_v)])
    capacitor.choose_capacitor(stocked, call_id, stamp(1), view.both[0].key)
    assert open_call_view(stocked, call_id).row.plan.capacitor.permanent is True
    assert STATION["capacitor"].state(open_call_view(stocked, call_id)) == "done"
    with pytest.raises(InvalidField):
        capacitor.choose_capacitor(stocked, call_id, stamp(2), "single:GONE.single")
    with pytest.raises(InvalidField) as error:
        capacitor.choose_capacitor(stocked, call_id, stamp(2), "stays")
    assert "not been measured" in error.value.errors[0].expected
