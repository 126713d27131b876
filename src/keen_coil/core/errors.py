"""What is wrong with an input, in a form every face can show: the field, the value, what was expected."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from types import MappingProxyType
from typing import Any

from pydantic import ValidationError

SHOWN = 80


@dataclass(frozen=True)
class FieldError:
    """One field that cannot be taken: its path, what stood there (as text), what was expected."""

    path: str
    value: str
    expected: str

    def line(self) -> str:
        """The fault as one plain line: `PATH: got X; expected Y`."""
        return f"{self.path or 'file'}: got {self.value}; expected {self.expected}"

    def as_dict(self) -> dict[str, str]:
        """The fault as the API gives it."""
        return asdict(self)


class KeenCoilError(Exception):
    """Something that cannot be done, and is not half done: every face says it from these.

    `status` is the HTTP status that means it, `title` says it in a few words, `headers` go with the answer.
    """

    status: int = 500
    title: str = "Not done"
    headers: Mapping[str, str] = MappingProxyType({})

    @property
    def errors(self) -> list[FieldError]:
        """What is wrong, field by field; a refusal that is about no field has one without a path."""
        return [FieldError("", type(self).__name__, str(self))]

    @property
    def lines(self) -> list[str]:
        """What is wrong, in sentences."""
        return [str(self)]


class InvalidField(KeenCoilError, ValueError):
    """Input that cannot be taken; carries every fault found, not only the first."""

    status, title = 422, "That can't be saved"

    def __init__(self, errors: list[FieldError]) -> None:
        super().__init__("; ".join(error.line() for error in errors))
        self._errors = errors

    def __reduce__(self) -> tuple[type[InvalidField], tuple[list[FieldError]]]:
        """Pickle with the errors, so that they survive the way between processes."""
        return type(self), (self._errors,)

    @property
    def errors(self) -> list[FieldError]:
        """Every field that cannot be taken."""
        return self._errors

    @property
    def lines(self) -> list[str]:
        """A line for each field."""
        return [error.line() for error in self._errors]


class NotFound(KeenCoilError, LookupError):
    """Something asked for that is not there; said of what it is: `call 7`."""

    status, title = 404, "Not found"

    @property
    def errors(self) -> list[FieldError]:
        """What is not there."""
        return [FieldError("", str(self), "something that is there")]

    @property
    def lines(self) -> list[str]:
        """That it is not there."""
        return [f"There is no {self}."]


class RefusedNow(KeenCoilError):
    """Refused for what is there now, or for who asks: got, and what was expected instead."""

    status, title = 409, "Not now"

    def __init__(self, got: str, expected: str) -> None:
        super().__init__(got, expected)
        self.got, self.expected = got, expected

    def __str__(self) -> str:
        return f"got {self.got}; expected {self.expected}"

    @property
    def errors(self) -> list[FieldError]:
        """The one thing that stands against it."""
        return [FieldError("", self.got, self.expected)]

    @property
    def lines(self) -> list[str]:
        """What stands against it."""
        return [f"{self.got[:1].upper()}{self.got[1:]}. Needed: {self.expected}."]


class ServerFailed(KeenCoilError):
    """The program or its disk failed; nothing of the act is saved."""

    title = "That can't be shown"


def invalid(path: str, value: object, expected: str) -> InvalidField:
    """A refusal of a single field."""
    return InvalidField([FieldError(path, shown(value), expected)])


@contextmanager
def paths_under(part: str, apart: str = "") -> Iterator[None]:
    """Refusals from within name their paths under a part of the input; those that begin with `apart` keep theirs."""
    try:
        yield
    except InvalidField as error:
        faults = [
            f if apart and f.path.startswith(apart) else FieldError(f"{part}.{f.path}".rstrip("."), f.value, f.expected)
            for f in error.errors
        ]
        raise InvalidField(faults) from None


def known_only(data: Mapping[str, Any], known: set[str], part: str = "") -> None:
    """Refuses a key that is none of the known ones. Raises `InvalidField`."""
    unknown = sorted(set(data) - known)
    if unknown:
        raise invalid(".".join([part] * bool(part) + unknown[:1]), data[unknown[0]], "no field of this name")


def shown(value: object) -> str:
    """A value as it can be printed anywhere: one line, limited length, no half characters."""
    text = value if isinstance(value, str) else repr(value)
    text = "".join(c if c.isprintable() else "?" for c in text)
    text = text if len(text) <= SHOWN else text[:SHOWN] + "..."
    return text if text.strip() else "nothing"


def field_errors(error: ValidationError, prefix: str = "") -> list[FieldError]:
    """The faults in a Pydantic error, in plain words, paths dotted (`readings.2.value`).

    Tags of unions, written `~tag`, are no part of a path.
    """
    return [_field_error(dict(item), prefix) for item in error.errors(include_url=False)]


def _field_error(item: Mapping[str, Any], prefix: str) -> FieldError:
    path = ".".join([prefix] * bool(prefix) + [str(part) for part in item["loc"] if not str(part).startswith("~")])
    if item["type"] == "missing":
        return FieldError(path, "nothing", "a value, the field is required")
    if item["type"] == "too_long":
        return FieldError(path, f"{item['ctx']['actual_length']} entries", _expected(item))
    return FieldError(path, shown(item["input"]), _expected(item))


def _expected(item: Mapping[str, Any]) -> str:
    context = item.get("ctx", {})
    plain = {
        "extra_forbidden": "no field of this name",
        "bool_type": "true or false",
        "list_type": "a list",
        "string_type": "text",
        "literal_error": f"one of {context.get('expected', '')}",
        "too_long": f"at most {context.get('max_length')} entries",
        "string_too_long": f"at most {context.get('max_length')} characters",
    }
    kind = item["type"]
    if kind == "value_error":
        return str(context.get("error", item["msg"]))
    if kind in {"model_type", "model_attributes_type", "dict_type"}:
        return "an object"
    return plain.get(kind, str(item["msg"]))
