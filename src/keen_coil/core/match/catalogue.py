"""A motor as a catalog row: its plate plus maker, price, delivery, what comes in the box."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import BeforeValidator, Field

from ..plates import Motor
from ..units import Count, Number, Text

REQUIRED = ("part_no", "kind", "hp", "volts", "amps_a", "phase", "hz", "rpm")


def _stock(value: object) -> object:
    """Stock as a number; true and false are one and none."""
    words = {"true": 1, "false": 0}
    return (
        int(value)
        if isinstance(value, bool)
        else words.get(value.strip().lower(), value)
        if isinstance(value, str)
        else value
    )


class CatalogueMotor(Motor):
    """A motor that can be had. `on_van` counts only where no van file holds the stock."""

    maker: Text | None = None
    price: Annotated[float, Number(0, 1e6)] | None = None
    on_van: Annotated[Count, BeforeValidator(_stock)] | None = None
    lead_days: Annotated[float, Number(0, 3650)] | None = None
    kit: Annotated[list[Text], Field(max_length=40)] = []
    supersedes: Annotated[list[Text], Field(max_length=40)] = []

    def plate(self) -> dict[str, Any]:
        """Its plate as the call file has it, without maker, price and stock."""
        data = self.model_dump(mode="json", by_alias=True, exclude_defaults=True)
        return {name: value for name, value in data.items() if name in Motor.model_fields}
