"""A shop's server over HTTPS: greetings, packages in pieces that go on where they were cut, photographs by hash.

What fails for the moment is tried again a few times; what the server refuses is told as it says it.
"""

from __future__ import annotations

import hashlib
import ssl
import time
from collections.abc import Callable
from pathlib import Path
from typing import IO, Any
from urllib.parse import urlsplit

import httpx

from ..core.errors import FieldError, InvalidField, KeenCoilError, invalid

PIECE = 2 * 1024 * 1024
TRIES, PAUSE_S = 5, 0.5
ANSWERS_S, MERGES_S = 30.0, 1800.0
LOOPBACK = ("127.0.0.1", "localhost", "::1")
CERTIFICATE = "the shop's certificate (PEM), as its phone page gives it"
MARK = {"X-Keen-Coil": "sync"}
"""A header that no page of another site can send."""


class ShopUnreachable(KeenCoilError):
    """The shop's server could not be reached, or stopped answering."""

    status, title = 503, "The shop can't be reached"

    def __init__(self, address: str, why: str) -> None:
        super().__init__(address, why)
        self.address, self.why = address, why

    def __str__(self) -> str:
        return f"{self.address}: {self.why}. Nothing is lost: sync again later, it goes on where it stopped."


class TwinRefused(Exception):
    """The server says that this replica is an older copy of one it knows; `common` is the last stamp both have."""

    def __init__(self, common: int) -> None:
        super().__init__(common)
        self.common = common


def checked_address(text: str) -> str:
    """The address of a shop's server without a slash at its end. Raises `InvalidField`.

    A token travels with every request: unhidden only to this very machine.
    """
    try:
        found = urlsplit(text.strip())
        host, port = found.hostname, found.port
    except ValueError:
        host, port, found = None, None, urlsplit("")
    plain = found.scheme == "http" and host in LOOPBACK
    if not host or (found.scheme != "https" and not plain) or found.username or found.query or found.fragment:
        raise invalid("address", text[:80] or "nothing", "the shop's address, such as https://shop.example:8765")
    where = f"[{host}]" if ":" in host else host
    return f"{found.scheme}://{where}{f':{port}' if port else ''}"


class ShopServer:
    """A shop's server, by its address, the token of an account, and the certificate it is known by (PEM)."""

    def __init__(self, address: str, token: str = "", certificate: str | None = None) -> None:
        self.address = checked_address(address)
        headers = MARK | ({"Authorization": f"Bearer {token}"} if token else {})
        hidden = self.address.startswith("https:")  # plain is to this machine only
        trust = _trust(certificate) if hidden or certificate else False
        self._client = httpx.Client(
            base_url=self.address, headers=headers, verify=trust, timeout=ANSWERS_S, trust_env=False
        )
        self.sent = self.received = 0

    def close(self) -> None:
        """Hang up."""
        self._client.close()

    def greet(self, greeting: dict[str, Any]) -> dict[str, Any]:
        """Say who is here; the greeting of the shop. Raises `TwinRefused`, `InvalidField`."""
        found: dict[str, Any] = self._ask("POST", "/api/sync/greeting", json=greeting).json()
        return found

    def missing_pictures(self, hashes: list[str]) -> list[str]:
        """Which of these photographs the shop lacks."""
        found: list[str] = self._ask("POST", "/api/sync/pictures/missing", json=hashes).json()
        return found

    def send_picture(self, sha256: str, content: bytes) -> None:
        """Send a photograph ahead of its row."""
        self._ask("PUT", f"/api/sync/pictures/{sha256}", content=content)

    def picture(self, sha256: str) -> bytes:
        """A photograph of the shop."""
        return self._ask("GET", f"/api/sync/pictures/{sha256}").content

    def send_package(self, file: IO[bytes], told: Callable[[int], None]) -> dict[str, Any]:
        """Send a package, from where an earlier try was cut, and have it merged; what came of it there."""
        digest, size = _digest(file)
        path = f"/api/sync/inbox/{digest}"
        at = int(self._ask("GET", path).json()["has"])
        while at < size:
            file.seek(at)
            at = int(self._ask("PUT", path, content=file.read(PIECE), params={"at": at}).json()["has"])
            told(at)
        merged: dict[str, Any] = self._ask("POST", f"{path}/merge", timeout=MERGES_S, json={}).json()
        return merged

    def fetch_package(self, knows: dict[str, int], folder: Path, told: Callable[[int], None]) -> Path:
        """What the shop has that is not known here, as a file in a folder; one that was cut short goes on."""
        for begun in sorted(folder.glob("*.part")):
            size = self._ask("GET", f"/api/sync/outbox/{begun.stem}/size").json()["bytes"]
            if size is not None:
                return self._fetch(begun.stem, int(size), folder, told)
            begun.unlink()
        made = self._ask("POST", "/api/sync/outbox", json=knows, timeout=MERGES_S).json()
        return self._fetch(str(made["sha256"]), int(made["bytes"]), folder, told)

    def _fetch(self, digest: str, size: int, folder: Path, told: Callable[[int], None]) -> Path:
        path = folder / f"{digest}.part"
        at = path.stat().st_size if path.exists() else 0
        with path.open("ab") as out:
            while at < size:
                asked = {"Range": f"bytes={at}-{min(size, at + PIECE) - 1}"}
                piece = self._ask("GET", f"/api/sync/outbox/{digest}", headers=asked).content
                out.write(piece[: size - at])
                at += len(piece)
                told(at)
        with path.open("rb") as file:
            if _digest(file)[0] != digest:
                path.unlink()
                raise invalid("", "another checksum than the shop told", "the package as the shop made it: sync again")
        return path

    def done(self, greeting: dict[str, Any]) -> None:
        """Tell the shop what is known here now."""
        self._ask("POST", "/api/sync/done", json=greeting)

    def _ask(self, method: str, path: str, **more: Any) -> httpx.Response:
        """An answer; what did not get through is tried again. Raises `ShopUnreachable`, and what the shop refuses."""
        for left in range(TRIES - 1, -1, -1):
            try:
                answer = self._client.request(method, path, **more)
            except httpx.HTTPError as error:
                if "CERTIFICATE_VERIFY_FAILED" in str(error):
                    raise invalid("certificate", "one that this laptop does not trust", CERTIFICATE) from None
                if left == 0 or isinstance(error, httpx.UnsupportedProtocol):
                    raise ShopUnreachable(self.address, _why(error)) from None
            else:
                if answer.status_code != 503 or left == 0:
                    self.received += len(answer.content)
                    self.sent += int(answer.request.headers.get("content-length", 0))
                    return self._good(answer)
            time.sleep(PAUSE_S * (TRIES - left))
        raise ShopUnreachable(self.address, "it does not answer")

    def _good(self, answer: httpx.Response) -> httpx.Response:
        if answer.status_code < 300:
            return answer
        try:
            data = answer.json()
        except ValueError:
            data = {}
        data = data if isinstance(data, dict) else {}
        if "older_copy" in data:
            raise TwinRefused(int(data["older_copy"]))
        if answer.status_code == 401:
            raise invalid("token", "one that the shop does not know", "a token made at the shop: Settings, Vans")
        errors = data.get("errors")
        if isinstance(errors, list) and errors:
            told = [[str(one.get(key, "")) for key in ("path", "value", "expected")] for one in errors[:50]]
            raise InvalidField([FieldError(f"shop: {path}".rstrip(": "), value, want) for path, value, want in told])
        raise ShopUnreachable(self.address, f"it answered {answer.status_code}, which no shop of this program does")


def _trust(certificate: str | None) -> ssl.SSLContext:
    """Whom to trust: the authorities of this machine, and the certificate that was given. Raises `InvalidField`."""
    context = ssl.create_default_context()
    if certificate:
        try:
            context.load_verify_locations(cadata=certificate)
        except (ssl.SSLError, ValueError):
            raise invalid("certificate", "no certificate", CERTIFICATE) from None
    return context


def _digest(file: IO[bytes]) -> tuple[str, int]:
    file.seek(0)
    found, size = hashlib.sha256(), 0
    while piece := file.read(PIECE):
        found.update(piece)
        size += len(piece)
    return found.hexdigest(), size


def _why(error: httpx.HTTPError) -> str:
    return "no connection" if isinstance(error, httpx.ConnectError) else "it stopped answering"
