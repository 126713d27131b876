"""What stands around a motor: what it turns, the room it has, its capacitor's label, its leads and wiring."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from .plates import CapacitorLabel, Load, Space, StrictModel
from .units import Microfarads, Text
from .vocabulary import LeadFunction, Plug


class Lead(StrictModel):
    """A motor lead: what the plate calls it (`says`), and the winding ends it brings out."""

    lead: Text
    says: LeadFunction | None = None
    ends: Annotated[list[Text], Field(max_length=12)] = []


class Wire(StrictModel):
    """A wire from one terminal to another."""

    from_: Annotated[Text, Field(alias="from")]
    to: Text
    colour: Text | None = None


Group = Annotated[list[Text], Field(max_length=12)]


class DiagramTable(StrictModel):
    """One table of a plate's diagram: leads joined together, to line 1, to line 2, and to each side of the capacitor.

    A side of the capacitor may name a line (`l1`, `l2`) instead of leads.
    """

    joins: Annotated[list[Group], Field(max_length=12)] = []
    l1: Group = []
    l2: Group = []
    capacitor: Annotated[list[Group], Field(max_length=2)] = []


class Diagram(StrictModel):
    """A plate's own diagram of a motor with many leads, for its low and for its high volts."""

    low: DiagramTable | None = None
    high: DiagramTable | None = None


class Hookup(StrictModel):
    """The motor's leads, the wiring as found and as planned; `new_leads` are the chosen motor's where they differ.

    `diagram` is the plate's own table of the motor that is wired: the chosen one, else the one that is there. `can_uf`
    is what the capacitor chosen for the plan gives the fan.
    """

    leads: Annotated[list[Lead], Field(max_length=40)] = []
    new_leads: Annotated[list[Lead], Field(max_length=40)] = []
    diagram: Diagram | None = None
    plug: Plug | None = None
    can_uf: Microfarads | None = None
    found: Annotated[list[Wire], Field(max_length=200)] = []
    planned: Annotated[list[Wire], Field(max_length=200)] = []


class Installation(StrictModel):
    """Load, space, capacitor label and hook-up of a motor, as they stand in its call file and are kept with it."""

    load: Load = Load()
    space: Space = Space()
    capacitor: CapacitorLabel = CapacitorLabel()
    hookup: Hookup = Hookup()
