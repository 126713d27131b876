"""Zip files with a manifest: every member listed with its size and SHA-256, nothing read before all of it is right."""

from __future__ import annotations

import hashlib
import zipfile
import zlib
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import PurePosixPath
from typing import Any

from ..core.errors import InvalidField, invalid
from .call_file import parse_json

MANIFEST = "datapackage.json"
LARGEST_MANIFEST = 64 * 1024 * 1024
MOST_MEMBERS = 200_000
STAMP = (2026, 1, 1, 0, 0, 0)
_CHUNK = 1 << 16


def manifest_of(package: zipfile.ZipFile, kind: str, version: int, expected: str) -> dict[str, Any]:
    """The manifest of a file of ours: its format, a version this program knows, plain names, each once.

    Raises `InvalidField`.
    """
    names = package.namelist()
    if len(names) > MOST_MEMBERS:
        raise invalid("", f"{len(names)} members", f"at most {MOST_MEMBERS}")
    for name in names:
        check_path(name)
    if len(set(names)) != len(names):
        raise invalid(next(name for name in names if names.count(name) > 1), "the member twice", "each member once")
    if MANIFEST not in names:
        raise invalid(MANIFEST, "no such member", expected)
    found = parse_json(_unpacked(package, MANIFEST, LARGEST_MANIFEST), LARGEST_MANIFEST)
    says = found.get("keen_coil") if isinstance(found, dict) else None
    if not isinstance(says, dict) or says.get("format") != kind:
        raise invalid(f"{MANIFEST}: keen_coil.format", says, kind)
    has = says.get("version")
    if not isinstance(has, int) or isinstance(has, bool) or has < 1:
        raise invalid(f"{MANIFEST}: keen_coil.version", has, f"1 to {version}")
    if has > version:
        raise invalid(f"{MANIFEST}: keen_coil.version", has, f"at most {version}: it was made by a newer program")
    return found  # type: ignore[no-any-return]


def check_path(name: str) -> None:
    """Raise `InvalidField` on a path that is no plain name inside its file."""
    path = PurePosixPath(name)
    if "\\" in name or "\0" in name or ":" in name or path.is_absolute() or ".." in path.parts:
        raise invalid(name[:80], "a path that climbs out of the archive", "a plain name inside it")


def listed(manifest: dict[str, Any]) -> dict[str, tuple[int, str]]:
    """Each member that is listed with its size and checksum. Raises `InvalidField`."""
    resources = manifest.get("resources")
    if not isinstance(resources, list):
        raise invalid(f"{MANIFEST}: resources", resources, "a list")
    found: dict[str, tuple[int, str]] = {}
    for number, one in enumerate(resources):
        path, size, total = (one.get(key) if isinstance(one, dict) else None for key in ("path", "bytes", "hash"))
        if not (isinstance(path, str) and isinstance(size, int) and isinstance(total, str)):
            raise invalid(f"{MANIFEST}: resources.{number}", one, "path, bytes and hash")
        check_path(path)
        found[path] = (size, total)
    return found


def check_members(package: zipfile.ZipFile, listed: dict[str, tuple[int, str]]) -> None:
    """Raise `InvalidField` where the members are others than those that are listed."""
    there = {name for name in package.namelist() if not name.endswith("/")} - {MANIFEST}
    for name in sorted(set(listed) - there):
        raise invalid(name, "no such member", "every member that is listed")
    for name in sorted(there - set(listed)):
        raise invalid(name[:80], "a member that is not listed", "no more than what is listed")


def check_sums(package: zipfile.ZipFile, listed: dict[str, tuple[int, str]], largest: int) -> int:
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
                lines += part.count(b"\n") if name.endswith((".csv", ".jsonl")) else 0
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


def write_member(package: zipfile.ZipFile, path: str, parts: Iterable[bytes]) -> dict[str, Any]:
    """Write a member; its size and checksum."""
    size, total = 0, hashlib.sha256()
    info = zipfile.ZipInfo(path, STAMP)
    info.compress_type = zipfile.ZIP_DEFLATED
    with package.open(info, "w") as file:
        for part in parts:
            file.write(part)
            size += len(part)
            total.update(part)
    return {"bytes": size, "hash": f"sha256:{total.hexdigest()}"}


BROKEN = (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, ValueError, OverflowError, zlib.error)
"""What reading a broken, encrypted or odd zip raises."""


@contextmanager
def broken_is_told() -> Iterator[None]:
    """Whatever a broken zip raises inside becomes `InvalidField`."""
    try:
        yield
    except InvalidField:
        raise
    except BROKEN as error:
        raise invalid("", str(error) or "a broken zip", "a zip file that can be read") from None
