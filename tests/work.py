"""Work for the workers to do: apart, so that a process that is forked for it loads nothing else."""

from __future__ import annotations

import os
import signal
import time

from keen_coil.core.errors import invalid
from keen_coil.formats.plate_photograph import EXTRA, EngineMissing


def stands(path: str) -> str:
    """Work that goes on until a file is there."""
    while not os.path.exists(path):
        time.sleep(0.01)
    return "done"


def eats(megabytes: int) -> int:
    """Work that takes memory."""
    return len(bytearray(megabytes * 1_000_000))


def refuses(field: str) -> None:
    """Work that finds bad input."""
    raise invalid(field, "x", "y")


def breaks() -> None:
    """Work in which the program has a fault."""
    raise LookupError("a fault of the program")


def vanishes() -> None:
    """Work whose process is gone."""
    os.kill(os.getpid(), signal.SIGKILL)


def tells(many: int, progress, out) -> int:
    """Work that tells how far it is and hands over what it writes."""
    for number in range(many):
        progress(number + 1, many)
        out.write(b"%d," % number)
    return many


def answers_later(name: str, data: bytes) -> bytes:
    """An answer to the API that stands still until the file it was asked for is there."""
    stands(data.decode().strip('"'))
    return b'"late"'


def no_engine(picture: bytes, progress) -> None:
    """The reading of a photograph on a machine without the engine."""
    raise EngineMissing(EXTRA)
