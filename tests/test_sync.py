"""Syncing by file and with the shop's server: both ways, once, resumed after a cut; what is wrong is refused whole."""

import io
import json
import multiprocessing
import os
import random
import signal
import sqlite3
import time
import zipfile
from contextlib import suppress

import pytest
from typer.testing import CliRunner

from keen_coil.cli.commands import app as command_line
from keen_coil.core.errors import InvalidField, KeenCoilError, RefusedNow
from keen_coil.exchange import shop_server
from keen_coil.exchange.shop_server import ShopServer, ShopUnreachable, checked_address
from keen_coil.formats.sync_package import open_package
from keen_coil.services.acts import StaleVersion
from keen_coil.services.calls import call_files, calls, photographs, readings
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.catalog import stock
from keen_coil.services.catalog.shelf import all_parts
from keen_coil.services.log.unit_history import unit_history
from keen_coil.services.people import settings
from keen_coil.services.people.accounts import add_account
from keen_coil.services.people.audit_trail import changes_since
from keen_coil.services.stations import hand_over, match
from keen_coil.services.stations.plates import save_plates
from keen_coil.services.sync import sync
from keen_coil.services.sync.authors import Bearer
from keen_coil.services.sync.lineage import OlderCopy, renew_identity
from keen_coil.services.sync.merge_package import take_package
from keen_coil.services.sync.replica_joins import settle_twice, units_entered_twice
from keen_coil.services.sync.state import sync_state
from keen_coil.services.sync.tokens import make_token
from keen_coil.services.sync.two_versions import all_questions, decide, questions_of_call
from keen_coil.store.copies import backup
from keen_coil.store.database import Database
from tests import replicas
from tests.fixtures import PATIENCE_S, stamp
from tests.replicas import JPEGS, bring, content, context, package, real_calls

KILLS = int(os.environ.get("KEEN_COIL_KILLS", "10"))
TWO_DAYS_NS = 2 * 86_400 * 10**9


@pytest.fixture(scope="module")
def master(tmp_path_factory):
    folder = tmp_path_factory.mktemp("master")
    replicas.three(folder)
    shop, *vans = found = [Database.opened(folder / f"{name}.db") for name in replicas.NAMES]
    replicas.ACTS["open"](shop, 0)
    for van in vans:
        bring(shop, van)
    for db in found:
        db.close()
    return folder


@pytest.fixture
def three(master, tmp_path):
    """The shop and two vans that have a call of it."""
    found = replicas.opened(master, tmp_path)
    yield found
    for db in found:
        db.close()


def act(db, do, *args, call=0):
    """An act on a call of a laptop, as its page would send it; again where the call was changed meanwhile."""
    call_id = real_calls(db)[call]
    while True:
        with suppress(StaleVersion):
            return do(db, call_id, context(open_call_view(db, call_id).row.version), *args)


def amps(value):
    return {"kind": "run_amps_a", "value": value, "anyway": "yes", "sure": "yes"}


def values(db):
    return [reading.value for reading in open_call_view(db, real_calls(db)[0]).call.readings]


def run(*args, **env):
    return CliRunner().invoke(command_line, ["sync", *map(str, args)], env=env)


def server_of(address, token="", certificate=None):
    return ShopServer(address, token, certificate)


def over_https(db, address, token=""):
    server = server_of(address, token)
    try:
        return sync.sync_with_shop(db, context(), server)
    finally:
        server.close()


def test_a_file_goes_back_and_forth(three, tmp_path):
    shop, van, _ = three
    file = tmp_path / "evening.zip"
    act(van, readings.take_reading, amps("1.41"))
    act(van, photographs.add_photograph, "plate", JPEGS[0])
    act(shop, readings.take_reading, amps("2.2"))
    assert run(file, "--db", van.path).exit_code == 0
    came = run(file, "--db", shop.path)
    assert "1 reading" in came.output
    assert "1 photograph" in came.output
    back = run(file, "--db", van.path)
    assert "Came: 1 reading" in back.output, back.output
    assert values(shop) == values(van)
    assert content(shop) == content(van)
    for db in (shop, van, shop):
        again = run(file, "--db", db.path)
        assert ("Came: nothing new." in again.output, again.exit_code) == (True, 0), again.output
    only_new = zipfile.ZipFile(file).namelist()
    assert not [name for name in only_new if name.startswith("photographs/")], "what is known does not travel again"


def test_with_the_shop_over_the_network(three, monkeypatch):
    shop, van, other = three
    monkeypatch.setattr(shop_server, "PAUSE_S", 0.01)
    add_account(shop, stamp(0), "Mara Hollin", "a long password", "technician")
    token = make_token(shop, stamp(0), "Mara Hollin")
    act(van, photographs.add_photograph, "plate", JPEGS[0])
    act(other, photographs.add_photograph, "plate", JPEGS[0])
    settings.save_limits(van, stamp(0), {"capacitor_tolerance_pct": "4"})
    with replicas.serving(shop.path, accounts=True) as address:
        for wrong in ("", "x" * 43):
            with pytest.raises(InvalidField, match="token"):
                over_https(van, address, wrong)
        first = over_https(van, address, token)
        assert (first.went["photograph"], first.renewed) == (1, False)
        second = over_https(other, address, token)
        assert second.came["photograph"] == 1
        assert second.sent < 6_000, "the picture was there: it does not travel again"
        over_https(van, address, token)
        quiet = over_https(van, address, token)
        assert (quiet.came, quiet.went) == ({}, {})
        assert quiet.sent + quiet.received < 10_000
        assert content(shop) == content(van)
        assert settings.shop_limits(shop).capacitor_tolerance_pct != 4, "what the shop decides is not a van's to say"
        state = sync_state(shop)
        assert [(one.name, one.lacks) for one in state.laptops if one.name == "van_1"] == [("van_1", 0)]
        assert (state.is_shop, sync_state(van).is_shop) == (True, False)
    with pytest.raises(ShopUnreachable):
        over_https(van, address, token)
    assert "sync again later" in run(address, "--db", van.path).output


@pytest.mark.parametrize(
    "address", ["", "shop.example", "http://shop.example", "ftp://x", "https://a:b@x", "https://x/?y", "https://[::"]
)
def test_a_token_goes_nowhere_unhidden(address):
    with pytest.raises(InvalidField):
        checked_address(address)


def test_a_page_of_another_site_reaches_nothing(three):
    import httpx

    with replicas.serving(three[0].path) as address:
        for path in ("/api/sync/greeting", "/api/sync/outbox"):
            assert httpx.post(address + path, json={}).status_code == 422
        odd = httpx.get(f"{address}/api/sync/inbox/..%2f..%2fx", headers=shop_server.MARK)
        assert odd.status_code == 404
        sent = httpx.put(f"{address}/api/sync/pictures/{'0' * 64}", content=JPEGS[0], headers=shop_server.MARK)
        assert sent.status_code == 422


def test_it_goes_on_where_it_was_cut(three, monkeypatch):
    shop, van, _ = three
    monkeypatch.setattr(shop_server, "PIECE", 700)
    for number in range(12):
        act(van, readings.take_reading, amps(f"1.{number + 10}"))
        act(shop, readings.take_reading, amps(f"2.{number + 10}"))
    with replicas.serving(shop.path) as address:
        for what in ("PUT", "GET"):
            server, asked = server_of(address), []
            ask = server._ask

            def cut(method, path, asked=asked, ask=ask, what=what, **more):
                asked.append(method == what and ("inbox/" in path or "outbox/" in path))
                if sum(asked) == 4:
                    raise ShopUnreachable(address, "cut")
                return ask(method, path, **more)

            server._ask = cut
            with pytest.raises(ShopUnreachable):
                sync.sync_with_shop(van, context(), server)
            server.close()
        sizes = [file.stat().st_size for file in sync.folder_of(van, "coming").glob("*.part")]
        assert sizes == [3 * 700] or sizes[0] > 0
        report = over_https(van, address)
        assert report.came["reading"] == 12
        over_https(van, address)
        assert content(shop) == content(van)


def rewritten(file, change):
    """A package with its members changed and their checksums as they were."""
    with zipfile.ZipFile(file) as old:
        members = {name: old.read(name) for name in old.namelist()}
    members = change(members) or members
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as new:
        for name, data in members.items():
            new.writestr(name, data)
    out.seek(0)
    return out


SECRETS = replicas.SECRETS


def resealed(file, change):
    """A package whose content was changed by somebody who knows how it is sealed."""
    with open_package(file) as found:
        maker, since = found.contents.maker, found.contents.since
    with zipfile.ZipFile(file) as old:
        rows = {
            name.removesuffix(".jsonl"): [json.loads(line) for line in old.read(name).splitlines()]
            for name in old.namelist()
            if name.endswith(".jsonl") and name != "signed.jsonl"
        }
        replicas_of = json.loads(old.read("datapackage.json"))["keen_coil"]["replicas"]
        pictures = {name: old.read(name) for name in old.namelist() if name.endswith((".jpg", "signed.jsonl"))}
    change(rows)
    from keen_coil.formats.checked_zip import write_member
    from keen_coil.formats.sync_package import Contents, seal_and_sign

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as new:
        members = {
            f"{table}.jsonl": "".join(json.dumps(row) + "\n" for row in of).encode() for table, of in rows.items()
        }
        members |= pictures
        resources = [{"path": name, **write_member(new, name, [data])} for name, data in members.items()]
        says = Contents(
            format="keen-coil/sync", version=2, maker=maker, since=since, replicas=replicas_of, signature=""
        )
        manifest = {"keen_coil": says.model_dump(mode="json"), "resources": resources}
        seal_and_sign(manifest, SECRETS[maker.key])
        new.writestr("datapackage.json", json.dumps(manifest))
    out.seek(0)
    return out


def in_manifest(**changes):
    def change(members):
        manifest = json.loads(members["datapackage.json"])
        manifest["keen_coil"].update(changes)
        return {**members, "datapackage.json": json.dumps(manifest).encode()}

    return lambda file: rewritten(file, change)


def in_row(table, part="row", **changes):
    def change(rows):
        rows[table][-1]["parts"][part][0].update(changes)

    return lambda file: resealed(file, change)


def in_value(table, part="row", **changes):
    def change(rows):
        row = rows[table][-1]
        (row["with_row"][part] if part in row.get("with_row", {}) else row["parts"][part][0]["value"]).update(changes)

    return lambda file: resealed(file, change)


SPOILT = {
    "a changed member": (
        lambda f: rewritten(f, lambda m: {**m, "reading.jsonl": m["reading.jsonl"] + b" "}),
        "checksum",
    ),
    "a missing member": (lambda f: rewritten(f, lambda m: {k: v for k, v in m.items() if k != "call.jsonl"}), "member"),
    "one that is not listed": (lambda f: rewritten(f, lambda m: {**m, "x.jsonl": b"{}"}), "not listed"),
    "cut short": (lambda f: io.BytesIO(f.getvalue()[:-300]), "zip"),
    "another program's": (lambda f: rewritten(f, lambda m: {"a.txt": b"x"}), "no such member"),
    "a newer version": (in_manifest(version=3), "newer program"),
    "another format": (in_manifest(format="keen-coil/log"), "keen-coil/sync"),
    "another manifest": (in_manifest(since={}, replicas=[]), "checksum"),
    "no row": (lambda f: resealed(f, lambda r: r["call"].append(3)), "a row with"),
    "a part of its own": (lambda f: resealed(f, lambda r: r["call"][0]["parts"].update(x=[])), "a row with"),
    "a stamp that is none": (in_row("reading", at=[0, -1]), "a row with"),
    "a replica that is not named": (in_row("reading", at=[99, 5]), "a row with"),
    "a column of its own": (in_value("reading", color="red"), "newer"),
    "a kind that is none": (in_value("reading", body={"kind": "x", "value": 1}), "call"),
    "a plate that is none": (in_value("motor", "plate", plate={"rpm": "fast"}), "rpm"),
    "a call of nowhere": (in_value("reading", call_id="01a22b0f-7a8d-7209-8453-21e695272e28"), "that is here"),
    "an identity that is none": (lambda f: resealed(f, lambda r: r["reading"][-1].update(key="me")), "identity"),
    "a picture that is another": (
        lambda f: rewritten(f, lambda m: {k: JPEGS[2] if k.endswith(".jpg") else v for k, v in m.items()}),
        "checksum",
    ),
    "text where a number stands": (in_value("stock_movement", quantity="many"), "quantity"),
    "joined into itself": (in_value("unit", "joined", joined_into="f" * 36), "before it"),
}


def test_a_spoilt_package_is_refused_whole(three):
    shop, van, _ = three
    act(van, readings.take_reading, amps("1.41"))
    act(van, photographs.add_photograph, "plate", JPEGS[0])
    replicas.ACTS["open"](van, 4)
    replicas.ACTS["stock"](van, 0)
    before, good = content(shop), package(van).getvalue()
    for name, (spoil, says) in SPOILT.items():
        with pytest.raises(InvalidField, match=says):
            take_package(shop, context(), spoil(io.BytesIO(good)), "file")
        assert content(shop) == before, name
    take_package(shop, context(), io.BytesIO(good), "file")
    assert values(shop) == [1.41]


def test_nobody_speaks_for_another_laptop_and_a_technicians_token_decides_nothing(three):
    shop, van, other = three
    of_shop = sync_state(shop).uid
    check = {
        "key": f"{of_shop}\x1f{sync_state(other).uid}\x1f9",
        "parts": {"row": [{"at": [0, 9], "value": {"ahead_ms": 9**9}}]},
    }

    def change(rows):
        rows["clock_check"] = [check]
        rows["replica"][-1]["parts"]["row"][0]["value"]["is_shop"] = True

    forged = resealed(package(van), change)
    take_package(shop, context(), forged, "https", Bearer("technician", "T. 1"))
    assert "clock_check" not in content(shop) or content(shop)["clock_check"] == {}
    assert not any(one.is_shop for one in sync_state(shop).laptops)


def test_one_sync_at_a_time(three):
    shop, van, _ = three
    with replicas.serving(shop.path) as address, sync._alone(van), pytest.raises(RefusedNow, match="one at a time"):
        over_https(van, address)


def test_a_package_for_another_laptop_is_refused(three):
    shop, van, other = three
    act(shop, readings.take_reading, amps("1.41"))
    bring(shop, van)
    act(shop, readings.take_reading, amps("1.42"))
    with pytest.raises(InvalidField, match="another laptop"):
        take_package(other, context(), package(shop, replicas.knows(van)), "file")
    bring(shop, other)
    assert len(values(other)) == 2


def older(db, folder):
    """A copy of a laptop's database, as a backup or a cloned disk has it."""
    backup(db.path, folder / "older.db")
    return Database(folder / "older.db")


def test_a_van_restored_from_an_older_copy_loses_nothing(three, tmp_path):
    shop, van, other = three
    old = older(van, tmp_path)
    act(van, readings.take_reading, amps("1.41"))
    bring(van, shop)
    bring(shop, van)
    act(old, readings.take_reading, amps("1.55"))
    act(old, calls.save_complaint, {"says": "hums again"})
    with pytest.raises(OlderCopy, match="older copy"):
        take_package(shop, context(), package(old), "file")
    with replicas.serving(shop.path) as address:
        report = over_https(old, address)
        assert report.renewed
        assert any("nothing was lost" in line for line in report.lines)
        over_https(van, address)
    bring(shop, other)
    for db in (old, van, shop, other):
        assert sorted(map(str, values(db))) == ["1.41", "1.55"]
    bring(shop, old)
    assert content(old) == content(shop) == content(other)
    old.close()


def test_two_laptops_with_one_identity_are_told_apart(three, tmp_path):
    shop, van, _ = three
    twin = older(van, tmp_path)
    act(van, readings.take_reading, amps("1.41"))
    act(twin, readings.take_reading, amps("1.55"))
    act(twin, match.pick_motor, "TM-4027", "It carries this fan.")
    bring(van, shop)
    with pytest.raises(OlderCopy):
        take_package(shop, context(), package(twin), "file")
    assert run(tmp_path / "x.zip", "--new-identity", "--db", twin.path).exit_code == 0
    bring(twin, shop)
    for db in (van, twin):
        bring(shop, db)
        assert sorted(map(str, values(db))) == ["1.41", "1.55"]
        assert open_call_view(db, real_calls(db)[0]).row.chosen["part_no"] == "TM-4027"
        assert all_questions(db) == []
    assert content(van) == content(twin) == content(shop)
    act(van, readings.take_reading, amps("1.7"))
    bring(van, twin)
    assert len(values(twin)) == 3
    twin.close()


def test_a_shop_restored_from_an_older_copy_gets_everything_back(three, tmp_path):
    shop, van, other = three
    old = older(shop, tmp_path)
    act(shop, readings.take_reading, amps("1.41"))
    bring(shop, van)
    act(van, readings.take_reading, amps("1.42"))
    act(old, readings.take_reading, amps("1.55"))
    with replicas.serving(old.path) as address, pytest.raises(InvalidField, match="older copy"):
        over_https(van, address)
    sync.new_identity(old, stamp(0))
    with replicas.serving(old.path) as address:
        over_https(van, address)
        over_https(other, address)
    for db in (old, van, other):
        assert sorted(map(str, values(db))) == ["1.41", "1.42", "1.55"]
    old.close()


def test_a_clock_two_days_off_wins_nothing(three, monkeypatch):
    shop, van, other = three
    real = time.time_ns
    with monkeypatch.context() as off:
        off.setattr(time, "time_ns", lambda: real() + TWO_DAYS_NS)
        act(van, calls.save_complaint, {"says": "first, by a clock that is ahead"})
    time.sleep(0.01)
    act(shop, calls.save_complaint, {"says": "second, truly later"})
    with monkeypatch.context() as off:
        off.setattr(time, "time_ns", lambda: real() + TWO_DAYS_NS)
        sent = package(van)
    take_package(other, context(), package(shop), "file")
    with (
        monkeypatch.context() as off
    ):  # the other van's clock is as wrong: it sees nothing odd, and takes the first for later
        off.setattr(time, "time_ns", lambda: real() + TWO_DAYS_NS)
        take_package(other, context(), io.BytesIO(sent.getvalue()), "file")
    assert open_call_view(other, real_calls(other)[0]).row.complaint["says"].startswith("first")
    report = take_package(shop, context(), sent, "file")
    assert abs(report.ahead_ms / 3_600_000 - 48) < 1
    for db in (van, other):
        bring(shop, db)
    for db in (shop, van, other):
        assert open_call_view(db, real_calls(db)[0]).row.complaint["says"] == "second, truly later"
        assert [one.others[0].says for one in all_questions(db)] == [[("complaint", "first, by a clock that is ahead")]]
    assert sync_state(shop).laptops[0].clock_minutes == 48 * 60
    before = replicas.knows(shop)
    act(shop, calls.save_complaint, {"says": "third"})
    with shop.reading() as session:
        uid = sync_state(shop).uid
        from keen_coil.services.sync.replica_state import known

        assert known(session)[uid] - before[uid] < (1 << 16) * 3_600_000, "nobody is dragged two days along"


def test_what_two_wrote_apart_is_asked_and_decided_once(three):
    shop, van, other = three
    act(van, calls.save_complaint, {"says": "hums"})
    act(shop, calls.save_complaint, {"says": "trips"})
    bring(van, shop)
    bring(shop, other)
    (asked,) = questions_of_call(shop, real_calls(shop)[0])
    assert (asked.say, asked.used.says, asked.others[0].says) == (
        "the complaint",
        [("complaint", "trips")],
        [("complaint", "hums")],
    )
    chosen = asked.others[0].dot
    version = open_call_view(shop, real_calls(shop)[0]).row.version
    decide(shop, context(), *asked.address, chosen.origin, chosen.stamp)
    assert "the complaint, as van_1 has it" in changes_since(shop, real_calls(shop)[0], version).rows[-1].did
    with pytest.raises(InvalidField):
        decide(shop, context(), *asked.address, chosen.origin, chosen.stamp)
    act(other, readings.take_reading, amps("1.4"))
    bring(shop, van)
    bring(shop, other)
    for db in (shop, van, other):
        assert open_call_view(db, real_calls(db)[0]).row.complaint["says"] == "hums"
        assert all_questions(db) == []


def test_a_call_closed_on_one_van_takes_readings_of_another_and_stays_closed(three):
    shop, van, other = three
    act(van, match.pick_motor, "TM-4027", "It carries this fan.")
    act(van, hand_over.close_call, {"finish": "unfinished", "unfinished": "the run", "return_on": "2026-08-02"})
    act(other, readings.take_reading, amps("1.4"))
    act(other, calls.save_complaint, {"says": "hums"})
    bring(van, shop)
    bring(other, shop)
    row = open_call_view(shop, real_calls(shop)[0]).row
    assert row.closed_at is not None
    assert (row.complaint["says"], len(row.readings), len(row.follow_ups)) == ("hums", 1, 1)


def test_what_came_is_told_to_who_looks_at_the_call(three):
    shop, van, _ = three
    version = open_call_view(shop, real_calls(shop)[0]).row.version
    act(van, readings.take_reading, amps("1.4"))
    bring(van, shop)
    found = changes_since(shop, real_calls(shop)[0], version)
    assert found.version > version
    assert [row.did for row in found.rows] == ["read running amps: 1.4"]
    with pytest.raises(KeenCoilError):
        readings.take_reading(shop, real_calls(shop)[0], context(version), amps("1.5"))


def quantity(db, part="TM-4027", van="Van 1"):
    return {one.part_no: one.quantity for one in all_parts(db, van)}.get(part)


def moved(db, kind, many, to=""):
    stock.move_stock(
        db, context(), {"van": "Van 1", "part_no": "TM-4027", "kind": kind, "many": str(many), "to_van": to}
    )


def test_stock_adds_up_whoever_noted_it(three):
    shop, van, other = three
    moved(shop, "counted", 5)
    bring(shop, van)
    bring(shop, other)
    moved(van, "restocked", 3)
    moved(other, "moved", 2, "Van 2")
    time.sleep(0.01)
    moved(shop, "counted", 4)
    moved(shop, "restocked", 1)
    for sender, receiver in ((van, shop), (other, shop), (shop, van), (shop, other)):
        bring(sender, receiver)
    assert [quantity(db) for db in (shop, van, other)] == [5, 5, 5], "counted after all else but the last"
    assert [quantity(db, van="Van 2") for db in (shop, van, other)] == [2, 2, 2]
    lines = stock.last_movements(shop, "Van 1")
    assert sum(line.balance.change for line in lines if line.part_no == "TM-4027") == 5
    with pytest.raises(InvalidField, match="that is what Van 1 has"):
        moved(shop, "moved", 6, "Van 2")


def test_units_entered_twice_are_offered_and_joined_by_somebody(three):
    shop, van, other = three
    for db, rpm in ((van, "1075"), (shop, "825")):
        replicas.ACTS["open"](db, 1)
        call = real_calls(db)[-1]
        readings_of = context(open_call_view(db, call).row.version)
        save_plates(db, call, readings_of, {"motor.rpm": rpm})
    bring(van, shop)
    assert len(real_calls(shop)) == 3, "nothing is joined by itself"
    with shop.reading() as session:
        (twice,) = units_entered_twice(session)
    unit = settle_twice(shop, context(), twice.first.uid, twice.second.uid, True)
    for db in (van, other):
        bring(shop, db)
    for db in (shop, van, other):
        with db.reading() as session:
            assert units_entered_twice(session) == []
        assert [one.say for one in all_questions(db)] == ["the motor's nameplate"]
    history = unit_history(shop, unit)
    assert (len(history.lines), len(history.motors)) == (2, 1)
    assert len({row for row in calls.places(shop)}) == len(calls.places(shop))


def test_a_call_file_that_came_by_mail_is_the_call_that_comes_by_sync(three):
    shop, van, _ = three
    replicas.ACTS["open"](van, 2)
    act(van, readings.take_reading, amps("1.4"), call=-1)
    mailed = call_files.export_call(open_call_view(van, real_calls(van)[-1]))
    from keen_coil.core.call import read_call

    first = call_files.import_call(shop, context(), read_call(mailed), "x.call.json")
    assert call_files.import_call(shop, context(), read_call(mailed), "x.call.json") == first
    bring(van, shop)
    assert len(real_calls(shop)) == 2
    assert len(open_call_view(shop, first).call.readings) == 1


def sync_process(path, address):
    """A whole sync in a process of its own."""
    db = Database.opened(path)
    with suppress(ShopUnreachable):
        over_https(db, address)


def merge_process(path, data):
    """A merge in a process of its own."""
    take_package(Database.opened(path), context(), io.BytesIO(data), "file")


def killed(target, args, after):
    """Run it in a fork and kill it at a moment; whether it came to its end before."""
    child = multiprocessing.get_context("fork").Process(target=target, args=args)
    child.start()
    child.join(after)
    with suppress(ProcessLookupError):
        os.kill(child.pid, signal.SIGKILL)
    child.join()
    return child.exitcode == 0


def is_whole(path):
    with sqlite3.connect(path) as found:
        assert found.execute("pragma quick_check").fetchone() == ("ok",)
        assert found.execute("pragma foreign_key_check").fetchall() == []
        assert found.execute("select is_merging from replica_clock").fetchone() == (0,)
        far = found.execute("select count(*) from reading where position > 100000").fetchone()
        assert far == (0,), "half merged"


def test_the_van_is_killed_again_and_again(three):
    shop, van, _ = three
    chance, ends = random.Random(3), 0
    with replicas.serving(shop.path) as address:
        over_https(van, address)
        for number in range(KILLS):
            act(van, readings.take_reading, amps(f"1.{number + 10}"))
            act(shop, readings.take_reading, amps(f"2.{number + 10}"))
            van.engine.dispose()
            ends += killed(sync_process, (van.path, address), chance.uniform(0, 0.5))
            is_whole(van.path)
        over_https(van, address)
        over_https(van, address)
    assert ends < KILLS
    assert len(values(van)) == 2 * KILLS
    assert content(van) == content(shop)


def test_the_shop_is_killed_again_and_again_while_it_merges(three):
    shop, van, _ = three
    chance, ends = random.Random(4), 0
    for number in range(KILLS):
        act(van, readings.take_reading, amps(f"1.{number + 10}"))
        data = package(van, replicas.knows(shop)).getvalue()
        shop.engine.dispose()
        before = len(values(shop))
        shop.engine.dispose()
        after = PATIENCE_S if number % 5 == 4 else chance.uniform(0, 0.25)
        ended = killed(merge_process, (shop.path, data), after)
        is_whole(shop.path)
        ends += ended
        assert len(values(shop)) in ((number + 1,) if ended else (before, number + 1)), "all of it or nothing"
    assert KILLS / 10 <= ends < KILLS
    bring(van, shop)
    assert len(values(shop)) == KILLS


def test_a_renewed_identity_is_another(three):
    with three[1].writing() as session:
        before = sync_state(three[1]).uid
        assert renew_identity(session, 0) != before
