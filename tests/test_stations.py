"""One registry of stations: the way into a call, the way on, rail, keys and addresses are made of it."""

import pytest

from keen_coil.core.vocabulary import Verdict, words_of
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.rail import STATION, STATIONS, entry, is_left, next_after
from keen_coil.store.database import Database
from tests import demo_calls

CALLS = sorted(value for name, value in vars(demo_calls).items() if name.isupper())


@pytest.fixture(scope="module")
def demo(demo_master):
    db = Database(demo_master)
    yield db
    db.close()


@pytest.mark.parametrize("call", CALLS)
def test_a_call_is_entered_at_its_first_station_that_is_not_done(demo, call):
    view = open_call_view(demo, call)
    states = [station.state(view) for station in STATIONS]
    at = [station.key for station in STATIONS].index(entry(view))
    assert states[at] in ("todo", "part") or (at == len(STATIONS) - 1 and not view.is_open)
    assert not any(state in ("todo", "part") for state in states[:at])
    for place, station in enumerate(STATIONS[:-1]):
        on = next_after(view, station.key)
        if station.key != "finding":  # its verdict says where to
            left = [later.key for later in STATIONS[place + 1 :] if is_left(view, later)]
            assert on == (left[0] if left else STATIONS[-1].key), station.key


def test_what_is_left_is_entered_even_between_match_and_swap(demo, reader):
    """The capacitor of this call is still to choose, though its motor is there."""
    call = demo_calls.ROPE_WORKS
    view = open_call_view(demo, call)
    assert STATION["capacitor"].state(view) == "todo"
    page = reader.get(f"/calls/{call}")
    assert page.url.path == f"/calls/{call}/{entry(view)}" == f"/calls/{call}/capacitor"


def test_every_station_has_its_page_letter_and_place_in_the_rail(reader):
    assert len({station.letter for station in STATIONS}) == len(STATIONS)
    page = reader.get(f"/calls/{demo_calls.ROPE_WORKS}/path").text
    places = [page.index(f'href="/calls/{demo_calls.ROPE_WORKS}/{station.key}"') for station in STATIONS]
    assert places == sorted(places)
    assert all(reader.get(f"/calls/{demo_calls.ROPE_WORKS}/{station.key}").status_code == 200 for station in STATIONS)


@pytest.mark.parametrize("verdict", words_of(Verdict))
def test_every_verdict_leads_to_a_station_or_to_the_next_tests(demo, verdict):
    view = open_call_view(demo, demo_calls.GANNET_COTTAGE)
    view.__dict__["assessment"] = view.assessment.model_copy(update={"verdict": verdict})
    action = STATION["finding"].next_action(view)
    waits = verdict in ("not_proved", "cool_and_retest", "dry_and_retest")
    assert (action is None) == waits
    assert action is None or (action.to in STATION and action.says)
