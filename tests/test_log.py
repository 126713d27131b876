"""The log: found by any word, figures with their calls, a unit over its visits."""

from datetime import timedelta

import pytest

from keen_coil.core.errors import InvalidField
from keen_coil.services.calls.calls import open_call
from keen_coil.services.log import log
from keen_coil.services.log.unit_history import unit_history
from keen_coil.store import tables
from keen_coil.store.database import Database
from tests.fixtures import NOW, stamp


@pytest.fixture(scope="module")
def demo(demo_master):
    db = Database(demo_master)
    yield db
    db.close()


@pytest.mark.parametrize(
    "words",
    [
        "creamery",
        "CREAMERY yard",
        "tm-4027",
        "hask seized",
        "hums and stands",
        "run winding is open",
        "100%",
        "' or 1=1 --",
        "",
    ],
)
def test_every_call_that_is_found_holds_every_word(demo, words):
    found = log.search(demo, words)
    with demo.reading() as session:
        held = [
            row.id
            for row in session.query(tables.Call)
            if all(word in row.search_text for word in words.lower().split())
        ]
    assert found.found == len(held)
    assert {line.id for line in found.lines} <= set(held)
    dates = [line.opened_at for line in found.lines]
    assert dates == sorted(dates, reverse=True)


def test_a_unit_is_found_by_its_place_or_by_a_motor_that_is_or_was_in_it(demo):
    assert [(unit.site, unit.name) for unit in log.search(demo, "creamery yard").units] == [
        ("Creamery", "yard condenser")
    ]
    assert log.search(demo, "tm-5043").units
    assert log.search(demo, "no such place").units == []


def test_pages_do_not_overlap_and_hold_everything(demo):
    first, second = log.search(demo), log.search(demo, page=2)
    ids = [line.id for page in (first, second) for line in page.lines]
    assert len(ids) == len(set(ids)) == first.total == first.found
    assert log.search(demo, page=9).lines == []


def test_what_is_written_now_is_found_at_once(db):
    call_id = open_call(
        db,
        stamp(0),
        {"site": "Lighthouse", "unit": "oil store", "role": "condenser_fan", "says": "Squeals like a gull"},
    )
    assert [line.id for line in log.search(db, "gull lighthouse").lines] == [call_id]


@pytest.mark.parametrize("name", ["failures", "came_back", "condemned", "found_good", "unfinished", "open"])
def test_each_figure_is_the_number_of_its_calls(demo, name):
    figures = log.figures(demo)
    shown = {
        "failures": figures.failures,
        "came_back": figures.came_back,
        "condemned": figures.condemned,
        "found_good": figures.found_good,
        "unfinished": figures.unfinished,
        "open": figures.closed,
    }
    found = log.search(demo, "", name).found
    assert found == (log.search(demo).total - figures.closed if name == "open" else shown[name])


def test_causes_add_up_to_the_failures_with_a_cause(demo):
    figures = log.figures(demo)
    for cause in figures.causes:
        assert log.search(demo, "", f"fault:{cause.fault}").found == cause.calls
    assert [cause.calls for cause in figures.causes] == sorted((cause.calls for cause in figures.causes), reverse=True)


@pytest.mark.parametrize("name", ["fault:gremlins", "everything", "fault:"])
def test_a_figure_that_is_none_is_told(demo, name):
    with pytest.raises(InvalidField) as error:
        log.search(demo, "", name)
    assert error.value.errors[0].path == "of"


def closed(session, unit, days_ago, verdict, role="condenser_fan", fault=None):
    motor = tables.Motor(unit=unit, plate={"role": role}, installation={})
    opened = NOW - timedelta(days=days_ago)
    row = tables.Call(
        motor=motor,
        opened_at=opened,
        closed_at=opened + timedelta(hours=1),
        complaint={},
        meters={},
        power="dead",
        outcome={"verdict": verdict, "fault": fault, "passed": True},
    )
    session.add(row)
    session.flush()
    return row.id


@pytest.mark.parametrize(
    ("first", "second", "came_back"),
    [
        ((200, "replace_capacitor", "condenser_fan"), (10, "condemn_motor", "condenser_fan"), True),
        ((380, "replace_capacitor", "condenser_fan"), (10, "condemn_motor", "condenser_fan"), False),
        ((200, "replace_capacitor", "indoor_blower"), (10, "condemn_motor", "condenser_fan"), False),
        ((200, "no_fault_found", "condenser_fan"), (10, "condemn_motor", "condenser_fan"), False),
        ((200, "condemn_motor", "condenser_fan"), (10, "no_fault_found", "condenser_fan"), False),
    ],
)
def test_what_counts_as_having_come_back(db, first, second, came_back):
    with db.writing() as session:
        unit = tables.Unit(name="yard", plate={}, site=tables.Site(name="Creamery"))
        closed(session, unit, *first)
        later = closed(session, unit, *second)
    assert [line.id for line in log.search(db, "", "came_back").lines] == ([later] if came_back else [])


def test_a_unit_over_its_visits_with_the_limits_of_what_is_in_now(demo):
    (unit,) = log.search(demo, "creamery yard").units
    found = unit_history(demo, unit.id)
    assert len(found.lines) == unit.calls
    trends = {trend.quantity: trend for trend in found.trends["condenser_fan"]}
    assert set(trends) == {"run_amps_a", "capacitance_uf", "insulation_mohm"}
    assert trends["run_amps_a"].limits[0] == (1.48, "plate")
    assert [round(value, 2) for value, _ in trends["capacitance_uf"].limits] == [4.7, 5.3]
    times = [point.at for point in trends["insulation_mohm"].points]
    assert times == sorted(times)
    assert [motor.removed_at is None for motor in found.motors] == [False, True]


def test_pages_of_the_log(reader):
    page = reader.get("/log?find=creamery")
    assert "Creamery" in page.text
    assert reader.get("/log?of=came_back&time=all").status_code == 200
    assert reader.get("/log?of=gremlins").status_code == 422
    unit = log.search(reader.app.state.db, "creamery yard").units[0].id
    assert "Unit history" in reader.get(f"/log/units/{unit}").text
    assert reader.get("/log/units/99999").status_code == 404
    assert reader.get("/log/follow-ups.ics").headers["content-type"].startswith("text/calendar")
