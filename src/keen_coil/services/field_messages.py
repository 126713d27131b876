"""What a page says of a field that cannot be taken: its label, what was typed, what would be right, an example.

Files, API and commands say the same fault by its path (`FieldError.line`); a page never does. The labels and examples
stand in field_labels.toml, those of the nameplate and of Body in their own tables.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache
from types import MappingProxyType

from ..core.errors import FieldError
from ..core.swap.marks import MARKS
from ..core.tables import records, table
from ..core.vocabulary import choice_words
from .stations.body import BODY_FIELDS
from .stations.plate_fields import FIELDS
from .stations.typed_motor import PLATE_FIELDS

BLANK = "nothing"
NO_COLUMN = ("no such column", "an unknown column", "the column twice")
_TABLE = table(__package__, "field_labels")
LABELS: dict[str, tuple[str, str]] = records(tuple[str, str], _TABLE["labels"], "field_labels")
EXAMPLES: dict[str, str] = _TABLE["examples"]
WHY_ASKED: dict[str, str] = _TABLE["why"]
"""Why the nameplate page asks for a field."""
_OF_PLATES = {
    "unit": "unit",
    "capacitor": "capacitor label",
    "load": "blade or wheel",
    "space": "space",
    "new": "new motor",
}
_OF_FORMS = {field.path: field for field in (*PLATE_FIELDS, *BODY_FIELDS.values(), *FIELDS.values())}
_CODE_WORD = re.compile(r"(?<![\w.])'?\"?([a-z]+(?:_[a-z0-9]+)+|psc|ecm|ccw|cw)\"?'?(?![\w.])")
_QUOTED = re.compile(r"'([^']*)'|\"([^\"]*)\"")
_ENDS_SINGULAR = re.compile(r"s$")


def message(fault: FieldError, labels: Mapping[str, str] = MappingProxyType({})) -> str:
    """One fault as a page says it, in sentences; `labels` are those of fields that only this page has."""
    label, needed = labels.get(fault.path) or label_of(fault.path), _needed(fault)
    label = label[:1].upper() + label[1:]
    if fault.value == BLANK:
        return f"{label}: nothing entered. Needed: {needed}."
    return f"{label}: {_typed(fault)} does not work. Needed: {needed}."


def file_message(fault: FieldError) -> str:
    """One fault of a file that was sent: where in the file, what stands there, what would be right.

    Columns keep the names that stand in the file's header.
    """
    where = f"Column {fault.path}" if fault.value in NO_COLUMN else _by_parts(fault.path)
    said = f"{where}: {fault.value}" if fault.path else fault.value
    return f"{said[:1].upper()}{said[1:]}. Needed: {fault.expected.rstrip('.')}."


def label_of(path: str) -> str:
    """What a page calls a field; of a path that no form has, its parts in words, rows counted from 1."""
    known = _label_and_example(path)
    return known[0] if known else _by_parts(path)


def _by_parts(path: str) -> str:
    """A path of a file in words, rows and entries counted from 1."""
    file, _, within = path.rpartition(": ")
    of_row = within.startswith("row ")
    parts = [file] if file else []
    for part in within.split("."):
        if part.isdecimal() and parts:
            parts[-1] = f"{_ENDS_SINGULAR.sub('', parts[-1])} {int(part) + 1}"
        elif part:
            parts.append(_word_of(part, of_row))
    text = ", ".join(parts) or "The file"
    return text if file else text[:1].upper() + text[1:]


@lru_cache(maxsize=512)
def _label_and_example(path: str) -> tuple[str, str] | None:
    field = _OF_FORMS.get(path)
    if field is not None:
        example = EXAMPLES.get(path) or next(iter(field.taps), "")
        whose = _OF_PLATES.get(path.partition(".")[0], "")
        label = f"{whose}, {field.label}" if whose and whose not in field.label else field.label
        return label[:1].upper() + label[1:], example
    if path in MARKS:
        title = MARKS[path].title
        return title[:1].upper() + title[1:], ""
    if path in LABELS:
        return LABELS[path]
    head, _, rest = path.partition(".")
    if rest and f"{head}.N" in LABELS:
        label, example = LABELS[f"{head}.N"]
        return label.format(int(rest) + 1 if rest.isdecimal() else rest), example
    return LABELS.get(path.rpartition("complaint.")[2])


def _word_of(part: str, is_column: bool) -> str:
    """A part of a path in words; a column of a file keeps the name that stands in its header."""
    if not _CODE_WORD.fullmatch(part):
        return part
    known = _label_and_example(f"motor.{part}") or _label_and_example(part)
    label = known[0][:1].lower() + known[0][1:] if known else choice_words(part)
    return f"{label} (column {part})" if is_column else label


def _typed(fault: FieldError) -> str:
    return choice_words(fault.value)


def _needed(fault: FieldError) -> str:
    """What would be right, without code words, with an example where it has none."""
    expected = _QUOTED.sub(lambda found: choice_words(found[1] or found[2] or ""), fault.expected)
    expected = _CODE_WORD.sub(lambda found: choice_words(found[1]), expected).rstrip(".")
    if expected.startswith("one of "):
        return "one of " + ", ".join(choice_words(word) for word in expected[7:].split(", "))
    example = (_label_and_example(fault.path) or ("", ""))[1]
    if not example or "such as" in expected:
        return expected
    return f"{expected}, such as {example}" if " " not in example else f'{expected}, such as "{example}"'
