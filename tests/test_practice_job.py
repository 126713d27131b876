"""Whole jobs of practice on the shop's database: from any station to any, what is done changes what is measured."""

import re
from datetime import timedelta

import pytest

from keen_coil.core.errors import InvalidField
from keen_coil.core.practice.make import between, case_of
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.calls import board
from keen_coil.services.calls.changes import note_change
from keen_coil.services.calls.rail import entry
from keen_coil.services.practice.cases import begin_asked, result
from keen_coil.services.practice.job import look_at_wires
from keen_coil.services.practice.practice import begin, hand_on, make_test, say, unit_now
from keen_coil.services.practice.view import practice_view
from keen_coil.services.stations.capacitor import choose_capacitor
from keen_coil.services.stations.hand_over import close_call
from keen_coil.services.stations.hook_up import hookup_view, keep_plan, lay_wires
from keen_coil.services.stations.make_safe import set_power
from keen_coil.services.stations.match import match_call, pick_motor
from keen_coil.services.stations.swap import do_step, skip_step, swap_view
from keen_coil.store.database import Database
from tests.fixtures import NOW, stamp
from tests.test_practice import TODAY, act, version

AMPS = {"kind": "run_amps_a", "check": "run_amps_a"}


def job(db, rung, seed=2, **span):
    """A call on a whole job."""
    return begin(db, stamp(), between(case_of(seed, rung), **span))


def can_of(uf):
    """The round can of the practice van that has these microfarads."""
    return f"can:FC-{uf:g}-RD".replace(".", "P")


def chosen(db, call, part_no):
    """A motor chosen with its capacitor and the plan of its wiring."""
    act(db, call, pick_motor, part_no)
    view = open_call_view(db, call)
    act(db, call, choose_capacitor, can_of(view.call.chosen_motor.capacitor_uf))
    act(db, call, keep_plan, "")


def swapped(db, call, *skips, now=NOW):
    """Every step of the swap ticked but those left out."""
    while True:
        shown = swap_view(open_call_view(db, call), now)
        if shown.looked_at is None or not shown.left:
            return
        key = shown.looked_at.step.key
        marks = {view.mark.name: (view.mark.choices or ("1",))[0] for view in shown.looked_at.marks}
        if key in skips:
            act(db, call, skip_step, key, "no time for it", now=now)
        else:
            act(db, call, do_step, key, marks, now=now)


def read(db, call, kind, now, **fields):
    """What the bench gives for a test of the run."""
    act(db, call, make_test, {"kind": kind, **fields}, now=now)
    with_call = open_call_view(db, call).row
    return with_call.practice_case.leads["value"]


def ended(db, call, **fields):
    """The result of a job that is handed over."""
    act(db, call, close_call, {"finish": "finished", "exception": "practice", **fields})
    return result(db, open_call_view(db, call).row.practice_case.id)


def test_a_job_from_the_finding_to_a_good_end_books_nothing_off_the_shops_van(db):
    call = job(db, "from the finding")
    view = open_call_view(db, call)
    assert entry(view) == "match"
    assert view.call.readings
    assert view.verdict == "condemn_motor"
    best = match_call(db, view, view.row.school).serving[0].motor.part_no
    chosen(db, call, best)
    act(db, call, note_change, {"what": "protection_reset"})
    swapped(db, call)
    found = ended(db, call)
    assert found.score.is_right
    assert found.score.job.is_good
    assert found.score.job.mine.parts[0].name == f"motor {best}"
    assert not open_call_view(db, call).row.parts
    assert found.score.unmeasured == 0


def test_a_motor_a_class_up_stops_on_the_bench_and_the_drains_bring_it_back(db):
    call = job(db, "slow fan", starts="match")
    chosen(db, call, "SE-4240")
    swapped(db, call, "drains")
    act(db, call, set_power, "energised")
    assert float(read(db, call, "run_amps_a", NOW)) > 2.5
    assert read(db, call, "noise", NOW + timedelta(minutes=14)) == "quiet"
    assert float(read(db, call, "run_amps_a", NOW + timedelta(minutes=14))) < 0.1
    with pytest.raises(InvalidField, match="exception"):
        act(db, call, close_call, {"finish": "finished"})
    found = ended(db, call).score
    assert not found.is_right
    causes = {back.cause for back in found.job.mine.outcome.callbacks}
    assert any("drain plugs" in cause for cause in causes)
    assert found.job.mine.outcome.trips_after_min < 30
    assert found.job.mine.trips == 3


def test_a_motor_that_cannot_go_in_is_refused_in_practice_as_well(db):
    call = job(db, "slow fan", starts="match")
    for part_no in ("SE-4475", "BW-7001"):
        with pytest.raises(InvalidField, match="a motor that fits"):
            act(db, call, pick_motor, part_no)


def test_wires_are_looked_at_before_they_are_known_and_may_be_laid_wrong(db):
    call = job(db, "last man")
    assert open_call_view(db, call).call.hookup.found == []
    assert practice_view(open_call_view(db, call).row).wires is None
    act(db, call, look_at_wires)
    assert practice_view(open_call_view(db, call).row).wires is None
    assert practice_view(open_call_view(db, call).row).slips == ["live_hands"]
    act(db, call, set_power, "dead")
    act(db, call, look_at_wires)
    seen = dict(practice_view(open_call_view(db, call).row).wires)
    assert "capacitor.common" in seen.values()
    other = job(db, "from the finding")
    chosen(db, other, "TM-4031")
    shown = hookup_view(open_call_view(db, other), "try")
    names = list(shown.leads.names)
    start = next(name for name, terminal in shown.goes.items() if terminal.startswith("capacitor"))
    act(
        db,
        other,
        lay_wires,
        {"wire." + start: "hangs"} | {f"wire.{n}": shown.goes[n] for n in names if n != start and n in shown.goes},
    )
    swapped(db, other)
    assert unit_now(open_call_view(db, other).row, NOW)[0].fed_uf == 0.0


def test_on_a_real_call_wires_are_not_laid_against_the_plan(demo_path):
    db = Database(demo_path)
    call = board(db)[0][0].view.row.id
    with pytest.raises(InvalidField, match="the plan, which is checked"):
        act(db, call, lay_wires, {})


def test_a_case_that_ends_at_match_is_done_right_from_there(db):
    call = job(db, "only the choice", 3)
    with pytest.raises(InvalidField, match="chosen at Match"):
        act(db, call, hand_on)
    view = open_call_view(db, call)
    act(db, call, pick_motor, match_call(db, view, view.row.school).serving[0].motor.part_no)
    number = act(db, call, hand_on)
    found = result(db, number).score
    assert found.job.mine.outcome.runs
    assert found.job.is_good
    tripped = job(db, "from the finding", ends="match")
    act(db, tripped, pick_motor, "TM-4031")
    assert result(db, act(db, tripped, hand_on)).score.job.is_good
    wrong = job(db, "only the choice", 3)
    act(db, wrong, pick_motor, "SE-4240")
    assert not result(db, act(db, wrong, hand_on)).score.job.is_good


def test_the_swap_that_others_made_is_there_to_be_proved(db):
    call = job(db, "run test only", 1)
    view = open_call_view(db, call)
    assert view.call.chosen_motor
    assert view.row.plan.capacitor
    assert swap_view(view, NOW).left <= 4
    act(db, call, set_power, "energised")
    assert read(db, call, "noise", NOW) == "rub"


def test_the_job_goes_on_after_the_fault_is_named_and_ends_with_both_scores(db):
    call = job(db, "plain can")
    number = act(db, call, say, "replace_capacitor", ["capacitor_open"])
    assert number is None
    view = open_call_view(db, call)
    assert view.is_open
    assert view.verdict == "replace_capacitor"
    act(db, call, choose_capacitor, can_of(view.call.motor.capacitor_uf))
    swapped(db, call)
    score = ended(db, call).score
    assert score.is_right
    assert score.tests == 0
    assert score.job.mine.minutes > score.minutes


def test_a_job_is_not_handed_over_before_the_fault_is_named(db):
    call = job(db, "plain can")
    with pytest.raises(InvalidField, match="named at Finding"):
        act(db, call, close_call, {"finish": "finished", "exception": "none"})


def test_without_advice_the_steps_are_in_no_order_and_ticked_one_by_one(db):
    case = between(case_of(2, "from the finding"))
    call = begin(db, stamp(), case, advice=False)
    chosen(db, call, "TM-4031")
    shown = swap_view(open_call_view(db, call), NOW)
    listed = [view.step.key for _, views in shown.phases for view in views]
    told = begin(db, stamp(), case)
    chosen(db, told, "TM-4031")
    by_the_book = [view.step.key for _, views in swap_view(open_call_view(db, told), NOW).phases for view in views]
    assert sorted(listed) == sorted(by_the_book)
    assert listed != by_the_book
    assert not shown.in_order
    act(db, call, do_step, "wires_off", {}, True)
    assert {step.step for step in open_call_view(db, call).row.steps if step.station == "swap"} == {"wires_off"}


def test_a_foreman_sets_where_a_case_begins_and_ends(db):
    fields = {"rung": "hums", "starts": "match", "ends": "hook-up"}
    call = begin_asked(db, stamp(), fields, TODAY)
    row = open_call_view(db, call).row
    assert (row.practice_case.case["starts"], row.practice_case.case["ends"]) == ("match", "hook-up")
    with pytest.raises(InvalidField, match="ends"):
        begin_asked(db, stamp(), fields | {"starts": "run-proof"}, TODAY)
    assert version(db, call) == 1


def test_the_pages_of_a_job_are_there_without_script(client):
    page = client.get("/practice?ladder=jobs").text
    assert "One winding gone" in page
    act_id = re.search(r'name="act_id" value="([^"]+)"', page)[1]
    token = re.search(r'name="csrf" value="([^"]+)"', page)
    data = {"act_id": act_id, "version": "0", "rung": "from the finding"} | ({"csrf": token[1]} if token else {})
    begun = client.post("/practice", data=data, follow_redirects=True)
    number = re.search(r"/calls/(\d+)/", str(begun.url))[1]
    for station in ("finding", "match", "capacitor", "hook-up", "hook-up?view=try", "swap", "run-proof", "hand-over"):
        assert client.get(f"/calls/{number}/{station}").status_code == 200
    assert "The finding you were given" in client.get(f"/calls/{number}/finding").text
