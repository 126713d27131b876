"""The whole log out and in: nothing lost, nothing taken that is not right; readings as CSV."""

import csv
import hashlib
import io
import json
import tempfile
import zipfile
from pathlib import Path

import frictionless
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from keen_coil.core.errors import InvalidField
from keen_coil.core.readings import KINDS, Reading
from keen_coil.formats.archive import VERSION
from keen_coil.formats.readings_csv import read_readings, write_readings
from keen_coil.services.calls.call_files import bring_readings, export_call, import_call, readings_lines
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.calls.photographs import add_photograph, drawn_anew
from keen_coil.services.catalog.import_files import export_file, import_file
from keen_coil.services.log.archive import LAYOUTS, SINCE, SINCE_COLUMN, LogNotEmpty, export_log, import_log
from keen_coil.store.database import Database
from tests.calls import make_call
from tests.demo_calls import FERRY_ROOM, ROPE_WORKS
from tests.fixtures import NOW, stamp


def content_of(db):
    """Every row of every table of the log, pictures too."""
    with db.engine.connect() as connection:
        return {
            name: sorted(map(repr, connection.exec_driver_sql(f"select * from {name}")))  # noqa: S608
            for name in LAYOUTS
        }


@pytest.fixture
def demo(demo_path):
    """The demo world with a photograph."""
    db = Database(demo_path)
    picture = io.BytesIO()
    Image.new("RGB", (40, 30), "teal").save(picture, "PNG")
    add_photograph(
        db,
        ROPE_WORKS,
        stamp(open_call_view(db, ROPE_WORKS).row.version),
        "wiring",
        drawn_anew(picture.getvalue(), "x.png"),
    )
    yield db
    db.close()


@pytest.fixture
def archive(demo):
    out = io.BytesIO()
    export_log(demo, out, NOW)
    return out.getvalue()


def members(data):
    with zipfile.ZipFile(io.BytesIO(data)) as package:
        return {name: package.read(name) for name in package.namelist()}


def zipped(files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as package:
        for name, content in files.items():
            package.writestr(name, content)
    return out.getvalue()


def relisted(files):
    """The members with a manifest that fits them."""
    manifest = json.loads(files["datapackage.json"])
    for one in manifest["resources"]:
        content = files[one["path"]]
        one["bytes"], one["hash"] = len(content), "sha256:" + hashlib.sha256(content).hexdigest()
    return {**files, "datapackage.json": json.dumps(manifest).encode()}


def test_export_wipe_import_gives_the_same_content(demo, archive):
    before = content_of(demo)
    with demo.engine.connect() as connection:
        of_shop = connection.exec_driver_sql("select count(*) from call where not practice").scalar()
    with pytest.raises(LogNotEmpty):
        import_log(demo, stamp(0), io.BytesIO(archive))
    assert content_of(demo) == before
    with demo.writing() as session:
        for table in reversed([*LAYOUTS]):
            session.connection().exec_driver_sql(f"delete from {table}")  # noqa: S608
    calls = import_log(demo, stamp(0, act_id="the-import-itself"), io.BytesIO(archive))
    assert calls == of_shop
    with demo.writing() as session:
        session.connection().exec_driver_sql("delete from act where id = 'the-import-itself'")
    assert content_of(demo) == before


WITH_UID = sorted(table for table, column in SINCE_COLUMN if column == "uid")


def known_by(db, table):
    """The identities of a table's rows."""
    with db.engine.connect() as connection:
        return connection.exec_driver_sql(f"select uid from {table} order by uid").all()  # noqa: S608


def earlier(archive):
    """The archive as the first version of the format wrote it: without practice, movements, identities."""
    files = {name: data for name, data in members(archive).items() if name.removesuffix(".csv") not in SINCE}
    later = {f"{table}.csv": {column for of, column in SINCE_COLUMN if of == table} for table, _ in SINCE_COLUMN}
    for name, columns in later.items():
        rows = list(csv.reader(io.StringIO(files[name].decode(), newline="")))
        kept = [place for place, column in enumerate(rows[0]) if column not in columns]
        out = io.StringIO(newline="")
        csv.writer(out, lineterminator="\n").writerows([row[place] for place in kept] for row in rows)
        files[name] = out.getvalue().encode()
    manifest = json.loads(files["datapackage.json"])
    manifest["keen_coil"]["version"] = 1
    manifest["resources"] = [one for one in manifest["resources"] if one["path"] in files]
    return zipped(relisted({**files, "datapackage.json": json.dumps(manifest).encode()}))


def test_an_archive_of_an_earlier_version_still_comes_in(db, archive, tmp_path):
    old = earlier(archive)
    import_log(db, stamp(0), io.BytesIO(old))
    here = content_of(db)
    other = Database(tmp_path / "other.db")
    import_log(other, stamp(0), io.BytesIO(old))
    assert [known_by(other, name) for name in WITH_UID] == [known_by(db, name) for name in WITH_UID], "the same again"
    other.close()
    assert here["practice"] == []
    assert len(here["call"]) == len(list(csv.reader(io.StringIO(members(archive)["call.csv"].decode())))) - 1
    with db.engine.connect() as connection:
        assert connection.exec_driver_sql("select count(*) from call where practice").scalar() == 0


def test_it_takes_the_place_of_what_is_there_only_when_asked(db, archive):
    import_call(db, stamp(0), make_call(), "x.call.json")
    import_log(db, stamp(0), io.BytesIO(archive), replace=True)
    assert len(content_of(db)["call"]) > 50
    with db.engine.connect() as connection:
        assert connection.exec_driver_sql("pragma foreign_key_check").all() == []
        assert connection.exec_driver_sql("select count(*) from site where name = 'Imported'").scalar() == 0


def test_other_programs_read_it_by_its_table_schema(archive, tmp_path):
    zipfile.ZipFile(io.BytesIO(archive)).extractall(tmp_path)
    manifest = json.loads((tmp_path / "datapackage.json").read_text())
    tables = [one for one in manifest["resources"] if one["path"].endswith(".csv")]
    assert {one["path"] for one in tables} == {f"{name}.csv" for name in LAYOUTS}
    (tmp_path / "tables.json").write_text(json.dumps({**manifest, "resources": tables}))
    report = frictionless.validate(str(tmp_path / "tables.json"), type="package")
    assert report.valid, report.flatten(["rowNumber", "fieldName", "type", "message"])[:5]


def manifest_with(archive, **changes):
    files = members(archive)
    manifest = json.loads(files["datapackage.json"])
    manifest["keen_coil"].update(changes)
    return {**files, "datapackage.json": json.dumps(manifest).encode()}


def with_row(archive, table, change):
    files = members(archive)
    lines = files[f"{table}.csv"].decode()
    return relisted({**files, f"{table}.csv": change(lines).encode()})


SPOILT = {
    "a changed checksum": (
        lambda a: {**members(a), "reading.csv": members(a)["reading.csv"].replace(b"2.10", b"9.10", 1)},
        "another checksum",
    ),
    "a missing member": (lambda a: {k: v for k, v in members(a).items() if k != "reading.csv"}, "no such member"),
    "a missing picture": (lambda a: {k: v for k, v in members(a).items() if not k.endswith(".jpg")}, "no such member"),
    "no manifest": (lambda a: {k: v for k, v in members(a).items() if k != "datapackage.json"}, "no such member"),
    "a path that climbs out": (lambda a: {**members(a), "../../etc/cron.d/x": b"x"}, "climbs out"),
    "a path with a drive": (lambda a: {**members(a), "C:\\x.csv": b"x"}, "climbs out"),
    "a member nobody listed": (lambda a: {**members(a), "extra.csv": b"x"}, "not listed"),
    "a newer version": (lambda a: manifest_with(a, version=VERSION + 1), "newer program"),
    "another format": (lambda a: manifest_with(a, format="somebody/else"), "keen-coil/log"),
    "a table that is not listed": (
        lambda a: {
            **members(a),
            "datapackage.json": json.dumps({**json.loads(members(a)["datapackage.json"]), "resources": []}).encode(),
        },
        "every table",
    ),
    "another header": (lambda a: with_row(a, "site", lambda text: text.replace("id,name", "id,title", 1)), "id,name"),
    "a row too short": (lambda a: with_row(a, "site", lambda text: text + "99\n"), "1 cells"),
    "a number that is none": (lambda a: with_row(a, "site", lambda text: text + "x,Nowhere\n"), "site.csv: row"),
    "the same key twice": (lambda a: with_row(a, "site", lambda text: text + "1,Twice\n"), "belong together"),
    "a motor of no unit": (
        lambda a: with_row(a, "technician", lambda text: text.replace("1,", "91,", 1)),
        "belong together",
    ),
    "a plate that is none": (
        lambda a: with_row(a, "unit", lambda text: text.replace('""supply_v""', '""volts_of_it""', 1)),
        "unit.csv: row",
    ),
    "a reading that is none": (
        lambda a: with_row(
            a,
            "reading",
            lambda text: text.replace(
                '""kind"": ""spin"", ""value"": ""free""', '""kind"": ""spin"", ""value"": ""merry""', 1
            ),
        ),
        "call ",
    ),
    "a plan with a key of its own": (
        lambda a: with_row(a, "call", lambda text: text.replace("{}", '"{""virus"": 1}"', 1)),
        "virus",
    ),
    "a case that cannot be": (
        lambda a: with_row(a, "practice", lambda text: text.replace('""capacitor_', '""flux_capacitor_', 1)),
        "practice.csv: row",
    ),
    "a picture that is none": (
        lambda a: relisted({k: b"GIF89a" if k.endswith(".jpg") else v for k, v in members(a).items()}),
        "JPEG",
    ),
}


def test_a_spoilt_archive_is_refused_as_a_whole(demo, archive):
    before = content_of(demo)
    for name, (spoil, says) in SPOILT.items():
        with pytest.raises(InvalidField) as error:
            import_log(demo, stamp(0), io.BytesIO(zipped(spoil(archive))), replace=True)
        assert says in error.value.errors[0].line(), name
        assert content_of(demo) == before, name


@pytest.mark.parametrize("data", [b"", b"PK\x03\x04 no zip at all", b"\x00" * 400])
def test_what_is_no_zip_is_told(db, data):
    with pytest.raises(InvalidField):
        import_log(db, stamp(0), io.BytesIO(data))


def test_a_bomb_is_cut_off(archive, db):
    from keen_coil.formats.archive import open_archive

    with (
        pytest.raises(InvalidField, match="at most"),
        open_archive(io.BytesIO(archive), list(LAYOUTS.values()), largest=1000),
    ):
        pass


def test_from_the_command_line_there_and_back(demo, demo_path, tmp_path):
    export_file(demo_path, tmp_path / "log.zip", log=True)
    data = (tmp_path / "log.zip").read_bytes()
    assert "calls imported" in import_file(tmp_path / "new.db", "log.zip", data)
    with pytest.raises(InvalidField, match="--replace"):
        import_file(tmp_path / "new.db", "log.zip", data)
    new = Database(tmp_path / "new.db")
    assert content_of(new)["reading"] == content_of(demo)["reading"]
    new.close()


def over(client, page):
    """The page once the file is written or read: until then it tells how far that is."""
    while "<progress" in page.text:
        page = client.get(page.url)
    return page


def test_on_the_page(client):
    from tests.web.test_pages import hidden

    def left():
        return {path.name for path in Path(tempfile.gettempdir()).glob("keen-coil-*")}

    before = left()
    fields = hidden(client.get("/log/archive").text, "/log/archive/export")
    page = over(client, client.post("/log/archive/export", data=fields))
    link = page.text.partition('href="/log/archive/')[2].partition('"')[0]
    data = client.get(f"/log/archive/{link}").content
    assert zipfile.ZipFile(io.BytesIO(data)).testzip() is None
    assert (
        zipfile.ZipFile(io.BytesIO(client.get(f"/log/archive/{link}").content)).testzip() is None
    )  # as often as wanted
    assert left() == before  # and no file of it stays anywhere
    fields = hidden(client.get("/log/archive").text, "/log/archive/import")
    answer = over(client, client.post("/log/archive/import", data=fields, files={"file": ("log.zip", data)}))
    assert answer.status_code == 409
    assert "Nothing was changed" in answer.text
    fields = hidden(answer.text, "/log/archive/import")
    answer = over(
        client, client.post("/log/archive/import", data={**fields, "replace": "yes"}, files={"file": ("log.zip", data)})
    )
    assert "calls are here now" in answer.text
    fields = hidden(answer.text, "/log/archive/import")
    answer = over(
        client,
        client.post("/log/archive/import", data={**fields, "replace": "yes"}, files={"file": ("log.zip", data[:-50])}),
    )
    assert answer.status_code == 422
    assert "Refused as a whole" in answer.text


def test_a_calls_readings_go_out_and_come_back_in(demo):
    lines = "".join(readings_lines(demo, FERRY_ROOM))
    new = import_call(demo, stamp(0), make_call(motor={"role": "condenser_fan"}), "x.call.json")
    many = bring_readings(demo, new, stamp(1), lines.encode())
    old = export_call(open_call_view(demo, FERRY_ROOM))["readings"]
    assert many == len(old)
    assert [Reading.model_validate(body) for body in export_call(open_call_view(demo, new))["readings"]] == [
        Reading.model_validate(body) for body in old
    ]
    bring_readings(demo, new, stamp(2), lines.encode())
    assert len(open_call_view(demo, new).call.readings) == 2 * many


@pytest.mark.parametrize(
    ("text", "path"),
    [
        ("kind\nspin\n", "value"),
        ("kind,value,weather\nspin,free,sunny\n", "weather"),
        ("kind,value\nspin,merry\n", "row 2.value"),
        ("kind,value\nspin,free\nrun_amps_a,1.2,3\n", "row 3"),
        ("kind,value\ngust,1\n", "row 2.kind"),
        ("kind,value,replaces\nspin,free,4\n", "row 2.replaces"),
        ("kind,value\nrun_amps_a,1|2|3\n", "row 2.value"),
    ],
)
def test_readings_that_are_none_are_told_by_row_and_none_is_added(db, text, path):
    call_id = import_call(db, stamp(0), make_call(), "x.call.json")
    with pytest.raises(InvalidField) as error:
        bring_readings(db, call_id, stamp(1), text.encode())
    assert error.value.errors[0].path == path
    assert open_call_view(db, call_id).call.readings == []


TEXT = st.text(st.characters(blacklist_categories=("Cs", "Cc")), min_size=1, max_size=12).map(str.strip).filter(bool)


@st.composite
def readings(draw):
    kind = KINDS[draw(st.sampled_from(sorted(KINDS)))]
    number = st.decimals(kind.low, min(kind.high, 400), places=2).map(str)
    if kind.name == "capacitor_load":
        value = {"amps_a": "1.31", "volts_v": "402"}
    elif kind.many:
        value = draw(st.lists(number, min_size=1, max_size=4))
    elif kind.yes_no:
        value = draw(st.booleans())
    else:
        value = draw(
            st.sampled_from(kind.words) if kind.words and (not kind.is_number or draw(st.booleans())) else number
        )
    body = {"kind": kind.name, "value": value, "power": "dead"}
    if draw(st.booleans()):
        body |= {
            "note": draw(TEXT),
            "lead": draw(TEXT),
            "isolated": draw(st.booleans()),
            "turns": draw(st.integers(1, 9)),
        }
    return body


@given(st.lists(readings(), max_size=5))
def test_any_readings_go_through_csv_unchanged(bodies):
    text = "".join(write_readings(({"call": 1, "site": "=cmd()"}, body) for body in bodies))
    assert not any(cell.startswith(("=", "@")) for line in text.splitlines() for cell in line.split(","))
    found = [Reading.model_validate(body) for body in read_readings(text.encode())]
    assert found == [Reading.model_validate(body) for body in bodies]
