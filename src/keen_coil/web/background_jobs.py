"""Files that are read or written beside the page: how far each is, and what went wrong."""

from __future__ import annotations

import io
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field

TOLD, TOLD_S = 20, 1800.0
"""Files whose end is still told to whoever asks again: so many, so long."""
END_S = 10.0


@dataclass
class BackgroundJob:
    """A file under way: rows done of how many, what is being done; `ended` says how it came out."""

    doing: str
    done: int = 0
    of: int = 0
    ended: str = ""
    result: object = None
    over: threading.Event = field(default_factory=threading.Event)
    ended_at: float = 0.0

    def wait(self) -> None:
        """Wait for its end, which is at hand once its draft is gone."""
        self.over.wait(END_S)


class BackgroundJobs:
    """The files under way in this server, by the draft's id."""

    def __init__(self) -> None:
        self._jobs: dict[str, BackgroundJob] = {}

    def of(self, draft_id: str) -> BackgroundJob | None:
        """The job on a draft, if any."""
        return self._jobs.get(draft_id)

    def forget(self, draft_id: str) -> None:
        """Drop a job that has ended and was told of, and the file it made with it."""
        job = self._jobs.pop(draft_id, None)
        if job is not None and isinstance(job.result, io.IOBase):
            job.result.close()

    def start(self, draft_id: str, doing: str, work: Callable[[Callable[[int, int], None]], object]) -> BackgroundJob:
        """Do some work on a thread of its own; it is told how to tell how far it is."""
        ended = [(key, had.ended_at) for key, had in list(self._jobs.items()) if had.ended]
        for place, (key, at) in enumerate(ended):
            if place < len(ended) - TOLD or time.monotonic() - at > TOLD_S:
                self.forget(key)
        job = BackgroundJob(doing)
        self._jobs[draft_id] = job

        def progress(done: int, of: int) -> None:
            job.done, job.of = done, of

        def run() -> None:
            try:
                job.result = work(progress)
                job.ended = "done"
            except Exception as error:  # the page says it: nobody else is there to
                job.result, job.ended = error, "failed"
            finally:
                job.ended_at = time.monotonic()
                job.over.set()

        threading.Thread(target=run, name=f"import-{draft_id[:8]}", daemon=True).start()
        return job
