"""The answer of a match, as every face gives it."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from ..vocabulary import SizingSchool
from .expected_run import ExpectedRun
from .reference import Whose
from .row import Mark

Group = Literal["drops_in_now", "work_now", "later", "refused"]
"""When the unit runs again: today as it is, today with work, once it is delivered; or not with this one."""


class FieldMatch(BaseModel):
    """One field of the old and the new plate. `estimate`: a refusal that the shop may override with a reason."""

    field: str
    old: str
    new: str
    mark: Mark
    because: str
    source: str
    estimate: bool = False


class WorkItem(BaseModel):
    """Something to do for this choice: its key, its sentence, the part it takes, minutes of hands-on time."""

    key: str
    do: str
    part: str | None = None
    minutes: float


class Refusal(BaseModel):
    """A field that rules a candidate out, and why."""

    field: str
    because: str


class Needs(BaseModel):
    """The run capacitor a motor asks for."""

    uf: float
    volts_v: float | None


class Candidate(BaseModel):
    """A motor held against the reference. `minutes` is hands-on time of its work.

    `not_compared`: fields where a plate is silent. `doubts`: what takes a written answer when it is chosen.
    """

    part_no: str
    result: Mark
    rows: list[FieldMatch]
    refusals: list[Refusal]
    work: list[WorkItem]
    needs_capacitor: Needs | None
    expected: ExpectedRun | None = None
    minutes: float
    on_van: int
    maker: str | None = None
    price: float | None = None
    lead_days: float | None = None
    may_override: bool = False
    group: Group = "later"
    not_compared: list[str] = []
    doubts: list[str] = []


class Match(BaseModel):
    """The answer of a match. Over 200 refusals are counted by their first field instead of listed.

    The best 200 that can serve are listed; `more` counts the others.
    """

    school: SizingSchool
    reference: Whose
    because: str
    candidates: list[Candidate]
    refused_by: dict[str, int] = {}
    more: int = 0
