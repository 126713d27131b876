"""Capacitors as a van carries them: one section, two (compressor and fan), or several to strap."""

from __future__ import annotations

import math
from dataclasses import dataclass

from pydantic_core import PydanticCustomError

from ..errors import FieldError, InvalidField, invalid, shown
from ..plates import StrictModel
from ..units import Count, Inches, Number, Text, Volts
from ..vocabulary import CapacitorShape

MOST_SECTIONS = 12
MOST_UF = 500
_EXPECTED = "µF of the sections, such as 7.5, 40+5 (compressor and fan) or 2.5|5|10 (to strap)"
_NEED = "µF@volts such as 7.5@370, or compressor and fan of one can such as 40+7.5@440"


@dataclass(frozen=True)
class Section:
    """A section of a part on the van: which part, its name, µF, rated volts, how many of the part there are."""

    part_no: str
    name: str
    uf: float
    volts_v: float
    stock: int


@dataclass(frozen=True)
class Need:
    """What is asked for: µF and volts, with `herm_uf` when one can serves compressor and fan."""

    uf: float
    volts_v: float
    herm_uf: float | None = None


class CapacitorPart(StrictModel):
    """A capacitor on the van, as `van.csv` has it. `sections_uf`: `7.5`, `40+5` = herm+fan, `2.5|5|10` to strap."""

    part_no: Text
    sections_uf: Text
    volts_v: Volts
    shape: CapacitorShape | None = None
    height_in: Inches | None = None
    quantity: Count = 1


def sections_of(text: str) -> list[tuple[str, float]]:
    """Sections by name and µF: `single`, `herm` and `fan`, or `1`, `2` ... of a part to strap.

    Raises `ValueError` with what is expected.
    """
    dual, strapped = text.split("+"), text.split("|")
    values = [_positive(part) for part in (strapped if len(strapped) > 1 else dual)]
    if len(values) > MOST_SECTIONS or (len(dual) > 1 and (len(dual) != 2 or len(strapped) > 1)):
        raise ValueError(_EXPECTED)
    if len(values) == 1:
        return [("single", values[0])]
    if len(dual) == 2:
        return [("herm", values[0]), ("fan", values[1])]
    return [(str(number), value) for number, value in enumerate(values, start=1)]


def _positive(text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        raise ValueError(_EXPECTED) from None
    if not math.isfinite(value) or not 0 < value <= MOST_UF:
        raise ValueError(_EXPECTED)
    return value


def van_sections(parts: list[CapacitorPart]) -> list[Section]:
    """Every section on the van; parts of one number are counted together. Raises `InvalidField` on a doubtful part."""
    found: dict[tuple[str, str], Section] = {}
    for index, part in enumerate(parts):
        try:
            sections = sections_of(part.sections_uf)
        except ValueError as error:
            raise invalid(f"van.{index}.sections_uf", part.sections_uf, str(error)) from None
        for name, uf in sections:
            had = found.get((part.part_no, name))
            if had is not None and (had.uf, had.volts_v) != (uf, float(part.volts_v)):
                raise invalid(f"van.{index}.part_no", part.part_no, "one set of sections and volts for a part number")
            stock = part.quantity + (had.stock if had else 0)
            found[part.part_no, name] = Section(part.part_no, name, uf, float(part.volts_v), stock)
    return [section for section in found.values() if section.stock > 0]


def read_need(text: object) -> Need:
    """A need as typed: `7.5@370`, or `40+7.5@440` for compressor and fan. Raises `InvalidField`."""
    parts = text.split("@") if isinstance(text, str) else []
    if len(parts) != 2:
        raise invalid("need", text, _NEED)
    try:
        values = [_positive(part) for part in parts[0].split("+")]
        volts = float(Number(0, 1000, above=True).take(parts[1]))
    except (ValueError, PydanticCustomError):
        raise InvalidField([FieldError("need", shown(text), _NEED)]) from None
    if len(values) == 1:
        return Need(values[0], volts)
    if len(values) != 2:
        raise invalid("need", text, _NEED)
    return Need(values[1], volts, values[0])
