"""Speed: a match over 50,000 motors against the plain range query of the same plate; bringing 50,000 rows in."""

from __future__ import annotations

import random
import time

from sqlalchemy import func, select
from tests.calls import make_call
from tests.fixtures import stamp

from bench.test_speed import median_ms
from keen_coil.core.match.catalogue import CatalogueMotor
from keen_coil.core.match.catalogue_filter import bounds
from keen_coil.core.match.rank import ranked
from keen_coil.formats.catalogue_csv import write_catalogue
from keen_coil.services.calls.call_files import import_call
from keen_coil.services.calls.call_view import open_call_view
from keen_coil.services.catalog import shelf, shelf_import
from keen_coil.services.stations import match
from keen_coil.store import tables
from keen_coil.store.database import Database

MOTORS = 50_000


def made_up(number: int, chance: random.Random) -> CatalogueMotor:
    """A motor such as a large catalog holds: every kind, speed, voltage and mounting in the trade's proportions."""
    kind = chance.choices(["psc", "ecm", "three_phase", "shaded_pole"], [70, 12, 10, 8])[0]
    hp = chance.choice([0.1, 0.125, 1 / 6, 0.2, 0.25, 1 / 3, 0.5, 0.75, 1.0])
    volts = chance.choices(["208-230", "115", "230", "115/230", "460"], [50, 25, 10, 5, 10])[0]
    at = 115 if volts.startswith("115") else 460 if volts == "460" else 230
    amps = round(hp * 746 / 0.55 / at * chance.uniform(0.9, 1.15), 2)
    mount = chance.choice(["stud", "stud", "belly_band", "lug"])
    plate = {
        "part_no": f"M{number:06d}",
        "maker": chance.choice(["Tern Motors", "Skerry Electric", "Brackwater Works"]),
        "kind": kind,
        "hp": round(hp, 4),
        "volts": volts,
        "amps_a": str(amps),
        "phase": 3 if kind == "three_phase" else 1,
        "hz": 60,
        "rpm": chance.choice([825, 850, 1050, 1075, 1090, 1100, 1625, 1725]),
        "mount": mount,
        "body_length_in": round(chance.uniform(4, 6.5), 2),
        "body_diameter_in": chance.choice([5.0, 5.6]),
        "enclosure": chance.choice(["enclosed", "air_over", "open"]),
        "protection": "auto",
        "ambient_limit_c": chance.choice([40, 60, 70]),
        "shaft": {"diameter_in": 0.5, "length_in": chance.choice([3, 4, 5, 6]), "flats": 1},
        "rotation": {"sense": chance.choice(["reversible", "cw", "ccw"]), "seen_from": "shaft_end"},
        "speeds": 1,
        "price": round(chance.uniform(60, 300), 2),
        "lead_days": chance.choice([0, 1, 2, 5]),
    }
    if mount == "stud":
        plate["studs"] = chance.choice(["far_end", "shaft_end", "both"])
    if kind == "psc":
        plate |= {"capacitor_uf": chance.choice(["3", "5", "7.5", "10"]), "capacitor_v": 370}
    return CatalogueMotor.model_validate(plate)


def test_match_over_50_000_motors(say, tmp_path):
    chance = random.Random(5)
    motors = [made_up(number, chance) for number in range(MOTORS)]
    data = "".join(write_catalogue(motors)).encode()
    db = Database(tmp_path / "big.db")

    def whole(act):
        return median_ms(act, 1)

    draft = shelf_import.receive(db, stamp(0), "motors.csv", data)
    say(
        f"look through {MOTORS} rows ({len(data) / 1e6:.1f} MB): {whole(lambda: shelf_import.look_through(db, draft)) / 1000:.1f} s"
    )

    start = time.perf_counter()
    shelf_import.confirm(db, stamp(0), draft)
    say(f"read again and write them: {time.perf_counter() - start:.1f} s")

    call_id = import_call(db, stamp(0), make_call(load={"hub_length_in": 1.0, "blade_plane_in": 7.6}), "x.call.json")
    sheet = open_call_view(db, call_id)
    row = tables.CatalogueMotor
    limit = bounds(sheet.call, "amps")

    def plain():
        """The range query a shop would write: phase, hertz, rpm, volts and amps between their ends, plates fetched."""
        wanted = (
            row.phase == limit.phase,
            row.hz == limit.hz,
            row.rpm.between(*limit.rpm),
            row.volts_low <= limit.supply_v,
            row.volts_high >= limit.supply_v,
            row.amps_a.between(*limit.amps_a),
        )
        with db.reading() as session:
            return session.scalars(select(row.plate).where(*wanted)).all()

    def judged():
        with db.reading() as session:
            return ranked(sheet.call, shelf.motors_within(session, limit), "amps", shelf.stock_in(session, "Van 1"))

    def cold():
        shelf.motor_of.cache_clear()
        return judged()

    found = judged()
    query, warm, first = median_ms(plain, 15), median_ms(judged, 15), median_ms(cold, 5)
    page = median_ms(lambda: match.match_call(db, sheet, "amps", schools=True), 5)
    with db.reading() as session:
        total = session.scalar(select(func.count()).select_from(row))
    inside = len(found.serving) + len(found.refused) + sum(found.refused_by.values())
    say(f"range query over {total} motors, {len(plain())} plates: {query:.1f} ms")
    say(
        f"match over them, {inside} within the bounds, {len(found.serving)} serve: {warm:.1f} ms, {warm / query:.1f} x (aim 5); plates not read before {first:.1f} ms, {first / query:.1f} x"
    )
    say(f"the page's match, the motor model of the first and the other schools with it: {page:.0f} ms")
    db.close()
