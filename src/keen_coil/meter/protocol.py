"""The lines of the meter's protocol."""

from __future__ import annotations

import json
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from ..core.errors import InvalidField, field_errors, invalid
from ..core.meter import UNITS, Function

FORMAT, VERSION = "keen-coil/meter", 1
LONGEST_LINE = 2000
Decimal = Annotated[str, Field(pattern=r"^-?\d{1,9}(\.\d{1,6})?$")]


class Frame(BaseModel):
    """One reading: what the display shows, in which function, unit and range, and what the meter says of itself.

    `value` is null while the meter looks for its range or is over it (`overload`); `resolution` is the display's last
    digit; `battery` low means: change it before it is believed.
    """

    model_config = ConfigDict(extra="forbid")
    format: Literal["keen-coil/meter"] = "keen-coil/meter"
    version: Literal[1] = 1
    seq: Annotated[int, Field(ge=0)]
    meter: Annotated[str, Field(max_length=60)] = "meter"
    function: Function
    value: Decimal | None
    unit: Annotated[str, Field(max_length=8)]
    range: Annotated[float, Field(gt=0)]
    resolution: Annotated[float, Field(gt=0)]
    overload: bool = False
    hold: bool = False
    beeper: bool = False
    battery: Literal["ok", "low"] = "ok"

    @model_validator(mode="after")
    def _unit_of_function(self) -> Frame:
        if self.unit not in UNITS[self.function]:
            raise ValueError(f"unit of {self.function}: one of " + ", ".join(UNITS[self.function]))
        return self

    @property
    def number(self) -> float | None:
        """The value as a number, in the display's unit."""
        return None if self.value is None else float(self.value)


def read_frame(line: str) -> Frame:
    """A frame from its line. Raises `InvalidField`."""
    if len(line) > LONGEST_LINE:
        raise invalid("", f"{len(line)} characters", f"at most {LONGEST_LINE} in a line")
    try:
        return Frame.model_validate(json.loads(line))
    except ValidationError as error:
        raise InvalidField(field_errors(error)) from None
    except (ValueError, RecursionError):
        raise invalid("", line[:60], "a line of JSON") from None


def write_frame(frame: Frame) -> str:
    """A frame as its line."""
    return frame.model_dump_json()
