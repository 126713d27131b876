"""The pad: one test at a time, with what to do, what to expect and what may be entered."""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import combinations

from ..core.diagnosis.case import answer
from ..core.diagnosis.faults import LINKS
from ..core.instructions import How, link_of, tests_of
from ..core.judge.capacitor import band_for, fan_section
from ..core.judge.current import amps_on_plate, limit_amps
from ..core.judge.judged import Band, Judgement
from ..core.judge.supply import window
from ..core.limits import DEFAULTS
from ..core.readings import KINDS, ReadingKind
from .readings import fits_power
from .sheet import Sheet

WORDS = {
    "OL": "over range (OL)", "not_turning": "not turning", "hub_loose": "hub loose", "stuck_closed": "stuck closed",
}  # fmt: skip


@dataclass(frozen=True)
class Choice:
    """A value of a qualifier to choose from; `shows` is what was read for it."""

    value: str
    label: str
    shows: str = ""
    chosen: bool = False


@dataclass(frozen=True)
class Pad:
    """What the pad shows for one test."""

    link: str
    how: How
    kind: ReadingKind
    tests: list[How]
    fits: bool
    replaces: int | None
    band: Band | None
    qualifiers: dict[str, list[Choice]] = field(default_factory=dict)
    turns: bool = False
    asks_isolated: bool = False
    asks_temperature: bool = False
    stage: str = "found"
    when: str = ""

    @property
    def words(self) -> list[tuple[str, str]]:
        """Answers that are a word, with what the button says."""
        if self.kind.yes_no:
            return [("yes", "yes"), ("no", "no")]
        return [(word, WORDS.get(word, word)) for word in self.kind.words]


def pad_for(sheet: Sheet, link: str, kind: str = "", at: str = "", replaces: int | None = None, pair: str = "") -> Pad:
    """The pad on a link, at the test asked for or the first that is still to do."""
    link = link if link in LINKS else _suggested_link(sheet)
    tests = tests_of(link)
    how = next((row for row in tests if row.kind == kind and (row.at or "") == at), None) or _first_open(sheet, tests)
    row = KINDS[how.kind]
    return Pad(
        link=link, how=how, kind=row, tests=tests, fits=fits_power(row.name, sheet.row.power), replaces=replaces,
        band=_band(sheet, row.name), qualifiers=_qualifiers(sheet, row.name, replaces, pair),
        turns=row.unit == "A", asks_temperature=row.name == "insulation_mohm",
        asks_isolated=row.name in ("capacitance_uf", "winding_ohm", "ground_ohm", "capacitor_case_ohm"),
    )  # fmt: skip


def proof_pad(sheet: Sheet, kind: str, at: str, when: str, title: str, do: str) -> Pad:
    """The pad for a check of the run proof."""
    row = KINDS[kind]
    how = How("proof", kind, at or None, title.lower(), do, "")
    return Pad(
        link="proof", how=how, kind=row, tests=[], fits=fits_power(kind, sheet.row.power), replaces=None,
        band=_band(sheet, kind, proof=True), turns=row.unit == "A", stage="proof", when=when,
    )  # fmt: skip


def _suggested_link(sheet: Sheet) -> str:
    tests = sheet.assessment.next_tests
    return link_of(tests[0].kind, tests[0].at) if tests else "supply"


def _first_open(sheet: Sheet, tests: list[How]) -> How:
    """The suggested test if it is here, else the first without a judged reading."""
    for test in sheet.assessment.next_tests:
        for row in tests:
            if row.kind == test.kind and row.at == test.at:
                return row
    failed = [row for row in tests for i in readings_of(sheet, row) if sheet.assessment.judgements[i].state == "failed"]
    unread = [row for row in tests if not readings_of(sheet, row)]
    return (failed or (tests if len(unread) < len(tests) else unread))[0]


def readings_of(sheet: Sheet, how: How) -> list[int]:
    """Indices of the standing readings of a test."""
    return [i for i, r in sheet.call.standing(how.kind) if how.at in (None, r.place)]


def _band(sheet: Sheet, kind: str, proof: bool = False) -> Band | None:
    call = sheet.call
    motor = call.motor_on_proof if proof else call.motor
    if kind == "capacitance_uf":
        return band_for(call, fan_section(call), DEFAULTS)
    if kind == "supply_v":
        found = window(motor, call, DEFAULTS)
        return found[1] if found else None
    if kind == "run_amps_a":
        plate = amps_on_plate(motor, None, call.supply_now())
        if plate is None:
            return None
        most = limit_amps(motor, plate, DEFAULTS)
        low = DEFAULTS.amps_low_pct / 100 * plate
        return Band(low, most, f"plate {plate:g} A, at most {most:.2f}", "NEMA MG 1, by analogy")
    return None


def _qualifiers(sheet: Sheet, kind: str, replaces: int | None, pair: str) -> dict[str, list[Choice]]:
    if kind == "winding_ohm":
        return {"pair": _pairs(sheet, replaces, pair)}
    if kind == "ground_ohm" or kind == "insulation_mohm":
        read = {r.lead: answer(r) for _, r in sheet.call.standing(kind)}
        leads = lead_names(sheet)
        first = next((lead for lead in leads if lead not in read), leads[0])
        return {"lead": [Choice(lead, lead, read.get(lead, ""), lead == first) for lead in leads]}
    if kind == "capacitance_uf" and fan_section(sheet.call) == "fan":
        read = {r.section or "fan": answer(r) for _, r in sheet.call.standing(kind)}
        names = (("fan", "fan section"), ("herm", "compressor section"))
        return {"section": [Choice(s, n, read.get(s, ""), s == "fan") for s, n in names]}
    if kind == "spin":
        return {"with": [Choice("load", "blade on", chosen=True), Choice("bare_shaft", "bare shaft")]}
    if kind == "run_amps_a":
        return {
            "leg": [
                Choice("whole", "whole current", chosen=True),
                Choice("capacitor", "capacitor lead"),
                Choice("winding", "one winding"),
            ]
        }
    return {}


def lead_names(sheet: Sheet) -> list[str]:
    """The motor's leads without ground: as named at Plates, else as touched, else A, B, C."""
    named = [row.lead for row in sheet.call.hookup.leads if row.ends != ["frame"]]
    touched = sorted({lead for _, r in sheet.call.standing("winding_ohm") for lead in r.pair or ()})
    names = named if len(named) >= 2 else touched if len(touched) >= 2 else []
    return names or ["A", "B", "C"]


def _pairs(sheet: Sheet, replaces: int | None, pair: str) -> list[Choice]:
    """Each pair of leads with what was read; the one asked for or corrected, else the first unread, is chosen."""
    read = {frozenset(r.pair): answer(r) for _, r in sheet.call.standing("winding_ohm") if r.pair}
    pairs = list(combinations(lead_names(sheet), 2))
    corrected = frozenset(sheet.call.readings[replaces].pair or ()) if replaces is not None else None
    asked = frozenset(pair.split("|")) if pair else corrected
    first = next((p for p in pairs if frozenset(p) == asked), None) if asked else None
    first = first or next((p for p in pairs if frozenset(p) not in read), pairs[0])
    return [Choice("|".join(p), " - ".join(p), read.get(frozenset(p), ""), p == first) for p in pairs]


def unread_pair(sheet: Sheet) -> bool:
    """Whether a winding pair is still to read and could tell something."""
    return any(not choice.shows for choice in _pairs(sheet, None, ""))


@dataclass(frozen=True)
class LedgerRow:
    """A reading in the list below the path."""

    index: int
    title: str
    value: str
    judgement: Judgement
    withdrawn_by: int | None
    kind: str
    at: str
    link: str
    taken_at: object


def ledger(sheet: Sheet, proof: bool = False) -> list[LedgerRow]:
    """The readings, newest first, withdrawn ones too."""
    replaced = {r.replaces: i for i, r in enumerate(sheet.call.readings) if r.replaces is not None}
    rows = []
    for index, reading in enumerate(sheet.call.readings):
        if reading.is_proof == proof:
            row = LedgerRow(
                index, title_of(sheet, index), _value(sheet, index), sheet.assessment.judgements[index],
                replaced.get(index), reading.kind, reading.at or "", link_of(reading.kind, reading.at),
                reading.taken_at,
            )  # fmt: skip
            rows.append(row)
    return rows[::-1]


def title_of(sheet: Sheet, index: int) -> str:
    """A reading's name with where and on what it was taken."""
    reading = sheet.call.readings[index]
    where = [reading.at, reading.section and {"herm": "compressor", "fan": "fan"}.get(reading.section)]
    where += [
        "-".join(reading.pair) if reading.pair else None,
        reading.lead,
        reading.when if reading.is_proof else None,
    ]
    where += ["bare shaft" if reading.with_ == "bare_shaft" else None, reading.leg]
    text = ", ".join(part.replace("_", " ") for part in where if part)
    return f"{reading.row.title}{', ' if text else ''}{text}"


def _value(sheet: Sheet, index: int) -> str:
    """What was read with its uncertainty, to the digits that were typed."""
    reading, judgement = sheet.call.readings[index], sheet.assessment.judgements[index]
    if (reading.turns or 1) > 1:
        through = [f"{number / reading.turns:.2f}" for number in reading.numbers if reading.turns]
        return f"{' / '.join(through)} {reading.row.unit} ({reading.value} through {reading.turns} turns)"
    if judgement.interval is None or judgement.unit != reading.row.unit or isinstance(reading.value, list):
        return answer(reading)
    places = max(1, len(str(reading.value).partition(".")[2]))
    return f"{reading.value} ± {(judgement.interval[1] - judgement.interval[0]) / 2:.{places}f} {reading.row.unit}"
