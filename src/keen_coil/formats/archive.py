"""The whole log as one zip: a data package (Frictionless) with a CSV file a table, pictures beside them, checksums.

A blank cell is no value; moments are ISO 8601 in UTC; structured columns are JSON. Nothing is read before every member
is there, listed, of its size and of its SHA-256.
"""

from __future__ import annotations

import csv
import hashlib
import io
import json
import zipfile
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from datetime import datetime
from typing import IO, Any, NamedTuple

from ..core.errors import invalid
from .checked_zip import (
    BROKEN,
    MANIFEST,
    STAMP,
    broken_is_told,
    check_members,
    check_sums,
    listed,
    manifest_of,
    write_member,
)

FORMAT, VERSION = "keen-coil/log", 6
LARGEST_UNPACKED = 2_000_000_000
_CHUNK = 1 << 16


class Column(NamedTuple):
    """A column: its name, its type in the words of Table Schema, whether it must hold a value.

    since: the version of the format it came with; `before` is what rows of earlier archives have in it.
    """

    name: str
    type: str
    required: bool
    since: int = 1
    before: str = ""


class Table(NamedTuple):
    """A table of the archive with its columns, the names of its key, the version of the format it came with."""

    name: str
    columns: tuple[Column, ...]
    key: tuple[str, ...]
    since: int = 1

    @property
    def path(self) -> str:
        """Its file in the zip."""
        return f"{self.name}.csv"


def write_archive(
    out: IO[bytes],
    tables: Iterable[tuple[Table, Iterable[Sequence[str]]]],
    pictures: Iterable[tuple[str, bytes]],
    made_at: datetime,
) -> None:
    """Write tables (rows of text cells) and pictures (path, bytes) as an archive."""
    resources: list[dict[str, Any]] = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for table, rows in tables:
            found = write_member(package, table.path, _lines(table, rows))
            resources.append(_described(table) | found)
        for path, content in pictures:
            found = write_member(package, path, [content])
            name = path.rpartition("/")[2].partition(".")[0]
            resources.append({"name": f"photograph-{name}", "path": path, "mediatype": "image/jpeg", **found})
        manifest = {
            "name": "keen-coil-log",
            "profile": "data-package",
            "created": made_at.isoformat(timespec="seconds"),
            "keen_coil": {"format": FORMAT, "version": VERSION},
            "resources": resources,
        }
        package.writestr(zipfile.ZipInfo(MANIFEST, STAMP), json.dumps(manifest, indent=1) + "\n", zipfile.ZIP_DEFLATED)


def _described(table: Table) -> dict[str, Any]:
    fields = [
        {"name": column.name, "type": column.type} | ({"constraints": {"required": True}} if column.required else {})
        for column in table.columns
    ]
    return {
        "name": table.name.replace("_", "-"),
        "path": table.path,
        "profile": "tabular-data-resource",
        "encoding": "utf-8",
        "schema": {"fields": fields, "primaryKey": list(table.key)},
    }


def _lines(table: Table, rows: Iterable[Sequence[str]]) -> Iterator[bytes]:
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([column.name for column in table.columns])
    for row in rows:
        writer.writerow(row)
        if out.tell() > _CHUNK:
            yield out.getvalue().encode()
            out.seek(0)
            out.truncate()
    yield out.getvalue().encode()


class Archive:
    """An archive that was checked as a whole, to be read table by table; `digest` is that of all its members."""

    def __init__(self, package: zipfile.ZipFile, lines: int, version: int = VERSION, digest: str = "") -> None:
        self._package = package
        self.digest = digest
        self.lines = lines
        self.version = version
        self.pictures = sorted(name for name in package.namelist() if name.startswith("photographs/"))

    def rows(self, table: Table) -> Iterator[tuple[int, list[str]]]:
        """The rows of a table with their numbers (the header is 1), newer columns filled in. Raises `InvalidField`."""
        if table.since > self.version:
            return
        wanted = [column.name for column in table.columns if column.since <= self.version]
        later = {n: column.before for n, column in enumerate(table.columns) if column.since > self.version}
        with self._package.open(table.path) as file:
            reader = csv.reader(io.TextIOWrapper(file, "utf-8", newline=""), strict=True)
            try:
                header = next(reader, [])
                if header != wanted:
                    raise invalid(f"{table.path}: header", ",".join(header)[:80], ",".join(wanted))
                for number, row in enumerate(reader, start=2):
                    if len(row) != len(wanted):
                        raise invalid(f"{table.path}: row {number}", f"{len(row)} cells", f"{len(wanted)} cells")
                    for place, text in later.items():
                        row.insert(place, text)
                    yield number, row
            except (csv.Error, UnicodeDecodeError) as error:
                raise invalid(table.path, str(error), "a CSV file in UTF-8") from None

    def picture(self, path: str) -> bytes:
        """The bytes of a picture."""
        return self._package.read(path)


@contextmanager
def open_archive(file: IO[bytes], tables: Sequence[Table], largest: int = LARGEST_UNPACKED) -> Iterator[Archive]:
    """Open an archive once everything about it is right.

    Raises `InvalidField` on a broken zip, a member that climbs out of it, is missing, not listed, twice there or
    changed since it was written, on a newer version, and on more than `largest` bytes unpacked.
    """
    with broken_is_told():
        package = zipfile.ZipFile(file)
    with package:
        with broken_is_told():
            manifest = manifest_of(package, FORMAT, VERSION, "a log that was exported from here")
            members = listed(manifest)
            _all_tables(members, manifest, tables)
            check_members(package, members)
            lines = check_sums(package, members, largest)
        digest = hashlib.sha256(json.dumps(sorted(members.items())).encode()).hexdigest()
        yield Archive(package, lines, manifest["keen_coil"]["version"], digest)


def is_log(data: bytes) -> bool:
    """Whether a zip says of itself that it is a log."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package, package.open(MANIFEST) as file:
            return b'"keen-coil/log"' in file.read(_CHUNK)
    except (KeyError, *BROKEN):
        return False


def _all_tables(members: dict[str, tuple[int, str]], manifest: dict[str, Any], tables: Sequence[Table]) -> None:
    for table in tables:
        if table.path not in members and table.since <= manifest["keen_coil"]["version"]:
            raise invalid(f"{MANIFEST}: resources", f"no {table.path}", "every table of the log")
