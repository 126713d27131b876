"""The shop's limits, photographs, motors of one unit, readings of every kind through the form."""

import io

import pytest
from PIL import Image

from keen_coil.core.errors import InvalidField, NotFound
from keen_coil.core.field_tests import TESTS
from keen_coil.core.limits import DEFAULTS
from keen_coil.core.readings import KINDS
from keen_coil.services.calls.call_view import call_data, open_call_view
from keen_coil.services.calls.photographs import add_photograph, drawn_anew, photograph, photographs_of
from keen_coil.services.calls.readings import reading_data, take_reading, with_reading
from keen_coil.services.log.unit_history import (
    add_sister,
    insulation_trend,
    motors_here,
    pick_motor_at_fault,
    sisters_of,
)
from keen_coil.services.people.settings import limit_rows, save_limits, shop_limits
from keen_coil.services.stations.pad import offered_here, pad_for
from keen_coil.store.database import Database
from tests.demo_calls import FISH_CELLAR, GANNET_COTTAGE, ROPE_WORKS, ROPE_WORKS_ROOF, TIDE_MILL

from .fixtures import NOW, stamp


@pytest.fixture
def shop(demo_path):
    database = Database(demo_path)
    yield database
    database.close()


def version(db, call_id):
    return stamp(open_call_view(db, call_id).row.version)


def test_limits_are_tightened_kept_and_never_loosened(shop):
    assert shop_limits(shop) == DEFAULTS
    save_limits(shop, stamp(), {"capacitor_tolerance_pct": "3", "cool_minutes": "90", "amps_over_pct": ""})
    assert (shop_limits(shop).capacitor_tolerance_pct, shop_limits(shop).cool_minutes) == (3, 90)
    assert open_call_view(shop, ROPE_WORKS).limits.cool_minutes == 90
    with pytest.raises(InvalidField) as refused:
        save_limits(
            shop,
            stamp(),
            {
                "capacitor_tolerance_pct": "8",
                "cool_minutes": "10",
                "capacitor_open_pct": "4",
                "supply_drop_pct": "soon",
            },
        )
    assert {fault.path for fault in refused.value.errors} == {
        "capacitor_tolerance_pct",
        "cool_minutes",
        "capacitor_open_pct",
        "supply_drop_pct",
    }
    assert shop_limits(shop).capacitor_tolerance_pct == 3
    assert all(row.source and row.says for row in limit_rows(DEFAULTS))


def photo(width=2400, height=1200, kind="JPEG", **more):
    out = io.BytesIO()
    Image.new("RGB", (width, height), "brown").save(out, kind, **more)
    return out.getvalue()


def test_a_photograph_is_made_smaller_turned_upright_and_loses_where_it_was_taken(shop):
    exif = Image.Exif()
    exif[0x0112] = 6
    exif.get_ifd(0x8825)[1] = "N"
    data = photo(exif=exif, comment=b"at the lighthouse")
    first = add_photograph(shop, 5, version(shop, 5), "plate", drawn_anew(data, "plate.jpg"))
    content = photograph(shop, 5, first)
    picture = Image.open(io.BytesIO(content))
    assert (picture.size, picture.format) == ((800, 1600), "JPEG")
    assert not picture.getexif()
    assert b"lighthouse" not in content
    assert [shown.subject for shown in photographs_of(shop, 5)] == ["plate"]
    with pytest.raises(NotFound):
        photograph(shop, 1, first)


@pytest.mark.parametrize(
    "data",
    [b"", b"%PDF-1.7 no picture", b"<svg xmlns='http://www.w3.org/2000/svg'/>", photo()[:400], photo(kind="GIF")],
)
def test_what_is_no_photograph_is_refused_and_nothing_is_kept(shop, data):
    with pytest.raises(InvalidField) as refused:
        add_photograph(shop, 5, version(shop, 5), "plate", drawn_anew(data, "odd.jpg"))
    assert refused.value.errors[0].path == "photo"
    assert photographs_of(shop, 5) == []
    with pytest.raises(InvalidField, match="subject"):
        add_photograph(shop, 5, version(shop, 5), "cat", photo())


def test_a_picture_that_is_far_too_large_is_refused_before_it_is_unpacked():
    with pytest.raises(InvalidField, match="megapixels"):
        drawn_anew(photo(12000, 6000, "PNG"), "huge.png")


def test_which_motor_of_the_unit_is_at_fault(shop):
    assert [(m.name, m.mine) for m in motors_here(shop, open_call_view(shop, FISH_CELLAR))] == [
        ("left fan", True),
        ("right fan", False),
    ]
    other = str(motors_here(shop, open_call_view(shop, FISH_CELLAR))[1].id)
    with pytest.raises(InvalidField, match="open a call for the other motor"):
        pick_motor_at_fault(shop, 14, version(shop, 14), other)
    add_sister(shop, 5, version(shop, 5), "rear fan")
    sheet = open_call_view(shop, GANNET_COTTAGE)
    assert sheet.call.unit.sisters == 1
    assert len(sisters_of(shop, sheet)) == 2
    pick_motor_at_fault(shop, 5, version(shop, 5), str(motors_here(shop, sheet)[1].id))
    assert motors_here(shop, open_call_view(shop, GANNET_COTTAGE))[1].mine
    with pytest.raises(InvalidField, match="a place of its own"):
        add_sister(shop, 5, version(shop, 5), "rear fan")
    with pytest.raises(InvalidField):
        pick_motor_at_fault(shop, 5, version(shop, 5), "999")


def test_insulation_over_the_visits_of_one_motor(shop):
    trend = insulation_trend(shop, open_call_view(shop, ROPE_WORKS_ROOF))
    assert [visit.mohm for visit in trend] == [420, 260, 150, 130]
    assert insulation_trend(shop, open_call_view(shop, ROPE_WORKS)) == []


FORMS = {
    "air_speed_fpm": {"value": "880 910, -120", "free_area_ft2": "2.5"},
    "capacitor_load": {"amps_a": "1.31", "volts_v": "402"},
    "draught_inwc": {"value": "-0.9", "needs_inwc": "0.8"},
    "insulation_mohm": {"value": "130", "temperature_c": "40", "lead": "T1"},
    "ecm_winding_ohm": {"value": "6.1", "value_2": "6.1", "value_3": "6.2"},
}


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_every_kind_of_reading_goes_through_the_form_and_is_judged(shop, kind):
    row = KINDS[kind]
    call = {"ecm": 12, "sis": 14}.get(kind[:3], 1)
    word = "yes" if row.yes_no else row.words[0] if row.words and not row.is_number else "5.1"
    fields = {"kind": kind, "pair": "black|white" if kind == "winding_ohm" else "", **FORMS.get(kind, {"value": word})}
    sheet = open_call_view(shop, call)
    at = next((how.at for how in TESTS if how.kind == kind), None)
    data = reading_data({**fields, "at": at or ""}, "dead" if row.power == "dead" else "energised", NOW, NOW)
    judged = with_reading(call_data(sheet.row), data)
    assert judged.readings[-1].kind == kind
    index = take_reading(shop, call, version(shop, call), {**fields, "at": at or "", "anyway": "yes", "sure": "yes"})
    after = open_call_view(shop, call)
    assert after.assessment.judgements[index].says
    pad = pad_for(after, next(how.link for how in TESTS if how.kind == kind), kind, at or "")
    assert pad.tests


def test_the_pad_offers_only_what_the_unit_has(shop):
    commutated = {
        how.kind
        for link in ("windings", "control", "supply")
        for how in offered_here(open_call_view(shop, TIDE_MILL).call, link)
    }
    assert {"ecm_power", "ecm_command", "ecm_winding_ohm"} <= commutated
    plain = open_call_view(shop, ROPE_WORKS).call
    assert not {"ecm_power", "ecm_command", "starter_overload", "fuse", "belt_look", "vent_drain", "sister_amps_a"} & {
        how.kind
        for link in ("supply", "protection", "control", "load", "air", "running")
        for how in offered_here(plain, link)
    }
    three = pad_for(open_call_view(shop, ROPE_WORKS_ROOF), "windings", "winding_ohm")
    assert three.legs == ("A-B", "B-C", "C-A")


@pytest.mark.parametrize(
    ("fields", "path"),
    [
        ({"kind": "winding_ohm", "value": "14200", "pair": "black|white"}, "sure"),
        ({"kind": "winding_ohm", "value": "0.014", "pair": "black|white"}, "sure"),
        ({"kind": "ground_ohm", "value": "2.1", "lead": "black"}, "sure"),
        ({"kind": "run_amps_a", "value": "1.3", "speed": "4"}, "speed"),
        ({"kind": "supply_v", "value": "230", "value_2": "230", "value_3": "230", "at": "unit"}, "value"),
        ({"kind": "capacitance_uf", "value": "9000", "section": "fan"}, "value"),
        ({"kind": "shell_c", "value": "4000"}, "value"),
    ],
)
def test_what_cannot_be_is_named_and_kept_out(shop, fields, path):
    before = len(open_call_view(shop, ROPE_WORKS).call.readings)
    with pytest.raises(InvalidField) as refused:
        take_reading(shop, 1, version(shop, 1), {**fields, "anyway": "yes"})
    assert path in {fault.path for fault in refused.value.errors}
    assert len(open_call_view(shop, ROPE_WORKS).call.readings) == before


def test_kilohm_chosen_on_the_pad_becomes_ohm_with_its_digits(shop):
    index = take_reading(
        shop, 1, version(shop, 1), {"kind": "winding_ohm", "value": "0.0142", "ohm_unit": "k", "pair": "black|white"}
    )
    assert float(open_call_view(shop, ROPE_WORKS).call.readings[index].value) == 14.2
