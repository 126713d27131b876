"""The units that practice cases are made on: plates as a learner finds them on Pellow Island (made up)."""

from __future__ import annotations

from typing import Any, NamedTuple

from ..tables import table


class PracticeUnit(NamedTuple):
    """A unit to hide faults in: a short name, where it stands, its plates as the call file has them."""

    name: str
    where: str
    call: dict[str, Any]


_TABLE = table(__package__, "units")


def _whole(part: str, plate: dict[str, Any]) -> dict[str, Any]:
    """A plate with what it takes over from another put in."""
    like = plate.get("like")
    own = {key: value for key, value in plate.items() if key != "like"}
    return {**_TABLE[f"like_{part}"][like], **own} if like else own


def _unit(name: str, plates: dict[str, Any]) -> PracticeUnit:
    call = {part: _whole(part, plate) for part, plate in plates.items() if part != "where"}
    return PracticeUnit(name, plates["where"], call)


UNITS: tuple[PracticeUnit, ...] = tuple(_unit(name, plates) for name, plates in _TABLE["units"].items())
BY_NAME = {unit.name: unit for unit in UNITS}
