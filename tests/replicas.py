"""Three laptops of one shop, for tests: what each holds, and packages that go between them."""

from __future__ import annotations

import io
import itertools
import os
import shutil
import socket
import threading
import time
from contextlib import contextmanager
from datetime import timedelta

import uvicorn

from keen_coil.core.replicas.merge import LOCAL_SETTINGS, RULES
from keen_coil.services.calls import call_files, calls, changes, photographs, readings
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.catalog import stock
from keen_coil.services.catalog.shelf_import import import_all
from keen_coil.services.demo.demo import DATA
from keen_coil.services.log import log
from keen_coil.services.people import people
from keen_coil.services.practice import cases
from keen_coil.services.stations import finding, follow_ups, hand_over, hook_up, make_safe, match, plates, swap
from keen_coil.services.sync import lineage
from keen_coil.services.sync.merge_package import take_package
from keen_coil.services.sync.package import make_package
from keen_coil.services.sync.replica_joins import settle_twice, units_entered_twice
from keen_coil.services.sync.replica_state import Numbers, known, note_own_writes, state_of
from keen_coil.services.sync.replica_values import rows_told
from keen_coil.serving import PromptConnection
from keen_coil.settings import Settings
from keen_coil.store.database import Database
from keen_coil.store.replica_tables import ReplicaKey
from keen_coil.store.touching import key_sql
from keen_coil.web.app import create_app
from tests.fixtures import NOW, PATIENCE_S, stamp

NAMES = ("shop", "van_1", "van_2")
_minutes = itertools.count()


def three(folder):
    """A shop with its shelf and two vans that have it, as files."""
    shop = Database(folder / "shop.db")
    for name in ("motors.csv", "van.csv"):
        import_all(shop, stamp(0), (DATA / name).read_bytes())
    people.save_person(shop, stamp(0), {"name": "T. 1", "van": "Van 2"})
    for name in NAMES[1:]:
        van = Database(folder / f"{name}.db")
        lineage.name_replica(van, stamp(0), name, False)
        bring(shop, van)
        van.close()
    shop.close()


def opened(master, folder):
    """Copies of the three, opened; each keeps its identity."""
    return [Database.opened(shutil.copy(master / f"{name}.db", folder / f"{name}.db")) for name in NAMES]


def opened_in_place(folder):
    """The three themselves."""
    return [Database.opened(folder / f"{name}.db") for name in NAMES]


def fresh(beside):
    """A laptop on which nothing was done yet."""
    return Database(beside.path.with_name(f"fresh-{next(_minutes)}.db"))


def package(sender, knows=None, pictures=True):
    """What somebody lacks who knows so much, as a file."""
    out = io.BytesIO()
    make_package(sender, out, knows or {}, pictures)
    with sender.reading() as session:
        SECRETS[lineage.me(session).public_key] = session.get(ReplicaKey, 1).secret
    out.seek(0)
    return out


SECRETS = {}
"""The secret keys of laptops that made a package here, by their public ones: what a tampered laptop has."""


def knows(db):
    with db.writing() as session:
        note_own_writes(session)
        return known(session)


def bring(sender, receiver, whole=False):
    """One package from one to another."""
    return take_package(receiver, context(), package(sender, {} if whole else knows(receiver)), "file")


def context(version=0):
    """An act a minute after the last one."""
    return stamp(version, NOW + timedelta(minutes=next(_minutes) % 50_000))


def keys(db, table):
    with db.reading() as session:
        found = session.connection().exec_driver_sql(f'select {key_sql(table, table)} from "{table}"').scalars()  # noqa: S608
        local = LOCAL_SETTINGS if table == "setting" else ()
        return sorted(key for key in found if key is not None and key not in local)


def content(db):
    """Everything that travels, by table and key; what only the shop decides is compared where the shop wrote it."""
    found = {}
    with db.reading() as session:
        for table in RULES:
            if table not in ("act", "setting", "mark", "replica", "laptop"):
                found[table] = rows_told(session, table, keys(db, table))
        parts = session.connection().exec_driver_sql("select van, part_no, quantity from van_part order by 1, 2").all()
        found["quantities"] = {(van, part): many for van, part, many in parts}
        found["positions"] = (
            session.connection()
            .exec_driver_sql("select uid, position, json_extract(body, '$.replaces') from reading order by uid")
            .all()
        )
        of_calls = "select id from act where call_id is not null order by id"
        found["act"] = session.connection().exec_driver_sql(of_calls).scalars().all()
    return found


def whole_state(db):
    """The state that is merged: every part of every row with its writes."""
    with db.writing() as session:
        note_own_writes(session)
    with db.reading() as session:
        entities = session.connection().exec_driver_sql("select distinct in_table, row_key from part_write").all()
        return state_of(session, [(table, key) for table, key in entities], Numbers(session))


def comparable(state):
    """A state as it can be compared: of rows that are gone no values, and no reference that a joining moved."""
    gone = {at[:2] for at, writes in state.items() if at.part == "row" and all(one.value is None for one in writes)}
    moves = {("call", "motor"), ("motor", "row")}

    def plain(at, writes):
        bare = at[:2] in gone or (at.table, at.part) in moves
        return tuple(one._replace(value=None) for one in writes) if bare else writes

    return {at: plain(at, writes) for at, writes in state.items() if at.table not in ("mark", "replica", "laptop")}


def real_calls(db):
    with db.reading() as session:
        return (
            session.connection().exec_driver_sql("select id from call where not practice order by uid").scalars().all()
        )


def on_call(act):
    """An act on one of the open calls of a laptop."""

    def do(db, number):
        found = real_calls(db)
        if found:
            call_id = found[number % len(found)]
            act(db, call_id, context(open_call_view(db, call_id).row.version), number)

    return do


def follow_up_of(db, call_id, number):
    rows = open_call_view(db, call_id).row.follow_ups
    return str(rows[number % len(rows)].id) if rows else "0"


def join(db, number):
    with db.reading() as session:
        found = units_entered_twice(session)
    if found:
        twice = found[number % len(found)]
        settle_twice(db, context(), twice.first.uid, twice.second.uid, number % 3 > 0)


MOVES = (("restocked", 3), ("counted", 4), ("moved", 1), ("counted", 0))
ACTS = {
    "open": lambda db, n: calls.open_call(
        db,
        context(),
        {
            "site": ["Inn", "Quay"][n % 2],
            "unit": f"north {n % 3}",
            "unit_kind": "split_condenser",
            "role": "condenser_fan",
            "says": f"hums {n}",
            "technician": f"T. {n % 2}",
        },
    ),
    "read": on_call(
        lambda db, c, x, n: readings.take_reading(
            db,
            c,
            x,
            {
                "kind": "run_amps_a",
                "value": f"1.{n % 9}",
                "anyway": "yes",
                "sure": "yes",
                **({"replaces": "0"} if n % 4 == 0 else {}),
            },
        )
    ),
    "complain": on_call(lambda db, c, x, n: calls.save_complaint(db, c, x, {"says": f"It says {n}"})),
    "plate": on_call(
        lambda db, c, x, n: plates.save_plates(
            db, c, x, {"motor.rpm": ["1075", "825", "1090"][n % 3], "unit.serial": f"S{n % 2}"}
        )
    ),
    "pick": on_call(
        lambda db, c, x, n: match.pick_motor(db, c, x, ["TM-4027", "SE-4230", ""][n % 3], "It carries this fan.")
    ),
    "wire": on_call(lambda db, c, x, n: hook_up.keep_plan(db, c, x, ["dual", "own"][n % 2])),
    "swap": on_call(lambda db, c, x, n: swap.plan_swap(db, c, x, {"hub": ["free", "stuck"][n % 2]})),
    "safe": on_call(
        lambda db, c, x, n: make_safe.tick_steps(
            db, c, x, [step.key for i, step in enumerate(make_safe.STEPS) if (n >> i) & 1]
        )
    ),
    "judge": on_call(
        lambda db, c, x, n: finding.keep_judgement(
            db,
            c,
            x,
            {"judged": ["condemn_motor", "runs_worn", ""][n % 3], "judged_why": "Smelled it.", "judged_by": "C. Hask"},
        )
    ),
    "change": on_call(
        lambda db, c, x, n: changes.note_change(db, c, x, {"what": ["coil_cleaned", "wire_repaired"][n % 2]})
    ),
    "untake": on_call(lambda db, c, x, n: changes.take_back_change(db, c, x, {"number": "0"})),
    "watch": on_call(
        lambda db, c, x, n: hand_over.add_follow_up(
            db, c, x, {"kind": "watch", "says": f"look again {n}", "due_on": "2026-08-01"}
        )
    ),
    "unwatch": on_call(lambda db, c, x, n: hand_over.drop_follow_up(db, c, x, follow_up_of(db, c, n))),
    "settle": on_call(lambda db, c, x, n: follow_ups.settle(db, x, int(follow_up_of(db, c, n)), "looked")),
    "photo": on_call(lambda db, c, x, n: photographs.add_photograph(db, c, x, "other", JPEGS[n % len(JPEGS)])),
    "close": on_call(
        lambda db, c, x, n: hand_over.close_call(
            db,
            c,
            x,
            {
                "exception": f"Tomorrow {n}.",
                "no_judgement": "yes",
                "take.TM-4027": "1",
                "finish": "unfinished" if n % 2 else "",
                "unfinished": "the run",
                "return_on": "2026-08-02",
            },
        )
    ),
    "stock": lambda db, n: stock.move_stock(
        db,
        context(),
        {
            "van": "Van 1",
            "part_no": ["TM-4027", "FC-7P5-OV"][n % 2],
            "kind": MOVES[n % 4][0],
            "many": str(MOVES[n % 4][1]),
            "to_van": "Van 2",
        },
    ),
    "join": join,
    "good": lambda db, n: log.found_good(
        db, real_calls(db)[n % len(real_calls(db))], context(), "It ran on the bench."
    ),
    "practice": lambda db, n: cases.begin_asked(db, context(), {"family": "capacitor", "seed": str(n)}, NOW.date()),
    "file": lambda db, n: (
        call_files.import_call(db, context(), open_call_view(db, real_calls(db)[0]).call, "x")
        if real_calls(db)
        else None
    ),
}
"""What somebody does on a laptop, by a number that chooses what exactly."""


def _jpeg(color):
    from PIL import Image

    out = io.BytesIO()
    Image.new("RGB", (16, 12), color).save(out, "JPEG")
    return out.getvalue()


JPEGS = [_jpeg(color) for color in ("red", "navy", "white")]


@contextmanager
def serving(path, **more):
    """A shop's server on loopback, in a thread: its address."""
    app = create_app(Settings(db=path, **more))
    with socket.socket() as found:
        found.bind(("127.0.0.1", 0))
        port = found.getsockname()[1]
    running = uvicorn.Server(uvicorn.Config(app, host="127.0.0.1", port=port, log_level="error", http=PromptConnection))
    thread = threading.Thread(target=running.run, daemon=True)
    thread.start()
    while not running.started:
        time.sleep(0.01)
    app.state.file_workers.run(os.getpid)  # what work is forked from is up
    try:
        yield f"http://127.0.0.1:{port}"
    finally:
        app.state.bells.close()
        running.should_exit = True
        thread.join(PATIENCE_S)
        app.state.db.close()
