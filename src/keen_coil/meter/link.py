"""The link to a meter: listens on a thread of its own, keeps the latest frames, comes back after a lost connection."""

from __future__ import annotations

import threading
import time
from collections import deque
from dataclasses import dataclass
from urllib.parse import urlsplit

from ..core.errors import InvalidField, invalid
from ..core.meter import steady
from .protocol import Frame, read_frame

FRAMES_HELD, STALE_S = 40, 2.0
FIRST_WAIT_S, LONGEST_WAIT_S = 0.3, 4.0
LOOPBACK = ("127.0.0.1", "localhost", "::1")


@dataclass(frozen=True)
class Now:
    """What the link knows now: the latest frame, whether it is steady, or in words why there is none."""

    frame: Frame | None
    steady: bool
    says: str


def meter_address(text: str) -> str:
    """The address of a meter as typed: a WebSocket on loopback. Raises `InvalidField`."""
    expected = "a WebSocket on this machine such as ws://127.0.0.1:8767"
    try:
        parts = urlsplit(text.strip())
        port = parts.port
    except ValueError:
        raise invalid("meter", text[:60], expected) from None
    if parts.scheme != "ws" or parts.hostname not in LOOPBACK or port is None:
        raise invalid("meter", text[:60] or "nothing", expected)
    return text.strip()


class MeterLink:
    """Listens to one meter until it is closed."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._frames: deque[tuple[float, Frame]] = deque(maxlen=FRAMES_HELD)
        self._says = "Looking for the meter."
        self._lock = threading.Lock()
        self._closing = threading.Event()
        self._thread = threading.Thread(target=self._run, name="meter", daemon=True)
        self._thread.start()

    def now(self) -> Now:
        """The latest frame, as long as it is fresh."""
        with self._lock:
            frames, says = list(self._frames), self._says
        if not frames or time.monotonic() - frames[-1][0] > STALE_S:
            return Now(None, False, says if says else "The meter sends nothing.")
        latest = frames[-1][1]
        same = [
            (at, frame.number) for at, frame in frames if (frame.function, frame.unit) == (latest.function, latest.unit)
        ]
        return Now(latest, steady(same, latest.resolution), "")

    def close(self) -> None:
        """Stop listening."""
        self._closing.set()
        self._thread.join(3)

    def _run(self) -> None:
        wait = FIRST_WAIT_S
        while not self._closing.is_set():
            if self._listen():
                wait = FIRST_WAIT_S
            self._closing.wait(wait)
            wait = min(2 * wait, LONGEST_WAIT_S)

    def _listen(self) -> bool:
        """Listen until the connection is lost; whether there was one."""
        from websockets.exceptions import WebSocketException
        from websockets.sync.client import connect

        heard = False
        try:
            with connect(self.address, open_timeout=2, close_timeout=1, max_size=65536, proxy=None) as socket:
                while not self._closing.is_set():
                    try:
                        message = socket.recv(timeout=0.5)
                    except TimeoutError:
                        continue
                    heard = True
                    self._take(str(message))
        except (OSError, WebSocketException, TimeoutError):
            self._note(
                "The connection to the meter is lost. It is tried again; what was taken is kept."
                if heard
                else "No meter answers at its address. It is tried again."
            )
        return heard

    def _take(self, message: str) -> None:
        for line in message.splitlines()[:50]:
            try:
                frame = read_frame(line)
            except InvalidField as error:
                self._note(f"The meter sends something else than the protocol: {error.errors[0].line()}")
                continue
            with self._lock:
                self._frames.append((time.monotonic(), frame))
                self._says = ""

    def _note(self, says: str) -> None:
        with self._lock:
            self._says = says
