"""The pad: one test at a time, with what to do, what to expect and what may be entered."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from ...core.call import Call
from ...core.diagnosis.applies import has, has_taps, three_phases
from ...core.diagnosis.case import answer
from ...core.diagnosis.faults import LINKS
from ...core.field_tests import OTHERWISE, RUNNING, FieldTest, link_of, tests_of
from ...core.judge.capacitor import band_for, fan_section
from ...core.judge.current import amps_band, amps_on_plate
from ...core.judge.judged import Band
from ...core.judge.modelled import expected_now, highest_in_use, why_no_model
from ...core.judge.supply import window
from ...core.machine.expected import Expected
from ...core.proof.plan import Needed
from ...core.readings import KINDS, ReadingKind
from ..calls.call_view import CallView
from ..calls.readings import fits_power, lead_names, pairs_worth

WORDS = {
    "OL": "over range (OL)",
    "not_turning": "not turning",
    "hub_loose": "hub loose",
    "stuck_closed": "stuck closed",
}
_ISOLATED = (
    "capacitance_uf",
    "winding_ohm",
    "ground_ohm",
    "capacitor_case_ohm",
    "ecm_winding_ohm",
    "ecm_ground_ohm",
)
_OHMS = ("winding_ohm", "ground_ohm", "capacitor_case_ohm", "ecm_ground_ohm")


@dataclass(frozen=True)
class Choice:
    """A value of a qualifier to choose from; `shows` is what was read for it, `expects` what should be."""

    value: str
    label: str
    shows: str = ""
    chosen: bool = False
    expects: str = ""


@dataclass(frozen=True)
class Extra:
    """A small field beside the big one: its name in the call file, label, unit, hint."""

    name: str
    label: str
    unit: str = ""
    hint: str = ""


@dataclass(frozen=True)
class Pad:
    """What the pad shows for one test."""

    link: str
    how: FieldTest
    kind: ReadingKind
    tests: list[FieldTest]
    fits: bool
    replaces: int | None
    band: Band | None
    qualifiers: dict[str, list[Choice]] = field(default_factory=dict)
    extras: list[Extra] = field(default_factory=list)
    legs: tuple[str, ...] = ()
    turns: bool = False
    asks_isolated: bool = False
    asks_dried: bool = False
    asks_unit: bool = False
    stage: str = "found"
    when: str = ""
    speed: int | None = None
    not_here: tuple[str, ...] = ()
    should: Expected | None = None
    no_model: str | None = None

    @property
    def words(self) -> list[tuple[str, str]]:
        """Answers that are a word, with what the button says."""
        if self.kind.yes_no:
            return [("yes", "yes"), ("no", "no")]
        return [(word, WORDS.get(word, word)) for word in self.kind.words if word not in self.not_here]

    @property
    def asks_degrees(self) -> bool:
        """Whether a temperature is typed, in the degrees of the thermometer at hand."""
        return self.kind.unit == "C" or any(extra.unit == "C" for extra in self.extras)

    @property
    def takes_number(self) -> bool:
        """Whether something is typed: one number, three, a list, or amps and volts."""
        return self.kind.is_number or self.kind.name == "capacitor_load"


def offered_here(call: Call, link: str) -> list[FieldTest]:
    """The tests of a link that this unit can have."""
    found = [how for how in tests_of(link) if how.kind == "trial" or has(call, how.needs)]
    return [_as_here(how, call) for how in found or tests_of(link)[:1]]


def _as_here(how: FieldTest, call: Call) -> FieldTest:
    """A test with what it is expected to read on this unit, and a trial under its common name."""
    other = next(
        (says for (kind, feature), says in OTHERWISE.items() if kind == how.kind and has(call, feature)), how.expect
    )
    if how.kind == "trial":
        return how._replace(name="trial", do=_TRIAL_DO, expect=other)
    return how._replace(expect=other)


_TRIAL_DO = "What did you try? Connect and disconnect with the power off, then power, hands out."
_TRIALS = (
    ("good_capacitor", "known-good capacitor", "psc"),
    ("other_speed", "another speed tap", "taps"),
    ("push", "push", "not_ecm"),
    ("other_module", "known-good module", "ecm"),
    ("direct_power", "direct power", "not_ecm"),
)


def pad_for(
    view: CallView, link: str, kind: str = "", at: str = "", replaces: int | None = None, pair: str = ""
) -> Pad:
    """The pad on a link, at the test asked for or the first that is still to do."""
    link = link if link in (*LINKS, RUNNING) else _suggested_link(view)
    tests = offered_here(view.call, link)
    how = next((row for row in tests if row.kind == kind and (row.at or "") == at), None) or _first_open(view, tests)
    row = KINDS[how.kind]
    return Pad(
        link=link,
        how=how,
        kind=row,
        tests=tests,
        fits=fits_power(row.name, view.row.power),
        replaces=replaces,
        band=band_of(view, row.name),
        qualifiers=_qualifiers(view, how, replaces, pair),
        extras=_extras(row.name),
        legs=_legs(view.call, row),
        turns=row.unit == "A",
        asks_dried=row.name in ("insulation_mohm", "ground_ohm"),
        asks_isolated=row.name in _ISOLATED,
        asks_unit=row.name in _OHMS,
        not_here=() if has(view.call, "outdoor") else ("iced",),
        **_model_says(view, row.name, proof=False),
    )


MODELLED = ("run_amps_a", "run_rpm", "capacitor_load")


def _model_says(view: CallView, kind: str, proof: bool) -> dict[str, Any]:
    """What the model expects before a running reading is taken, or why only the plate speaks."""
    motor = view.call.motor_on_proof if proof else view.call.motor
    if kind not in MODELLED or not motor.traits.is_modelled:
        return {}
    should = should_read(view, proof)
    why = why_no_model(view.call, proof) or "the plate speaks of its highest speed only"
    return {"should": should, "no_model": None if should else why}


def proof_pad(view: CallView, needed: Needed, when: str) -> Pad:
    """The pad for a check of the run proof, read standing or running."""
    kind = needed.kind
    row = KINDS[kind]
    how = FieldTest(kind, ("proof",), needed.title.lower(), needed.ask, "", needed.at)
    return Pad(
        link="proof",
        how=how,
        kind=row,
        tests=[],
        fits=fits_power(kind, view.row.power),
        replaces=None,
        legs=_legs(view.call, row),
        band=band_of(view, kind, proof=True),
        turns=row.unit == "A",
        stage="proof",
        when=when,
        speed=needed.speed,
        extras=_extras(kind) if kind in _PROOF_EXTRAS else [],
        **(_model_says(view, kind, proof=True) if needed.speed in (None, 1) else {}),
    )


_PROOF_EXTRAS = ("air_speed_fpm", "draught_inwc")


def _legs(call: Call, row: ReadingKind) -> tuple[str, ...]:
    """Names of three values given together; empty when one is."""
    if row.name == "ecm_winding_ohm":
        return ("1-2", "2-3", "3-1")
    if not row.three or not (call.motor.traits.is_three_phase or (three_phases(call) and call.motor.kind is None)):
        return ()
    return ("L1", "L2", "L3") if row.unit == "A" else ("A-B", "B-C", "C-A")


def _suggested_link(view: CallView) -> str:
    tests = view.assessment.next_tests
    return link_of(tests[0].kind, tests[0].at) if tests else "supply"


def _first_open(view: CallView, tests: list[FieldTest]) -> FieldTest:
    """The suggested test if it is here, else the first without a judged reading."""
    for test in view.assessment.next_tests:
        for row in tests:
            if row.kind == test.kind and row.at == test.at:
                return row
    failed = [row for row in tests for i in readings_of(view, row) if view.assessment.judgements[i].state == "failed"]
    unread = [row for row in tests if not readings_of(view, row)]
    return (failed or (tests if len(unread) < len(tests) else unread))[0]


def readings_of(view: CallView, how: FieldTest) -> list[int]:
    """Indices of the standing readings of a test."""
    return [i for i, r in view.call.standing(how.kind) if how.at in (None, r.place)]


def band_of(view: CallView, kind: str, proof: bool = False) -> Band | None:
    """The limits of a test that are known before anything is read."""
    call, limits = view.call, view.limits
    motor = call.motor_on_proof if proof else call.motor
    if kind == "capacitance_uf":
        return band_for(call, fan_section(call), limits)
    if kind == "supply_v":
        found = window(motor, call, limits)
        return found[1] if found else None
    plate = amps_on_plate(motor, None, call.supply_now()) if kind in ("run_amps_a", "sister_amps_a") else None
    return None if plate is None else amps_band(motor, plate, limits, should_read(view, proof))


def should_read(view: CallView, proof: bool) -> Expected | None:
    """What the motor model expects of this call's motor; None without a model, or when another tap is in use."""
    call = view.call
    motor = call.motor_on_proof if proof else call.motor
    return expected_now(call, proof) if highest_in_use(motor, call.speeds_used) else None


def _extras(kind: str) -> list[Extra]:
    cooling = [Extra("minutes_off", "power off for", "min", "by power strip")]
    return {
        "winding_ohm": [Extra("temperature_c", "motor temperature", "C"), *cooling],
        "shell_c": cooling,
        "insulation_mohm": [
            Extra("temperature_c", "winding temperature", "C"),
            Extra("test_v", "tested with", "V", "500"),
        ],
        "air_speed_fpm": [Extra("free_area_ft2", "free area", "ft2")],
        "ecm_power": [Extra("volts_v", "volts read", "V")],
        "static_inwc": [Extra("needs_inwc", "plate allows", "in")],
        "draught_inwc": [Extra("needs_inwc", "switch needs", "in")],
        "ecm_command": [Extra("tap", "tap or pin")],
    }.get(kind, [])


def _qualifiers(view: CallView, how: FieldTest, replaces: int | None, pair: str) -> dict[str, list[Choice]]:
    call, kind = view.call, how.kind
    found: dict[str, list[Choice]] = {}
    if kind == "winding_ohm" and not _legs(call, KINDS[kind]):
        found["pair"] = _pairs(view, replaces, pair)
    if kind in ("ground_ohm", "insulation_mohm"):
        found["lead"] = _leads(view, kind)
    if kind in ("capacitance_uf", "capacitor_load") and fan_section(call) == "fan":
        read: dict[str, str] = {r.section or "fan": answer(r) for _, r in call.standing("capacitance_uf")}
        found["section"] = [
            Choice(s, n, read.get(s, ""), s == "fan")
            for s, n in (("fan", "fan section"), ("herm", "compressor section"))
        ]
    found |= _of_kind(call, kind)
    if (
        kind in ("run_amps_a", "background_amps_a")
        and not _legs(call, KINDS[kind])
        and call.motor.traits.has_start_winding
    ):
        found["leg"] = _amps_legs(view, kind)
    if kind in ("fuse", "conductor"):
        legs = ("L1", "L2", "L3") if three_phases(call) else ("line", "switched", "capacitor")
        found["leg"] = [Choice(leg, leg, _shown(call, kind, leg), i == 0) for i, leg in enumerate(legs)]
    if kind in ("run_amps_a", "sister_amps_a", "run_rpm", "winding_ohm", "turns_way") and has_taps(call):
        found["speed"] = _speeds(call, kind)
    if kind == "supply_v" and how.at in ("switch_load", "motor"):
        found["when"] = [Choice("standing", "standing still", chosen=True), Choice("running", "running")]
    if kind == "safety":
        found["when"] = [
            Choice("rest", "at rest", chosen=how.at == "pressure_switch"),
            Choice("running", "running", chosen=how.at is None),
        ]
    return found


def _of_kind(call: Call, kind: str) -> dict[str, list[Choice]]:
    """Choices that hang on the kind of reading alone: what a trial was made with, the load on or off, where."""
    if kind == "trial":
        tried = {r.with_: answer(r) for _, r in call.standing("trial")}
        offered = [(key, name) for key, name, needs in _TRIALS if has(call, needs)]
        return {"with": [Choice(key, name, tried.get(key, ""), i == 0) for i, (key, name) in enumerate(offered)]}
    if kind in ("co_ppm", "air_c"):
        return {"at": [Choice(at, at, chosen=i == 0) for i, at in enumerate(KINDS[kind].at)]}
    if kind == "spin":
        return {"with": [Choice("load", "load on", chosen=True), Choice("bare_shaft", "bare shaft")]}
    return {}


def _amps_legs(view: CallView, kind: str) -> list[Choice]:
    """The legs a clamp can be put on, with the amps that the model expects there."""
    should = should_read(view, proof=False) if kind == "run_amps_a" else None
    names = {"whole": "whole current", "capacitor": "capacitor lead", "winding": "one winding"}
    bands = should.legs_a if should else {}
    return [
        Choice(leg, name, chosen=leg == "whole", expects=bands[leg].text("A").removesuffix(" A") if bands else "")
        for leg, name in names.items()
    ]


def _shown(call: Call, kind: str, leg: str) -> str:
    return next((answer(r) for _, r in reversed(call.standing(kind)) if r.leg == leg), "")


def _speeds(call: Call, kind: str) -> list[Choice]:
    count = max(call.motor.speeds or 1, len(call.motor.speed_amps_a), max(call.speeds_used, default=1))
    read = {r.speed or 1: answer(r) for _, r in call.standing(kind)}
    names = {1: "high", count: "low"}
    first = next((n for n in range(1, count + 1) if n not in read), 1)
    shown = {} if kind == "winding_ohm" else read
    choices = [
        Choice(str(n), f"{n} {names.get(n, '')}".strip(), shown.get(n, ""), n == first and kind != "winding_ohm")
        for n in range(1, count + 1)
    ]
    return [Choice("", "no tap", chosen=True), *choices] if kind == "winding_ohm" else choices


def _leads(view: CallView, kind: str) -> list[Choice]:
    read = {r.lead: answer(r) for _, r in view.call.standing(kind)}
    leads = lead_names(view.call)
    first = next((lead for lead in leads if lead not in read), leads[0])
    return [Choice(lead, lead, read.get(lead, ""), lead == first) for lead in leads]


def _pairs(view: CallView, replaces: int | None, pair: str) -> list[Choice]:
    """Each pair of leads with what was read; the one asked for or corrected, else the first unread, is chosen."""
    read = {frozenset(r.pair): answer(r) for _, r in view.call.standing("winding_ohm") if r.pair}
    pairs = pairs_worth(view.call)
    corrected = frozenset(view.call.readings[replaces].pair or ()) if replaces is not None else None
    asked = frozenset(pair.split("|")) if pair else corrected
    first = next((p for p in pairs if frozenset(p) == asked), None) if asked else None
    first = first or next((p for p in pairs if frozenset(p) not in read), pairs[0])
    return [Choice("|".join(p), " - ".join(p), read.get(frozenset(p), ""), p == first) for p in pairs]


def unread_pair(view: CallView) -> bool:
    """Whether a winding pair is still to read and could tell something."""
    return any(not choice.shows for choice in _pairs(view, None, ""))
