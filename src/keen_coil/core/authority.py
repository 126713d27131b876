"""Who may what: the matters of a shop, each with the role that it takes."""

from __future__ import annotations

from typing import Literal, NamedTuple

from .tables import records, table


class Matter(NamedTuple):
    """Something that is looked at or changed: who may, what it is called."""

    who: Literal["anybody", "technician", "manager"]
    says: str


MATTERS: dict[str, Matter] = records(Matter, table(__package__, "authority"), "authority")
