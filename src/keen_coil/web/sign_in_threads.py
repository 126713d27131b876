"""The thread in which passwords are checked: one, of low priority, a short queue before it: a flood starves nobody."""

from __future__ import annotations

import asyncio
import contextlib
import os
import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from .workers import ServerBusy

MOST_WAITING = 24
NICE = 10


def _stand_back() -> None:
    """Let this thread run after the pages where the system can be asked: Linux counts threads as processes there."""
    with contextlib.suppress(OSError, AttributeError):
        os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICE)


class SignInThreads:
    """One thread, for a check takes a whole core; whoever would wait behind two dozen others is asked to come again."""

    def __init__(self) -> None:
        self._threads = ThreadPoolExecutor(1, "sign-in", initializer=_stand_back)
        self._asking = 0

    async def run(self, function: Callable[..., Any], *args: Any) -> Any:
        """What a function answers. Raises what it raises, and `ServerBusy`."""
        if self._asking >= MOST_WAITING:
            raise ServerBusy(f"{self._asking} others signing in", "another try in a few seconds")
        self._asking += 1
        try:
            return await asyncio.get_running_loop().run_in_executor(self._threads, function, *args)
        finally:
            self._asking -= 1
