"""What is kept with a practice call between pages: what was done, and where the leads are."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

from ..units import LongText
from .score import Done


class KeptDone(BaseModel):
    """Tests, waits and switching in order."""

    model_config = ConfigDict(extra="forbid")
    rows: Annotated[list[Done], Field(max_length=5000)]


class KeptLeads(BaseModel):
    """The test made last: the pad's fields, the dial, when, what it gave.

    `value` is as it would be written down; `shows` and `warns` are what was seen and warned of, `slip` the safety slip.
    """

    model_config = ConfigDict(extra="forbid")
    fields: dict[str, LongText] = {}
    function: str = ""
    at: str
    value: Any = None
    shows: str = ""
    warns: str = ""
    slip: str = ""
