"""What the database file refuses, and what that means to who stands at the unit."""

from __future__ import annotations

from ..core.errors import FieldError, ServerFailed

FULL = "SQLITE_FULL"
TROUBLES: dict[str, str] = {
    FULL: "The disk is full. Make room: keen-coil doctor says how much there is.",
    "SQLITE_READONLY": "The database may not be written: its file or its folder is read-only for whoever runs this.",
    "SQLITE_CANTOPEN": "The database cannot be opened: its folder is missing or may not be written.",
    "SQLITE_PERM": "The database may not be opened by whoever runs this.",
    "SQLITE_BUSY": "Somebody else is saving. Try again in a few seconds.",
    "SQLITE_LOCKED": "Somebody else is saving. Try again in a few seconds.",
    "SQLITE_CORRUPT": "The database is damaged. Stop, and put the last copy back: keen-coil restore.",
    "SQLITE_NOTADB": "The file is no database any more. Stop, and put the last copy back: keen-coil restore.",
    "SQLITE_IOERR": "The disk does not read or write. Stop, and make a copy elsewhere: keen-coil backup.",
}
"""By SQLite's own name of the error; longer names begin with these."""


DAMAGED = ("SQLITE_CORRUPT", "SQLITE_NOTADB")


class DatabaseFailed(ServerFailed):
    """The database file could not be read or written: SQLite's name of the error, and what it means."""

    def __init__(self, name: str, says: str) -> None:
        super().__init__(name, says)
        self.name, self.says = name, says
        self.status = 507 if name == FULL else 503

    @classmethod
    def of(cls, error: BaseException) -> DatabaseFailed:
        """The failure behind an error of SQLite or SQLAlchemy."""
        return cls(*explain(error))

    def __str__(self) -> str:
        return self.says

    @property
    def errors(self) -> list[FieldError]:
        """SQLite's name of the error, and what it means."""
        return [FieldError("", self.name, self.says)]


def errorname(error: BaseException) -> str:
    """SQLite's own name of an error, such as `SQLITE_BUSY`; empty where it has none."""
    return str(getattr(getattr(error, "orig", error), "sqlite_errorname", ""))


def explain(error: BaseException) -> tuple[str, str]:
    """SQLite's name of an error and what it means in words; its own text where no row of the table says it."""
    name = errorname(error)
    says = str(getattr(error, "orig", error))
    return next(((key, row) for key, row in TROUBLES.items() if name.startswith(key)), (name, says))
