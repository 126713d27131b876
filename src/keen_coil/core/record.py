"""The record of a call: where, who, when, what was settled at its stations, how it ended. Files are held to it."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationInfo

from .changes import Change
from .hookup.answer import Move
from .match.catalogue import CatalogueMotor
from .moments import Day, Moment
from .sound.answer import SoundHeard
from .technician_judgement import TechnicianJudgement
from .units import Text
from .vocabulary import (
    CapacitorSchool,
    DualSection,
    FollowUpKind,
    Hub,
    InducerBuild,
    PowerState,
    Removal,
    Renewal,
    SizingSchool,
    Verdict,
)


class Kept(BaseModel):
    """Base of what is kept with a call, in its table as in its file: nothing unknown, never changed in place."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    def __deepcopy__(self, memo: dict[int, Any] | None = None) -> Self:
        """Itself: it is never changed in place, and a default is copied with every model that has it."""
        return self

    def changed(self, **fields: Any) -> Self:
        """The same with some fields changed, held to their types."""
        return type(self).model_validate({**dict(self), **fields})


MOST_SOUNDS = 8
Said = Annotated[str, Field(max_length=4000)]
Name = Annotated[str, Field(max_length=400)]


class KeptHub(Kept):
    """Where the hub goes on a motor."""

    part_no: Name
    at_in: float
    cut_in: float = 0.0
    left_in: float | None = None


OLD_SENTENCES = {
    "Cut the stud": "cut_studs",
    "Cut and dress": "cut_shaft",
    "File a flat": "file_flat",
    "Fit the bushing": "fit_bushing",
    "Move the wheel": "move_wheel",
    "Move the hub": "move_hub",
    "Set the wheel": "set_wheel",
    "Strap the leads": "strap_leads",
    "Mount and wire a run capacitor": "add_capacitor",
    "Set the drain": "set_drains",
    "Set the rotation": "set_rotation",
    "Wait for": "wait_for_delivery",
    "Cap ": "cap_taps",
    "Fit a new": "fit_capacitor",
    "Mount with": "remount",
    "Change the band": "change_band",
    "Fit an adapter": "fit_adapter",
    "Prefer": "prefer_dual_volt",
}
"""How work began that was kept before it had keys. Frozen: a sentence of today is in `match/work.toml`."""


def _keyed(key: str, info: ValidationInfo) -> str:
    do = str(info.data.get("do", ""))
    return key or next((key for begins, key in OLD_SENTENCES.items() if do.startswith(begins)), "")


class KeptWork(Kept):
    """A line of the work list; `key` is its kind in `match/work.toml`, empty if kept before there were keys."""

    do: Said
    part: Name | None = None
    minutes: float = 0
    key: Annotated[Name, AfterValidator(_keyed), Field(validate_default=True)] = ""


class KeptPart(Kept):
    """A part of an answer of the van."""

    part_no: Name
    section: Name
    serves: DualSection = "fan"


class KeptCapacitor(Kept):
    """The capacitor that was chosen."""

    key: Said
    says: Said
    permanent: bool = True
    parts: list[KeptPart] = []
    uf: float | None = None

    @property
    def as_it_is(self) -> bool:
        """Whether it is the plate's own value for good, nothing joined: the part and its µF say all of it."""
        whole = {part.section for part in self.parts} in ({"single"}, {"fan", "herm"})
        return self.permanent and whole and len({part.part_no for part in self.parts}) == 1


class KeptHookup(Kept):
    """The hook-up that was kept, its moves ticked by number; `why`, where its check says that it does not run."""

    school: CapacitorSchool | None = None
    why: Said | None = None
    moves: Annotated[list[Move], Field(max_length=500)] = []
    done: list[Annotated[int, Field(ge=0, lt=500)]] = []


class KeptOverride(Kept):
    """An estimate that was overridden, with the reason."""

    reason: Said
    against: list[Said] = []


class KeptSwap(Kept):
    """How the swap is done: hub, way out, the part's arrival, ferries, marks."""

    hub: Hub | None = None
    removal: Removal | None = None
    build: InducerBuild | None = None
    arrives: Annotated[str, Field(pattern=r"^\d{4}-\d\d-\d\dT\d\d:\d\d[+-]\d\d:\d\d$")] | None = None
    ferries: list[Annotated[str, Field(pattern=r"^([01]\d|2[0-3]):[0-5]\d$")]] = []
    marks: Annotated[dict[Text, Text], Field(max_length=40)] = {}


SoundOf = Literal["found", "proof", "sister"]
"""Whose sound: the motor as found, the one that is in, or a sister unit's."""


class KeptSound(Kept):
    """A recording as it was heard: the answer and its spectrum, not the sound itself.

    spectrum: dB over the background on a logarithmic axis (`sound/sketch.py`). stage: `proof` with the motor
    that is in, `sister` a like unit beside it, to compare with.
    """

    at: Moment
    stage: SoundOf = "found"
    blades: Annotated[int, Field(ge=2, le=80)]
    compressor_off: bool = False
    heard: SoundHeard
    spectrum: Annotated[str, Field(max_length=1000)]


class KeptPlan(Kept):
    """What was settled for a call at its stations."""

    hub: KeptHub | None = None
    swap: KeptSwap = KeptSwap()
    work: list[KeptWork] = []
    capacitor: KeptCapacitor | None = None
    hookup: KeptHookup | None = None
    override: KeptOverride | None = None
    by_hand: list[CatalogueMotor] = []
    renewal: Renewal | None = None
    on_van: int | None = None
    lead_days: float | None = None
    judgement: TechnicianJudgement | None = None
    sounds: Annotated[list[KeptSound], Field(max_length=MOST_SOUNDS)] = []


class KeptChanges(Kept):
    """What was changed on the unit in the middle of a call."""

    made: Annotated[list[Change], Field(max_length=100)] = []


class KeptOutcome(Kept):
    """How a call ended. `unjudged`: a part was renewed, the cause neither proved nor judged by anybody."""

    verdict: Verdict
    fault: Name | None = None
    passed: bool = False
    exception: Said | None = None
    fitted: Said | None = None
    watch: Said | None = None
    unfinished: Said | None = None
    unjudged: bool = False


class KeptGood(Kept):
    """That a motor was found good after it had been condemned."""

    on: Name
    says: Said
    call: int | None = None


class RecordStep(Kept):
    """A step ticked at a station with its time; `skipped` says why it was left out instead."""

    station: Literal["make-safe", "swap", "carry"]
    step: Annotated[str, Field(max_length=60)]
    done_at: Moment
    skipped: Annotated[str, Field(max_length=500)] | None = None


class RecordFollowUp(Kept):
    """Something that somebody returns for."""

    kind: FollowUpKind
    says: Annotated[str, Field(max_length=500)]
    due_on: Day
    settled_at: Moment | None = None
    settled: Annotated[str, Field(max_length=500)] | None = None


class RecordPart(Kept):
    """Parts that a call took: off a van, or from where else (`source`) when they were not on it."""

    part_no: Text
    quantity: Annotated[int, Field(ge=1, le=1000)]
    van: Annotated[str, Field(max_length=60)]
    source: Annotated[str, Field(max_length=60)] = ""
    booked_at: Moment


Uid = Annotated[str, Field(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$")]
"""A UUID of version 7."""


class Identities(Kept):
    """What a call and what hangs on it are known by everywhere, in the order in which they stand in the file."""

    call: Uid
    unit: Uid
    motor: Uid
    readings: Annotated[list[Uid], Field(max_length=2000)] = []
    follow_ups: Annotated[list[Uid], Field(max_length=100)] = []
    parts: Annotated[list[Uid], Field(max_length=200)] = []


class CallRecord(Kept):
    """Where, who, when; plan, steps, follow-ups, parts, outcome. `readings_by` names who took each reading."""

    site: Text
    unit: Text
    place: Text | None = None
    technician: Text | None = None
    van: Annotated[str, Field(max_length=60)] | None = None
    opened_at: Moment
    closed_at: Moment | None = None
    power: PowerState = "energised"
    power_at: Moment | None = None
    school: SizingSchool = "amps"
    plan: KeptPlan = KeptPlan()
    outcome: KeptOutcome | None = None
    found_good: KeptGood | None = None
    steps: Annotated[list[RecordStep], Field(max_length=400)] = []
    follow_ups: Annotated[list[RecordFollowUp], Field(max_length=100)] = []
    parts: Annotated[list[RecordPart], Field(max_length=200)] = []
    readings_by: Annotated[list[Text | None], Field(max_length=2000)] = []
    identities: Identities | None = None
