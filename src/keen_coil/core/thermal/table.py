"""The constants of heat and life, read once from `constants.toml`."""

from __future__ import annotations

from functools import cache

from pydantic import BaseModel, ConfigDict

from ..tables import records, table
from ..vocabulary import InsulationLetter

Three = tuple[float, float, float]


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    source: str


class InsulationClass(BaseModel):
    """Most rise at the plate by resistance, K, and total of the hottest spot, C."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    rise_k: float
    hot_spot_c: float


class Classes(_Row):
    """Insulation classes, by their letter."""

    limits: dict[InsulationLetter, InsulationClass]


class PlatePoint(_Row):
    """The plate's ambient, the class where it is silent, what a service factor adds, and the share of rise used."""

    ambient_c: float
    usual_class: InsulationLetter
    service_factor: float
    service_factor_k: float
    rise_share: Three


class Air(_Row):
    """Exponent of the air over the motor in its cooling."""

    exponent: Three


class Shell(_Row):
    """Rise of the shell as a share of the winding's."""

    share: Three


class Life(_Row):
    """Degrees by which life halves."""

    halves_k: Three


class Overload(_Row):
    """Where an automatic overload opens and closes."""

    over_hot_spot_k: Three
    closes_below_k: float
    hot_spot_over_average_k: float


class Heating(_Row):
    """How fast windings heat and motors cool."""

    copper_k_per_s: float
    band: float
    running_minutes: Three
    standing_slower: float
    touch_c: float


class Constants(BaseModel):
    """All of it."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    classes: Classes
    plate: PlatePoint
    air: Air
    shell: Shell
    life: Life
    overload: Overload
    heating: Heating

    def of_class(self, name: InsulationLetter | None) -> InsulationClass:
        """A class's limits; the usual one's where the plate is silent."""
        return self.classes.limits[name or self.plate.usual_class]


@cache
def constants() -> Constants:
    """The table, validated."""
    return records(Constants, {"thermal": table(__package__, "constants")}, "constants")["thermal"]
