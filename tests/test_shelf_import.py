"""Bringing catalog and van in: a look at every row first, hostile files refused, nothing written unasked."""

import csv
import io
import zipfile

import pytest
from frictionless import Package
from hypothesis import given
from hypothesis import strategies as st

from keen_coil.core.errors import InvalidField, NotFound
from keen_coil.core.match.catalogue import CatalogueMotor
from keen_coil.core.match.catalogue_filter import bounds
from keen_coil.core.match.rank import ranked
from keen_coil.formats import csv_rows
from keen_coil.formats.catalogue_csv import read_catalogue, write_catalogue
from keen_coil.formats.data_package import read_package, write_package
from keen_coil.formats.van_csv import VanPart, read_van, write_van
from keen_coil.services.catalog import shelf, shelf_import
from keen_coil.services.catalog.shelf import motors_within
from keen_coil.services.demo.demo import DATA
from keen_coil.store import tables
from tests.calls import make_call
from tests.core.test_match import motor
from tests.fixtures import NOW, stamp

HEADER = "part_no,kind,hp,volts,amps_a,phase,hz,rpm,price"
GOOD = ["P-1,psc,1/4,208-230,1.40,1,60,1075,90", "P-2,psc,1/3,208-230,1.70,1,60,1075,99"]
BAD = [
    "P-3,psc,1/4,23O,1.40,1,60,1075,90",
    "P-1,psc,1/4,208-230,1.40,1,60,1075,90",
    "P-4,psc,,208-230,1.40,1,60,1075,90",
]


def file_of(*rows, header=HEADER):
    return ("\n".join([header, *rows]) + "\n").encode()


def looked(db, data, name="motors.csv"):
    draft_id = shelf_import.receive(db, stamp(0), name, data)
    shelf_import.look_through(db, draft_id)
    return shelf_import.draft(db, draft_id)


def test_row_by_row_what_a_file_would_do_and_nothing_is_written(db):
    shelf_import.import_all(db, stamp(0), file_of(*GOOD))
    told = looked(db, file_of(GOOD[0], GOOD[1].replace(",99", ",105"), "P-9,psc,1/4,208-230,1.5,1,60,1075,80", *BAD))
    rows = [(number, part, state) for _, number, part, state, _ in told.report["rows"]]
    assert rows == [
        (2, "P-1", "same"),
        (3, "P-2", "changed"),
        (4, "P-9", "added"),
        (5, "P-3", "refused"),
        (6, "P-1", "refused"),
        (7, "P-4", "refused"),
    ]
    assert told.report["rows"][1][4] == "price 99 to 105"
    assert "Row 5, volts: 23O" in told.report["rows"][3][4]
    assert told.report["counts"] == {"added": 1, "changed": 1, "same": 1, "refused": 3}
    assert [str(m.part_no) for m in shelf.all_motors(db)] == ["P-1", "P-2"]


def test_a_column_that_the_file_does_not_have_leaves_what_is_there(db):
    header = HEADER + ",shaft.diameter_in,shaft.length_in,maker"
    shelf_import.import_all(db, stamp(0), file_of(GOOD[0] + ",0.5,4,Tern", header=header))
    told = looked(
        db, file_of("P-1,psc,1/4,208-230,1.40,1,60,1075,6,", header=HEADER.replace("price", "shaft.length_in,maker"))
    )
    assert told.report["rows"][0][4] == "maker Tern to nothing, shaft 0.5 4 to 0.5 6"
    shelf_import.confirm(db, stamp(0), told.id)
    kept = next(shelf.all_motors(db))
    assert (str(kept.price), kept.maker, kept.shaft.diameter_in, kept.shaft.length_in) == ("90", None, 0.5, 6)


def test_confirmed_the_good_rows_are_written_once_and_the_draft_is_gone(db):
    told = looked(db, file_of(*GOOD, *BAD))
    done = shelf_import.confirm(db, stamp(0), told.id)
    assert (done.added, done.refused) == (2, 3)
    assert [str(m.part_no) for m in shelf.all_motors(db)] == ["P-1", "P-2"]
    with pytest.raises(NotFound):
        shelf_import.confirm(db, stamp(0), told.id)


def test_a_shelf_that_changed_meanwhile_is_looked_at_again(db):
    told = looked(db, file_of(*GOOD))
    shelf_import.import_all(db, stamp(0), file_of(GOOD[0].replace(",90", ",70")))
    with pytest.raises(shelf_import.ShelfChanged):
        shelf_import.confirm(db, stamp(0), told.id)
    assert shelf_import.draft(db, told.id).report["counts"] == {"added": 1, "changed": 1, "same": 0, "refused": 0}
    assert [str(m.price) for m in shelf.all_motors(db)] == ["70"]


def test_a_draft_that_is_left_changes_nothing_and_old_ones_go(db):
    told = looked(db, file_of(*GOOD))
    shelf_import.discard(db, stamp(0), told.id)
    with pytest.raises(NotFound):
        shelf_import.draft(db, told.id)
    old = shelf_import.receive(db, stamp(0), "a.csv", file_of(*GOOD))
    shelf_import.receive(db, stamp(0, now=NOW + shelf_import.DRAFT_LIFETIME * 2), "b.csv", file_of(*GOOD))
    with pytest.raises(NotFound):
        shelf_import.draft(db, old)


def test_the_van_is_emptied_of_what_its_file_does_not_name_only_when_asked(db):
    header = "part_no,kind,sections_uf,volts_v,quantity"
    shelf_import.import_all(db, stamp(0), file_of("C-1,capacitor,5,370,2", "M-1,motor,,,1", header=header))
    with db.reading() as session:
        assert shelf.stock_in(session, "Van 1") == {"M-1": 1}
    told = looked(db, file_of("C-1,capacitor,5,370,3", header=header), "van.csv")
    assert (told.what, told.report["not_in_file"]) == ("van", 1)
    assert shelf_import.confirm(db, stamp(0), told.id).taken_off == 0
    told = looked(db, file_of("C-1,capacitor,5,370,3", header=header), "van.csv")
    assert shelf_import.confirm(db, stamp(0), told.id, only_file=True).taken_off == 1
    assert [(part.part_no, part.quantity) for part in shelf.all_parts(db)] == [("C-1", 3)]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (file_of(*GOOD).decode().encode("utf-16"), "UTF-16"),
        ("größe;x".encode("latin-1"), "not UTF-8"),
        (file_of(*GOOD).replace(b",", b";"), "semicolons"),
        (file_of(*GOOD, header=HEADER.replace(",rpm", "")), "rpm"),
        (file_of(*GOOD, header=HEADER.replace("price", "cost")), "cost"),
        (b"", "part_no"),
        (b"PK\x03\x04broken", "zip"),
    ],
)
def test_a_file_that_cannot_be_read_says_why(db, data, said):
    try:
        faults = looked(db, data).report["faults"]
    except InvalidField as error:
        faults = [fault.line() for fault in error.errors]
    assert any(said in line for line in faults), faults
    assert list(shelf.all_motors(db)) == []


def test_a_byte_order_mark_and_windows_lines_are_no_fault(db):
    assert looked(db, b"\xef\xbb\xbf" + file_of(*GOOD).replace(b"\n", b"\r\n")).report["counts"]["added"] == 2


def test_more_rows_than_a_catalogue_has_are_refused_without_reading_on(monkeypatch):
    monkeypatch.setattr(csv_rows, "MOST_ROWS", 50)
    rows = [GOOD[0].replace("P-1", f"P-{number}") for number in range(51)]
    with pytest.raises(InvalidField) as error:
        read_catalogue(file_of(*rows))
    assert error.value.errors[0].path == "row 52"
    assert len(read_catalogue(file_of(*rows[:50]))) == 50


def zipped(**files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for name, data in files.items():
            package.writestr(name.replace("_", "."), data)
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (zipped(datapackage_json="{}", motors_csv=b"0" * 30_000_000), "unpacked"),
        (zipped(motors_csv=b"x"), "datapackage.json"),
        (zipped(datapackage_json="{}", other_csv=b"x"), "motors.csv or van.csv"),
        (zipped(datapackage_json="{}", **{f"f{n}_csv": b"" for n in range(30)}), "at most 20 files"),
        (zipped(datapackage_json="{}", motors_csv=b"x")[:-30], "zip"),
    ],
)
def test_a_zip_that_is_no_data_package_or_a_bomb_is_refused(data, said):
    assert len(data) < 100_000
    with pytest.raises(InvalidField) as error:
        read_package(data, largest=20_000_000)
    assert said in error.value.errors[0].line()


def test_a_package_goes_out_valid_and_comes_back_the_same(db, tmp_path):
    for name in ("motors.csv", "van.csv"):
        shelf_import.import_all(db, stamp(0), (DATA / name).read_bytes())
    data = shelf.package(db)
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        package.extractall(tmp_path)
    report = Package(str(tmp_path / "datapackage.json")).validate()
    assert report.valid, report.flatten(["type", "note"])
    told = looked(db, data, "shelf.zip")
    assert told.report["counts"] == {"added": 0, "changed": 0, "same": 144, "refused": 0}


FORMULAS = ["=1+1", "+cmd|' /C calc'!A0", "-2+3", "@SUM(A1)", "\tx", '=HYPERLINK("x")']


@pytest.mark.parametrize("text", FORMULAS)
def test_formulas_are_neutralised_going_out_and_themselves_coming_back(text):
    lines = "".join(write_catalogue([motor(part_no="P", maker=text)]))
    cell = next(csv.DictReader(io.StringIO(lines)))["maker"]
    assert not cell.startswith(("=", "+", "-", "@", "\t", "\r"))
    assert read_catalogue(lines.encode())[0].maker == text.strip()
    van = "".join(write_van([VanPart(part_no=text, kind="part")]))
    assert read_van(van.encode())[0].part_no == text.strip()
    assert write_package([], [])


AMPS = st.sampled_from(["1.0", "1.33", "1.392", "1.393", "1.5", "1.75", "2.24", "2.9"])


@given(
    st.lists(
        st.fixed_dictionaries(
            {
                "kind": st.sampled_from(["psc", "ecm", "three_phase", "shaded_pole"]),
                "phase": st.sampled_from([1, 1, 3]),
                "hz": st.sampled_from([60, 60, 50]),
                "rpm": st.sampled_from(["1035.5", "1090", "1144.5", "1150", "825"]),
                "volts": st.sampled_from(["208-230", "230", "115", "115/230", "220-240", "277"]),
                "amps_a": AMPS,
                "hp": st.sampled_from(["0.125", "0.25", "0.333", "0.5", "7"]),
                "rpm_max": st.sampled_from([None, "1100"]),
            }
        ),
        min_size=1,
        max_size=12,
    ),
    st.sampled_from(
        [
            {},
            {"motor__kind": "ecm"},
            {"motor__kind": "shaded_pole"},
            {"unit__supply_v": 255},
            {"motor__volts": None},
            {"motor__kind": None},
            {"unit__supply_v": None},
            {"motor__volts": "115/230", "motor__amps_a": 2.8},
            {"motor__hp": 5},
        ]
    ),
)
def test_the_cut_by_sql_never_loses_what_could_serve(shop, plates, changes):
    db = shop
    motors = [motor(part_no=f"P{number}", **plate) for number, plate in enumerate(plates)]
    with db.writing() as session:
        session.query(tables.CatalogueMotor).delete()
        list(shelf.put(session, tables.CatalogueMotor, [shelf.motor_row(new) for new in motors]))
    call = make_call(**changes)
    with db.reading() as session:
        for school in ("amps", "hp_amps", "ten_percent", "like"):
            inside = {new.part_no for new in motors_within(session, bounds(call, school))}
            serving = {held.motor.part_no for held in ranked(call, motors, school).serving}
            overridable = {held.motor.part_no for held in ranked(call, motors, school).refused if held.may_override}
            assert serving <= inside
            assert overridable <= inside


@pytest.fixture(scope="module")
def shop(tmp_path_factory):
    """One database for all the examples of a property."""
    from keen_coil.store.database import Database

    database = Database(tmp_path_factory.mktemp("shop") / "shop.db")
    yield database
    database.close()


def test_the_shelf_is_searched_by_words_kind_and_use_a_page_at_a_time(db):
    rows = [motor(part_no=f"P-{number:04d}", maker="Tern %" if number % 2 else "Skerry") for number in range(250)]
    with db.writing() as session:
        list(shelf.put(session, tables.CatalogueMotor, map(shelf.motor_row, rows)))
    assert (shelf.find_motors(db).found, shelf.find_motors(db).pages) == (250, 3)
    assert shelf.find_motors(db, "tern p-01").found == 50
    assert shelf.find_motors(db, "%").found == 125
    assert shelf.find_motors(db, "skerry", kind="ecm").found == 0
    assert [m.part_no for m in shelf.find_motors(db, page=3).rows][:1] == ["P-0200"]
    assert isinstance(next(shelf.all_motors(db)), CatalogueMotor)
