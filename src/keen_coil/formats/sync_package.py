"""What one replica sends another: a data package of rows that the other lacks, one JSON Lines file a table.

A row carries every part with its writes: the value, the act that wrote it, those it was written over. Of a part that
was written with its row `with_row` has the value alone. Acts are pairs of a number in the manifest's list of replicas
and a stamp. Photographs lie beside by the hash of their content. The maker signs the whole; `signed.jsonl` has lists of
prints by which writes of others are known to be theirs.
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from itertools import chain
from typing import IO, Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..core.errors import InvalidField, field_errors, invalid
from ..core.replicas.clock import LARGEST_STAMP, Dot
from ..core.replicas.merge import ROW, RULES, Address, Write, Writes
from ..core.replicas.signing import SignedList, is_signed, sign
from ..core.units import CONTROL, texts_in
from .checked_zip import MANIFEST, STAMP, broken_is_told, check_members, check_sums, listed, manifest_of, write_member

FORMAT, VERSION = "keen-coil/sync", 2
SIGNED = "signed.jsonl"
LARGEST_UNPACKED, LONGEST_LINE, MOST_OVER = 6_000_000_000, 4 * 1024 * 1024, 20_000
ROWS_AT_ONCE, BYTES_AT_ONCE = 400, 4 * 1024 * 1024
MOST_PACKED_TIMES, ALWAYS_UNPACKED = 40, 50_000_000
"""Rows pack about twelve times; what packs much more tightly than rows do is none, and would fill the memory."""
Uid = Annotated[str, Field(pattern=r"^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$")]
Stamp = Annotated[int, Field(ge=0, lt=LARGEST_STAMP)]
Nonce = Annotated[str, Field(pattern=r"^[0-9a-f]{12}$")]
Knows = Annotated[dict[Uid, Stamp], Field(max_length=1000)]
Key = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
Signature = Annotated[str, Field(pattern=r"^([0-9a-f]{128})?$")]


class Greeting(BaseModel):
    """Who a replica is and what it knows: of each replica the stamp of its last act, and the marks it has of it.

    now_ms: its clock when it said so. marks: of each replica the last ones known, oldest first. key: what proves its
    signatures. after_uid, after_proof: who it was before it took a new identity, and that one's word for it. signature:
    of a greeting that travels by itself.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    format: str = FORMAT
    version: int = VERSION
    uid: Uid
    name: Annotated[str, Field(max_length=80)] = ""
    key: Key
    after_uid: Uid | None = None
    after_proof: Signature = ""
    is_shop: bool = False
    now_ms: Annotated[int, Field(ge=0, lt=2**46)]
    knows: Knows
    marks: Annotated[dict[Uid, Annotated[list[Nonce], Field(max_length=1000)]], Field(max_length=1000)] = {}
    signature: Signature = ""

    def text(self) -> bytes:
        """What is signed of it."""
        return json.dumps(self.model_dump(mode="json", exclude={"signature"}), sort_keys=True).encode()

    def signed(self, secret: bytes) -> Greeting:
        """The same with its signature."""
        return self.model_copy(update={"signature": sign(secret, self.text())})

    def follows(self, uid: str, key: str | None) -> bool:
        """Whether it took a new identity in the place of another, by the word of that one's key."""
        return self.after_uid == uid and bool(key) and is_signed(str(key), self.after_text(), self.after_proof)

    def after_text(self) -> bytes:
        """What an older identity signs for a newer one."""
        return after_text(str(self.after_uid), self.uid, self.key)


def after_text(old: str, new: str, key: str) -> bytes:
    """What the older identity of a laptop signs for its new one."""
    return f"after {old}: {new} {key}".encode()


class Contents(BaseModel):
    """What a package says of itself: its maker, what it begins after, the replicas its acts are of."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    format: str
    version: int
    maker: Greeting
    since: Knows
    replicas: Annotated[list[Uid], Field(max_length=1000)]
    seal: str = ""
    signature: Signature


def read_greeting(data: Any, path: str = "greeting", is_signed_apart: bool = True) -> Greeting:
    """A greeting from its JSON, which its own key signed. Raises `InvalidField`."""
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise invalid(f"{path}.format", data.get("format") if isinstance(data, dict) else data, FORMAT)
    version = data.get("version")
    if isinstance(version, int) and version > VERSION:
        raise invalid(f"{path}.version", version, f"at most {VERSION}: it was made by a newer program")
    if version != VERSION:
        raise invalid(f"{path}.version", version, f"{VERSION}: an older program made it, and signed nothing")
    try:
        found = Greeting.model_validate(data)
    except ValidationError as error:
        raise InvalidField(field_errors(error, path)) from None
    if is_signed_apart and not is_signed(found.key, found.text(), found.signature):
        raise invalid(f"{path}.signature", "one of another key", f"the signature of {found.name or found.uid}")
    return found


class Package:
    """A package that was checked as a whole, to be read table by table."""

    def __init__(self, package: zipfile.ZipFile, contents: Contents, lines: int) -> None:
        self._package = package
        self.contents = contents
        self.lines = lines
        self._members = set(package.namelist())
        self._read = 0

    def rows(self, table: str) -> Iterator[tuple[str, dict[Address, Writes]]]:
        """The rows of a table: key, its parts with their writes. Raises `InvalidField` naming file and line."""
        path = f"{table}.jsonl"
        if path not in self._members:
            return
        with self._package.open(path) as file:
            number = 0
            while line := file.readline(LONGEST_LINE):
                number += 1
                self._read += len(line)
                yield self._row(table, line, f"{path}: line {number}")

    def parts(self, table: str) -> Iterator[list[tuple[str, dict[Address, Writes]]]]:
        """The rows of a table by so many at a time, fewer where they are long. Raises as `rows` does."""
        part: list[tuple[str, dict[Address, Writes]]] = []
        begun = self._read
        for row in self.rows(table):
            part.append(row)
            if len(part) >= ROWS_AT_ONCE or self._read - begun >= BYTES_AT_ONCE:
                yield part
                part, begun = [], self._read
        if part:
            yield part

    def signed_lists(self) -> Iterator[SignedList]:
        """The lists of prints that came along. Raises `InvalidField`."""
        if SIGNED not in self._members:
            return
        with self._package.open(SIGNED) as file:
            while line := file.readline(LONGEST_LINE):
                try:
                    origin, upto, prints, signature = json.loads(line)
                    if not (isinstance(origin, str) and 0 < upto < LARGEST_STAMP and isinstance(signature, str)):
                        raise ValueError
                    yield SignedList(origin, upto, bytes.fromhex(prints), signature)
                except (ValueError, TypeError):
                    raise invalid(SIGNED, line[:40].decode("utf-8", "replace"), "a signed list of prints") from None

    def _row(self, table: str, line: bytes, path: str) -> tuple[str, dict[Address, Writes]]:
        try:
            data = json.loads(line)
            key, parts = data["key"], data["parts"]
            for _, text in texts_in([data.get("with_row"), parts, str(key).replace("\x1f", "")]):
                if CONTROL.search(text):
                    raise ValueError
            if not isinstance(key, str) or not parts.keys() <= RULES[table].parts.keys():
                raise ValueError
            if not key or key.count("\x1f") + 1 != len(RULES[table].key):
                raise ValueError
            found = {Address(table, key, name): tuple(map(self._write, writes)) for name, writes in parts.items()}
            found |= self._with_row(table, key, found[Address(table, key, ROW)], data.get("with_row", {}))
        except (ValueError, KeyError, TypeError, AttributeError, IndexError, RecursionError):
            raise invalid(path, line[:60].decode("utf-8", "replace"), "a row with the writes of its parts") from None
        if not all(found.values()):
            raise invalid(path, "a part without a write", "at least one")
        return key, found

    def _with_row(self, table: str, key: str, row: Writes, values: Any) -> dict[Address, Writes]:
        """The parts that were written with their row."""
        if not values.keys() <= RULES[table].parts.keys() or not all(isinstance(one, dict) for one in values.values()):
            raise ValueError
        return {Address(table, key, name): (row[0]._replace(value=value),) for name, value in values.items()}

    def _write(self, data: Any) -> Write:
        value, over = data["value"], data.get("over", [])
        if not (value is None or isinstance(value, dict)) or len(over) > MOST_OVER:
            raise ValueError
        return Write(self._dot(data["at"]), value, frozenset(map(self._dot, over)))

    def _dot(self, data: Any) -> Dot:
        number, stamp = data
        if type(number) is not int or type(stamp) is not int or number < 0 or not 0 < stamp < LARGEST_STAMP:
            raise ValueError
        return Dot(self.contents.replicas[number], stamp) if number < len(self.contents.replicas) else _no_dot()

    def pictures(self) -> Iterator[tuple[str, bytes]]:
        """The photographs that came along, by hash."""
        for name in sorted(self._members):
            if name.startswith("photographs/"):
                yield name.removeprefix("photographs/").removesuffix(".jpg"), self._package.read(name)


def _no_dot() -> Dot:
    raise ValueError


def write_package(
    out: IO[bytes],
    maker: Greeting,
    since: Mapping[str, int],
    rows: Iterable[tuple[str, Iterable[tuple[str, Mapping[str, Writes]]]]],
    pictures: Iterable[tuple[str, bytes]],
    signed: Iterable[SignedList],
    secret: bytes,
) -> None:
    """Write rows, by table with their keys and parts, pictures by hash, and last the signed lists; sign it all."""
    replicas: dict[str, int] = {}
    resources: list[dict[str, Any]] = []
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        for table, of_table in rows:
            path, lines = f"{table}.jsonl", _lines(of_table, replicas)
            first = next(lines, b"")
            if first:
                found = write_member(package, path, chain([first], lines))
                resources.append({"name": table.replace("_", "-"), "path": path, "format": "jsonl", **found})
        for sha256, content in pictures:
            path = f"photographs/{sha256}.jpg"
            found = write_member(package, path, [content])
            resources.append({"name": sha256[:40], "path": path, "mediatype": "image/jpeg", **found})
        lists = (json.dumps([one.origin, one.upto, one.prints.hex(), one.signature]).encode() + b"\n" for one in signed)
        resources.append({"name": "signed", "path": SIGNED, "format": "jsonl", **write_member(package, SIGNED, lists)})
        contents = Contents(
            format=FORMAT, version=VERSION, maker=maker, since=dict(since), replicas=list(replicas), signature=""
        ).model_dump(mode="json")
        manifest = {"name": "keen-coil-sync", "profile": "data-package", "keen_coil": contents, "resources": resources}
        seal_and_sign(manifest, secret)
        package.writestr(zipfile.ZipInfo(MANIFEST, STAMP), json.dumps(manifest) + "\n", zipfile.ZIP_DEFLATED)


def _lines(rows: Iterable[tuple[str, Mapping[str, Writes]]], replicas: dict[str, int]) -> Iterator[bytes]:
    def dot(of: Dot) -> list[int]:
        return [replicas.setdefault(of.origin, len(replicas)), of.stamp]

    def full(writes: Writes) -> list[dict[str, Any]]:
        return [
            {"at": dot(write.dot), "value": write.value}
            | ({"over": [dot(one) for one in sorted(write.over)]} if write.over else {})
            for write in writes
        ]

    for key, parts in rows:
        row = parts[ROW]
        with_row = {name: of[0].value for name, of in parts.items() if name != ROW and _is_of(row, of)}
        told = {name: full(of) for name, of in parts.items() if name not in with_row}
        line = {"key": key, "parts": told} | ({"with_row": with_row} if with_row else {})
        yield json.dumps(line, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"


def _is_of(row: Writes, part: Writes) -> bool:
    """Whether a part was written with its row."""
    return len(row) == len(part) == 1 and row[0][::2] == part[0][::2] and isinstance(part[0].value, dict)


def seal_and_sign(manifest: dict[str, Any], secret: bytes) -> None:
    """Give a manifest its checksum and its maker's signature."""
    manifest["keen_coil"]["seal"] = _seal(manifest)
    manifest["keen_coil"]["signature"] = sign(secret, manifest["keen_coil"]["seal"].encode())


def _seal(manifest: Mapping[str, Any]) -> str:
    """The checksum of a manifest but for the seal itself and its signature."""
    says = {name: value for name, value in manifest["keen_coil"].items() if name not in ("seal", "signature")}
    bare = {**manifest, "keen_coil": says}
    return hashlib.sha256(json.dumps(bare, sort_keys=True).encode()).hexdigest()


@contextmanager
def open_package(file: IO[bytes], largest: int = LARGEST_UNPACKED) -> Iterator[Package]:
    """Open a package once everything about it is right.

    Raises `InvalidField` on a broken zip, a member that is missing, not listed or changed, another or a newer format.
    """
    with broken_is_told():
        package = zipfile.ZipFile(file)
    with package:
        with broken_is_told():
            manifest = manifest_of(package, FORMAT, VERSION, "a file that keen-coil sync wrote")
            says = manifest["keen_coil"]
            if says.get("seal") != _seal(manifest):
                raise invalid(f"{MANIFEST}: seal", "another checksum", "the manifest as it was written")
            members = listed(manifest)
            check_members(package, members)
            odd = sorted(set(members) - {f"{table}.jsonl" for table in RULES} - {SIGNED})
            odd = [name for name in odd if not name.startswith("photographs/")]
            if odd:
                raise invalid(odd[0], "a table that this program does not know", ", ".join(RULES))
            packed = file.seek(0, io.SEEK_END)
            lines = check_sums(package, members, min(largest, ALWAYS_UNPACKED + MOST_PACKED_TIMES * packed))
        read_greeting(says.get("maker"), f"{MANIFEST}: maker", is_signed_apart=False)
        try:
            contents = Contents.model_validate(says)
        except ValidationError as error:
            raise InvalidField(field_errors(error, MANIFEST)) from None
        if not is_signed(contents.maker.key, contents.seal.encode(), contents.signature):
            name = contents.maker.name or contents.maker.uid
            raise invalid(f"{MANIFEST}: signature", "one of another key", f"the signature of {name}")
        yield Package(package, contents, lines)


def is_sync_package(data: bytes) -> bool:
    """Whether a zip says of itself that it is for syncing."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package, package.open(MANIFEST) as file:
            return b'"keen-coil/sync"' in file.read(1 << 16)
    except (KeyError, OSError, zipfile.BadZipFile):
        return False
