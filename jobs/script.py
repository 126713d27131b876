"""A job script: what a technician does in a job, act by act, and what its finding, wiring and records must say.

The format is the contract's ("Job scripts"). Every fault of a file is told with the file and its line.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from keen_coil.core.vocabulary import Role, UnitKind, Verdict

Act = dict[str, Any]
VERBS: dict[str, frozenset[str]] = {
    verb: frozenset(keys.split())
    for verb, keys in {
        "arrive": "board_code",
        "earlier": "",
        "safe": "",
        "plate": "of doubtful",
        "power": "",
        "read": "",
        "correct": "",
        "change": "note remove",
        "own_finding": "",
        "look": "",
        "match": "same plate reason school days",
        "capacitor": "reuse none temporary",
        "found_wires": "",
        "new_leads": "plug diagram",
        "modes": "",
        "wiring": "tick skip reason",
        "body": "",
        "apart": "",
        "steps": "except figures",
        "untick": "",
        "prove": "",
        "follow_up": "on kind",
        "hand_over": "did watch reason on exception no_judgement",
        "say": "",
    }.items()
}
"""Every act with the other keys that it may carry; the first of them that a row has names the row."""
ALONE = {"board_code": "arrive", "reuse": "capacitor", "none": "capacitor", "same": "match", "tick": "wiring"}
"""Keys that stand for their act where it is not named."""


def _is_pattern(text: str) -> str:
    try:
        re.compile(text)
    except re.error as error:
        raise ValueError(f"a regular expression ({error})") from None
    return text


Pattern = Annotated[str, AfterValidator(_is_pattern)]


class _Strict(BaseModel):
    model_config = ConfigDict(extra="forbid")


class Says(_Strict):
    """What a text must say and must never say, as regular expressions."""

    must: list[Pattern] = []
    never: list[Pattern] = []


class Found(_Strict):
    """What the finding is to be before the match."""

    verdict: Verdict | None = None
    fault: str | None = None


class Wired(_Strict):
    """What the wiring that was planned is to do."""

    runs: bool | None = None
    turns: Literal["right", "wrong", "not_turning", "unknown"] | None = None


class Expected(_Strict):
    """Everything that a job expects."""

    acts_closed_at_most: int | None = None
    acts_first_reading_at_most: int | None = None
    finding: Found = Found()
    wiring: Wired = Wired()
    pages: Says = Says()
    customer: Says = Says()
    shop: Says = Says()


class Visit(_Strict):
    """One visit: where, to what, by whom, and the acts in their order. `lines` are the lines of the acts in the file."""

    site: str
    unit: str
    unit_kind: UnitKind | None = None
    motor: Role | None = None
    technician: str = ""
    reports: str = ""
    act: list[Act]
    lines: list[int] = []


class Script(_Strict):
    """A job of one visit or several to a unit."""

    title: str
    size: Literal["phone", "desk"] = "phone"
    catalog: str | None = None
    van: str | None = None
    visit: list[Visit] = Field(min_length=1)
    expect: Expected = Expected()


class Forbidden(_Strict):
    """A row of `never.toml`: what no page or no record may say, and why; `when` it holds, always where it is silent."""

    says: Pattern
    reason: str
    when: Literal[
        "closed", "run_test_passed", "running", "outdoor", "blower", "inducer", "three_phase", "ecm", "no_capacitor",
        "indoor",
    ] | None = None  # fmt: skip
    on: Literal["pages", "records", "both"] = "both"


class BadScript(Exception):
    """A file that is no job: one line a fault, each with file and line."""

    def __init__(self, faults: list[str]) -> None:
        super().__init__("\n".join(faults))
        self.faults = faults


def read_script(path: Path) -> Script:
    """A job file. Raises `BadScript` naming file, line, what stands there and what was expected."""
    data, text = _loaded(path)
    lines = lines_of_acts(text)
    faults: list[str] = []
    try:
        script = Script.model_validate(data)
    except ValidationError as error:
        raise BadScript([_fault(path, text, lines, dict(row)) for row in error.errors()]) from None
    for visit, numbers in zip(script.visit, lines, strict=True):
        visit.lines = numbers
        for act, line in zip(visit.act, numbers, strict=True):
            faults += [f"{path}:{line}: {says}" for says in _faults_of(act)]
    if faults:
        raise BadScript(faults)
    return script


def read_never(path: Path) -> list[Forbidden]:
    """The rows of a `never.toml`. Raises `BadScript`."""
    data, text = _loaded(path)
    try:
        return [Forbidden.model_validate(row) for row in data.get("never", ())]
    except ValidationError as error:
        raise BadScript([_fault(path, text, [], dict(row)) for row in error.errors()]) from None


def _loaded(path: Path) -> tuple[dict[str, Any], str]:
    try:
        text = path.read_text(encoding="utf-8")
        return tomllib.loads(text), text
    except (OSError, UnicodeDecodeError) as error:
        raise BadScript([f"{path}:1: cannot be read ({error})"]) from None
    except tomllib.TOMLDecodeError as error:
        line = re.search(r"line (\d+)", str(error))
        raise BadScript([f"{path}:{line[1] if line else 1}: no TOML ({error})"]) from None


def _fault(path: Path, text: str, lines: list[list[int]], row: dict[str, Any]) -> str:
    where = [str(part) for part in row["loc"]]
    line = 1
    if where[:1] == ["visit"] and where[2:3] == ["act"] and len(where) > 3:
        line = lines[int(where[1])][int(where[3])]
    else:
        key = next((part for part in reversed(where) if not part.isdigit()), "")
        line = next(
            (n for n, says in enumerate(text.splitlines(), 1) if re.match(rf"\s*\[*{re.escape(key)}\b", says)), 1
        )
    return f"{path}:{line}: {'.'.join(where)}: got {str(row['input'])[:60]!r}; {row['msg']}"


def verb_of(act: Act) -> str:
    """The act that a row is; "" where it is none."""
    return next((key for key in act if key in VERBS), "") or next((ALONE[key] for key in act if key in ALONE), "")


def _faults_of(act: Act) -> Iterator[str]:
    verb = verb_of(act)
    if not verb:
        yield f"got {', '.join(act) or 'nothing'}; expected an act: {', '.join(VERBS)}"
        return
    for key in act:
        if key != verb and key not in VERBS[verb]:
            yield f"{verb}: got {key!r}; expected {', '.join(sorted(VERBS[verb])) or 'nothing else'}"
    if verb == "prove" and not isinstance(act[verb], list):
        yield f"prove: got {act[verb]!r}; expected a list of readings"
    for row in act[verb] if verb == "prove" and isinstance(act[verb], list) else [act[verb]] if verb == "read" else []:
        if not isinstance(row, dict) or "kind" not in row or "value" not in row:
            yield f"{verb}: got {row!r}; expected a reading with kind and value"


def lines_of_acts(text: str) -> list[list[int]]:
    """The line on which each act of each visit begins: tomllib tells none."""
    found: list[list[int]] = []
    depth, inside = 0, False
    for token in re.finditer(_TOKEN, text):
        says = token.group()
        if says.startswith("[[visit]]") and not depth:
            found.append([])
        elif says.lstrip().startswith("act") and not depth and found:
            inside, depth = True, 1
        elif says[0] in "[{":
            if inside and depth == 1 and says == "{":
                found[-1].append(text.count("\n", 0, token.start()) + 1)
            depth += 1
        elif says[0] in "]}":
            depth -= 1
            inside = inside and depth > 0
    return found


_TOKEN = r'"""(?s:.*?)"""|\'\'\'(?s:.*?)\'\'\'|"(?:\\.|[^"\\\n])*"|\'[^\'\n]*\'|#[^\n]*|\[\[visit\]\]|(?m:^)\s*act\s*=\s*\[|[\[\]{}]'
