"""The readings of a call as a list: what was read, with its uncertainty, what it means, what replaced it."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.changes import last_state_of, state_of
from ...core.diagnosis.case import answer
from ...core.field_tests import link_of
from ...core.judge.air import cfm, mean_fpm
from ...core.judge.judged import Judgement
from ...core.readings import LoadPair
from .call_view import CallView

MOST_PLACES = 4
"""An error is shown to its first figure, so far."""


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
    who: str


def ledger(view: CallView, proof: bool = False) -> list[LedgerRow]:
    """The readings, newest first, withdrawn ones too."""
    replaced = {r.replaces: i for i, r in enumerate(view.call.readings) if r.replaces is not None}
    rows = []
    for index, reading in enumerate(view.call.readings):
        if reading.is_proof == proof:
            row = LedgerRow(
                index,
                title_of(view, index),
                _value(view, index),
                view.assessment.judgements[index],
                replaced.get(index),
                reading.kind,
                reading.at or "",
                link_of(reading.kind, reading.at),
                reading.taken_at,
                _who(view, index),
            )
            rows.append(row)
    return rows[::-1]


def _who(view: CallView, index: int) -> str:
    """Who took a reading, where that was not the call's own technician."""
    technician = view.row.readings[index].technician
    return technician.name if technician and technician.id != view.row.technician_id else ""


def title_of(view: CallView, index: int) -> str:
    """A reading's name with where and on what it was taken."""
    reading = view.call.readings[index]
    where = [reading.at, reading.section and {"herm": "compressor", "fan": "fan"}.get(reading.section)]
    where += [
        "-".join(reading.pair) if reading.pair else None,
        reading.lead,
        reading.when if reading.is_proof or reading.kind in ("safety", "supply_v") else None,
    ]
    where += ["bare shaft" if reading.with_ == "bare_shaft" else None, reading.leg]
    where += [reading.with_ if reading.kind == "trial" else None]
    where += [f"at {reading.test_v:,g} V" if reading.test_v else None]
    where += [f"speed {reading.speed}" if reading.speed else None, "dried" if reading.dried else None]
    where += ["by sound" if reading.method == "sound" else None]
    changes = view.call.changes_in_order
    before = not reading.is_proof and state_of(reading, changes) < last_state_of(reading, changes)
    text = ", ".join(part.replace("_", " ") for part in [*where, "before the change" if before else None] if part)
    return f"{reading.row.title}{', ' if text else ''}{text}"


def _air(view: CallView, points: list[float], free_area_ft2: float | None) -> str:
    """A traverse: its mean, with its free area the cfm, with the unit's tons the cfm a ton."""
    mean = f"mean {mean_fpm(points):.0f} fpm of {len(points)}"
    if free_area_ft2 is None:
        return mean
    flow, tons = cfm(points, float(free_area_ft2)), view.call.unit.tons
    per_ton = f", {flow / float(tons):.0f} a ton" if tons and view.call.motor.role == "indoor_blower" else ""
    return f"{flow:.0f} cfm{per_ton}, {mean}"


def _value(view: CallView, index: int) -> str:
    """What was read with its uncertainty, as typed; alone where the meter's error tells nothing."""
    reading, judgement = view.call.readings[index], view.assessment.judgements[index]
    if isinstance(reading.value, LoadPair):
        return f"{reading.value.amps_a} A at {reading.value.volts_v} V"
    if reading.kind == "air_speed_fpm":
        return _air(view, reading.numbers, reading.free_area_ft2)
    if (reading.turns or 1) > 1:
        through = [f"{number / reading.turns:.2f}" for number in reading.numbers if reading.turns]
        shown = " / ".join(map(str, reading.value)) if isinstance(reading.value, list) else reading.value
        return f"{' / '.join(through)} {reading.row.sign} ({shown} through {reading.turns} turns)"
    if judgement.interval is None or judgement.unit != reading.row.unit or isinstance(reading.value, list):
        return answer(reading)
    error = (judgement.interval[1] - judgement.interval[0]) / 2
    if not 0 < error < abs(reading.numbers[0]):
        return answer(reading)
    places = max(1, len(str(reading.value).partition(".")[2]))
    while 0 < error < 0.5 * 10**-places and places < MOST_PLACES:
        places += 1
    return f"{reading.value} ± {error:.{places}f} {reading.row.sign}"
