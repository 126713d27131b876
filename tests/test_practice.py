"""Practice on the shop's database: apart from its log, time that passes, slips, case files, the pages without script."""

import json
import re
from datetime import date, timedelta

import pytest

from keen_coil.core.errors import InvalidField
from keen_coil.core.practice.case import write_case
from keen_coil.core.practice.make import case_of
from keen_coil.services.answers.lab import motors_to_choose as units_of_lab
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.calls import board, places
from keen_coil.services.calls.readings import take_reading
from keen_coil.services.catalog.van_plan import Wish, plan_from_log
from keen_coil.services.log.log import figures, search
from keen_coil.services.practice.cases import begin_asked, bring_case, drop_case, practice_state, result
from keen_coil.services.practice.practice import begin, make_test, say, wait
from keen_coil.services.practice.view import frame_of, practice_view, values_taken
from keen_coil.services.stations.follow_ups import open_follow_ups as due
from keen_coil.services.stations.hand_over import add_follow_up, close_call
from keen_coil.services.stations.make_safe import set_power, tick_steps
from keen_coil.services.stations.safe_steps import STEPS
from keen_coil.store.database import Database
from tests.fixtures import NOW, stamp

TODAY = date(2026, 7, 1)
CAP = {"kind": "capacitance_uf", "section": "fan"}


def version(db, call):
    return open_call_view(db, call).row.version


def act(db, call, do, *more, now=NOW):
    return do(db, call, stamp(version(db, call), now), *more)


def locked(db, call, now=NOW):
    act(db, call, tick_steps, [step.key for step in STEPS], now=now)


@pytest.fixture
def hums(db):
    """A call on a condenser whose capacitor is open."""
    return begin(
        db, stamp(), next(c for c in map(lambda s: case_of(s, "hums"), range(50)) if "capacitor_open" in c.truth)
    )


def test_practice_leaves_the_shops_own_log_as_it_was(demo_path):
    db = Database(demo_path)

    def shop():
        lists = (
            search(db, "").total,
            search(db, "condenser").found,
            figures(db),
            len(board(db)[0]),
            places(db),
            len(due(db)),
            units_of_lab(db),
        )
        return (*lists, plan_from_log(db, "Van 1", Wish(), NOW).model_dump())

    before = shop()
    call = begin(db, stamp(), case_of(3, "hums"))
    assert open_call_view(db, call).row.practice
    assert search(db, "Practice bench").found == 0
    act(db, call, add_follow_up, {"kind": "watch", "says": "check again", "due_on": "2026-08-01"})
    assert shop() == before
    act(db, call, say, "replace_capacitor", ["capacitor_weak"])
    assert shop() == before
    db.close()


def test_a_case_played_right_by_the_acts_of_a_call(db, hums):
    locked(db, hums)
    act(db, hums, make_test, CAP)
    made = practice_view(open_call_view(db, hums).row, "capacitance_uf").made
    assert float(made.value) < 0.2
    act(db, hums, take_reading, {**CAP, "value": made.value})
    number = act(db, hums, say, "replace_capacitor", ["capacitor_open"])
    found = result(db, number)
    assert (found.score.is_right, found.score.tests, found.score.slips, found.score.unmeasured) == (True, 1, {}, 0)
    page = practice_state(db, TODAY)
    assert next(row.right for row in page.progress if row.family.key == "capacitor") == 1
    assert next(state.solved for _, rungs in page.ladder for state in rungs if state.rung.key == "hums") == 1
    assert page.weakest.family.key != "capacitor"


def test_live_parts_a_charged_capacitor_and_a_lock_out_nobody_proved_are_slips(db, hums):
    act(db, hums, make_test, CAP)
    assert practice_view(open_call_view(db, hums).row, "capacitance_uf").made.slip == "live_ohms"
    act(db, hums, set_power, "dead")
    act(db, hums, make_test, CAP)
    assert practice_view(open_call_view(db, hums).row, "capacitance_uf").made.slip == "not_bled"
    for _ in range(3):
        act(db, hums, make_test, {"kind": "spin"})
    number = act(db, hums, say, "no_fault_found", [])
    assert result(db, number).score.slips == {"live_ohms": 1, "not_bled": 1, "not_proved": 1}


def test_energising_onto_a_trip_that_nobody_cleared_is_a_slip(db):
    call = begin(db, stamp(), case_of(2, "trip"))
    locked(db, call)
    act(db, call, make_test, {"kind": "breaker"})
    act(
        db,
        call,
        take_reading,
        {"kind": "breaker", "value": practice_view(open_call_view(db, call).row, "breaker").made.value},
    )
    act(db, call, set_power, "energised")
    assert "onto_fault" in practice_view(open_call_view(db, call).row).slips


def test_waiting_lets_a_hot_motor_cool_and_its_readings_grow_old(db):
    hot = begin(
        db, stamp(), next(c for c in (case_of(s, "hot") for s in range(30)) if c.call.unit.kind == "split_condenser")
    )
    locked(db, hot)
    act(db, hot, make_test, {"kind": "shell_c"})
    warm = float(practice_view(open_call_view(db, hot).row, "shell_c").made.value)
    act(db, hot, take_reading, {"kind": "shell_c", "value": str(warm)})
    act(db, hot, wait, "90")
    sheet = open_call_view(db, hot)
    assert NOW - sheet.call.readings[0].taken_at > timedelta(minutes=80)
    assert NOW - sheet.row.power_at > timedelta(minutes=90)
    act(db, hot, make_test, {"kind": "shell_c"})
    assert float(practice_view(open_call_view(db, hot).row, "shell_c").made.value) < warm - 20
    with pytest.raises(InvalidField, match="minutes: got 900"):
        act(db, hot, wait, "900")


def test_the_meter_on_the_bench_settles_looks_for_its_range_and_is_told_when_it_is_set_wrong(db, hums):
    locked(db, hums)
    pair = {"kind": "winding_ohm", "pair": "black|white", "function": "ohms"}
    act(db, hums, make_test, pair)
    row = open_call_view(db, hums).row
    value = float(row.practice_case.leads["value"])
    frames = [frame_of(row, NOW + timedelta(seconds=after)).frame for after in (0, 0.5, 1, 5)]
    assert frames[-1].number == pytest.approx(value, rel=0.02)
    assert frames[0].number is None or abs(frames[0].number - value) > 0.2 * value
    act(db, hums, make_test, {**pair, "function": "volts_ac"})
    assert "asks for ohms" in practice_view(open_call_view(db, hums).row, "winding_ohm").made.warns
    assert frame_of(open_call_view(db, hums).row, NOW) is None


def test_three_values_and_a_traverse_are_taken_at_once(db):
    call = begin(
        db, stamp(), next(c for c in (case_of(s, "phases") for s in range(30)) if c.call.motor.kind == "three_phase")
    )
    act(db, call, make_test, {"kind": "supply_v", "at": "unit"})
    taken = values_taken(open_call_view(db, call).row, {"kind": "supply_v", "at": "unit"})
    assert {"value", "value_2", "value_3"} <= set(taken)
    act(db, call, take_reading, taken)
    assert len(open_call_view(db, call).call.readings[0].value) == 3
    other = values_taken(open_call_view(db, call).row, {"kind": "run_amps_a", "value": "1"})
    assert other == {"kind": "run_amps_a", "value": "1"}


def test_hostile_fields_of_a_test_are_told_or_harmless(db, hums):
    locked(db, hums)
    for fields in (
        {"kind": "x" * 9999},
        {"kind": "spin", "with": "y" * 99999},
        {"kind": "supply_v", "at": "moon"},
        {"kind": "winding_ohm", "pair": "|".join("abc") * 50},
        {"kind": "run_amps_a", "turns": "9" * 400, "speed": "-1"},
        {"kind": "hold", "at": "\x00"},
        {"kind": "winding_ohm", "pair": "a|" + "b" * 50_000},
    ):
        try:
            act(db, hums, make_test, fields)
        except InvalidField as error:
            assert error.errors[0].path == (
                "kind" if "at" not in fields or fields["at"] == "moon" else "done.rows.5.name"
            )
        practice_view(open_call_view(db, hums).row, fields["kind"][:40])


def test_practice_is_never_handed_over_and_books_nothing(db, hums):
    with pytest.raises(InvalidField, match="finish: got practice"):
        act(db, hums, close_call, {"finish": "finished", "exception": "x"})


@pytest.mark.parametrize(
    ("verdict", "faults", "field"),
    [("", ["capacitor_open"], "verdict"), ("condemn_motor", [], "faults"), ("condemn_motor", ["gremlins"], "faults")],
)
def test_what_is_said_must_be_whole(db, hums, verdict, faults, field):
    with pytest.raises(InvalidField, match=field):
        act(db, hums, say, verdict, faults)
    assert open_call_view(db, hums).is_open


def test_case_files_come_in_are_played_replaced_and_dropped(db):
    data = {**write_case(case_of(5, "stuck")), "title": "The foreman's own"}
    assert bring_case(db, stamp(), json.dumps(data).encode()) == "The foreman's own"
    bring_case(db, stamp(), json.dumps({**data, "seed": 77}).encode())
    (number, title), *rest = practice_state(db, TODAY).files
    assert (title, rest) == ("The foreman's own", [])
    call = begin_asked(db, stamp(), {"file": str(number)}, TODAY)
    assert open_call_view(db, call).row.practice_case.case["seed"] == 77
    drop_case(db, stamp(), str(number))
    assert practice_state(db, TODAY).files == []
    for content in (b"[]", b"no json", b'{"format": "keen-coil/case", "version": 1}', b"[" * 100_000):
        with pytest.raises(InvalidField):
            bring_case(db, stamp(), content)


def test_todays_case_and_a_seed_of_ones_own(db):
    today = begin_asked(db, stamp(), {"day": "today"}, TODAY)
    number = act(db, today, say, "no_fault_found", [])
    assert practice_state(db, TODAY).today
    assert not practice_state(db, TODAY + timedelta(1)).today
    assert result(db, number).case.seed == 20260701
    with pytest.raises(InvalidField, match="seed: got minus one"):
        begin_asked(db, stamp(), {"seed": "minus one"}, TODAY)


def hidden_fields(text):
    form = text.split('id="pad-form"')[1]
    return dict(re.findall(r'name="(csrf|act_id|version|kind|link|at|section)" value="([^"]*)"', form))


def test_the_bench_works_without_script_and_gives_nothing_away(client):
    page = client.get("/practice")
    begun = client.post(
        "/practice",
        data={
            **dict(re.findall(r'name="(csrf|act_id|version)" value="([^"]*)"', page.text)),
            "rung": "hums",
            "seed": "3",
            "advice": "no",
        },
    )
    assert begun.url.path.endswith("/path")
    call = begun.url.path.rsplit("/", 1)[0]
    assert "Next:" not in begun.text
    for station in (
        "arrive",
        "make-safe",
        "plates",
        "path",
        "finding",
        "match",
        "capacitor",
        "hook-up",
        "swap",
        "run-proof",
        "hand-over",
    ):
        text = client.get(f"{call}/{station}").text
        assert "Fine until somebody worked on it" not in text
        assert "teaches" not in text
    pad = client.get(f"{call}/path?link=air&kind=air_path")
    looked = client.post(f"{call}/practice/test", data=hidden_fields(pad.text))
    assert "Light comes through everywhere" in looked.text
    found = client.get(f"{call}/finding")
    assert "probability" not in found.text
    said = client.post(
        f"{call}/practice/say",
        data={
            **dict(re.findall(r'name="(csrf|act_id|version)" value="([^"]*)"', found.text.split('id="say"')[1])),
            "verdict": "replace_capacitor",
            "items": "capacitor_weak",
        },
    )
    assert "Result" in said.text
    case = client.get(re.search(r'href="(/practice/\d+/case.json)"', said.text)[1])
    assert case.json()["faults"][0]["fault"] == "capacitor_weak"
    assert client.get("/practice/99").status_code == 404
    assert client.get(f"{call}/finding").status_code == 200
