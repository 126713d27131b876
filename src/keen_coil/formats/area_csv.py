"""The units of an area (`area.csv`): a row for each kind of motor with how many there are."""

from __future__ import annotations

from typing import Any

from ..core.call import Call, read_call
from ..core.errors import FieldError, InvalidField
from ..core.motor_kinds import traits_of
from ..core.plates import PlateVolts, StrictModel
from ..core.units import Amps, Celsius, Count, Hp, Inches, Microfarads, Rpm, Text, Volts
from ..core.van.needs import AreaUnit
from ..core.vocabulary import MotorKind, Mount, Position, Role, UnitKind
from .csv_rows import Layout, all_or_none, rows_of

ON_UNIT = {"unit_kind": "kind", "supply_v": "supply_v", "ambient_c": "ambient_c", "mounted": "mounted"}


class AreaRow(StrictModel):
    """A kind of motor in the area: how many units have it, what stands on its plate and beside it."""

    units: Count = 1
    role: Role
    kind: MotorKind
    unit_kind: UnitKind | None = None
    hp: Hp | None = None
    volts: PlateVolts
    amps_a: Amps | None = None
    rpm: Rpm
    speeds: Count | None = None
    frame: Text | None = None
    mount: Mount | None = None
    body_diameter_in: Inches | None = None
    shaft_diameter_in: Inches | None = None
    mounted: Position | None = None
    supply_v: Volts | None = None
    ambient_c: Celsius | None = None
    capacitor_uf: Microfarads | None = None
    capacitor_v: Volts | None = None
    herm_uf: Microfarads | None = None
    can_v: Volts | None = None


COLUMNS = tuple(AreaRow.model_fields)
REQUIRED = ("role", "kind", "volts", "rpm")
AREA = Layout(AreaRow, COLUMNS, REQUIRED, key="role", once=False)


def read_area(data: bytes) -> list[AreaUnit]:
    """The units of an area file, all or none. Raises `InvalidField` naming `row N.column`."""
    found, faults = [], []
    for number, row in enumerate(all_or_none(rows_of(data, AREA)), start=2):
        try:
            found.append(AreaUnit(_call(row), int(row.units)))
        except InvalidField as error:
            faults += [FieldError(f"row {number}.{fault.path}", fault.value, fault.expected) for fault in error.errors]
    if faults:
        raise InvalidField(faults)
    return found


def _call(row: AreaRow) -> Call:
    """The row as a call would have it."""
    data = row.model_dump(mode="json", by_alias=True, exclude_none=True)
    unit: dict[str, Any] = {ON_UNIT[name]: data[name] for name in ON_UNIT if name in data}
    three = traits_of(data["kind"]).is_three_phase
    skipped = (*ON_UNIT, "units", "shaft_diameter_in", "herm_uf", "can_v")
    motor = {name: value for name, value in data.items() if name not in skipped}
    motor |= {"phase": 3 if three else 1, "hz": 60}
    if "shaft_diameter_in" in data:
        motor["shaft"] = {"diameter_in": data["shaft_diameter_in"]}
    label = (
        [{"section": "fan" if "herm_uf" in data else "single", "uf": data["capacitor_uf"]}]
        if "capacitor_uf" in data
        else []
    )
    label += [{"section": "herm", "uf": data["herm_uf"]}] if "herm_uf" in data and label else []
    volts = data.get("can_v") or data.get("capacitor_v")
    unit |= {
        "phase": motor["phase"],
        "hz": 60,
        "run_capacitor": "dual" if len(label) > 1 else "own" if label else "none",
    }
    capacitor = {"label": label, "volts_v": volts} if label and volts else {"label": label}
    return read_call(
        {
            "format": "keen-coil/call",
            "version": 1,
            "unit": unit,
            "motor": motor,
            "capacitor": capacitor,
            "readings": [],
        }
    )
