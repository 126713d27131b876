"""A plate read: lines or pieces of text in, fields with doubt out (contract, plate)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..units import Figure, plain
from ..voltage import ranges
from .answer import DECIDING, PlateField, PlateKind, PlateReading, Sure, Value
from .assign import BESIDE, Taken, assign
from .doubt import doubts, is_odd
from .layout import Joined, joined_lines
from .pieces import Piece, box_of
from .tokens import Line, Said, line_of

SURE_FROM = 0.85
"""A sign that the camera was less sure of makes its field doubtful."""
RIVAL, TELLING = 0.8, 1.9
"""How far a meaning stands clear of the next; from what score on it hangs on a word or a phrase."""
LONGEST_TEXT, MOST_LINES = 4000, 200
UNUSUAL = "Not a usual figure."
NOTHING = "Nothing that a plate says was found in it."
NO_TEXT = "No text was found in this picture. Take it again: the plate alone, filling the picture, in even light."
TWO_PLATES = "Two plates are in it. Take one plate alone."
ROWS = {"compressor", "condenser_fan", "indoor_blower", "inducer"}
UNIT_WORDS = {"circuit", "fuse", "rated_load", "charge"}


@dataclass
class _Candidate:
    """A field as one place of the plate says it."""

    field: str
    value: Value
    typed: str
    confidence: float
    score: float
    parts: list[tuple[int, int, int]]
    why: str = ""
    repaired: bool = False
    row: str = ""


def read_text(text: str, kind: PlateKind | None = None, role: str | None = None) -> PlateReading:
    """What a typed, spoken or pasted text says of a plate.

    Args: text, one or more lines; kind of plate, found out when None; role of the motor whose row counts.
    """
    lines = [line.strip() for line in text[:LONGEST_TEXT].splitlines() if line.strip()][:MOST_LINES]
    pieces = [Piece("\n".join(lines))] if lines else []
    return read_pieces(pieces, kind, role)


def read_pieces(pieces: Sequence[Piece], kind: PlateKind | None = None, role: str | None = None) -> PlateReading:
    """What the pieces of text of a plate say.

    Args: pieces as a camera or a keyboard gave them; kind of plate, found out when None; role of the motor whose row
    counts where the plate has several.
    """
    text = [line for piece in pieces for line in piece.text.splitlines()]
    if not text:
        return PlateReading(kind=kind or "motor", says=NO_TEXT)
    found: list[_Candidate] = []
    unread: list[str] = []
    words: set[str] = set()
    for joined in joined_lines(pieces):
        line = line_of(joined.text)
        taken, left = assign(line.tokens, _breaks(line))
        words |= {token.word.key for token in line.tokens if token.word and token.word.kind in ("other", "row")}
        here = _of_line(line, taken, joined, pieces)
        strange = sum(token.word is None and len(token.text) > 2 for token in left if not token.is_figure)
        if strange > 1 and all(one.why for one in here):
            here = []
        found += here
        if pieces[0].is_placed:
            unread += [joined.text] if not here and not any(t.meaning.field == "other" for t in taken) else []
        else:
            unread += [token.text for token in left if len(token.text) > 1 or token.is_figure]
    kind = kind or _kind(found, words)
    found = [one for one in found if one.row != "compressor" and (not role or one.row in ("", role))]
    if pieces[0].is_placed and all(one.score < TELLING for one in found):
        found = []
    if kind == "motor" and _are_two(found):
        return PlateReading(kind=kind, text=text, unread=text, says=TWO_PLATES)
    fields = [_field(same, pieces) for same in _by_field(found, kind).values()]
    fields = _with_doubts(fields, kind != "capacitor")
    fields += _implied(fields) if kind == "motor" else []
    return PlateReading(kind=kind, fields=_in_order(fields), unread=unread, text=text, says="" if fields else NOTHING)


def _breaks(line: Line) -> list[int]:
    return [at + 1 for at, (place, _) in enumerate(line.places) if line.text[place] == "\n"]


def _kind(found: Sequence[_Candidate], words: set[str]) -> PlateKind:
    """Which plate it is: a unit's has circuit amps, a capacitor's has microfarads and neither horsepower nor speed."""
    names = {one.field for one in found}
    rows = words & ROWS
    if len(words & UNIT_WORDS) > 1 or len(rows) > 1 or (rows and words & UNIT_WORDS):
        return "unit"
    if names & {"capacitor_uf", "dual_uf"} and not names & {"hp", "rpm", "amps_a", "frame"}:
        return "capacitor"
    return "motor"


def _of_line(line: Line, taken: Sequence[Taken], joined: Joined, pieces: Sequence[Piece]) -> list[_Candidate]:
    found = [_of_phrase(said, line, joined, pieces) for said in line.said]
    is_bare = not found and all(one.label is None for one in taken)
    for one in taken:
        if one.meaning.field != "other":
            found += _of_figure(one, line, joined, pieces, is_bare)
    return found


def _of_phrase(said: Said, line: Line, joined: Joined, pieces: Sequence[Piece]) -> _Candidate:
    start, end = line.place(said.start, said.end)
    value: Value = int(said.value) if said.field in ("phase", "speeds") else said.value
    if said.field == "duty":
        value = [said.value]
    parts = joined.spans(start, end)
    why = "Likely, not said in so many words." if said.weak else ""
    return _Candidate(said.field, value, line.text[start:end], _sure(parts, pieces), BESIDE, parts, why)


def _sure(parts: Sequence[tuple[int, int, int]], pieces: Sequence[Piece]) -> float:
    return min((pieces[at].sure_of(start, end) for at, start, end in parts), default=1.0)


def _of_figure(one: Taken, line: Line, joined: Joined, pieces: Sequence[Piece], is_bare: bool) -> list[_Candidate]:
    start, end = line.place(one.token.start, one.token.end)
    parts = joined.spans(start, end)
    typed = line.text[start:end].strip()
    why = ""
    if one.label is None and (pieces[0].is_placed or is_bare) and one.meaning.field != "volts":
        why = "No word beside it says what it is."
    elif one.meaning.field.startswith("ambient") and _key(one) != "ambient":
        why = "Is it the ambient limit?"
    elif one.rival > 0 and one.score - one.rival < RIVAL:
        why = "It may be something else."
    if is_odd(one.meaning):
        why = UNUSUAL
    repaired = one.token.repaired or one.meaning.mended
    if one.token.repaired and is_odd(one.meaning):
        repaired = False
    first = _Candidate(
        one.meaning.field, _value(one), typed, _sure(parts, pieces), one.score, parts, why, repaired, one.row
    )
    return [first, *_besides(one, first)]


def _key(one: Taken) -> str:
    """The key of the word that a figure was taken by; empty for none."""
    return one.label.word.key if one.label is not None and one.label.word is not None else ""


def _value(one: Taken) -> Value:
    value = one.meaning.value
    if isinstance(value, tuple):
        return [float(number) for number in value]
    if isinstance(value, (int, str)):
        return value
    number = float(value)  # type: ignore[arg-type]
    digits = one.token.text
    return Figure(digits) if not one.token.marks and not one.meaning.mended and _same(digits, number) else number


def _same(digits: str, number: float) -> bool:
    try:
        return float(digits) == number
    except ValueError:
        return False


def _besides(one: Taken, first: _Candidate) -> list[_Candidate]:
    """What a chain says besides its first figure: speeds, capacitor volts, the amps of other taps."""
    return [
        replace(first, field=name, value=list(value) if isinstance(value, tuple) else value)  # type: ignore[arg-type]
        for name, value in one.meaning.besides.items()
    ]


def _by_field(found: Sequence[_Candidate], kind: PlateKind) -> dict[str, list[_Candidate]]:
    """The candidates of each field, in the plate's own names, best first."""
    named: list[_Candidate] = []
    volts = next((one.value for one in found if one.field == "volts"), None)
    speeds = next((one.value for one in found if one.field == "speeds"), None)
    for one in found:
        named += _named(one, kind, str(volts or ""), speeds)
    groups: dict[str, list[_Candidate]] = {}
    for one in sorted(named, key=lambda c: (-c.score, bool(c.why), -c.confidence)):
        groups.setdefault(one.field, []).append(one)
    if "duty" in groups:
        groups["duty"] = groups["duty"][:1]
    return groups


def _named(one: _Candidate, kind: PlateKind, volts: str, speeds: object) -> list[_Candidate]:
    if one.field == "kw" or one.field == "watts":
        return [replace(one, field="hp")]
    if one.field == "ambient_f":
        return [replace(one, field="ambient_limit_c")]
    if one.field == "dual_uf":
        if kind != "capacitor" or not isinstance(one.value, list):
            return []
        herm, fan = one.value
        return [replace(one, field="herm", value=herm), replace(one, field="fan", value=fan)]
    if one.field == "amps_more":
        return _more_amps(one, volts, speeds)
    if one.field == "leads" and kind != "motor":
        return []
    return [one]


def _more_amps(one: _Candidate, volts: str, speeds: object) -> list[_Candidate]:
    """Further amps of a plate: of the high connection where it has two voltages, else of the lower speeds."""
    more = one.value if isinstance(one.value, list) else []
    if len(more) == 1 and volts and len(ranges(volts)) > 1:
        return [replace(one, field="amps_high_a", value=more[0])]
    if isinstance(speeds, (int, float)) and len(more) + 1 == speeds:
        first = one.typed.split("/")[0]
        return (
            [replace(one, field="speed_amps_a", value=[float(first), *map(float, more)])] if _is_number(first) else []
        )
    return []


def _is_number(text: str) -> bool:
    return text.replace(".", "", 1).isdigit()


def _are_two(found: Sequence[_Candidate]) -> bool:
    """Whether two or more of the deciding figures are there twice, each with its word and not the same."""
    doubled = 0
    for name in ("volts", "hp", "amps_a", "rpm", "capacitor_uf"):
        values = {str(one.value) for one in found if one.field == name and one.score >= BESIDE - 1 and not one.why}
        doubled += len(values) > 1
    return doubled > 1


def _is_same(one: Value, other: Value) -> bool:
    """Whether two texts say the same: 186 W is 1/4 hp."""
    if isinstance(one, (int, float)) and isinstance(other, (int, float)):
        return abs(one - other) <= 0.015 * max(one, other)
    return one == other


def _field(same: Sequence[_Candidate], pieces: Sequence[Piece]) -> PlateField:
    best = same[0]
    others = [one for one in same[1:] if not _is_same(one.value, best.value) and one.score > BESIDE - 1.5]
    why = best.why or (f"The plate also says {others[0].typed}." if others else "")
    if not why and best.confidence < SURE_FROM:
        why = "Hard to read."
    sure: Sure = "doubtful" if why else "repaired" if best.repaired else "sure"
    corners = [pieces[at].corners for at, _, _ in best.parts]
    points = [point for four in corners if four for point in four]
    return PlateField(
        field=best.field,
        value=best.value,
        typed=best.typed,
        sure=sure,
        confidence=round(best.confidence * (0.6 if why else 0.9 if best.repaired else 0.99), 3),
        box=box_of(points) if points else None,
        why=why or ("Letters taken for figures." if best.repaired else ""),
    )


def _with_doubts(fields: Sequence[PlateField], of_motor: bool) -> list[PlateField]:
    """Fields with what physics says of them: doubtful, or repaired where one slip explains it."""
    values = {row.field: row.value for row in fields}
    typed = {row.field: row.typed for row in fields}
    rows = {row.field: row for row in fields}
    for doubt in doubts(values, typed, of_motor):
        row = rows.get(doubt.field)
        if row is None:
            continue
        changes: dict[str, object] = {"why": doubt.why, "sure": "doubtful", "confidence": min(row.confidence, 0.5)}
        if doubt.value is not None and (row.sure != "doubtful" or row.why == UNUSUAL):
            changes |= {"value": doubt.value, "sure": "repaired"}
        rows[doubt.field] = row.model_copy(update=changes)
    return list(rows.values())


def _implied(fields: Sequence[PlateField]) -> list[PlateField]:
    """The kind of motor where the plate does not name it: three phases, or one with a run capacitor (trade)."""
    rows = {row.field: row for row in fields}
    if "kind" in rows:
        return []
    phase, capacitor = rows.get("phase"), rows.get("capacitor_uf")
    if phase is not None and phase.value == 3:
        return [phase.model_copy(update={"field": "kind", "value": "three_phase", "why": phase.why or "Three phases."})]
    if capacitor is None:
        return []
    why = capacitor.why or "A run capacitor stands on its plate."
    return [capacitor.model_copy(update={"field": "kind", "value": "psc", "why": why})]


def _in_order(fields: Sequence[PlateField]) -> list[PlateField]:
    """The deciding ones first, the others in the order they were found."""
    return sorted(fields, key=lambda row: DECIDING.index(row.field) if row.field in DECIDING else len(DECIDING))


def text_of(value: Value) -> str:
    """A value as a form field takes it."""
    if isinstance(value, list):
        return ", ".join(plain(v) if isinstance(v, (int, float)) else str(v) for v in value)
    return value if isinstance(value, str) else str(value) if isinstance(value, (int, Figure)) else plain(value)
