"""Photographs of plates being read, beside the page: how far each is, what text was found.

The text is found anew in the kept photograph when nobody remembers it; it is never kept itself.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from ..core.errors import RefusedNow
from ..formats.plate_photograph import EngineMissing
from ..services.acts import ProgressCallback
from ..services.stations.plate_photograph import PhotographText

REMEMBERED = 200
NO_ENGINE = "engine"
Work = Callable[[ProgressCallback], PhotographText]


@dataclass
class PhotographJob:
    """A photograph being read: lines read of how many; then its text, or why there is none."""

    done: int = 0
    of: int = 0
    text: PhotographText | None = None
    trouble: str = ""
    over: threading.Event = field(default_factory=threading.Event)

    @property
    def is_over(self) -> bool:
        """Whether text or trouble is there."""
        return self.over.is_set()

    def seen(self) -> PhotographJob:
        """The job as it is now, for a page: what ends while the page is made is told by the next one."""
        return replace(self) if self.is_over else PhotographJob(self.done, self.of)


class PlatePhotographs:
    """The readings of this server, by photograph; the latest are remembered."""

    def __init__(self) -> None:
        self._jobs: OrderedDict[int, PhotographJob] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, photo_id: int, work: Work) -> PhotographJob:
        """The text of a photograph, looked for when nobody has asked for it yet, or the last try came to nothing."""
        with self._lock:
            job = self._jobs.get(photo_id)
            if job is not None and not job.trouble:
                return job
            job = self._jobs[photo_id] = PhotographJob()
            while len(self._jobs) > REMEMBERED:
                self._jobs.popitem(last=False)
        threading.Thread(target=self._run, args=(job, work), name=f"plate-{photo_id}", daemon=True).start()
        return job

    @staticmethod
    def _run(job: PhotographJob, work: Work) -> None:
        def progress(done: int, of: int) -> None:
            job.done, job.of = done, of

        try:
            job.text = work(progress)
        except EngineMissing:
            job.trouble = NO_ENGINE
        except RefusedNow as refused:
            job.trouble = str(refused)
        except Exception as error:  # the page says it: nobody else is there to
            job.trouble = f"It could not be read ({type(error).__name__})."
        finally:
            job.over.set()
