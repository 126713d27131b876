"""Van plans that were worked out, kept: a long log is planned in the background, and the page shows the last plan.

A short log is planned while the page waits, about a second. Every plan is kept in this process with the state of the
data it was made from, and shown again as long as that is the same. When that of a long log has changed, the kept plan
is shown, said to be older, and a new one is begun. After a new start the first one is worked out again.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import dataclass
from datetime import UTC, datetime

from ..core.van.plan import VanPlan
from ..services.catalog.van_plan import Wish

AT_ONCE = 300
"""Closed calls up to which a page waits for its plan."""
PATIENCE_S = 0.12
"""How long a page waits for a plan of a long log that may be nearly ready."""
MOST_KEPT = 40
Key = tuple[str, Wish]


@dataclass(frozen=True)
class KeptVanPlan:
    """A plan with when it was worked out; `older`: the data has changed since, a newer one is being made."""

    plan: VanPlan
    made_at: datetime
    older: bool = False


class KeptPlans:
    """The plans of this server."""

    def __init__(self) -> None:
        self._kept: dict[Key, tuple[object, KeptVanPlan]] = {}
        self._begun: dict[Key, Future[None]] = {}
        self._lock = threading.Lock()
        self._thread = ThreadPoolExecutor(1, "van-plan")

    def shown(self, key: Key, state: object, work: Callable[[], VanPlan]) -> KeptVanPlan | None:
        """The plan to show now: of this state of the data, else the last one, None while there is none yet.

        Args: key, van and wish; state, of the data; work, makes the plan.
        """
        found = self._of(key, state)
        if found is not None and not found.older:
            return found
        wait([self._begin(key, state, work)], PATIENCE_S)
        return self._of(key, state)

    def at_once(self, key: Key, state: object, work: Callable[[], VanPlan]) -> KeptVanPlan:
        """The plan of this state of the data, worked out while the page waits where none is kept."""
        found = self._of(key, state)
        return found if found is not None and not found.older else self._keep(key, state, work)

    def _of(self, key: Key, state: object) -> KeptVanPlan | None:
        with self._lock:
            had = self._kept.get(key)
        if had is None:
            return None
        return had[1] if had[0] == state else KeptVanPlan(had[1].plan, had[1].made_at, older=True)

    def _keep(self, key: Key, state: object, work: Callable[[], VanPlan]) -> KeptVanPlan:
        made = KeptVanPlan(work(), datetime.now(UTC))
        with self._lock:
            self._kept.pop(key, None)
            self._kept[key] = (state, made)
            for old in list(self._kept)[:-MOST_KEPT]:
                del self._kept[old]
        return made

    def _begin(self, key: Key, state: object, work: Callable[[], VanPlan]) -> Future[None]:
        def run() -> None:
            try:
                self._keep(key, state, work)
            finally:
                with self._lock:
                    self._begun.pop(key, None)

        with self._lock:
            if key not in self._begun:
                self._begun[key] = self._thread.submit(run)
            return self._begun[key]
