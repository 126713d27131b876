"""The van planner: what to carry between restocks, which few parts cover most, what to buy, what never moves."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor, wait
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from starlette.responses import Response, StreamingResponse

from ...core.errors import InvalidField
from ...core.van.plan import VanPlan
from ...services.catalog.van_plan import Wish, keep_levels, order_lines, plan_state, wish_of
from ...services.people.people import vans
from ..auth_middleware import concerns
from ..chart import Series, chart
from ..page import act_context, checked_form, database, faults_by_field, my_van, redirect, render
from ..tasks import van_plan

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


router = APIRouter()


def _van(request: Request, asked: str | None = None) -> str:
    wanted = asked or request.query_params.get("van", "")
    return wanted if wanted in vans(database(request)) else my_van(request)


def _work(request: Request, van: str, wish: Wish) -> VanPlan:
    found: VanPlan = request.app.state.workers.run(van_plan, database(request).path, van, wish)
    return found


def _state(request: Request) -> tuple[int, object]:
    return plan_state(database(request), datetime.now(UTC).date())


def _plan(request: Request, van: str, wish: Wish) -> KeptVanPlan:
    """The plan of the log as it is now, however long it takes."""
    kept: KeptPlans = request.app.state.van_plans
    return kept.at_once((van, wish), _state(request)[1], lambda: _work(request, van, wish))


def _shown(request: Request, van: str, wish: Wish) -> KeptVanPlan | None:
    """The plan to show: that of now of a short log, the kept one of a long one; None while the first is being made."""
    many, state = _state(request)
    if many <= AT_ONCE:
        return _plan(request, van, wish)
    kept: KeptPlans = request.app.state.van_plans
    return kept.shown((van, wish), state, lambda: _work(request, van, wish))


def _page(request: Request, typed: dict[str, str], status: int = 200, **context: object) -> Response:
    try:
        wish = wish_of(typed)
    except InvalidField as error:
        wish, status, context["faults"] = Wish(), 422, faults_by_field(error)
    van = _van(request, typed.get("van"))
    shown = _shown(request, van, wish)
    if shown is None:
        return render(request, "plan_waits.html", status, station="shelf", van=van, again=request.url.query)
    plan = shown.plan
    return render(
        request,
        "plan.html",
        status,
        station="shelf",
        plan=plan,
        older=shown if shown.older else None,
        wish=wish,
        van=van,
        vans=vans(database(request)),
        curve=_curve([(point.parts, point.covered_pct) for point in plan.curve]),
        typed=typed,
        **context,
    )


def _curve(points: list[tuple[int, float]]) -> object:
    if len(points) < 2:
        return None
    series = Series("covered by the best kit of so many parts", [p for p, _ in points], [c for _, c in points], "found")
    says = "Coverage against number of parts: " + ", ".join(f"{parts}: {share:.0f} %" for parts, share in points)
    return chart([series], "kinds of part", "% of needs", says=says, counts=True)


@router.get("/shelf/plan")
@concerns("stock")
def show_plan(request: Request) -> Response:
    """The plan for the units in the log."""
    return _page(request, dict(request.query_params))


@router.post("/shelf/plan/levels")
@concerns("levels")
def keep_plan(request: Request, form: Annotated[dict[str, str], Depends(checked_form)]) -> Response:
    """Keep the levels of a plan for a van."""
    try:
        wish = wish_of(form)
    except InvalidField as error:
        return _page(request, form, 422, faults=faults_by_field(error))
    db, van = database(request), _van(request, form.get("van"))
    keep_levels(db, act_context(form), van, _plan(request, van, wish).plan)
    asked = {name: form.get(name, "") for name in ("van", "days", "level", "parts", "permanent")}
    return redirect("/shelf/plan", kept="yes", **asked)


@router.get("/shelf/orders.csv")
@concerns("stock")
def give_orders(request: Request) -> Response:
    """What to buy now, as CSV. Raises `InvalidField`."""
    wish = wish_of(dict(request.query_params))
    plan = _plan(request, _van(request), wish).plan
    headers = {"Content-Disposition": 'attachment; filename="orders.csv"'}
    return StreamingResponse(order_lines(plan), media_type="text/csv; charset=utf-8", headers=headers)
