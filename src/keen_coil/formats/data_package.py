"""Data packages (Frictionless, Table Schema): a zip of `datapackage.json`, `motors.csv` and `van.csv`."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Iterable, Iterator
from typing import Any

from pydantic import BaseModel

from ..core.errors import invalid
from ..core.match.catalogue import CatalogueMotor
from . import catalogue_csv, van_csv
from .checked_zip import broken_is_told
from .csv_rows import LARGEST
from .dotted import field_type

MOST_FILES = 20
FILES = ("motors.csv", "van.csv")
_TYPES = {bool: "boolean", int: "integer", float: "number"}
_STAMP = (2026, 1, 1, 0, 0, 0)


def descriptor(files: Iterable[str] = FILES, name: str = "keen-coil-shelf") -> dict[str, Any]:
    """The `datapackage.json` of a folder with these files."""
    layouts: dict[str, tuple[type[BaseModel], tuple[str, ...], tuple[str, ...]]] = {
        "motors.csv": (CatalogueMotor, catalogue_csv.COLUMNS, catalogue_csv.MOTORS.required),
        "van.csv": (van_csv.VanPart, van_csv.COLUMNS, van_csv.REQUIRED),
    }
    resources = []
    for path in files:
        model, columns, required = layouts[path]
        fields = [_field(column, model, column in required) for column in columns]
        resources.append(
            {
                "name": path.removesuffix(".csv"),
                "path": path,
                "profile": "tabular-data-resource",
                "encoding": "utf-8",
                "schema": {"fields": fields, "primaryKey": ["part_no"]},
            }
        )
    return {"name": name, "profile": "tabular-data-package", "resources": resources}


def _field(column: str, model: type[BaseModel], required: bool) -> dict[str, Any]:
    """A column; horsepower is text, since it may be written `1/4`."""
    kind = "string" if column == "hp" else _TYPES.get(field_type(column, model) or str, "string")
    return {"name": column, "type": kind} | ({"constraints": {"required": True}} if required else {})


def write_package(motors: Iterable[CatalogueMotor], van: Iterable[van_csv.VanPart]) -> bytes:
    """Catalog and van as a zipped data package."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for path, lines in _contents(motors, van):
            with package.open(zipfile.ZipInfo(path, _STAMP), "w") as file:
                for line in lines:
                    file.write(line.encode())
    return out.getvalue()


def _contents(motors: Iterable[CatalogueMotor], van: Iterable[van_csv.VanPart]) -> Iterator[tuple[str, Iterable[str]]]:
    yield "datapackage.json", [json.dumps(descriptor(), indent=2) + "\n"]
    yield "motors.csv", catalogue_csv.write_catalogue(motors)
    yield "van.csv", van_csv.write_van(van)


def read_package(data: bytes, largest: int = LARGEST) -> dict[str, bytes]:
    """The CSV files of a zipped data package by name. Raises `InvalidField`.

    Never unpacks more than `largest` bytes in all, whatever the zip says of itself.
    """
    with broken_is_told(), zipfile.ZipFile(io.BytesIO(data)) as package:
        names = [info for info in package.infolist() if not info.is_dir()]
        if len(names) > MOST_FILES:
            raise invalid("", f"{len(names)} files", f"at most {MOST_FILES} files in a data package")
        found = {info.filename: info for info in names}
        if "datapackage.json" not in found:
            raise invalid("datapackage.json", "no such file", "a zip with datapackage.json, motors.csv or van.csv")
        if not set(FILES) & set(found):
            raise invalid("", ", ".join(sorted(found)), "motors.csv or van.csv in the zip")
        left, files = largest, {}
        for path in (path for path in FILES if path in found):
            files[path] = _unpacked(package, found[path], left)
            left -= len(files[path])
        return files


def _unpacked(package: zipfile.ZipFile, info: zipfile.ZipInfo, most: int) -> bytes:
    with package.open(info) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise invalid(
            info.filename, f"more than {most / 1e6:.1f} MB unpacked", f"at most {LARGEST / 1e6:.1f} MB in all"
        )
    return data
