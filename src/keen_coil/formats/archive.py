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
from pathlib import PurePosixPath
from typing import IO, Any, NamedTuple

from ..core.errors import invalid
from .call_file import parse_json
from .zips import BROKEN, broken_is_told

FORMAT, VERSION = "keen-coil/log", 5
MANIFEST = "datapackage.json"
LARGEST_UNPACKED = 2_000_000_000
MOST_MEMBERS = 200_000
_STAMP = (2026, 1, 1, 0, 0, 0)
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
            found = _write(package, table.path, _lines(table, rows))
            resources.append(_described(table) | found)
        for path, content in pictures:
            found = _write(package, path, [content])
            name = path.rpartition("/")[2].partition(".")[0]
            resources.append({"name": f"photograph-{name}", "path": path, "mediatype": "image/jpeg", **found})
        manifest = {
            "name": "keen-coil-log",
            "profile": "data-package",
            "created": made_at.isoformat(timespec="seconds"),
            "keen_coil": {"format": FORMAT, "version": VERSION},
            "resources": resources,
        }
        package.writestr(zipfile.ZipInfo(MANIFEST, _STAMP), json.dumps(manifest, indent=1) + "\n", zipfile.ZIP_DEFLATED)


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


def _write(package: zipfile.ZipFile, path: str, parts: Iterable[bytes]) -> dict[str, Any]:
    """Write a member; its size and checksum."""
    size, total = 0, hashlib.sha256()
    info = zipfile.ZipInfo(path, _STAMP)
    info.compress_type = zipfile.ZIP_DEFLATED
    with package.open(info, "w") as file:
        for part in parts:
            file.write(part)
            size += len(part)
            total.update(part)
    return {"bytes": size, "hash": f"sha256:{total.hexdigest()}"}


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
    """An archive that was checked as a whole, to be read table by table."""

    def __init__(self, package: zipfile.ZipFile, lines: int, version: int = VERSION) -> None:
        self._package = package
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
            manifest = _manifest(package)
            listed = _listed(manifest, tables)
            _check_members(package, listed)
            lines = _check_sums(package, listed, largest)
        yield Archive(package, lines, manifest["keen_coil"]["version"])


def is_log(data: bytes) -> bool:
    """Whether a zip says of itself that it is a log."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package, package.open(MANIFEST) as file:
            return b'"keen-coil/log"' in file.read(_CHUNK)
    except (KeyError, *BROKEN):
        return False


def _manifest(package: zipfile.ZipFile) -> dict[str, Any]:
    names = package.namelist()
    if len(names) > MOST_MEMBERS:
        raise invalid("", f"{len(names)} members", f"at most {MOST_MEMBERS}")
    for name in names:
        _check_path(name)
    if len(set(names)) != len(names):
        raise invalid(next(name for name in names if names.count(name) > 1), "the member twice", "each member once")
    if MANIFEST not in names:
        raise invalid(MANIFEST, "no such member", "a log that was exported from here")
    found = parse_json(_unpacked(package, MANIFEST, 64 * 1024 * 1024), 64 * 1024 * 1024)
    says = found.get("keen_coil") if isinstance(found, dict) else None
    if not isinstance(says, dict) or says.get("format") != FORMAT:
        raise invalid(f"{MANIFEST}: keen_coil.format", says, FORMAT)
    version = says.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise invalid(f"{MANIFEST}: keen_coil.version", version, f"1 to {VERSION}")
    if version > VERSION:
        raise invalid(f"{MANIFEST}: keen_coil.version", version, f"at most {VERSION}: it was made by a newer program")
    return found  # type: ignore[no-any-return]


def _check_path(name: str) -> None:
    path = PurePosixPath(name)
    if "\\" in name or "\0" in name or ":" in name or path.is_absolute() or ".." in path.parts:
        raise invalid(name[:80], "a path that climbs out of the archive", "a plain name inside it")


def _listed(manifest: dict[str, Any], tables: Sequence[Table]) -> dict[str, tuple[int, str]]:
    """Each member that is listed with its size and checksum; every table must be."""
    resources = manifest.get("resources")
    if not isinstance(resources, list):
        raise invalid(f"{MANIFEST}: resources", resources, "a list")
    found: dict[str, tuple[int, str]] = {}
    for number, one in enumerate(resources):
        path, size, total = (one.get(key) if isinstance(one, dict) else None for key in ("path", "bytes", "hash"))
        if not (isinstance(path, str) and isinstance(size, int) and isinstance(total, str)):
            raise invalid(f"{MANIFEST}: resources.{number}", one, "path, bytes and hash")
        _check_path(path)
        found[path] = (size, total)
    for table in tables:
        if table.path not in found and table.since <= manifest["keen_coil"]["version"]:
            raise invalid(f"{MANIFEST}: resources", f"no {table.path}", "every table of the log")
    return found


def _check_members(package: zipfile.ZipFile, listed: dict[str, tuple[int, str]]) -> None:
    there = {name for name in package.namelist() if not name.endswith("/")} - {MANIFEST}
    for name in sorted(set(listed) - there):
        raise invalid(name, "no such member", "every member that is listed")
    for name in sorted(there - set(listed)):
        raise invalid(name[:80], "a member that is not listed", "no more than what is listed")


def _check_sums(package: zipfile.ZipFile, listed: dict[str, tuple[int, str]], largest: int) -> int:
    """Read every member once against its size and checksum; about how many rows the tables have."""
    left, lines = largest, 0
    for name, (size, total) in listed.items():
        found = hashlib.sha256()
        had = 0
        with package.open(name) as file:
            while part := file.read(_CHUNK):
                had += len(part)
                if had > min(size, left):
                    break
                found.update(part)
                lines += part.count(b"\n") if name.endswith(".csv") else 0
        if had > left:
            raise invalid(name, f"more than {largest / 1e6:.0f} MB unpacked", f"at most {largest / 1e6:.0f} MB in all")
        if had != size or f"sha256:{found.hexdigest()}" != total:
            raise invalid(name, "another checksum than is listed", "the member as it was written")
        left -= had
    return lines


def _unpacked(package: zipfile.ZipFile, name: str, most: int) -> bytes:
    with package.open(name) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise invalid(name, f"more than {most / 1e6:.0f} MB", f"at most {most / 1e6:.0f} MB")
    return data
