"""The van planner at the desk, on the page and from the command line: stock falls, levels are kept, the board says so."""

import csv
import io
import json
import threading
import time
from datetime import UTC, date, datetime, timedelta

import pytest
from typer.testing import CliRunner

from keen_coil.cli.commands import app
from keen_coil.core.errors import InvalidField
from keen_coil.services.catalog import van_plan
from keen_coil.services.demo.demo import DATA
from keen_coil.services.people import settings
from keen_coil.store import tables
from keen_coil.store.database import Database
from keen_coil.web.routes.van import KeptPlans
from tests.fixtures import stamp
from tests.web.test_pages import post

AREA = """units,role,kind,volts,rpm,hp,amps_a,mount,unit_kind,supply_v,mounted,capacitor_uf,capacitor_v,herm_uf,can_v
40,condenser_fan,psc,208-230,1090,1/4,1.4,stud,split_condenser,230,shaft_down,5,370,40,440
15,condenser_fan,psc,208-230,1090,1/3,1.9,stud,heat_pump_outdoor,230,shaft_up,7.5,370,,
20,inducer,shaded_pole,115,3000,1/30,1.3,lug,furnace,115,horizontal,,,,
"""


@pytest.fixture
def demo(demo_path):
    db = Database(demo_path)
    yield db
    db.close()


def planned(db, **wish):
    return van_plan.plan_from_log(db, "Van 1", van_plan.Wish(**wish), datetime.now(UTC))


@pytest.fixture(scope="module")
def plan(demo_master):
    """What the demo's van should carry."""
    return planned(Database.opened(demo_master))


def test_the_log_says_what_the_van_should_carry(demo, plan):
    found = plan
    assert 90 < found.covered_pct <= found.possible_pct <= 100
    assert [point.covered_pct for point in found.curve] == sorted(point.covered_pct for point in found.curve)
    served = {need.need for need in found.needs if need.served_by}
    assert {need for line in found.parts for need in line.serves} == served
    with demo.reading() as session:
        there = {row.part_no: row.quantity for row in session.query(tables.VanPart)}
    assert all(
        line.stock == there.get(line.part_no, 0) and line.buy == max(0, line.carry - line.stock) for line in found.parts
    )
    assert all(there[part] for part in found.never_moves)


def test_fewer_kinds_cover_less_and_only_what_may_stay_covers_less(demo, plan):
    whole, few, firm = plan, planned(demo, most=3), planned(demo, temporary=False)
    assert len(few.parts) <= 3
    assert few.covered_pct < whole.covered_pct
    assert firm.covered_pct <= whole.covered_pct
    assert len(firm.parts) >= len(whole.parts)


def test_what_a_call_takes_falls_below_the_level_and_is_said(demo, plan):
    van_plan.keep_levels(demo, stamp(0), "Van 1", plan)
    before = {one.part_no for one in van_plan.below_level(demo)}
    assert "TM-4027" not in before
    with demo.writing() as session:
        session.get(tables.VanPart, ("Van 1", "TM-4027")).quantity = 0
    (gone,) = [one for one in van_plan.below_level(demo) if one.part_no == "TM-4027"]
    assert (gone.van, gone.there, gone.level) == ("Van 1", 0, 1)


def test_what_the_log_has_seen_moves_the_rates(demo, plan):
    rates = {need.need: need.per_year for need in plan.needs}
    with demo.writing() as session:
        for row in session.query(tables.Call).filter(tables.Call.closed_at.is_not(None)):
            row.outcome = row.outcome.changed(verdict="no_fault_found")
    quiet = {need.need: need.per_year for need in planned(demo).needs}
    assert all(quiet[need] <= rates[need] + 1e-12 for need in rates)
    assert sum(quiet.values()) < 0.8 * sum(rates.values())


@pytest.mark.parametrize(
    ("fields", "field"),
    [
        ({"days": "0"}, "days"),
        ({"days": "soon"}, "days"),
        ({"level": "100"}, "level"),
        ({"level": "10"}, "level"),
        ({"parts": "2.5"}, "parts"),
        ({"parts": "-1"}, "parts"),
    ],
)
def test_a_wish_that_cannot_be_is_told(fields, field):
    with pytest.raises(InvalidField) as error:
        van_plan.wish_of(fields)
    assert error.value.errors[0].path == field


def test_on_the_page_and_the_board(client):
    page = client.get("/shelf/plan?days=30&level=99").text
    assert "parts cover" in page
    page = post(client, "/shelf/plan", "/shelf/plan/levels", days="30", level="99", parts="", van="Van 1").text
    assert "Stock levels saved" in page
    assert "below level" in client.get("/").text
    rows = list(csv.DictReader(io.StringIO(client.get("/shelf/orders.csv?days=30&level=99").text)))
    assert rows
    assert all(int(row["quantity"]) == int(row["carry"]) - int(row["there"]) for row in rows)
    answer = client.get("/shelf/plan?level=100")
    assert answer.status_code == 422
    assert "50 to under 100" in answer.text


@pytest.fixture
def files(tmp_path):
    (tmp_path / "area.csv").write_text(AREA)
    return [
        "--area",
        str(tmp_path / "area.csv"),
        "--catalogue",
        str(DATA / "motors.csv"),
        "--van",
        str(DATA / "van.csv"),
    ]


def test_from_files_on_the_command_line(files, tmp_path):
    orders = tmp_path / "orders.csv"
    answer = CliRunner().invoke(
        app, ["van", "plan", *files, "--days", "14", "--level", "99", "--orders", str(orders), "--json"]
    )
    assert answer.exit_code == 0, answer.output
    found = json.loads(answer.stdout)
    needs = {need["need"]: need for need in found["needs"]}
    assert needs["capacitor 40+5 µF, 440 V"]["per_year"] == pytest.approx(40 * 0.08)
    assert needs["capacitor 40+5 µF, 440 V"]["units"] == 40
    assert found["parts"][0]["level"] >= 1
    assert orders.read_text().startswith("part_no,quantity")
    text = CliRunner().invoke(app, ["van", "plan", *files])
    assert "parts cover" in text.output


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("3,condenser_fan,psc,208-230,fast,,,,,,,,,,\n", "rpm"),
        ("-1,condenser_fan,psc,208-230,1090,,,,,,,,,,\n", "units"),
        ("3,lift,psc,208-230,1090,,,,,,,,,,\n", "role"),
    ],
)
def test_an_area_that_is_none_is_told_by_row(files, line, says):
    path = files[1]
    with open(path, "a") as file:
        file.write(line)
    answer = CliRunner().invoke(app, ["van", "plan", *files])
    assert answer.exit_code == 2
    assert f"row 5.{says}" in answer.output


def test_from_the_log_on_the_command_line(demo_path):
    answer = CliRunner().invoke(app, ["van", "plan", "--db", str(demo_path), "--parts", "4"])
    assert answer.exit_code == 0
    assert "4 parts cover" in answer.output
    assert CliRunner().invoke(app, ["van", "plan", "--db", str(demo_path), "--name", "Van 9"]).exit_code == 2


def test_a_kept_plan_is_of_the_shop_as_it_is_today(demo):
    plans, day = KeptPlans(), date(2026, 11, 30)

    def shown(today=day):
        return plans.at_once(("Van 1", van_plan.Wish()), van_plan.plan_state(demo, today)[1], object).plan

    first = shown()
    assert shown() is first
    settings.save_schools(demo, stamp(0), {"sizing": "ten_percent", "renewal": "outside_label"})
    second = shown()
    assert second is not first
    assert shown(day + timedelta(days=1)) is not second


def test_the_plan_of_a_long_log_is_kept_and_the_old_one_shown_while_a_newer_is_made():
    plans, gate, made = KeptPlans(), threading.Event(), []

    def work():
        gate.wait(10)
        made.append(len(made))
        return f"plan {made[-1]}"

    key = ("Van 1", van_plan.Wish())
    assert plans.shown(key, "monday", work) is None
    assert plans.shown(key, "monday", work) is None
    gate.set()
    first = wait_for(lambda: plans.shown(key, "monday", work))
    assert (first.plan, first.older) == ("plan 0", False)
    gate.clear()
    old = plans.shown(key, "tuesday", work)
    assert (old.plan, old.older) == ("plan 0", True)
    gate.set()
    newer = wait_for(lambda: next(iter(p for p in [plans.shown(key, "tuesday", work)] if p and not p.older), None))
    assert (newer.plan, made) == ("plan 1", [0, 1])


def test_a_page_that_waits_for_the_plan_of_a_long_log_comes_to_it(client, monkeypatch):
    monkeypatch.setattr("keen_coil.web.routes.van.AT_ONCE", 0)
    monkeypatch.setattr("keen_coil.web.routes.van.PATIENCE_S", 0.0)
    assert "Working the plan out" in client.get("/shelf/plan?days=21").text
    page = wait_for(lambda: next((t for t in [client.get("/shelf/plan?days=21").text] if "parts cover" in t), None))
    assert "in 21 days" in page


def wait_for(found, seconds=30.0):
    """What comes of something that is being worked out."""
    ends = time.monotonic() + seconds
    while time.monotonic() < ends:
        got = found()
        if got is not None:
            return got
        time.sleep(0.02)
    raise AssertionError("nothing came")
