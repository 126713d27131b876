"""Winding pairs can be finished: every pair of the motor's leads stays open until it is read, named before or not."""

from itertools import combinations
from random import Random

import pytest

from keen_coil.core.errors import InvalidField
from keen_coil.services.calls import calls, readings
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.stations import make_safe, plates
from keen_coil.services.stations.pad import pad_for, unread_pair
from tests.fixtures import stamp

SITE = {"site": "Rope works", "unit": "loft", "unit_kind": "air_handler", "role": "indoor_blower"}


def offered(db, call):
    view = open_call_view(db, call)
    return {
        frozenset(one.value.split("|")): one.shows
        for one in pad_for(view, "windings", "winding_ohm").qualifiers["pair"]
    }


def read(db, call, **form):
    version = open_call_view(db, call).row.version
    return readings.take_reading(db, call, stamp(version), {"kind": "winding_ohm", "isolated": "", **form})


@pytest.fixture
def dead_call(db):
    """A blower's call, locked out."""
    call = calls.open_call(db, stamp(0), SITE)
    make_safe.set_power(db, call, stamp(1), "dead")
    return call


@pytest.mark.parametrize("seed", range(6))
@pytest.mark.parametrize("leads", [2, 3, 4])
@pytest.mark.parametrize("names", ["", "named"])
def test_whatever_pair_is_read_first_the_others_are_still_there(db, dead_call, leads, names, seed):
    colors = ["black", "white", "brown", "brown/white"][:leads]
    typed = {"motor.leads": str(leads), "motor.kind": "psc"} | ({"leads": ", ".join(colors)} if names else {})
    plates.save_plates(db, dead_call, stamp(2), typed)
    expected = {frozenset(pair) for pair in combinations(colors if names else "ABCD"[:leads], 2)}
    order = list(offered(db, dead_call))
    Random(seed).shuffle(order)
    for count, pair in enumerate(order, 1):
        read(db, dead_call, pair="|".join(pair), value="12.5")
        now = offered(db, dead_call)
        assert set(now) == expected
        assert sum(bool(shows) for shows in now.values()) == count
        assert unread_pair(open_call_view(db, dead_call)) == (count < len(expected))


@pytest.mark.parametrize("order", ["forward", "backward"])
def test_leads_named_on_the_pad_take_the_place_of_letters(db, dead_call, order):
    plates.save_plates(db, dead_call, stamp(2), {"motor.leads": "3"})
    pairs = [("blue", "red"), ("red", "gray"), ("gray", "blue")]
    for one, other in pairs if order == "forward" else reversed(pairs):
        read(db, dead_call, pair="A|B", lead_a=one, lead_b=other, value="7.1")
    assert set(offered(db, dead_call)) == {frozenset(pair) for pair in pairs}
    assert not unread_pair(open_call_view(db, dead_call))


def test_three_values_in_one_go_are_three_readings_of_one_act(db, dead_call):
    before = open_call_view(db, dead_call).row.version
    read(db, dead_call, **{"all.A|B": "62.5", "all.A|C": "OL", "all.B|C": ""}, value="")
    view = open_call_view(db, dead_call)
    assert [(r.pair, r.value) for r in view.call.readings] == [(["A", "B"], 62.5), (["A", "C"], "OL")]
    assert view.row.version == before + 1
    with pytest.raises(InvalidField, match=r"all\.B"):
        read(db, dead_call, **{"all.A|B": "61", "all.B|C": "sixty"}, value="")
    assert len(open_call_view(db, dead_call).call.readings) == 2, "all or none"


@pytest.mark.parametrize(
    ("one", "other", "field"), [("blue", "", "lead_b"), ("", "red", "lead_a"), ("red", "red", "lead_b")]
)
def test_a_pair_named_by_half_is_asked_about(db, dead_call, one, other, field):
    with pytest.raises(InvalidField, match=field):
        read(db, dead_call, pair="A|B", lead_a=one, lead_b=other, value="7.1")
