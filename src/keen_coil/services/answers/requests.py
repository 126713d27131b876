"""The bodies of the API's requests: what they hold, read strictly, and their schemas. One type a request."""

from __future__ import annotations

from typing import Annotated, Any, TypeVar

from pydantic import BaseModel, Discriminator, Field, Strict, Tag, TypeAdapter, ValidationError

from ...core.call import Call
from ...core.capacitors.parts import MOST_UF, CapacitorPart
from ...core.errors import InvalidField, field_errors, invalid
from ...core.machine.answer import Changes, Circuit
from ...core.match.catalogue import REQUIRED, CatalogueMotor
from ...core.plates import Motor, StrictModel
from ...core.units import Number, Text
from ...core.vocabulary import CapacitorSchool, SizingSchool
from ...formats.call_file import parse_json
from ...formats.van_csv import VanPart

T = TypeVar("T")
MOST_MOTORS = 50_000
MOST_PARTS = 2000
MOST_ERRORS = 100
"""Fields that are named in one refusal."""
SCHEMA_REF = "#/components/schemas/{model}"


def _by(name: str, with_it: str, without: str) -> Discriminator:
    """One of two types by whether the object has a key."""
    return Discriminator(
        lambda value: (
            with_it
            if (name in value if isinstance(value, dict) else getattr(value, name, None) is not None)
            else without
        )
    )


class StockLine(BaseModel):
    """A motor on the van; other columns of a van file may stand beside it."""

    part_no: Text
    quantity: Annotated[int, Strict(), Field(ge=0)] = 1


class MatchRequest(StrictModel):
    """A call and the catalog to match for it; `van` says what is there."""

    call: Call
    catalogue: Annotated[list[CatalogueMotor], Field(max_length=MOST_MOTORS)]
    school: SizingSchool = "amps"
    van: list[StockLine] | None = None

    @property
    def stock(self) -> dict[str, int] | None:
        """Motors on the van by part number; None when no van is given."""
        return None if self.van is None else {line.part_no: line.quantity for line in self.van}

    def motors(self) -> list[CatalogueMotor]:
        """The catalog. Raises `InvalidField` on a motor twice there, or without what a catalog must have."""
        found: dict[str, CatalogueMotor] = {}
        for index, motor in enumerate(self.catalogue):
            missing = [name for name in REQUIRED if getattr(motor, name) is None]
            if missing:
                raise invalid(f"catalogue.{index}.{missing[0]}", "", "a value, the field is required")
            if motor.part_no in found:
                raise invalid(f"catalogue.{index}.part_no", motor.part_no, "a part number of its own")
            found[str(motor.part_no)] = motor
        return list(found.values())


class NeedFields(StrictModel):
    """A need by its fields: µF, volts, the compressor's µF when one can serves both."""

    uf: Annotated[float, Number(0, MOST_UF, above=True)]
    volts_v: Annotated[float, Number(0, 1000, above=True)]
    herm_uf: Annotated[float, Number(0, MOST_UF, above=True)] | None = None


class CapacitorRequest(StrictModel):
    """A need, as typed or by its fields, and the van: rows as `van.csv` has them, or capacitors alone."""

    need: Annotated[
        Annotated[Text, Tag("~typed")] | Annotated[NeedFields, Tag("~fields")],
        Discriminator(lambda value: "~typed" if isinstance(value, str) else "~fields"),
    ]
    van: Annotated[
        list[
            Annotated[
                Annotated[VanPart, Tag("~row")] | Annotated[CapacitorPart, Tag("~capacitor")],
                _by("kind", "~row", "~capacitor"),
            ]
        ],
        Field(max_length=MOST_PARTS),
    ]


class HookupOfCall(StrictModel):
    """A call to plan or check the hook-up of; `to` goes on, else the chosen motor."""

    call: Call
    to: Motor | None = None
    school: CapacitorSchool | None = None
    check: Annotated[bool, Strict()] = False


HookupRequest = Annotated[
    Annotated[Call, Tag("~call")] | Annotated[HookupOfCall, Tag("~hookup")], _by("format", "~call", "~hookup")
]


class ModelOfCall(StrictModel):
    """A call with conditions set by hand. `set` also takes fields of the call by their dotted names, read before it."""

    call: Call
    set: Changes = Changes()


class BareCircuit(StrictModel):
    """A circuit on its own."""

    circuit: Circuit


ModelRequest = Call | ModelOfCall | BareCircuit


def read_request(kind: type[T], data: bytes) -> T:
    """A request from the bytes of its body. Raises `InvalidField` with every fault, paths as in the body."""
    body = parse_json(data)
    if not isinstance(body, dict):
        raise invalid("", body, "an object")
    try:
        return TypeAdapter(kind).validate_python(body)
    except ValidationError as error:
        raise InvalidField(field_errors(error)[:MOST_ERRORS]) from None


def request_schema(kind: Any, definitions: dict[str, Any]) -> dict[str, Any]:
    """The JSON Schema of a request; what it refers to is added to the definitions."""
    schema = TypeAdapter(kind).json_schema(ref_template=SCHEMA_REF)
    definitions.update(schema.pop("$defs", {}))
    return schema
