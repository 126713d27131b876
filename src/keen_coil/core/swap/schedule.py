"""The schedule: one pair of hands, waits that run beside the work, the earliest finish.

Tasks are joined by what must come before what; a wait begins when its task is done and its followers sit it out. The
longest chain of hands and waits is the critical path method's bound (Kelley and Walker, 1959); the hands make it
one-machine scheduling with delays, for which the best of a few orders is taken: by the table, by the longest chain
ahead, by the longest wait ahead; each both without idling and with it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter
from typing import NamedTuple

from ..errors import invalid


class Task(NamedTuple):
    """Hands-on minutes, what must be done before, minutes of waiting that begin when it is done."""

    key: str
    minutes: float
    after: tuple[str, ...] = ()
    wait_min: float = 0.0


class Slot(NamedTuple):
    """When hands are at a task, minutes from the start. `done` says it has happened."""

    key: str
    start: float
    end: float
    done: bool = False


class Waiting(NamedTuple):
    """A wait and what is done meanwhile; `idle_min` of it nothing is left to do."""

    key: str
    start: float
    end: float
    meanwhile: tuple[str, ...]
    idle_min: float


@dataclass(frozen=True)
class Schedule:
    """The plan of the work, minutes from the start.

    `elapsed` is when everything is done, `chain` the longest chain of hands and waits alone, `hands_on` the hands' sum,
    `total` hands and waits one after another; `critical` the tasks of the longest chain.
    """

    slots: tuple[Slot, ...]
    waits: tuple[Waiting, ...]
    hands_on: float
    elapsed: float
    chain: float
    total: float
    critical: tuple[str, ...]

    def end_of(self, key: str) -> float | None:
        """When a task is done; None where there is no such task."""
        return next((slot.end for slot in self.slots if slot.key == key), None)


def schedule(tasks: Sequence[Task], done: Mapping[str, float] | None = None, now: float = 0.0) -> Schedule:
    """Schedule tasks from `now` (minutes) on; `done` gives when tasks were done. Ties keep the order given.

    With hands h_k, waits w_k and followers F_k, the tail of a task is the critical path method's longest chain ([1]):
        tail_k = h_k + w_k + max over j in F_k of tail_j,  chain = max over k of tail_k
    One pair of hands with waits beside it is one-machine scheduling with delays, which is NP-hard ([2]); six orders
    are tried (by the table, by tail, by the longest wait ahead; each without and with idling) and the shortest taken.
    [1] J. E. Kelley, M. R. Walker, Critical-path planning and scheduling, 1959.
    [2] M. R. Garey, D. S. Johnson, Computers and Intractability, 1979.

    Without any done, `chain <= elapsed <= total`. Raises `InvalidField` on an unknown or doubled task, a circle, or a
    time below nought.
    """
    order = _checked(tasks)
    finished = dict(done or {})
    tasks = [_over(task, tasks, finished) for task in tasks]
    tails, ahead = _tails(tasks, order), _waits_ahead(tasks, order)
    rules: tuple[Callable[[Task], float], ...] = (
        lambda task: 0.0,
        lambda task: -tails[task.key],
        lambda task: -ahead[task.key],
    )
    plans = [_listed(tasks, finished, now, rule) for rule in rules]
    plans += [_inserted(tasks, finished, now, rule) for rule in rules]
    slots = min(plans, key=lambda plan: round(_end(plan, tasks), 6))
    chain, critical = _chain(tasks, order)
    return Schedule(
        tuple(slots),
        _waits(slots, tasks, now),
        sum(task.minutes for task in tasks),
        _end(slots, tasks),
        chain,
        sum(task.minutes + task.wait_min for task in tasks),
        critical,
    )


def _over(task: Task, tasks: Sequence[Task], finished: Mapping[str, float]) -> Task:
    """A task whose wait nobody sits out any more: something that comes after it was done."""
    followed = any(task.key in other.after and other.key in finished for other in tasks)
    return task._replace(wait_min=0.0) if task.key in finished and followed else task


def _checked(tasks: Sequence[Task]) -> list[str]:
    """The tasks in an order in which none comes before what it needs."""
    known = {task.key: task for task in tasks}
    if len(known) != len(tasks):
        twice = next(task.key for task in tasks if sum(other.key == task.key for other in tasks) > 1)
        raise invalid("tasks", twice, "each task once")
    for task in tasks:
        for minutes in (task.minutes, task.wait_min):
            if not 0 <= minutes < float("inf"):
                raise invalid(task.key, minutes, "minutes of 0 or more")
        for name in task.after:
            if name not in known:
                raise invalid(task.key, name, "a task of this job before it")
    try:
        return list(TopologicalSorter({task.key: task.after for task in tasks}).static_order())
    except CycleError as error:
        raise invalid("tasks", error.args[1][0], "tasks that do not wait for each other in a circle") from None


def _tails(tasks: Sequence[Task], order: list[str]) -> dict[str, float]:
    """The longest chain from the start of each task to the end."""
    of = {task.key: task for task in tasks}
    tails: dict[str, float] = {}
    for key in reversed(order):
        after = [tails[other.key] for other in tasks if key in other.after]
        tails[key] = of[key].minutes + of[key].wait_min + max(after, default=0.0)
    return tails


def _waits_ahead(tasks: Sequence[Task], order: list[str]) -> dict[str, float]:
    """The longest wait that each task leads to, itself or by what follows it."""
    of = {task.key: task for task in tasks}
    ahead: dict[str, float] = {}
    for key in reversed(order):
        ahead[key] = max([of[key].wait_min, *(ahead[other.key] for other in tasks if key in other.after)])
    return ahead


def _listed(
    tasks: Sequence[Task], finished: Mapping[str, float], now: float, rule: Callable[[Task], float]
) -> list[Slot]:
    """A plan by a list rule: whatever can start soonest goes next, the rule and then the table's order deciding."""
    of = {task.key: task for task in tasks}
    slots = _past(tasks, finished)
    ends = {slot.key: slot.end for slot in slots}
    left = [task for task in tasks if task.key not in ends]
    clock = now
    while left:
        ready = [task for task in left if all(name in ends for name in task.after)]
        starts = {task.key: max([clock, *(ends[name] + of[name].wait_min for name in task.after)]) for task in ready}
        soonest = min(starts.values())
        task = min((t for t in ready if starts[t.key] <= soonest + 1e-9), key=rule)
        clock = soonest + task.minutes
        ends[task.key] = clock
        slots.append(Slot(task.key, soonest, clock))
        left.remove(task)
    return slots


def _inserted(
    tasks: Sequence[Task], finished: Mapping[str, float], now: float, rule: Callable[[Task], float]
) -> list[Slot]:
    """A plan that takes tasks by the rule and puts each into the first gap that is long enough.

    It may keep the hands idle for a moment where what comes next is worth waiting for.
    """
    of = {task.key: task for task in tasks}
    slots = _past(tasks, finished)
    ends = {slot.key: slot.end for slot in slots}
    placed: list[Slot] = []
    left = [task for task in tasks if task.key not in ends]
    while left:
        task = min((t for t in left if all(name in ends for name in t.after)), key=rule)
        begin = max([now, *(ends[name] + of[name].wait_min for name in task.after)])
        for other in placed:
            if begin + task.minutes <= other.start + 1e-9:
                break
            begin = max(begin, other.end)
        ends[task.key] = begin + task.minutes
        placed = sorted([*placed, Slot(task.key, begin, begin + task.minutes)], key=_when)
        left.remove(task)
    return [*slots, *placed]


def _when(slot: Slot) -> tuple[float, float]:
    return slot.start, slot.end


def _past(tasks: Sequence[Task], finished: Mapping[str, float]) -> list[Slot]:
    """What was done, in the order in which it was."""
    minutes = {task.key: task.minutes for task in tasks}
    past = sorted(((end, key) for key, end in finished.items() if key in minutes))
    return [Slot(key, max(0.0, end - minutes[key]), end, True) for end, key in past]


def _end(slots: Sequence[Slot], tasks: Sequence[Task]) -> float:
    waits = {task.key: task.wait_min for task in tasks}
    return max((slot.end + waits[slot.key] for slot in slots), default=0.0)


def _chain(tasks: Sequence[Task], order: list[str]) -> tuple[float, tuple[str, ...]]:
    of = {task.key: task for task in tasks}
    best: dict[str, tuple[float, tuple[str, ...]]] = {}
    for key in order:
        before = max((best[name] for name in of[key].after), default=(0.0, ()), key=lambda found: found[0])
        best[key] = (before[0] + of[key].minutes + of[key].wait_min, (*before[1], key))
    return max(best.values(), default=(0.0, ()), key=lambda found: found[0])


def _waits(slots: Sequence[Slot], tasks: Sequence[Task], now: float) -> tuple[Waiting, ...]:
    """Each wait that is not over, with what the hands do in it."""
    found = []
    waits = {task.key: task.wait_min for task in tasks}
    for slot in slots:
        end = slot.end + waits[slot.key]
        if waits[slot.key] <= 0 or (slot.done and end <= now):
            continue
        begin = max(slot.end, now) if slot.done else slot.end
        inside = [other for other in slots if not other.done and other.start < end - 1e-9 and other.end > begin + 1e-9]
        busy = sum(min(other.end, end) - max(other.start, begin) for other in inside)
        names = tuple(other.key for other in inside if other.end > other.start)
        found.append(Waiting(slot.key, slot.end, end, names, max(0.0, end - begin - busy)))
    return tuple(found)
