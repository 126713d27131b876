"""Handing over: finished or marked as unfinished, parts off the van, follow-ups, the record as PDF and calendar."""

import subprocess
from datetime import UTC, date

import icalendar
import pytest

from keen_coil.core.call import read_call
from keen_coil.core.errors import InvalidField
from keen_coil.services.calls import call_files
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.readings import take_reading
from keen_coil.services.catalog.shelf import stock_in
from keen_coil.services.log import log
from keen_coil.services.stations import follow_ups, hand_over, hook_up, lead_forms, match, swap
from keen_coil.services.stations.record import record_of
from keen_coil.store import tables
from tests.calls import GOOD_CAPACITOR, VOLTS_AT_MOTOR, make_call, reading
from tests.demo_calls import FERRY_ROOM, HARBOUR_OFFICE
from tests.fixtures import NOW, every_step, stamp

LOCKED = (VOLTS_AT_MOTOR, *GOOD_CAPACITOR, reading("load_look", "sound"), reading("spin", "locked", with_="bare_shaft"))


@pytest.fixture
def db(stocked):
    """The catalog and the van are there before each of these."""
    return stocked


@pytest.fixture
def call_id(db):
    """A condemned motor, its replacement chosen from the van."""
    found = call_files.import_call(db, stamp(0), make_call(*LOCKED), "x.call.json")
    match.pick_motor(db, found, stamp(1), "TM-4027")
    return found


def act(db, call_id, do, *args):
    return do(db, call_id, stamp(open_call_view(db, call_id).row.version), *args)


def done(db, call_id, proof=True):
    """Everything that is asked for before a call can be closed as finished."""
    every_step(db, call_id)
    rows = [
        ("turns_way", "right", {}),
        ("supply_v", "237", {"at": "switch_load", "when": "running"}),
        ("run_amps_a", "1.41", {}),
        ("noise", "quiet", {}),
    ]
    for kind, value, more in rows if proof else ():
        act(db, call_id, take_reading, {"kind": kind, "value": value, "stage": "proof", "anyway": "yes", **more})


def stock(db, van="Van 1"):
    with db.reading() as session:
        return stock_in(session, van)


def faults(error):
    return {fault.path for fault in error.value.errors}


def test_a_half_finished_call_goes_out_only_as_unfinished_and_says_so(db, call_id):
    with pytest.raises(InvalidField) as error:
        act(db, call_id, hand_over.close_call, {"finish": "finished", "exception": "Enough for today"})
    assert faults(error) == {"finish"}
    with pytest.raises(InvalidField) as error:
        act(db, call_id, hand_over.close_call, {"finish": "unfinished"})
    assert faults(error) == {"unfinished"}
    with pytest.raises(InvalidField) as error:
        act(
            db,
            call_id,
            hand_over.close_call,
            {"finish": "unfinished", "unfinished": "Motor to be fitted", "return_on": "soon"},
        )
    assert faults(error) == {"return_on"}
    assert open_call_view(db, call_id).is_open
    act(
        db,
        call_id,
        hand_over.close_call,
        {"finish": "unfinished", "unfinished": "Motor to be fitted", "return_on": "2026-07-03"},
    )
    sheet = open_call_view(db, call_id)
    assert record_of(sheet).unfinished == "Motor to be fitted"
    (due,) = follow_ups.open_follow_ups(db)
    assert (due.kind, due.due_on, due.call_id) == ("unfinished", date(2026, 7, 3), call_id)
    with db.reading() as session:
        assert [motor.removed_at for motor in session.query(tables.Motor)] == [None]


def test_unfinished_but_the_motor_is_in_makes_it_the_one_that_is_there(db, call_id):
    act(db, call_id, swap.do_step, "in_stud", {}, True)
    act(db, call_id, hand_over.close_call, {"finish": "unfinished", "unfinished": "Wiring", "return_on": "2026-07-03"})
    with db.reading() as session:
        assert [
            motor.plate["part_no"] for motor in session.query(tables.Motor).filter(tables.Motor.removed_at.is_(None))
        ] == ["TM-4027"]


def test_moves_of_the_hook_up_count_too_and_are_done_with_their_steps(db, call_id):
    leads = "black: main.1 aux.1\nwhite: main.2\nbrown: aux.2\ngreen: frame"
    act(db, call_id, lead_forms.keep_leads, "plan", leads)
    act(db, call_id, hook_up.keep_plan, "dual")
    with pytest.raises(InvalidField, match="moves of the wiring plan"):
        act(db, call_id, hand_over.close_call, {"finish": "finished"})
    done(db, call_id)
    act(db, call_id, hand_over.close_call, {"finish": "finished"})
    assert not any("not ticked" in text for text in record_of(open_call_view(db, call_id)).hookup)


def test_parts_are_booked_off_the_van_with_the_call(db, call_id):
    done(db, call_id)
    view = hand_over.hand_over_view(db, open_call_view(db, call_id))
    assert [(part.part_no, part.there, part.proposed) for part in view.parts] == [("TM-4027", 1, 1)]
    act(
        db,
        call_id,
        hand_over.close_call,
        {"finish": "finished", "take.TM-4027": "1", "take_other": "bracket", "take_other_many": "1"},
    )
    assert stock(db)["TM-4027"] == 0
    sheet = open_call_view(db, call_id)
    assert record_of(sheet).parts == ["1 x TM-4027, off Van 1", "1 x bracket, off Van 1"]


NOT_THERE = [
    ({"take.TM-4027": "2"}, "take.TM-4027"),
    ({"take.TM-4027": "one"}, "take.TM-4027"),
    ({"take.TM-4027": "-1"}, "take.TM-4027"),
    ({"take_other": "anvil"}, "take_other"),
    ({"take.TM-4027": "1", "take_other": "bracket", "take_other_many": "900"}, "take_other"),
    ({"take.TM-4027": "1", "van": "Van 9"}, "take.TM-4027"),
]


def test_what_the_van_has_not_got_books_nothing_and_closes_nothing(db, call_id):
    done(db, call_id)
    for fields, field in NOT_THERE:
        with pytest.raises(InvalidField) as error:
            act(db, call_id, hand_over.close_call, {"finish": "finished", **fields})
        assert faults(error) == {field}
        assert open_call_view(db, call_id).is_open
        assert stock(db)["TM-4027"] == 1
        assert open_call_view(db, call_id).row.parts == []


def test_two_calls_cannot_take_the_same_last_part(db, call_id):
    other = call_files.import_call(db, stamp(0), make_call(*LOCKED), "y.call.json")
    for each in (call_id, other):
        if each == other:
            match.pick_motor(db, other, stamp(1), "TM-4027")
        done(db, each)
    act(db, call_id, hand_over.close_call, {"finish": "finished", "take.TM-4027": "1"})
    with pytest.raises(InvalidField, match="at most 0"):
        act(db, other, hand_over.close_call, {"finish": "finished", "take.TM-4027": "1"})


def test_a_follow_up_is_noted_given_as_a_calendar_and_settled(db, call_id):
    act(
        db,
        call_id,
        hand_over.add_follow_up,
        {"kind": "temporary", "says": "Two capacitors strapped; replace with one", "due_on": "2026-07-20"},
    )
    act(db, call_id, hand_over.add_follow_up, {"kind": "watch", "says": "Coil; look again", "due_on": "2026-08-01"})
    first, second = follow_ups.open_follow_ups(db)
    act(db, call_id, hand_over.drop_follow_up, str(second.id))
    calendar = icalendar.Calendar.from_ical(follow_ups.as_calendar(follow_ups.open_follow_ups(db), NOW))
    (event,) = calendar.walk("VEVENT")
    assert event.decoded("dtstart") == date(2026, 7, 20)
    assert "Two capacitors strapped; replace with one" in str(event["description"])
    assert event.decoded("dtstamp").astimezone(UTC) == NOW
    with pytest.raises(InvalidField):
        follow_ups.settle(db, stamp(0), first.id, "")
    follow_ups.settle(db, stamp(0), first.id, "Single 7.5 fitted")
    assert follow_ups.open_follow_ups(db) == []


@pytest.mark.parametrize("fields", [{"kind": "always"}, {"says": " "}, {"says": "x" * 501}, {"due_on": "32.1."}])
def test_a_follow_up_that_is_none_is_told(db, call_id, fields):
    whole = {"kind": "temporary", "says": "Tape on a wire", "due_on": "2026-07-20"}
    with pytest.raises(InvalidField) as error:
        act(db, call_id, hand_over.add_follow_up, {**whole, **fields})
    assert faults(error) == set(fields)


def test_a_motor_found_good_later_is_a_figure_with_its_call(db, call_id):
    done(db, call_id)
    act(db, call_id, hand_over.close_call, {"finish": "finished"})
    log.found_good(db, call_id, stamp(0), "Turned free once the rust was off")
    assert (log.figures(db).condemned, log.figures(db).found_good) == (1, 1)
    assert [line.id for line in log.search(db, "", "found_good").lines] == [call_id]


def test_a_call_file_carries_the_whole_record_there_and_back(db, call_id):
    act(db, call_id, hand_over.add_follow_up, {"kind": "watch", "says": "Coil; look again", "due_on": "2026-08-01"})
    act(db, call_id, swap.do_step, "blade_height", {"blade_height": "2.50"})
    act(db, call_id, swap.skip_step, "clean", "Washed in May")
    done(db, call_id)
    act(db, call_id, hand_over.close_call, {"finish": "finished", "fitted": "Motor", "take.TM-4027": "1"})
    given = call_files.export_call(open_call_view(db, call_id))
    with db.writing() as session:
        for table in (
            "stock_movement",
            "part_used",
            "follow_up",
            "step",
            "reading",
            "act",
            "call",
            "motor",
            "unit",
            "site",
        ):
            session.connection().exec_driver_sql(f"delete from {table}")  # noqa: S608
    back = call_files.import_call(db, stamp(0), read_call(given), "x.call.json")
    sheet = open_call_view(db, back)
    assert read_call(call_files.export_call(sheet)) == read_call(given)
    assert not sheet.is_open
    assert record_of(sheet).marks
    with db.reading() as session:
        assert [
            motor.plate["part_no"] for motor in session.query(tables.Motor).filter(tables.Motor.removed_at.is_(None))
        ] == ["TM-4027"]


@pytest.mark.parametrize("audience", ["customer", "shop"])
def test_the_pdf_says_what_the_page_says_and_nothing_is_cut(reader, audience, tmp_path):
    page = reader.get(f"/calls/{HARBOUR_OFFICE}/record?for={audience}").text
    answer = reader.get(f"/calls/{HARBOUR_OFFICE}/record.pdf?for={audience}")
    assert answer.headers["content-type"] == "application/pdf"
    (tmp_path / "x.pdf").write_bytes(answer.content)
    text = subprocess.run(
        ["pdftotext", "-layout", tmp_path / "x.pdf", "-"], capture_output=True, check=True, text=True
    ).stdout
    found = "The bearings have seized" if audience == "shop" else "so it could not turn"
    for words in ("Harbour office", found, "motor TM-4027", "1 of ", "Harbour office, call 6"):
        assert words in text
    assert ("Readings as found" in text) == ("Readings as found" in page) == (audience == "shop")
    fonts = subprocess.run(["pdffonts", tmp_path / "x.pdf"], capture_output=True, check=True, text=True).stdout
    assert "Overpass" in fonts


def test_an_open_call_is_marked_on_page_and_pdf(reader, tmp_path):
    assert "Not finished" in reader.get(f"/calls/{FERRY_ROOM}/record").text
    (tmp_path / "x.pdf").write_bytes(reader.get(f"/calls/{FERRY_ROOM}/record.pdf").content)
    text = subprocess.run(["pdftotext", tmp_path / "x.pdf", "-"], capture_output=True, check=True, text=True).stdout
    assert "Not finished" in text


def test_the_same_file_three_times_in_a_second_is_three_units(db):
    ids = [call_files.import_call(db, stamp(0), make_call(), "x.call.json") for _ in range(3)]
    names = {open_call_view(db, each).row.motor.unit.name for each in ids}
    assert len(names) == 3
