"""The nightly backup: when it is due, the copy itself, how many generations are kept, how the last one stands."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, time, timedelta
from pathlib import Path

from sqlalchemy import select

from ...core.errors import FieldError, InvalidField
from ...store import tables
from ...store.copies import backup
from ...store.database import Database
from ..acts import ActContext, record_act

NIGHTLY = "nightly_backup"
MOST_GENERATIONS = 365
LATE = timedelta(hours=36)
"""A newest copy older than this was missed, whatever the hour that is set."""
_NAMED = "%Y-%m-%d-%H%M%S"


@dataclass(frozen=True)
class BackupPlan:
    """Every night at `at` (local time) a copy is made; `keep` generations stay, 0 makes none."""

    keep: int = 14
    at: time = time(2, 0)


@dataclass(frozen=True)
class Copy:
    """A copy that was made at night: its file, when, how large."""

    path: Path
    made_at: datetime
    megabytes: float


@dataclass(frozen=True)
class BackupState:
    """How the nightly backup stands: plan, copies with the newest first, what is wrong, empty when nothing is."""

    plan: BackupPlan
    folder: Path
    copies: list[Copy]
    wrong: str


def backup_plan(db: Database) -> BackupPlan:
    """The plan of this shop; the default where nothing was set."""
    with db.reading() as session:
        kept = session.scalar(select(tables.Setting.value).where(tables.Setting.name == NIGHTLY)) or {}
    try:
        return BackupPlan(int(kept["keep"]), time.fromisoformat(kept["at"]))
    except (KeyError, TypeError, ValueError):
        return BackupPlan()


def save_backup_plan(db: Database, context: ActContext, fields: Mapping[str, str]) -> None:
    """Set how many generations are kept and the hour of the night. Raises `InvalidField`."""
    keep, at, faults = fields.get("keep", "").strip(), fields.get("at", "").strip(), []
    if not (keep.isascii() and keep.isdecimal() and len(keep) < 4 and int(keep) <= MOST_GENERATIONS):
        faults.append(
            FieldError("keep", keep[:20] or "nothing", f"how many copies stay, 0 to {MOST_GENERATIONS}; 0: none")
        )
    if not re.fullmatch(r"([01]\d|2[0-3]):[0-5]\d", at):
        faults.append(FieldError("at", at[:20] or "nothing", "a time of the day such as 02:00"))
    if faults:
        raise InvalidField(faults)
    with db.writing() as session:
        record_act(session, context, "save_backup_plan", None)
        value = {"keep": int(keep), "at": at}
        session.merge(tables.Setting(name=NIGHTLY, value=value, changed_at=context.now))


def folder_of(path: Path) -> Path:
    """Where the copies of a database stand: a folder beside it."""
    return path.parent / f"{path.stem}-backups"


def copies_of(path: Path) -> list[Copy]:
    """The nightly copies of a database, newest first; other files in their folder are left alone."""
    found = []
    for file in folder_of(path).glob(f"{path.stem}-*.db"):
        try:
            made = datetime.strptime(file.stem.removeprefix(f"{path.stem}-"), _NAMED).astimezone()
        except ValueError:
            continue
        found.append(Copy(file, made, file.stat().st_size / 1e6))
    return sorted(found, key=lambda copy: copy.made_at, reverse=True)


def is_due(plan: BackupPlan, copies: list[Copy], now: datetime) -> bool:
    """Whether the latest hour set has passed without a copy. A copy dated ahead of the clock counts for nothing."""
    if not plan.keep:
        return False
    local = now.astimezone()
    latest = local.replace(hour=plan.at.hour, minute=plan.at.minute, second=0, microsecond=0)
    latest -= timedelta(days=1) if latest > local else timedelta(0)
    return not any(latest <= copy.made_at <= local for copy in copies)


def back_up_when_due(db: Database, now: datetime) -> Path | None:
    """Make tonight's copy when it is due, then drop the oldest beyond what is kept; its file. Raises `InvalidField`."""
    plan = backup_plan(db)
    if not is_due(plan, copies_of(db.path), now):
        return None
    folder = folder_of(db.path)
    try:
        folder.mkdir(mode=0o700, exist_ok=True)
    except OSError as error:
        raise InvalidField(
            [FieldError(str(folder), error.strerror or "nothing", "a folder that can be written")]
        ) from None
    made = folder / f"{db.path.stem}-{now.astimezone().strftime(_NAMED)}.db"
    backup(db.path, made)
    others = [copy for copy in copies_of(db.path) if copy.path != made]
    for copy in others[plan.keep - 1 :]:
        copy.path.unlink(missing_ok=True)
    return made


def backup_state(db: Database, now: datetime, trouble: str = "") -> BackupState:
    """How the nightly backup stands; `trouble` is what the last try in this server ran into."""
    plan, copies = backup_plan(db), copies_of(db.path)
    wrong = ""
    if plan.keep and trouble:
        wrong = f"The last try failed: {trouble}"
    elif plan.keep and copies and not any(timedelta(0) <= now - copy.made_at <= LATE for copy in copies):
        newest = f"{copies[0].made_at:%Y-%m-%d %H:%M}"
        wrong = f"The newest copy is of {newest}: no server ran at night, or it could not be made."
    return BackupState(plan, folder_of(db.path), copies, wrong)
