"""The answer of a match, as every face gives it."""

from __future__ import annotations

from pydantic import BaseModel

from ..vocabulary import SizingSchool
from .expected_run import ExpectedRun
from .reference import Whose
from .row import Mark


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
    """A motor held against the reference. `minutes` is hands-on time of its work."""

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
