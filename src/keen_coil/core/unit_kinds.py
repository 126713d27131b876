"""Which motors a kind of unit has in it (trade)."""

from __future__ import annotations

from .tables import complete
from .vocabulary import Role, UnitKind, words_of

ROLES_IN: dict[UnitKind, tuple[Role, ...]] = {
    "split_condenser": ("condenser_fan",),
    "heat_pump_outdoor": ("condenser_fan",),
    "package_unit": words_of(Role),
    "furnace": ("indoor_blower", "inducer"),
    "air_handler": ("indoor_blower",),
    "fan_coil": ("indoor_blower",),
}
complete(ROLES_IN, words_of(UnitKind), "ROLES_IN")

WITHOUT_COMPRESSOR: tuple[UnitKind, ...] = ("furnace", "air_handler", "fan_coil")
"""Kinds of unit whose compressor, if there is one, stands elsewhere."""


def has_compressor(kind: str | None) -> bool:
    """Whether a compressor is wired in a unit of this kind; of an unknown kind it is taken to be."""
    return kind not in WITHOUT_COMPRESSOR


def roles_in(kind: str | None) -> tuple[Role, ...]:
    """The motors that a unit of this kind can have; all of them for a kind that is not known."""
    return next((roles for known, roles in ROLES_IN.items() if known == kind), words_of(Role))


def motors_in_words(kind: str | None) -> str:
    """What can be named as the motor of a unit of this kind, for a refusal."""
    here = " or ".join(role.replace("_", " ") for role in roles_in(kind))
    return f"{here}, in a unit of the kind {kind.replace('_', ' ')}" if kind else here
