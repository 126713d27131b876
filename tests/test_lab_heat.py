"""The Lab's heat: the winding against the air around the motor and over it, in the shop's degrees."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField
from keen_coil.services.answers.lab import open_lab
from keen_coil.store.database import Database
from keen_coil.web.routes.lab import lab_chart

HOT = {"part": "TM-4027", "show": "winding"}


def test_the_mark_of_what_was_found_lies_on_its_curve_at_any_air(demo_path):
    db = Database(demo_path)
    for over, field, value in (
        ("ambient_c", "f_around", "122"),
        ("ambient_c", "f_around", "50"),
        ("volts_v", "f_v", "200"),
    ):
        lab = open_lab(db, HOT | {"over": over, field: value})
        swept, winding = lab.winding("f")
        at = float(lab.fields[field])
        low, high = (max(x for x in swept.x if x <= at), min(x for x in swept.x if x >= at))
        between = [c for x, c in zip(swept.x, winding, strict=True) if low <= x <= high]
        assert min(between) - 0.5 <= lab.found_heat.winding_c.mid <= max(between) + 0.5
        assert lab_chart(lab).says


@given(st.integers(32, 130), st.integers(32, 130))
@settings(max_examples=10, deadline=None)
def test_a_warmer_place_is_never_cooler_and_moves_no_reading(reader_db, one, other):
    cold, warm = (open_lab(reader_db, HOT | {"f_around": str(f)}) for f in sorted((one, other)))
    assert cold.found_heat.winding_c.mid <= warm.found_heat.winding_c.mid + 1e-6
    assert cold.found_expected.run_amps_a == warm.found_expected.run_amps_a


def test_heat_alone_is_drawn_against_the_air_and_bad_air_is_named(demo_path):
    db = Database(demo_path)
    assert open_lab(db, {"part": "TM-4027", "show": "amps", "over": "air_pct"}).over == "capacitor_uf"
    assert open_lab(db, HOT | {"over": "air_pct"}).overs[-1] == "ambient_c"
    with pytest.raises(InvalidField, match="f_around: got warm"):
        open_lab(db, HOT | {"f_around": "warm"})


@pytest.fixture(scope="module")
def reader_db(tmp_path_factory, demo_master):
    """The demo shop, read only."""
    import shutil

    path = tmp_path_factory.mktemp("lab") / "lab.db"
    shutil.copy(demo_master, path)
    return Database(path)
