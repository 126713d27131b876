"""The answer of the hook-up bench, as every face gives it."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from ..vocabulary import CapacitorSchool

HookupFault = Literal[
    "line_short",
    "ground_fault",
    "aux_across_line",
    "capacitor_across_line",
    "capacitor_in_series_with_main",
    "capacitor_bypassed",
    "wrong_section",
    "aux_open",
    "open_circuit",
    "no_return",
    "taps_joined",
    "wrong_strapping",
    "reversed",
    "ground_missing",
    "lead_uncapped",
    "terminal_overfilled",
    "diagram_needed",
    "wrong_speed",
    "does_not_start",
]
Severity = Literal["danger", "wrong", "untidy"]
Turns = Literal["right", "wrong", "not_turning", "unknown"]


class Finding(BaseModel):
    """Something wrong with a hook-up: what, how grave, what it does, how to cure it."""

    fault: HookupFault
    severity: Severity
    says: str
    cure: str


class Currents(BaseModel):
    """RMS amps where the motor runs, at rest where it does not; None where no circuit is solved."""

    line: float | None
    main: float | None
    aux: float | None


class ModeRun(BaseModel):
    """What one output of the unit feeds: its mode, terminal, the speed asked for, the leads it energizes, RPM, amps."""

    mode: str | None
    terminal: str
    speed: int | None
    leads: list[str]
    rpm: float | None = None
    line_a: float | None = None


class Check(BaseModel):
    """What a hook-up does. `runs`: it starts from rest and may be left running."""

    runs: bool
    turns: Turns
    currents_a: Currents
    capacitor_v: float | None
    findings: list[Finding]
    rpm: float | None = None
    plate_amps_a: float | None = None
    says: str = ""
    solved: bool = True
    modes: list[ModeRun] = []


class Move(BaseModel):
    """One move of the hand."""

    do: Literal["take_off", "cap", "join", "put_on", "set"]
    what: str
    where: str
    why: str


class PlannedWire(BaseModel):
    """A wire of the plan, as the call file lists it."""

    model_config = ConfigDict(populate_by_name=True)
    from_: str = Field(alias="from")
    to: str


class HookupAnswer(BaseModel):
    """The moves, the wiring they make, and the check of it."""

    moves: list[Move]
    planned: list[PlannedWire]
    check: Check
    school: CapacitorSchool | None = None
    explains: list[str] = []
