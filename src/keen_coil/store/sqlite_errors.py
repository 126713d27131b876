"""What the database file refuses, and what that means to who stands at the unit."""

from __future__ import annotations

import sqlite3

from sqlalchemy.exc import DBAPIError

FULL = "SQLITE_FULL"
TROUBLES: dict[str, str] = {
    FULL: "The disk is full. Make room: keen-coil doctor says how much there is.",
    "SQLITE_READONLY": "The database may not be written: its file or its folder is read-only for whoever runs this.",
    "SQLITE_CANTOPEN": "The database cannot be opened: its folder is missing or may not be written.",
    "SQLITE_PERM": "The database may not be opened by whoever runs this.",
    "SQLITE_BUSY": "Somebody else is writing for longer than five seconds. Try again.",
    "SQLITE_LOCKED": "Somebody else is writing for longer than five seconds. Try again.",
    "SQLITE_CORRUPT": "The database is damaged. Stop, and put the last copy back: keen-coil restore.",
    "SQLITE_NOTADB": "The file is no database any more. Stop, and put the last copy back: keen-coil restore.",
    "SQLITE_IOERR": "The disk does not read or write. Stop, and make a copy elsewhere: keen-coil backup.",
}
"""By SQLite's own name of the error; longer names begin with these."""


def explain(error: BaseException) -> tuple[str, str]:
    """SQLite's name of an error and what it means in words; its own text where no row of the table says it."""
    cause = error.orig if isinstance(error, DBAPIError) else error
    name = cause.sqlite_errorname if isinstance(cause, sqlite3.Error) and hasattr(cause, "sqlite_errorname") else ""
    return next(((key, says) for key, says in TROUBLES.items() if name.startswith(key)), (name, str(cause)))
