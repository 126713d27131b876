"""Bringing two replicas together: by a file that goes back and forth, or with the shop's server."""

from __future__ import annotations

import contextlib
import fcntl
import os
import tempfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from sqlalchemy import select, update

from ...core.errors import InvalidField, RefusedNow, invalid
from ...exchange.shop_server import ShopServer, TwinRefused, checked_address
from ...formats.sync_package import Greeting, open_package, read_greeting
from ...store import replica_tables as kept
from ...store.database import Database
from ..acts import ActContext, ProgressCallback, no_progress, record_act
from .authors import WHO_SITS_THERE, meet
from .inbox import folder_of
from .lineage import check_lineage, greeting_of, renew_identity, signed_greeting
from .merge_package import take_package
from .package import Report, make_package
from .pictures import keep_picture, missing_pictures, picture, pictures_of
from .replica_state import me, note_own_writes

TABLE_WORDS = {
    "call": ("call", "calls"),
    "reading": ("reading", "readings"),
    "photograph": ("photograph", "photographs"),
    "unit": ("unit", "units"),
    "motor": ("motor", "motors"),
    "stock_movement": ("stock movement", "stock movements"),
    "follow_up": ("follow-up", "follow-ups"),
    "step": ("step", "steps"),
}


@dataclass(frozen=True)
class SyncReport:
    """What a sync did: with whom, rows that came and went by table, bytes over the network, a renewed identity."""

    partner: str
    came: dict[str, int] = field(default_factory=dict)
    went: dict[str, int] = field(default_factory=dict)
    sent: int = 0
    received: int = 0
    ahead_ms: int = 0
    renewed: bool = False
    refused: dict[str, int] = field(default_factory=dict)

    @property
    def lines(self) -> list[str]:
        """What a person wants to know."""
        found = [f"Came: {in_words(self.came)}.", f"Went: {in_words(self.went)}."]
        if abs(self.ahead_ms):
            minutes, way = round(abs(self.ahead_ms) / 60_000), "ahead of" if self.ahead_ms > 0 else "behind"
            found.append(f"The clock of {self.partner or 'the other'} is {minutes} minutes {way} this one.")
        found += [
            f"Not taken: {many} {'write' if many == 1 else 'writes'} that {why}." for why, many in self.refused.items()
        ]
        if self.renewed:
            found.append("This copy was an older one: it goes on under a new identity, and nothing was lost.")
        return found


def in_words(rows: Mapping[str, int]) -> str:
    """Rows by table in words, those that a technician knows; of the rest how many."""
    known = [f"{rows[name]} {words[rows[name] != 1]}" for name, words in TABLE_WORDS.items() if rows.get(name)]
    rest = sum(many for name, many in rows.items() if name not in TABLE_WORDS)
    known += [f"{rest} other {'row' if rest == 1 else 'rows'}"] if rest else []
    return ", ".join(known) if known else "nothing new"


def sync_file(
    db: Database, context: ActContext, path: Path, whole: bool = False, progress: ProgressCallback = no_progress
) -> SyncReport:
    """Merge the package in a file, if one is there, then write into it what its maker lacks, or everything.

    Raises `InvalidField`, `OlderCopy`; the file is then as it was.
    """
    report, since, partner = Report(""), dict[str, int](), ""
    if path.exists() and path.stat().st_size:
        try:
            with path.open("rb") as file:
                with open_package(file) as package:
                    maker, begins = package.contents.maker, package.contents.since
                if maker.uid == _uid(db):
                    _own_again(db, maker)
                    since = dict(begins)
                else:
                    report = take_package(db, context, file, "file", WHO_SITS_THERE, progress)
                    since, partner = dict(maker.knows), maker.name
        except OSError as error:
            raise invalid("", error.strerror or "no file", "a file that can be read") from None
    went = _write_file(db, path, {} if whole else since, progress)
    return SyncReport(partner, report.both, went, ahead_ms=report.ahead_ms, refused=report.refused)


def _uid(db: Database) -> str:
    with db.reading() as session:
        return me(session).uid


def _own_again(db: Database, maker: Greeting) -> None:
    """A package of this very replica is written anew. Raises `OlderCopy` where a twin made it."""
    with db.reading() as session:
        try:
            check_lineage(session, maker)
        except InvalidField:
            return


def _write_file(db: Database, path: Path, since: Mapping[str, int], progress: ProgressCallback) -> dict[str, int]:
    """Write a package to a file in one move: what was there stays until the new one is whole."""
    try:
        number, name = tempfile.mkstemp(dir=path.resolve().parent, prefix=".keen-coil-")
    except OSError as error:
        raise invalid("", error.strerror or "no such folder", "a file that can be written") from None
    try:
        with os.fdopen(number, "w+b") as out:
            went = make_package(db, out, since, True, progress)
            out.flush()
            os.fsync(out.fileno())
        os.replace(name, path)
    finally:
        Path(name).unlink(missing_ok=True)
    return went


def sync_with_shop(
    db: Database, context: ActContext, server: ShopServer, progress: ProgressCallback = no_progress
) -> SyncReport:
    """Send the shop what it lacks and take what is lacking here; goes on where an earlier try was cut.

    Raises `ShopUnreachable`, `InvalidField`, `OlderCopy` where the shop's own database is an older copy.
    """
    with _alone(db):
        return _sync_with_shop(db, context, server, progress)


@contextlib.contextmanager
def _alone(db: Database) -> Iterator[None]:
    """One sync of this laptop at a time. Raises `RefusedNow`."""
    with (folder_of(db, "going").parent / "lock").open("w") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise RefusedNow("another sync of this laptop under way", "one at a time: wait for its end") from None
        yield


def _sync_with_shop(db: Database, context: ActContext, server: ShopServer, progress: ProgressCallback) -> SyncReport:
    _become_van(db)
    shop, renewed = _greeted(db, server)
    with db.writing() as session:
        row = meet(session, shop, WHO_SITS_THERE, datetime.now(UTC))
        check_lineage(session, shop)
        row.is_shop = True
    went = _send(db, server, shop, progress)
    with db.writing() as session:
        note_own_writes(session)
        knows = greeting_of(session).knows
    report = _take(db, context, server, knows, progress)
    with db.writing() as session:
        _note_went(session, went)
        greeting = signed_greeting(session)
    server.done(greeting.model_dump(mode="json"))
    came = report.both
    return SyncReport(shop.name, came, went, server.sent, server.received, report.ahead_ms, renewed, report.refused)


def _take(
    db: Database, context: ActContext, server: ShopServer, knows: dict[str, int], progress: ProgressCallback
) -> Report:
    path = server.fetch_package(knows, folder_of(db, "coming"), lambda at: progress(at, at))
    with path.open("rb") as file:
        for sha256 in missing_pictures(db, pictures_of(file)):
            keep_picture(db, sha256, server.picture(sha256), datetime.now(UTC))
        file.seek(0)
        try:
            report = take_package(db, context, file, "https", WHO_SITS_THERE, progress)
        except InvalidField:
            path.unlink(missing_ok=True)
            raise
    path.unlink(missing_ok=True)
    return report


def _become_van(db: Database) -> None:
    """Whoever syncs with the shop's server is not the shop."""
    with db.writing() as session:
        if me(session).is_shop:
            session.execute(update(kept.Replica).where(kept.Replica.id == kept.THIS).values(is_shop=False))


def _greeted(db: Database, server: ShopServer) -> tuple[Greeting, bool]:
    """The shop's greeting; where it says that this is an older copy, this goes on as another replica first."""
    renewed = False
    for _ in range(2):
        with db.writing() as session:
            note_own_writes(session)
            mine = signed_greeting(session)
        try:
            return read_greeting(server.greet(mine.model_dump(mode="json")), "shop"), renewed
        except TwinRefused as error:
            with db.writing() as session:
                renew_identity(session, error.common)
            renewed = True
    raise invalid("", "a shop that takes this laptop for an older copy again", "a shop that knows it now")


def _send(db: Database, server: ShopServer, shop: Greeting, progress: ProgressCallback) -> dict[str, int]:
    """Send what the shop lacks; a package that was cut short before goes on first."""
    path = folder_of(db, "going") / f"{shop.uid}.zip"
    if path.exists():
        _send_file(db, server, path, progress)
        shop, _ = _greeted(db, server)
    part = path.with_suffix(".making")
    with part.open("w+b") as out:
        went = make_package(db, out, shop.knows, False, progress)
    os.replace(part, path)
    _send_file(db, server, path, progress)
    return went


def _send_file(db: Database, server: ShopServer, path: Path, progress: ProgressCallback) -> None:
    with path.open("rb") as file:
        for sha256 in server.missing_pictures(pictures_of(file)):
            content = picture(db, sha256)
            if content is not None:
                server.send_picture(sha256, content)
        size = path.stat().st_size
        try:
            server.send_package(file, lambda at: progress(at, size))
        except InvalidField:  # refused: the same would be refused again
            path.unlink(missing_ok=True)
            raise
    path.unlink(missing_ok=True)


def _note_went(session: Any, went: Mapping[str, int]) -> None:
    row = kept.Exchange
    last = session.scalars(select(row).order_by(row.id.desc()).limit(1)).first()
    if last is not None:
        last.went = dict(went)


def new_identity(db: Database, context: ActContext) -> str:
    """Go on as another replica, as an older copy or a twin must: everything it wrote counts as its own then."""
    with db.writing() as session:
        record_act(session, context, "new_identity", None)
        return renew_identity(session, 0)


def partner_of(db: Database) -> kept.SyncPartner | None:
    """The shop's server that this laptop syncs with."""
    with db.reading() as session:
        return session.get(kept.SyncPartner, kept.THIS)


def keep_partner(db: Database, address: str, token: str, certificate: str | None) -> None:
    """Remember the shop's server; an empty token leaves the one that is kept. Raises `InvalidField`."""
    checked = checked_address(address)
    with db.writing() as session:
        row = session.get(kept.SyncPartner, kept.THIS) or kept.SyncPartner(id=kept.THIS, token="", address="")
        same = row.address == checked
        row.token = token or (row.token if same else "")
        row.certificate = certificate or (row.certificate if same else None)
        row.address = checked
        session.add(row)


@contextlib.contextmanager
def shop_server(db: Database) -> Iterator[ShopServer]:
    """The shop's server as it is remembered. Raises `InvalidField` where none is."""
    kept_one = partner_of(db)
    if kept_one is None:
        raise invalid("address", "nothing", "the shop's address, such as https://shop.example:8765")
    server = ShopServer(kept_one.address, kept_one.token, kept_one.certificate)
    try:
        yield server
    finally:
        server.close()
