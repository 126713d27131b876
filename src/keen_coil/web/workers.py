"""Heavy work in processes of its own: bounded in number, time and memory, ended when nobody waits for it any more.

Each piece of work is forked from a small server process in which the modules are loaded already (15 ms), runs at a
lower priority than the pages, and is killed when its time is over, its asker is gone, or the server stops. Nothing
that a request asks for is computed on the event loop or under its lock.
"""

from __future__ import annotations

import contextlib
import io
import multiprocessing
import os
import queue
import signal
import threading
import time
import traceback
from collections.abc import Callable, Iterator
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from types import MappingProxyType
from typing import IO, Any

from ..core.errors import RefusedNow
from ..services.acts import ProgressCallback, no_progress

_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(["keen_coil.web.preloaded"])
LOOKS_EVERY_S, PIECES_AHEAD = 0.2, 16
NICE, LATER_S = 10, 10


class TooMuchWork(RefusedNow):
    """Work that was not done, for it is more than one request may ask for."""

    status, title = 422, "Too much in one"


class ServerBusy(RefusedNow):
    """Work that was not begun, for others are waiting; the same may be asked again later."""

    status, title, headers = 503, "Busy", MappingProxyType({"Retry-After": "5"})


class ServerStopping(RefusedNow):
    """Whoever asked is gone, or the server stops."""

    status, title = 503, "Stopping"

    def __init__(self, got: str = "", expected: str = "a server that is not stopping") -> None:
        super().__init__(got, expected)


class Workers:
    """So many processes at once, so many askers waiting; each with a limit of seconds and of memory (MB)."""

    def __init__(self, most: int, waiting: int, seconds: float, memory_mb: int) -> None:
        self.seconds, self.memory_mb, self.waiting = seconds, memory_mb, waiting
        self._slots, self._lock = threading.Semaphore(most), threading.Lock()
        self._asking, self._running, self._stopping = 0, set[BaseProcess](), False

    def run(
        self,
        function: Callable[..., Any],
        *args: Any,
        progress: ProgressCallback = no_progress,
        out: IO[bytes] | None = None,
        gone: threading.Event | None = None,
    ) -> Any:
        """What a function of a module answers, from a process of its own.

        It is given `progress` and `out` by name when they are given here: told of what is done, handed what it writes.
        Raises what the function raises; `WorkRefused` when too many wait, or it takes too long or too much memory;
        `Stopped` when `gone` is set.
        """
        with self._slot(gone):
            mine, theirs = _CONTEXT.Pipe(duplex=False)
            named = (progress is not no_progress, out is not None)
            bounds = (self.seconds, self.memory_mb, NICE)
            child = _CONTEXT.Process(target=_work, args=(theirs, bounds, named, function, args), daemon=True)
            with contextlib.closing(mine):
                child.start()
                theirs.close()
                with self._lock:
                    self._running.add(child)
                try:
                    return self._answer(mine, progress, out, gone)
                finally:
                    child.kill()
                    child.join()
                    with self._lock:
                        self._running.discard(child)

    def stream(self, function: Callable[..., Any], *args: Any) -> Iterator[bytes]:
        """What a function writes to its `out`, piece by piece while it is written; it is ended when nobody reads on.

        Raises as `run` does.
        """
        pieces: queue.Queue[bytes | BaseException | None] = queue.Queue(PIECES_AHEAD)
        gone = threading.Event()

        def work() -> None:
            end: BaseException | None = None
            try:
                with io.BufferedWriter(_Queued(pieces, gone), 1 << 18) as out:
                    self.run(function, *args, out=out, gone=gone)
            except BaseException as error:
                end = error
            with contextlib.suppress(ServerStopping):
                _put(pieces, end, gone)

        threading.Thread(target=work, daemon=True).start()
        try:
            while (piece := pieces.get()) is not None:
                if isinstance(piece, BaseException):
                    raise piece
                yield piece
        finally:
            gone.set()

    @contextlib.contextmanager
    def _slot(self, gone: threading.Event | None) -> Iterator[None]:
        with self._lock:
            if self._stopping:
                raise ServerStopping
            if self._asking >= self.waiting:
                raise ServerBusy(f"{self._asking} others waiting", "another try in a few seconds")
            self._asking += 1
        try:
            ends = time.monotonic() + self.seconds
            while not self._slots.acquire(timeout=LOOKS_EVERY_S):
                self._go_on(gone)
                if time.monotonic() > ends:
                    raise ServerBusy("too much to do", "another try in a few seconds")
            try:
                yield
            finally:
                self._slots.release()
        finally:
            with self._lock:
                self._asking -= 1

    def _go_on(self, gone: threading.Event | None) -> None:
        if self._stopping or (gone is not None and gone.is_set()):
            raise ServerStopping

    def _answer(
        self, mine: Connection, progress: ProgressCallback, out: IO[bytes] | None, gone: threading.Event | None
    ) -> Any:
        ends = time.monotonic() + self.seconds
        while True:
            self._go_on(gone)
            if not mine.poll(LOOKS_EVERY_S):
                if time.monotonic() > ends:
                    raise TooMuchWork(f"more than {self.seconds:g} s of work", "less of it in one request")
                continue
            try:
                what, value = mine.recv()
            except EOFError:
                self._go_on(gone)
                raise TooMuchWork(f"work of more than {self.memory_mb} MB", "less of it in one request") from None
            if what == "told":
                progress(*value)
            elif what == "wrote" and out is not None:
                out.write(value)
            elif what == "raised":
                raise value
            elif what == "memory":
                raise TooMuchWork(f"work of more than {self.memory_mb} MB", "less of it in one request")
            else:
                return value

    def stop(self) -> None:
        """End all work, and take no more."""
        self._stopping = True
        with self._lock:
            for child in self._running:
                child.kill()


def _put(pieces: queue.Queue[Any], piece: Any, gone: threading.Event) -> None:
    """Put a piece in the queue when there is room; raises `ServerStopping` once nobody reads any more."""
    while True:
        if gone.is_set():
            raise ServerStopping
        with contextlib.suppress(queue.Full):
            pieces.put(piece, timeout=LOOKS_EVERY_S)
            return


class _Queued(io.RawIOBase):
    """A file whose bytes go to whoever reads the queue."""

    def __init__(self, pieces: queue.Queue[Any], gone: threading.Event) -> None:
        self._pieces, self._gone = pieces, gone

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        _put(self._pieces, bytes(data), self._gone)
        return len(data)


class _Handed(io.RawIOBase):
    """A file whose bytes go to whoever asked for the work."""

    def __init__(self, conn: Connection) -> None:
        self._conn = conn

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self._conn.send(("wrote", bytes(data)))
        return len(data)


def _work(
    conn: Connection,
    bounds: tuple[float, int, int],
    named: tuple[bool, bool],
    function: Callable[..., Any],
    args: tuple[Any, ...],
) -> None:
    """In the process: do it, say what came of it."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    _bound(*bounds)
    more: dict[str, Any] = {"progress": lambda done, of: conn.send(("told", (done, of)))} if named[0] else {}
    handed = io.BufferedWriter(_Handed(conn), 1 << 18) if named[1] else None
    more |= {"out": handed} if handed else {}
    try:
        value = function(*args, **more)
        if handed:
            handed.flush()
        conn.send(("done", value))
    except MemoryError:
        conn.send(("memory", None))
    except Exception as error:
        error.add_note(traceback.format_exc())  # where it was, for the server's log
        try:
            conn.send(("raised", error))
        except Exception:  # an error that does not cross between processes
            conn.send(("raised", RuntimeError(repr(error))))


def _bound(seconds: float, memory_mb: int, nice: int) -> None:
    """Let this process grow by so much, and end though nobody is left to end it, where the system can be asked."""
    os.nice(nice)
    try:
        import resource

        with open("/proc/self/statm", encoding="ascii") as file:
            now = int(file.read().split()[0]) * resource.getpagesize()
        resource.setrlimit(resource.RLIMIT_AS, (now + memory_mb * 1_000_000,) * 2)
        resource.setrlimit(resource.RLIMIT_CPU, (int(seconds) + LATER_S,) * 2)
    except (ImportError, OSError, ValueError):
        return
