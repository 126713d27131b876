"""The path of a unit is computed from the unit: change one feature and the parts change as the table says."""

import pytest

from keen_coil.core.diagnosis.parts import parts_of
from keen_coil.core.field_tests import TESTS, how_of
from keen_coil.core.readings import KINDS
from tests.calls import make_call
from tests.core.test_faults import BLOWER, ECM, INDUCER, THREE

PLAIN = [
    "supply",
    "breaker",
    "disconnect",
    "switch",
    "wire",
    "joints",
    "capacitor",
    "overload",
    "windings",
    "bearings",
    "load",
    "air",
    "call",
    "safeties",
    "delay",
    "frame",
    "running",
]


def keys(**changes):
    return [part.key for part in parts_of(make_call(**changes))]


def named(key, **changes):
    return next((part for part in parts_of(make_call(**changes)) if part.key == key), None)


def test_a_plain_condenser_fan():
    assert keys() == PLAIN


@pytest.mark.parametrize(
    ("change", "added", "gone"),
    [
        ({"unit__kind": "heat_pump_outdoor"}, {"defrost"}, set()),
        ({"unit__switch": {"kind": "board"}}, {"lockout"}, set()),
        ({"unit__sisters": 1}, {"sister"}, set()),
        ({"unit__refrigerant_mildly_flammable": True}, {"leak"}, set()),
        ({"motor__drive": "belt"}, {"belt"}, set()),
        ({"motor__protection": "none"}, set(), {"overload"}),
        ({"motor__kind": "shaded_pole"}, set(), {"capacitor"}),
        ({"motor__kind": "three_phase", "motor__phase": 3, "unit__phase": 3}, {"fuses"}, {"capacitor"}),
        ({"unit__switch": {"kind": "starter"}, "unit__phase": 3}, {"starter_overload"}, set()),
        ({"motor__kind": "ecm"}, {"module", "command", "frame_ecm"}, {"capacitor", "overload", "windings", "frame"}),
    ],
    ids=lambda value: "+".join(sorted(value)) if isinstance(value, (dict, set)) else str(value),
)
def test_one_feature_changed(change, added, gone):
    now = keys(**change)
    assert set(now) - set(PLAIN) == added
    assert set(PLAIN) - set(now) == gone
    order = [key for key in now if key in PLAIN]
    assert order == [key for key in PLAIN if key in order]


def test_names_say_what_is_really_there():
    assert named("switch", unit__switch={"kind": "contactor", "poles": 1}).note == "1 pole"
    assert named("switch", unit__switch={"kind": "contactor", "poles": 2}).note == ""
    assert named("switch", unit__switch={"kind": "board"}).name == "board relay"
    assert named("switch", unit__switch={"kind": "remote_switch"}).name == "speed switch"
    assert named("capacitor", unit__run_capacitor="own").name == "own capacitor"
    assert named("capacitor", unit__run_capacitor="dual").name == "dual capacitor"
    assert named("sister", unit__sisters=2).name == "sister fans"
    assert named("supply", unit__phase=3).name == "supply", "a single-phase fan on a three-phase unit"
    assert named("supply", motor__kind="three_phase", motor__phase=3, unit__phase=3).name == "three lines"


def test_whole_units():
    furnace = keys(**BLOWER)
    assert {"door", "safeties", "delay", "lockout"} <= set(furnace)
    assert named("windings", **BLOWER).name == "3 speed taps"
    assert named("load", **BLOWER).name == "wheel"
    assert named("air", **BLOWER).name == "filter, ducts"
    starter = keys(**THREE)
    assert starter.index("fuses") < starter.index("switch") < starter.index("starter_overload") < starter.index("wire")
    assert starter.index("bearings") < starter.index("belt") < starter.index("load")
    inducer = keys(**INDUCER)
    assert {"pressure", "door", "lockout", "vent"} <= set(inducer)
    assert "air" not in inducer
    assert keys(**ECM)[-1] == "running"


@pytest.mark.parametrize(
    "changes", [{}, BLOWER, THREE, ECM, INDUCER], ids=["plain", "blower", "three", "ecm", "inducer"]
)
def test_every_part_leads_to_a_test_that_the_pad_offers(changes):
    for part in parts_of(make_call(**changes)):
        assert (how_of(part.kind, part.at).kind, how_of(part.kind, part.at).at) == (part.kind, part.at)
        assert any(part.link in row.links and row.kind == part.kind and row.at == part.at for row in TESTS), part


def test_every_kind_of_reading_is_on_the_pad_with_a_picture():
    assert set(KINDS) == {row.kind for row in TESTS}
    assert all(row.picture for row in TESTS)
