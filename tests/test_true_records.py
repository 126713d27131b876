"""Records that are true: what is done, found, judged and set side by side is what was, and nothing besides."""

import subprocess
from datetime import timedelta

import pytest

from keen_coil.core.errors import InvalidField
from keen_coil.core.installation import Lead
from keen_coil.core.proof.run_test import prove_run
from keen_coil.services.calls import call_files, earlier_visit
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.catalog.shelf import stock_in
from keen_coil.services.log.log import said_of
from keen_coil.services.stations import capacitor, finding, hand_over, hook_up, match, plates, same_motor, swap
from keen_coil.services.stations.record import record_of
from keen_coil.services.stations.warranty import warranty_sheet
from keen_coil.store import tables
from tests.calls import GOOD_CAPACITOR, VOLTS_AT_MOTOR, make_call, reading
from tests.demo_calls import HARBOUR_OFFICE
from tests.fixtures import NOW, closed, every_step, stamp

LOCKED = (VOLTS_AT_MOTOR, *GOOD_CAPACITOR, reading("load_look", "sound"), reading("spin", "locked", with_="bare_shaft"))
SQUEALS = (reading("noise", "squeal"), reading("side_play", "some"))


@pytest.fixture
def shop(stocked):
    return stocked


def begin(db, *readings, **changes):
    return call_files.import_call(db, stamp(0), make_call(*readings, **changes), "x.call.json")


def act(db, call_id, do, *args):
    return do(db, call_id, stamp(open_call_view(db, call_id).row.version), *args)


def record(db, call_id):
    return record_of(open_call_view(db, call_id))


def test_nothing_is_done_before_it_is_in(shop):
    call_id = begin(shop, *LOCKED)
    act(shop, call_id, match.pick_motor, "TM-4027")
    assert record(shop, call_id).fitted == ""
    act(shop, call_id, swap.do_step, "in_stud", {})
    assert "motor TM-4027" in record(shop, call_id).fitted


@pytest.mark.parametrize("stays", [True, False])
def test_a_kept_capacitor_is_never_done_and_a_new_one_is_with_its_microfarads(shop, stays):
    call_id = begin(shop, *LOCKED, motor__capacitor_uf=5)
    act(shop, call_id, match.pick_motor, "TM-4027")
    if stays:
        act(shop, call_id, capacitor.set_renewal, "outside_label")
        act(shop, call_id, capacitor.choose_capacitor, "stays")
    else:
        view = capacitor.capacitor_view(shop, open_call_view(shop, call_id))
        act(shop, call_id, capacitor.choose_capacitor, (view.both or view.fan)[0].key)
    every_step(shop, call_id)
    closed(shop, call_id)
    found = record(shop, call_id)
    assert ("capacitor" in found.fitted) != stays
    side = next((row for row in found.figures if row.title.startswith("Capacitor, fan")), None)
    assert side is not None
    assert (side.left == "not read") == stays
    assert stays or not [text for text in found.planned if text.startswith("Capacitor")], "it stands under Done"
    assert stays or "5 µF" in side.left


def test_a_joined_capacitor_is_temporary_until_the_day_it_is_renewed_is_noted(shop):
    call_id = begin(shop, *LOCKED, unit__run_capacitor="own", motor__capacitor_uf=15, capacitor={}, motor__role=None)
    act(shop, call_id, match.pick_motor, "TM-4027")
    view = capacitor.capacitor_view(shop, open_call_view(shop, call_id), everything=True)
    joined = next(row for row in view.fan if not row.answer.permanent)
    act(shop, call_id, capacitor.choose_capacitor, joined.key)
    assert "temporary" not in " ".join(hand_over.loose_ends(open_call_view(shop, call_id))), "it is not in yet"
    every_step(shop, call_id)
    (left,) = hand_over.loose_ends(open_call_view(shop, call_id))
    assert "temporary" in left
    noted = {"kind": "temporary", "says": "One 5 µF can", "due_on": "2026-08-01"}
    act(shop, call_id, hand_over.add_follow_up, noted)
    assert hand_over.loose_ends(open_call_view(shop, call_id)) == []


def test_a_can_of_its_own_beside_the_dual_is_a_figure_of_its_own(shop):
    call_id = begin(shop, *LOCKED, motor__capacitor_uf=5)
    act(shop, call_id, match.pick_motor, "TM-4027")
    view = capacitor.capacitor_view(shop, open_call_view(shop, call_id))
    act(shop, call_id, capacitor.choose_capacitor, view.fan[0].key)
    act(shop, call_id, hook_up.keep_plan, "own")
    every_step(shop, call_id)
    closed(shop, call_id)
    figures = {row.title: (row.found, row.left) for row in record(shop, call_id).figures}
    assert figures["Capacitor, the fan's own"] == ("none", "5 µF by its label")
    assert figures["Capacitor, fan section"][1] == "left empty"
    assert not [text for text in record(shop, call_id).planned if text.startswith("Capacitor")], "it stands under Done"


def test_what_is_watched_is_not_of_the_motor_that_went_out(shop):
    call_id = begin(shop, *LOCKED, *SQUEALS)
    before = " ".join(record(shop, call_id).watch)
    act(shop, call_id, match.pick_motor, "TM-4027")
    every_step(shop, call_id)
    closed(shop, call_id)
    after = " ".join(record(shop, call_id).watch)
    assert "bearings" in before.lower()
    assert "bearings" not in after.lower()


def test_figures_stand_beside_those_of_the_same_point_only(shop):
    taken = [
        reading("run_amps_a", 1.9, leg="whole"),
        reading("run_amps_a", 0.9, leg="capacitor"),
        reading("supply_v", 238, at="unit"),
        reading("run_amps_a", 1.41, stage="proof"),
        reading("supply_v", 236, at="switch_load", when="running", stage="proof"),
    ]
    found = record(shop, begin(shop, *taken))
    rows = {row.title: (row.found[:4], row.left[:4]) for row in found.figures}
    assert rows["Amps"] == ("1.9 ", "1.41")
    assert rows["Amps, capacitor leg"] == ("0.9 ", "not ")
    assert rows["Volts, unit"][1] == "not "
    assert rows["Volts, switch load, running"][0] == "not "


def test_closing_with_a_part_renewed_and_nothing_proved_asks_once_for_a_judgement(shop):
    call_id = begin(shop, VOLTS_AT_MOTOR)
    act(shop, call_id, match.pick_motor, "TM-4027")
    every_step(shop, call_id)
    fields = {"finish": "finished", "exception": "Run proof tomorrow."}
    with pytest.raises(InvalidField) as error:
        act(shop, call_id, hand_over.close_call, fields)
    assert {fault.path for fault in error.value.errors} >= {"judged", "judged_why"}
    assert open_call_view(shop, call_id).is_open
    said = {"judged": "condemn_motor", "judged_why": "Windings smelled burnt.", "judged_by": "Isolde Trewarne"}
    act(shop, call_id, hand_over.close_call, {**fields, **said})
    found = record(shop, call_id)
    assert "Judged by Isolde Trewarne, Jul 1, 2026; the program says not checked" in found.judged
    assert found.plain == "In our technician's judgment: the fan motor had failed."
    assert not found.unjudged
    exported = call_files.export_call(open_call_view(shop, call_id))
    assert exported["judgement"]["by"] == "Isolde Trewarne"


def test_closed_without_a_judgement_it_is_marked_for_the_manager(shop):
    call_id = begin(shop, VOLTS_AT_MOTOR)
    act(shop, call_id, match.pick_motor, "TM-4027")
    every_step(shop, call_id)
    closed(shop, call_id)
    view = open_call_view(shop, call_id)
    assert view.row.outcome.unjudged
    assert "with no confirmed cause" in said_of(view.row.outcome, view.row.chosen)
    assert "not proved yet" not in record(shop, call_id).plain


def test_a_judgement_is_kept_at_the_finding_checked_and_taken_back(shop):
    call_id = begin(shop, VOLTS_AT_MOTOR)
    with pytest.raises(InvalidField):
        act(shop, call_id, finding.keep_judgement, {"judged": "toaster", "judged_why": "x" * 10, "judged_by": "A"})
    later = {"judged": "runs_worn", "judged_why": "Heard it.", "judged_by": "Another shop", "judged_on": "2027-01-01"}
    with pytest.raises(InvalidField, match="a day that has been"):
        act(shop, call_id, finding.keep_judgement, later)
    act(shop, call_id, finding.keep_judgement, {**later, "judged_on": "2026-06-30"})
    kept = open_call_view(shop, call_id).call.judgement
    assert (kept.by, str(kept.at.date())) == ("Another shop", "2026-06-30")
    act(shop, call_id, match.pick_motor, "TM-4027")
    assert open_call_view(shop, call_id).call.judgement == kept, "another choice leaves it"
    act(shop, call_id, finding.keep_judgement, {"judged": ""})
    assert open_call_view(shop, call_id).call.judgement is None


@pytest.mark.parametrize("source", [hand_over.BOUGHT, "delivered for this call", "from the customer"])
def test_a_part_that_was_not_on_the_van_is_booked_with_its_source_and_stops_nothing(shop, source):
    call_id = begin(shop, *LOCKED)
    act(shop, call_id, match.pick_motor, "TM-4027")
    every_step(shop, call_id)
    with shop.reading() as session:
        before = stock_in(session, "Van 1")
    closed(
        shop,
        call_id,
        **{"take.TM-4027": "1", "from.TM-4027": source, "take_other": "odd bracket", "other_from": source},
    )
    with shop.reading() as session:
        assert stock_in(session, "Van 1") == before
    assert record(shop, call_id).parts == [f"1 x TM-4027, {source}", f"1 x odd bracket, {source}"]


def test_the_same_motor_again_takes_all_over_and_asks_for_nothing(shop):
    leads = [{"lead": "black", "says": "common"}, {"lead": "white", "says": "run"}, {"lead": "brown", "says": "start"}]
    call_id = begin(shop, *LOCKED, hookup={"leads": leads}, motor__part_no=None)
    with pytest.raises(InvalidField, match="part number"):
        act(shop, call_id, same_motor.pick_same_motor, {})
    act(shop, call_id, same_motor.pick_same_motor, {"part_no": "BW-117"})
    view = open_call_view(shop, call_id)
    assert view.call.chosen_motor.part_no == view.call.motor.part_no == "BW-117"
    assert view.call.chosen_motor.shaft == view.call.motor.shaft
    assert [row.lead for row in view.call.hookup.leads] == ["black", "white", "brown"]
    found = swap.swap_view(view, NOW)
    keys = {one.step.key for _, steps in found.phases for one in steps}
    assert not {"order", "make_do", "back", "remount", "shaft", "work_1"} & keys
    act(shop, call_id, same_motor.pick_same_motor, {"part_no": "BW-117", "days": "2"})
    ordered = swap.swap_view(open_call_view(shop, call_id), NOW)
    assert "order" in {one.step.key for _, steps in ordered.phases for one in steps}


def test_the_other_of_the_two_gives_its_motor_with_its_leads(shop):
    call_id = begin(shop, *LOCKED)
    with shop.writing() as session:
        mine = session.query(tables.Motor).one()
        twin = {**mine.plate, "part_no": "TM-4027"}
        hookup = mine.installation.hookup.model_copy(update={"leads": [Lead(lead="tan", says="start")]})
        around = mine.installation.model_copy(update={"hookup": hookup})
        session.add(tables.Motor(unit_id=mine.unit_id, plate=twin, installation=around, place="right fan"))
    (own, other) = same_motor.twins_of(shop, open_call_view(shop, call_id))
    assert (own.key, other.part_no, other.name) == ("", "TM-4027", "right fan")
    act(shop, call_id, same_motor.pick_same_motor, {"of": other.key})
    call = open_call_view(shop, call_id).call
    assert call.chosen_motor.part_no == "TM-4027"
    assert [row.lead for row in call.hookup.new_leads] == ["tan"]


def test_an_earlier_visit_is_used_as_found_with_who_and_when(shop):
    first = begin(shop, *LOCKED)
    act(
        shop,
        first,
        hand_over.close_call,
        {"finish": "unfinished", "unfinished": "Motor on order", "return_on": "2026-07-03"},
    )
    with shop.writing() as session:
        was = session.get(tables.Call, first)
        was.plan = was.plan.changed(swap=was.plan.swap.changed(marks={"blade_height": "2.5"}))
        session.add(tables.Call(motor_id=was.motor_id, opened_at=NOW + timedelta(days=2), complaint={}, meters={}))
        session.flush()
        second = session.query(tables.Call).order_by(tables.Call.id.desc()).first().id
    view = open_call_view(shop, second)
    (visit,) = earlier_visit.earlier_visits(shop, view)
    assert (visit.call_id, visit.readings, visit.marks) == (first, len(LOCKED), 1)
    act(shop, second, earlier_visit.use_earlier_visit, str(first))
    now = open_call_view(shop, second)
    assert now.assessment.verdict == open_call_view(shop, first).assessment.verdict == "condemn_motor"
    assert now.row.plan.swap.marks == {"blade_height": "2.5"}
    assert now.call.judgement.verdict == "condemn_motor"
    assert "earlier visit" in now.call.judgement.why
    act(shop, second, earlier_visit.use_earlier_visit, str(first))
    assert len(open_call_view(shop, second).call.readings) == len(LOCKED), "nothing is taken over twice"
    with pytest.raises(InvalidField):
        act(shop, second, earlier_visit.use_earlier_visit, "999")


@pytest.mark.parametrize(
    ("until", "word"), [("2029-05-30", "In warranty"), ("2020-05-30", "Out of warranty"), ("", "not noted")]
)
def test_the_warranty_sheet_says_what_is_noted_and_what_is_not(shop, until, word):
    call_id = begin(shop, *LOCKED)
    act(shop, call_id, plates.save_plates, {"motor.serial": "7F-22", "unit.warranty_until": until})
    sheet = warranty_sheet(open_call_view(shop, call_id))
    assert word in sheet.warranty
    assert dict(sheet.facts)["Motor serial number"] == "7F-22"
    assert "Unit serial number" in sheet.missing
    assert sheet.rows[0].state == "failed"
    assert any(row.limit for row in sheet.rows)


def test_the_warranty_sheet_is_a_pdf(reader, tmp_path):
    answer = reader.get(f"/calls/{HARBOUR_OFFICE}/warranty.pdf")
    (tmp_path / "x.pdf").write_bytes(answer.content)
    text = subprocess.run(["pdftotext", "-layout", tmp_path / "x.pdf", "-"], capture_output=True, check=True, text=True)
    assert "Proof of failure" in text.stdout
    assert "Warranty claim" in text.stdout


@pytest.mark.parametrize(
    ("damage", "step"),
    [
        (reading("load_look", "packed"), "wash_wheel"),
        (reading("conductor", "chafed", leg="L1"), "repair_wire"),
        (reading("connection", "burnt", at="motor"), "remake_connection"),
    ],
)
def test_a_repair_that_was_ticked_is_not_asked_for_again_and_stands_under_done(shop, damage, step):
    call_id = begin(shop, *(row for row in LOCKED if row["kind"] != damage["kind"]), damage)
    act(shop, call_id, match.pick_motor, "TM-4027")
    assert any("still open" in text for text in hand_over.loose_ends(open_call_view(shop, call_id)))
    every_step(shop, call_id)
    assert hand_over.loose_ends(open_call_view(shop, call_id)) == []
    words = {"wash_wheel": "wheel washed", "repair_wire": "Wire repaired", "remake_connection": "Connection repaired"}
    assert words[step] in record(shop, call_id).fitted
    act(shop, call_id, swap.take_step_back, step)
    assert words[step] not in record(shop, call_id).fitted


def test_what_a_change_cured_is_not_watched_and_the_later_reading_stands_beside_the_first(shop):
    dirty = [reading("air_path", "dirty"), reading("run_amps_a", 1.9, taken_at="2026-03-14T10:00:00Z")]
    after = [
        reading("air_path", "clear", taken_at="2026-03-14T11:00:00Z"),
        reading("run_amps_a", 1.42, taken_at="2026-03-14T11:05:00Z"),
    ]
    cleaned = [{"what": "coil_cleaned", "at": "2026-03-14T10:30:00Z"}]
    found = record(shop, begin(shop, *dirty, *after, changes=cleaned))
    assert found.watch == []
    assert found.fitted == "Coil cleaned."
    assert next((row.found[:3], row.left[:4]) for row in found.figures if row.title == "Amps") == ("1.9", "1.42")


def test_no_error_of_a_meter_is_shown_as_nothing(shop):
    found = record(shop, begin(shop, reading("run_amps_a", "0.9"), reading("supply_v", "118", at="unit")))
    assert all("± 0.0 " not in row.found for row in found.figures)


def test_a_speed_of_another_motor_of_the_unit_is_not_this_ones(shop):
    call = make_call(motor__role="inducer", unit__speeds_used=[1, 3], unit__modes={"cooling": 1, "heating": 3})
    titles = [check.title for check in prove_run(call).checks if check.name.startswith("run_amps")]
    assert titles == ["Amps, whole current"]
    blower = make_call(motor__role="indoor_blower", unit__speeds_used=[1, 3])
    assert len([check for check in prove_run(blower).checks if check.name.startswith("run_amps")]) == 2
