"""A shop that can be trusted: what a tampered laptop, a technician's token or a stranger's file cannot do."""

import asyncio
import io
import json
import os
import re
import socket
import sqlite3
import threading
import zipfile
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from pathlib import Path

import httpx
import pytest

from keen_coil import serving
from keen_coil.core.errors import InvalidField, KeenCoilError
from keen_coil.core.replicas.merge import RULES
from keen_coil.core.replicas.signing import sign
from keen_coil.formats.sync_package import Greeting
from keen_coil.services.calls import call_files, calls, photographs, readings
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.people.accounts import add_account, sign_in, sign_out
from keen_coil.services.stations import hand_over, match
from keen_coil.services.stations.follow_ups import as_calendar, open_follow_ups
from keen_coil.services.sync import lineage, merge_package, sync, tokens
from keen_coil.services.sync.authors import Bearer, LaptopToldOff, forget_key, make_managers, tell_off
from keen_coil.services.sync.inbox import answer_greeting, take_piece
from keen_coil.services.sync.merge_package import take_package
from keen_coil.services.sync.replica_rows import RowWriter
from keen_coil.services.sync.replica_state import known, note_own_writes
from keen_coil.services.sync.state import sync_state
from keen_coil.services.sync.tokens import account_of_token, count_bytes, end_token, make_token
from keen_coil.services.sync.two_versions import decide
from keen_coil.store.copies import backup
from keen_coil.store.opening import look_at
from keen_coil.store.replica_tables import ReplicaKey
from keen_coil.web import middleware
from keen_coil.web.sign_in_threads import MOST_WAITING, SignInThreads
from keen_coil.web.workers import ServerBusy
from tests import replicas
from tests.fixtures import NOW, PATIENCE_S, stamp
from tests.replicas import JPEGS, bring, content, context, knows, package, real_calls
from tests.test_sync import act, amps, resealed

HAND = Bearer("technician", "T. 1")
CLOSE = {"finish": "unfinished", "unfinished": "the run", "return_on": "2026-08-02"}


@pytest.fixture(scope="module")
def master(tmp_path_factory):
    """A shop with a manager; two vans that technicians paired; a closed call and an open one that all know."""
    folder = tmp_path_factory.mktemp("master")
    replicas.three(folder)
    shop, *vans = found = replicas.opened_in_place(folder)
    add_account(shop, stamp(0), "Mara Hollin", "a long password", "manager")
    for number in (0, 1):
        replicas.ACTS["open"](vans[0], number)
    act(vans[0], readings.take_reading, amps("1.41"))
    act(vans[0], match.pick_motor, "TM-4027", "It carries this fan.")
    act(vans[0], hand_over.close_call, CLOSE)
    for _ in range(2):
        for van in vans:
            take_package(shop, context(), package(van, knows(shop)), "https", HAND)
            bring(shop, van)
    for db in found:
        db.close()
    return folder


@pytest.fixture
def three(master, tmp_path):
    found = replicas.opened(master, tmp_path)
    yield found
    for db in found:
        db.close()


def sent(van, shop, change):
    """What a tampered laptop sends: signed with its own key, by its technician's token."""
    made = package(van, {} if change else knows(shop))
    return take_package(shop, context(), resealed(made, change), "https", HAND)


def later(rows):
    return 1 + max(
        write["at"][1] for of in rows.values() for row in of for part in row["parts"].values() for write in part
    )


def number_of(van):
    """The number of the maker in the list of replicas of its own package: its first row is its own."""
    with zipfile.ZipFile(package(van)) as found:
        named = json.loads(found.read("datapackage.json"))["keen_coil"]["replicas"]
    return named.index(sync_state(van).uid)


def own_write(van, rows, value, over=()):
    return {"at": [number_of(van), later(rows)], "value": value, "over": [list(dot) for dot in over]}


def dots_of(row, part="row"):
    return [write["at"] for write in row["parts"].get(part, row["parts"]["row"])]


def takes_away(table, which=0):
    """A row of the table is taken away, over what it was."""

    def change(van, rows):
        row = rows[table][which]
        row["parts"]["row"] = [own_write(van, rows, None, dots_of(row))]
        row.pop("with_row", None)

    return change


def writes_over(table, part, **fields):
    def change(van, rows):
        row = next(row for row in rows[table] if closed(row) or table != "call")
        had = row.get("with_row", {}).get(part) or row["parts"].get(part, [{}])[0].get("value") or {}
        row["parts"][part] = [own_write(van, rows, {**had, **fields}, dots_of(row, part))]
        row.get("with_row", {}).pop(part, None)

    return change


def closed(row):
    told = row.get("with_row", {}).get("outcome") or row["parts"].get("outcome", [{}])[0].get("value") or {}
    return bool(told.get("closed_at"))


def adds(table, **fields):
    """One more row like the last one, of its own identity."""

    def change(van, rows):
        from keen_coil.store.columns import new_uid

        like = rows[table][-1]
        rows[table].append(
            {"key": new_uid(), "parts": {"row": [own_write(van, rows, like["parts"]["row"][0]["value"] | fields)]}}
        )

    return change


def of_closed(change):
    """A new row of the closed call, by a laptop that knows that it is closed."""

    def do(van, rows):
        uid = next(row["key"] for row in rows["call"] if closed(row))
        adds(change, call_id=uid)(van, rows)

    return do


REFUSED = {
    "an audit row taken away": (takes_away("act"), "never goes"),
    "a reading taken away": (takes_away("reading"), "never goes"),
    "a call taken away": (takes_away("call"), "never goes"),
    "a stock movement taken away": (takes_away("stock_movement"), "never goes"),
    "an audit row rewritten": (writes_over("act", "row", says="nothing happened"), "never changes"),
    "a reading rewritten": (writes_over("reading", "row", kind="spin"), "never changes"),
    "a closed call opened": (writes_over("call", "outcome", closed_at=None), "closed call"),
    "a closed call's complaint": (writes_over("call", "complaint", complaint={"says": "x"}), "closed call"),
    "a call hidden as practice": (writes_over("call", "row", practice=True), "never changes"),
    "a reading added to a closed call": (of_closed("reading"), "closed call"),
    "an act of the manager": (adds("act", who="Mara Hollin"), "an act of Mara Hollin"),
    "a movement of the manager": (adds("stock_movement", who="Mara Hollin"), "an act of Mara Hollin"),
    "a picture made a script": (writes_over("photograph", "row", media_type="text/html"), "never changes"),
    "a picture that is a script": (adds("photograph", media_type="text/html"), "image/jpeg"),
    "a day that has no morrow": (adds("follow_up", due_on="9999-12-31"), "a year from"),
}


@pytest.fixture
def tampered(three):
    """The shop, and a van whose owner writes packages by hand; it has a photograph and a movement of its own."""
    shop, van, _ = three
    act(van, photographs.add_photograph, "plate", JPEGS[0], call=1)
    act(van, hand_over.add_follow_up, {"kind": "watch", "says": "look again", "due_on": "2026-08-01"}, call=1)
    replicas.ACTS["stock"](van, 0)
    take_package(shop, context(), package(van, knows(shop)), "https", HAND)
    return shop, van


def test_what_no_page_does_is_refused_whole_and_by_name(tampered):
    shop, van = tampered
    before = content(shop)
    for name, (change, says) in REFUSED.items():
        with pytest.raises(InvalidField, match=says) as refused:
            sent(van, shop, lambda rows, change=change: change(van, rows))
        assert "van_1" in str(refused.value) or says in ("image/jpeg", "a year from"), name
        assert content(shop) == before, name


LEFT_OUT = {
    "somebody's van": writes_over("technician", "van", van="Van 9"),
    "limits": lambda van, rows: rows.setdefault("setting", []).append(
        {
            "key": "shop",
            "parts": {"row": [own_write(van, rows, {"value": {"name": "Mine"}, "changed_at": "2026-07-01T10:00:00Z"})]},
        }
    ),
    "who is the shop": writes_over("replica", "row", is_shop=True),
    "another's key": writes_over("replica", "row", public_key="0" * 64),
    "a laptop paired as a manager's": lambda van, rows: rows.setdefault("laptop", []).append(
        {
            "key": sync_state(van).uid,
            "parts": {"row": [own_write(van, rows, {"role": "manager", "paired_at": "2026-07-01T10:00:00Z"})]},
        }
    ),
    "a part of the catalog": takes_away("catalogue_motor"),
    "a part of a van": takes_away("van_part"),
}


def test_what_only_a_manager_or_the_shop_says_is_left_out(tampered):
    shop, van = tampered
    before, state = content(shop), sync_state(shop)
    for name, change in LEFT_OUT.items():
        sent(van, shop, lambda rows, change=change: change(van, rows))
        assert content(shop) == before, name
    after = sync_state(shop)
    assert [(one.uid, one.name, one.is_shop, one.role, one.key) for one in after.laptops] == [
        (one.uid, one.name, one.is_shop, one.role, one.key) for one in state.laptops
    ]
    from keen_coil.services.people.settings import shop_name

    assert shop_name(shop) != "Mine"


def test_nobody_writes_as_another_laptop(three):
    """Acts under the other van's name, in a package that the forger signed."""
    shop, van, other = three
    before = content(shop)

    def change(rows):
        rows["act"].append(json.loads(json.dumps(rows["act"][-1])))
        rows["act"][-1]["key"] = "forged-act-0001"
        rows["act"][-1]["parts"]["row"] = [
            {"at": [forged, later(rows)], "value": rows["act"][0]["parts"]["row"][0]["value"]}
        ]

    act(other, readings.take_reading, amps("1.7"), call=1)
    bring(other, van)
    with zipfile.ZipFile(package(van)) as found:
        named = json.loads(found.read("datapackage.json"))["keen_coil"]["replicas"]
    forged = named.index(sync_state(other).uid)
    report = sent(van, shop, change)
    assert report.refused == {"van_2 did not sign": 1}
    there = content(shop)
    assert "forged-act-0001" not in there["act"]
    assert len(there["reading"]) == len(before["reading"]) + 1, "what van_2 did sign came along"
    bring(other, shop)
    assert content(shop)["reading"] == content(other)["reading"]


def test_a_package_is_its_makers_or_refused(three):
    shop, van, other = three
    act(van, readings.take_reading, amps("1.7"), call=1)
    made = package(van, knows(shop))
    with other.reading() as session:
        key = session.get(ReplicaKey, 1).secret
    had = dict(replicas.SECRETS)
    try:
        replicas.SECRETS.update({public: key for public in replicas.SECRETS})
        with pytest.raises(InvalidField, match="the signature of van_1"):
            take_package(shop, context(), resealed(made, lambda rows: None), "https", HAND)
    finally:
        replicas.SECRETS.update(had)


def greeting(db, **changes):
    with db.writing() as session:
        note_own_writes(session)
        found = lineage.signed_greeting(session)
        secret = lineage.secret_of(session)
    found = found.model_copy(update=changes)
    return found.model_copy(update={"signature": sign(secret, found.text())}) if changes else found


def test_another_key_is_another_laptop_until_a_manager_lets_it_pair_anew(three):
    shop, van, other = three
    stolen = greeting(other, uid=sync_state(van).uid, name="van_1", knows={}, marks={})
    assert Greeting.model_validate(stolen.model_dump()).text() == stolen.text()
    with pytest.raises(InvalidField, match="another key than it had"):
        answer_greeting(shop, stolen, HAND, NOW)
    with van.writing() as session:  # made anew, as on a laptop that was put together from its backup by hand
        session.connection().exec_driver_sql("update replica_key set secret = ?", (bytes(32),))
        lineage.me(session).public_key = None
    with pytest.raises(InvalidField, match="another key than it had"):
        answer_greeting(shop, greeting(van), HAND, NOW)
    forget_key(shop, context(), sync_state(van).uid)
    assert answer_greeting(shop, greeting(van), HAND, NOW).is_shop


def test_a_lost_laptop_is_told_off_and_taken_back(three):
    shop, van, other = three
    act(van, readings.take_reading, amps("1.7"), call=1)
    uid = sync_state(van).uid
    tell_off(shop, context(), uid, back=False)
    with pytest.raises(LaptopToldOff, match="van_1"):
        answer_greeting(shop, greeting(van), HAND, NOW)
    before = content(shop)
    with pytest.raises(LaptopToldOff):
        take_package(shop, context(), package(van, knows(shop)), "file")
    bring(van, other)
    report = take_package(shop, context(), package(other, knows(shop)), "file")
    assert sum(report.refused.values()) > 0
    assert content(shop)["reading"] == before["reading"], "nor by way of another"
    sync.new_identity(van, stamp(0))
    with pytest.raises(LaptopToldOff):
        take_package(shop, context(), package(van), "file")
    bring(shop, other)
    assert [one.told_off for one in sync_state(other).laptops if one.uid == uid] != [None], "the vans are told too"
    tell_off(shop, context(), uid, back=True)
    bring(van, shop)
    assert len(content(shop)["reading"]) == len(before["reading"]) + 1


def test_nobody_says_what_another_laptop_knows(three):
    """A van that claims to know all of the third does not swallow what that one has not sent."""
    shop, van, other = three
    act(other, readings.take_reading, amps("1.7"), call=1)
    with van.writing() as session:
        uid = sync_state(other).uid
        session.connection().exec_driver_sql(
            "update replica set knows = ? where uid = ?", (knows(other)[uid] + 9**9, uid)
        )
    bring(van, shop)
    assert bring(other, shop).came["reading"] == 1


def test_a_stamp_that_no_clock_gives_stops_nobody(three):
    shop, van, other = three
    far = 2**62 - 2
    with pytest.raises(InvalidField, match="by its own clock"):
        answer_greeting(shop, greeting(van, knows={sync_state(van).uid: far}), HAND, NOW)
    with pytest.raises(InvalidField, match="set the clock"):
        answer_greeting(shop, greeting(van, now_ms=2**45), HAND, NOW)
    uid = sync_state(shop).uid
    answer_greeting(shop, greeting(van, knows={uid: far, sync_state(other).uid: far}), HAND, NOW)
    with van.writing() as session:
        session.connection().exec_driver_sql("update replica set knows = ? where uid = ?", (far, uid))
    bring(van, shop)
    for db in (shop, other):
        with db.reading() as session:
            assert max(known(session).values()) < far
    for _ in range(2):
        bring(other, shop)
        bring(shop, other)
    act(other, readings.take_reading, amps("1.7"), call=1)
    assert bring(other, shop).came["reading"] == 1


def test_a_damaged_state_heals_with_one_command(three):
    shop, van, _ = three
    act(van, readings.take_reading, amps("1.7"), call=1)
    with van.writing() as session:
        connection = session.connection()
        connection.exec_driver_sql(
            "update replica set knows = ?, their_knows = '{\"x\": 4611686018427387900}' where id > 1", (2**62 - 9,)
        )
        connection.exec_driver_sql("update replica_clock set stamp = ?", (2**62 - 9,))
    act(van, readings.take_reading, amps("1.8"), call=1)
    told = lineage.heal(van, context())
    assert any("new identity" in line for line in told)
    assert lineage.heal(van, context()) == ["Nothing was damaged."]
    bring(van, shop)
    bring(shop, van)
    assert content(van) == content(shop)
    act(shop, readings.take_reading, amps("1.9"), call=1)
    bring(shop, van)
    assert content(van) == content(shop)


def test_a_renewed_shop_is_the_shop_and_its_vans_know_it(three):
    shop, van, _ = three
    sync.new_identity(shop, stamp(0))
    bring(shop, van)
    assert [one.is_shop for one in sync_state(van).laptops if one.uid == sync_state(shop).uid] == [True]
    assert not sync_state(van).is_shop


def test_no_form_keeps_a_day_that_has_no_morrow(three):
    van = three[1]
    for day in ("9999-12-31", "0001-01-01"):
        with pytest.raises(InvalidField, match=r"due_on: got .*a year from 1970 to 2200"):
            act(van, hand_over.add_follow_up, {"kind": "watch", "says": "look again", "due_on": day}, call=1)
    assert as_calendar([replace(open_follow_ups(van)[0], due_on=date.max)], NOW)


def test_about_a_closed_call_a_manager_decides_at_the_shop(three):
    shop, van, other = three
    act(van, hand_over.close_call, CLOSE, call=1)
    act(other, calls.save_complaint, {"says": "trips"}, call=1)
    bring(van, shop)
    take_package(shop, context(), package(other, knows(shop)), "https", HAND)
    bring(shop, van)
    for db, is_manager in ((shop, False), (van, True)):
        row = open_call_view(db, real_calls(db)[1]).row
        with pytest.raises(InvalidField):
            decide(db, context(), "call", row.uid, "complaint", sync_state(db).uid, 1, is_manager)
    with pytest.raises(InvalidField, match="that two wrote apart"):
        decide(shop, context(), "sqlite_master", "x", "row", "x", 1)


def test_tokens_are_listed_end_one_by_one_and_all_at_once(three):
    shop = three[0]
    now = datetime.now(UTC)
    add_account(shop, stamp(0), "Corin Hask", "a long password", "technician")
    first, second = (make_token(shop, stamp(now=now), "Corin Hask", name) for name in ("van 1", "van 2"))
    assert {one.name for one in tokens.tokens(shop, "Corin Hask")} == {"van 2", "van 1"}
    assert {one.name for one in tokens.tokens(shop, None)} == {"van 1", "van 2"}
    mine = next(one for one in tokens.tokens(shop, "Corin Hask") if one.name == "van 1")
    with pytest.raises(KeenCoilError):
        end_token(shop, stamp(0), "Mara Hollin", mine.id)
    end_token(shop, stamp(0), "Corin Hask", mine.id)
    assert account_of_token(shop, first, now) is None
    assert account_of_token(shop, second, now).name == "Corin Hask"
    assert account_of_token(shop, second, now + tokens.LASTS + timedelta(minutes=1)) is None
    cookie = sign_in(shop, stamp(now=now), "Corin Hask", "a long password", "10.0.0.7")
    sign_out(shop, stamp(0), cookie, everywhere=True)
    assert account_of_token(shop, second, now) is None


def test_one_token_fills_no_disk(three):
    shop = three[0]
    now = datetime.now(UTC)
    add_account(shop, stamp(0), "Corin Hask", "a long password", "technician")
    found = account_of_token(shop, make_token(shop, stamp(now=now), "Corin Hask"), now)
    count_bytes(shop, found.token, tokens.BYTES_A_DAY - 10, now)
    with pytest.raises(tokens.TooMuchToday):
        count_bytes(shop, found.token, 11, now)
    count_bytes(shop, found.token, 11, now + timedelta(days=1))
    digests = [f"{number:064x}" for number in range(6)]
    with pytest.raises(InvalidField, match="packages waiting"):
        for digest in digests:
            take_piece(shop, HAND, digest, 0, b"x")
    assert take_piece(shop, Bearer("technician", "T. 2"), digests[0], 0, b"x") == 1, "nobody takes another's room"


def test_a_small_zip_does_not_fill_the_memory(three):
    """A package of a row that packs a thousand times."""
    shop, van, _ = three
    bomb = resealed(package(van), lambda rows: rows["call"][0].update(x="0" * 200_000_000))
    assert len(bomb.getvalue()) < 2_000_000
    with pytest.raises(InvalidField, match="unpacked"):
        take_package(shop, context(), bomb, "file")


def not_bare(extra):
    """Pictures with something in them besides their pixels."""
    plain = JPEGS[0]
    comment = b"\xff\xfe\x00" + bytes([len(extra) + 2]) + extra
    return plain[:2] + comment + plain[2:], plain + extra


@pytest.mark.parametrize("number", [0, 1])
def test_a_picture_has_nothing_but_its_pixels(number):
    from keen_coil.services.calls.photographs import checked_jpeg

    for good in JPEGS:
        assert checked_jpeg(good, "x") == good
    with pytest.raises(InvalidField, match="nothing but its pixels"):
        checked_jpeg(not_bare(b"<script>alert(1)</script>")[number], "x")


HOSTILE = [
    "\ud800",
    "x\x00y",
    "9999-12-31",
    "0001-01-01T00:00:00Z",
    2**70,
    float("nan"),
    [],
    {"a": "\udfff"},
    "<script>",
    "x" * 5000,
    -1,
    True,
]


def test_no_value_of_a_package_is_too_hostile(tampered):
    """Every column of every table that is in the package, with each hostile value: refused in words, or harmless."""
    shop, van = tampered

    good, taken = package(van).getvalue(), 0
    columns = [
        (table, name, column)
        for table, of in RULES.items()
        for name, part in of.parts.items()
        for column in part.columns
    ]
    for number, (table, part, column) in enumerate(columns):
        for value in (HOSTILE[number % len(HOSTILE)], HOSTILE[(number * 5 + 1) % len(HOSTILE)]):

            def change(rows, table=table, part=part, column=column, value=value):
                for row in rows.get(table, [])[-1:]:
                    into = row.get("with_row", {}).get(part) or row["parts"].get(part, [{}])[0].get("value")
                    if into is not None:
                        into[column] = value

            spoilt = resealed(io.BytesIO(good), change)
            van_db = replicas.fresh(shop)
            try:
                take_package(van_db, context(), spoilt, "file")
                taken += 1
                as_calendar(open_follow_ups(van_db), NOW)
                "".join(call_files.readings_lines(van_db)).encode()
                for call_id in real_calls(van_db):
                    open_call_view(van_db, call_id)
            except InvalidField as error:
                assert error.errors[0].expected
            van_db.close()
    assert taken > 10


def test_half_a_request_keeps_no_place(three, monkeypatch, caplog):
    """Half a head, a body that does not come, and between them a page that does; nothing is traced."""
    monkeypatch.setattr(serving, "HEAD_S", 0.3)
    monkeypatch.setattr(middleware, "BODY_S", 0.3)
    half = b"POST /settings HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-type: text/plain\r\ncontent-length: 9\r\n\r\nabc"
    with replicas.serving(three[0].path) as address:
        port = int(address.rpartition(":")[2])
        for sent_so_far in (b"", b"GET / HTTP/1.1\r\nhost: ", b"GET / HTTP/1.1\r\nhost: 127.0.0.1\r\n\r\nGET /", half):
            with socket.create_connection(("127.0.0.1", port), timeout=PATIENCE_S) as caller:
                caller.sendall(sent_so_far)
                while caller.recv(1 << 16):
                    pass
        assert httpx.get(address).status_code == 200
    assert [record.message for record in caplog.records if record.exc_info] == []


def test_a_flood_of_sign_ins_is_asked_to_come_again():
    async def flood():
        threads, gate = SignInThreads(), threading.Event()
        waiting = [asyncio.ensure_future(threads.run(gate.wait)) for _ in range(MOST_WAITING)]
        await asyncio.sleep(0)
        with pytest.raises(ServerBusy):
            await threads.run(int)
        gate.set()
        await asyncio.gather(*waiting)
        return await threads.run(int)

    with ThreadPoolExecutor(1) as apart:
        assert apart.submit(asyncio.run, flood()).result() == 0


def test_a_backup_is_made_where_nothing_can_be_written_beside_the_file(three, tmp_path, monkeypatch):
    shop, before = three[0], len(real_calls(three[0]))
    (tmp_path / "out").mkdir()
    writable = os.access
    monkeypatch.setattr(
        os, "access", lambda path, how, **more: path != shop.path.parent and writable(path, how, **more)
    )
    assert backup(shop.path, tmp_path / "out" / "copy.db").calls == before
    assert [file.name for file in (tmp_path / "out").iterdir()] == ["copy.db"]


def test_after_an_end_that_was_not_clean_a_page_of_another_time_is_noticed(three, tmp_path):
    """A torn file: one page of an index as it was before."""
    shop, path = three[0], tmp_path / "torn.db"
    with closing(sqlite3.connect(shop.path)) as file:
        file.execute("pragma wal_checkpoint(truncate)")
        (root,) = file.execute("select rootpage from sqlite_master where name = 'ix_reading_uid'").fetchone()
        (size,) = file.execute("pragma page_size").fetchone()
    old = shop.path.read_bytes()[(root - 1) * size : root * size]
    act(shop, readings.take_reading, amps("1.9"), call=1)
    backup(shop.path, path)
    with path.open("r+b") as file:
        file.seek((root - 1) * size)
        file.write(old)
    look_at(path)
    path.with_name("torn.db-wal").write_bytes(b"x")
    with pytest.raises(InvalidField, match="a damaged database"):
        look_at(path)


def test_the_lock_files_agree():
    pins = {}
    for file in Path(__file__).parents[1].glob("requirements*.txt"):
        for name, version in re.findall(r"^([\w.-]+)==([^ ]+)", file.read_text(), re.M):
            pins.setdefault(name, set()).add(version)
    assert len(pins) > 60
    assert {name: versions for name, versions in pins.items() if len(versions) > 1} == {}


def test_a_large_package_in_slices_is_what_it_is_at_once_and_goes_on_where_it_was_cut(three, monkeypatch):
    shop, van, other = three
    for number in range(2, 6):
        replicas.ACTS["open"](van, number)
        act(van, readings.take_reading, amps(f"1.{number}"), call=-1)
    made = package(van, {}).getvalue()
    monkeypatch.setattr(merge_package, "AT_ONCE", 0)
    monkeypatch.setattr(merge_package, "CALLS_AT_ONCE", 1)
    monkeypatch.setattr(merge_package, "BREATH_S", 0)
    monkeypatch.setattr(merge_package, "SLICE_S", 0)
    touch = RowWriter.touch

    def cut(self, calls, progress=None):
        if "tried" not in str(self._session.get_bind().url):
            raise KeyboardInterrupt
        touch(self, calls)

    with monkeypatch.context() as cutting:
        cutting.setattr(RowWriter, "touch", cut)
        with pytest.raises(KeyboardInterrupt):
            take_package(shop, context(), io.BytesIO(made), "file")
    before = content(shop)
    spoilt = resealed(
        io.BytesIO(made), lambda rows: rows["reading"][-1]["parts"]["row"][0]["value"].update(body={"kind": "x"})
    )
    with pytest.raises(InvalidField):
        take_package(other, context(), spoilt, "file")
    take_package(shop, context(), io.BytesIO(made), "file")
    assert content(shop) == content(van) == before
    with shop.reading() as session:
        assert session.connection().exec_driver_sql("select count(*) from call where search_text = ''").scalar() == 0


def test_a_file_that_a_manager_brings_makes_its_laptop_no_managers(three):
    shop, van, _ = three
    role = lambda: next(one.role for one in sync_state(shop).laptops if one.uid == sync_state(van).uid)  # noqa: E731
    bring(van, shop)
    assert role() == "technician"
    make_managers(shop, context(), sync_state(van).uid)
    assert role() == "manager"


def test_a_laptop_that_is_told_off_has_no_token_left(three):
    shop, van, _ = three
    now = datetime.now(UTC)
    add_account(shop, stamp(0), "T. 1", "a long password", "technician")
    token = make_token(shop, stamp(now=now), "T. 1")
    tell_off(shop, context(), sync_state(van).uid, back=False)
    assert account_of_token(shop, token, now) is None


def test_not_even_a_manager_opens_a_closed_call(tampered):
    shop, van = tampered
    make_managers(shop, context(), sync_state(van).uid)
    before = content(shop)
    with pytest.raises(InvalidField, match="closed call"):
        sent(van, shop, lambda rows: writes_over("call", "outcome", closed_at=None)(van, rows))
    assert content(shop) == before
