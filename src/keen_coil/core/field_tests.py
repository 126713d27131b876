"""The tests of the trade, one record each: where it sits, how it is made, what it is expected to read, what it tells.

The pad, the path's drawing, the next test and the practice bench all read this table.
"""

from __future__ import annotations

from typing import NamedTuple

from .tables import listed, records, table

RUNNING = "running"


class FieldTest(NamedTuple):
    """A test: kind of its reading, links under which the pad offers it, name, what to do, to expect, place, picture.

    Then what the next test is chosen by: minutes of work, its question in the evidence table, the links it proves, why
    it is made, what the unit must have (`diagnosis.applies`), what it is made with, minutes of waiting before it. A
    test without a question is offered on the pad only.
    """

    kind: str
    links: tuple[str, ...]
    name: str
    do: str
    expect: str
    at: str | None = None
    picture: str = ""
    minutes: float = 2
    question: str = ""
    proves: tuple[str, ...] = ()
    why: str = ""
    needs: str = ""
    detail: str = ""
    waits: float = 0

    @property
    def link(self) -> str:
        """The first link under which the pad offers it."""
        return self.links[0]


class FieldHelp(NamedTuple):
    """How a kind of test is taken: the meter's setting, the usual mistakes."""

    meter: str
    mistakes: str


HELP: dict[str, FieldHelp] = records(FieldHelp, table(__package__, "field_help"), "field_help")
TESTS: tuple[FieldTest, ...] = listed(FieldTest, table(__package__, "field_tests")["tests"], "field_tests")
OTHERWISE: dict[tuple[str, str], str] = {
    ("winding_ohm", "three_phase"): "All three within 3 %.",
    ("winding_ohm", "taps"): "Ohms rise from high speed to low.",
}
"""What a test is expected to read on a unit that has a feature, where that differs: by kind and feature."""
PADS = tuple(row for row in TESTS if not row.detail or row.kind == "trial" and row.detail == "good_capacitor")


def tests_of(link: str) -> list[FieldTest]:
    """The tests the pad offers on a link, in order."""
    return [row for row in PADS if link in row.links]


def link_of(kind: str, at: str | None) -> str:
    """The link under which the pad offers a test; supply when it has none of its own."""
    return how_of(kind, at).link


def how_of(kind: str, at: str | None, detail: str | None = None) -> FieldTest:
    """How a test is made; the first of its kind when not at this place, the first of all when not at all."""
    exact = [row for row in TESTS if row.kind == kind and row.at == at and row.detail == (detail or "")]
    loose = [row for row in TESTS if row.kind == kind and detail in (None, row.detail)] or [
        row for row in TESTS if row.kind == kind
    ]
    return (exact or loose or list(TESTS))[0]
