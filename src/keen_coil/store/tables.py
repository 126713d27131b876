"""The tables. Plates and readings are kept as the call file's JSON; what is searched or joined has columns."""

from __future__ import annotations

from datetime import date, datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, LargeBinary, String, Text, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column, relationship, validates

from ..core.installation import Installation
from ..core.record import KeptChanges, KeptGood, KeptOutcome, KeptPlan
from ..core.vocabulary import AccountRole, FollowUpKind, PowerState, SizingSchool, StockMovementKind, VanPartKind
from .columns import Table as Table
from .columns import Typed as Typed
from .columns import UtcTime as UtcTime
from .columns import held, new_uid, one_of

FIRST_VAN = "Van 1"
"""The van of a shop that has named none."""


class Site(Table):
    """A place with units."""

    __tablename__ = "site"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(200), unique=True)
    units: Mapped[list[Unit]] = relationship(
        back_populates="site",
        order_by="Unit.name",
        primaryjoin="and_(Site.id == Unit.site_id, Unit.joined_into.is_(None))",
    )


class Unit(Table):
    """A unit on a site, with its plate. `joined_into`: it was entered twice, and is the unit of this identity."""

    __tablename__ = "unit"
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), default=new_uid, unique=True, index=True)
    site_id: Mapped[int] = mapped_column(ForeignKey("site.id"), index=True)
    name: Mapped[str] = mapped_column(String(200))
    plate: Mapped[dict[str, Any]]
    practice: Mapped[bool] = mapped_column(default=False, server_default=text("0"))
    joined_into: Mapped[str | None] = mapped_column(String(36))
    site: Mapped[Site] = relationship(back_populates="units")
    motors: Mapped[list[Motor]] = relationship(
        back_populates="unit",
        order_by="Motor.id",
        primaryjoin="and_(Unit.id == Motor.unit_id, Motor.joined_into.is_(None))",
    )


class Motor(Table):
    """A motor that is or was in a unit: its plate, what it turns, its capacitor and wiring."""

    __tablename__ = "motor"
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), default=new_uid, unique=True, index=True)
    unit_id: Mapped[int] = mapped_column(ForeignKey("unit.id"), index=True)
    plate: Mapped[dict[str, Any]]
    installation: Mapped[Installation] = mapped_column(Typed(Installation))
    place: Mapped[str | None] = mapped_column(String(120))
    installed_at: Mapped[datetime | None]
    removed_at: Mapped[datetime | None]
    found_good: Mapped[KeptGood | None] = mapped_column(Typed(KeptGood))
    joined_into: Mapped[str | None] = mapped_column(String(36))
    unit: Mapped[Unit] = relationship(back_populates="motors")

    @validates("installation", "found_good")
    def _held(self, name: str, value: Any) -> Any:
        return held(type(self), name, value)


class Technician(Table):
    """Somebody who takes readings."""

    __tablename__ = "technician"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(200), unique=True)
    van: Mapped[str | None] = mapped_column(String(60))


class Call(Table):
    """A call: complaint, motor, power state, choice, outcome. `version` grows with every act."""

    __tablename__ = "call"
    __table_args__ = (
        one_of("power", PowerState, "power_is_known"),
        CheckConstraint("version >= 1", name="version_counts"),
        one_of("school", SizingSchool, "school_is_known"),
        Index("ix_call_open", "closed_at", "opened_at"),
        Index("ix_call_found_by", "opened_at", "search_text", "practice"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), default=new_uid, unique=True, index=True)
    motor_id: Mapped[int] = mapped_column(ForeignKey("motor.id"), index=True)
    technician_id: Mapped[int | None] = mapped_column(ForeignKey("technician.id"))
    opened_at: Mapped[datetime]
    closed_at: Mapped[datetime | None]
    version: Mapped[int] = mapped_column(default=1)
    complaint: Mapped[dict[str, Any]]
    meters: Mapped[dict[str, Any]] = mapped_column(default=dict)
    power: Mapped[str] = mapped_column(String(20), default="energised", server_default=text("'energised'"))
    power_at: Mapped[datetime | None]
    school: Mapped[str] = mapped_column(String(20), default="amps", server_default=text("'amps'"))
    chosen: Mapped[dict[str, Any] | None]
    plan: Mapped[KeptPlan] = mapped_column(Typed(KeptPlan), default=KeptPlan, server_default=text("'{}'"))
    outcome: Mapped[KeptOutcome | None] = mapped_column(Typed(KeptOutcome))
    van: Mapped[str | None] = mapped_column(String(60))
    search_text: Mapped[str] = mapped_column(Text, default="", server_default=text("''"))
    practice: Mapped[bool] = mapped_column(default=False, server_default=text("0"))
    changes: Mapped[KeptChanges] = mapped_column(Typed(KeptChanges), default=KeptChanges, server_default=text("'{}'"))
    motor: Mapped[Motor] = relationship()
    technician: Mapped[Technician | None] = relationship()
    follow_ups: Mapped[list[FollowUp]] = relationship(back_populates="call", order_by="FollowUp.id")
    parts: Mapped[list[PartUsed]] = relationship(back_populates="call", order_by="PartUsed.id")
    readings: Mapped[list[Reading]] = relationship(back_populates="call", order_by="Reading.position")
    steps: Mapped[list[Step]] = relationship(back_populates="call", order_by="Step.id")
    practice_case: Mapped[Practice | None] = relationship(back_populates="call")

    @validates("plan", "outcome", "changes")
    def _held(self, name: str, value: Any) -> Any:
        return held(type(self), name, value)


class Practice(Table):
    """A practice call: the case that is hidden in it, what the learner did, where the meter's leads are, the score.

    `family` is the case's fault family, `rung` its rung of the ladder, `day` the date it is the case of.
    """

    __tablename__ = "practice"
    id: Mapped[int] = mapped_column(primary_key=True)
    call_id: Mapped[int] = mapped_column(ForeignKey("call.id"), unique=True)
    technician_id: Mapped[int | None] = mapped_column(ForeignKey("technician.id"))
    begun_at: Mapped[datetime]
    ended_at: Mapped[datetime | None] = mapped_column(index=True)
    case: Mapped[dict[str, Any]]
    family: Mapped[str] = mapped_column(String(20))
    rung: Mapped[str | None] = mapped_column(String(40))
    day: Mapped[date | None]
    advice: Mapped[bool] = mapped_column(default=True)
    done: Mapped[dict[str, Any]]
    leads: Mapped[dict[str, Any] | None]
    score: Mapped[dict[str, Any] | None]
    is_right: Mapped[bool | None]
    call: Mapped[Call] = relationship(back_populates="practice_case")


class PracticeFile(Table):
    """A case file that was brought in, to be played."""

    __tablename__ = "practice_file"
    id: Mapped[int] = mapped_column(primary_key=True)
    title: Mapped[str] = mapped_column(String(200), unique=True)
    added_at: Mapped[datetime]
    case: Mapped[dict[str, Any]]


class Reading(Table):
    """A reading of a call, in order; `position` is its index in the call file. Never changed, only replaced."""

    __tablename__ = "reading"
    __table_args__ = (UniqueConstraint("call_id", "position"), CheckConstraint("position >= 0", name="position_counts"))
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), default=new_uid, unique=True, index=True)
    call_id: Mapped[int] = mapped_column(ForeignKey("call.id"), index=True)
    position: Mapped[int]
    kind: Mapped[str] = mapped_column(String(40))
    body: Mapped[dict[str, Any]]
    technician_id: Mapped[int | None] = mapped_column(ForeignKey("technician.id"))
    call: Mapped[Call] = relationship(back_populates="readings")
    technician: Mapped[Technician | None] = relationship()


class Step(Table):
    """A step ticked at a station, with its time; `skipped` says why it was left out instead."""

    __tablename__ = "step"
    __table_args__ = (UniqueConstraint("call_id", "station", "step"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    call_id: Mapped[int] = mapped_column(ForeignKey("call.id"), index=True)
    station: Mapped[str] = mapped_column(String(40))
    step: Mapped[str] = mapped_column(String(60))
    done_at: Mapped[datetime]
    skipped: Mapped[str | None] = mapped_column(String(500))
    call: Mapped[Call] = relationship(back_populates="steps")


class FollowUp(Table):
    """Something temporary or unfinished that somebody returns for, with its day."""

    __tablename__ = "follow_up"
    __table_args__ = (one_of("kind", FollowUpKind, "follow_up_kind_is_known"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), default=new_uid, unique=True, index=True)
    call_id: Mapped[int] = mapped_column(ForeignKey("call.id"), index=True)
    kind: Mapped[str] = mapped_column(String(20))
    says: Mapped[str] = mapped_column(String(500))
    due_on: Mapped[date] = mapped_column(index=True)
    settled_at: Mapped[datetime | None]
    settled: Mapped[str | None] = mapped_column(String(500))
    call: Mapped[Call] = relationship(back_populates="follow_ups")


class PartUsed(Table):
    """Parts that a call took: off which van, or where else they came from (`source`; empty: the van)."""

    __tablename__ = "part_used"
    __table_args__ = (CheckConstraint("quantity > 0", name="used_counts"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), default=new_uid, unique=True, index=True)
    call_id: Mapped[int] = mapped_column(ForeignKey("call.id"), index=True)
    part_no: Mapped[str] = mapped_column(String(200))
    quantity: Mapped[int]
    van: Mapped[str] = mapped_column(String(60))
    source: Mapped[str] = mapped_column(String(60), default="", server_default=text("''"))
    booked_at: Mapped[datetime]
    call: Mapped[Call] = relationship(back_populates="parts")


class Photograph(Table):
    """A photograph kept with a call."""

    __tablename__ = "photograph"
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), default=new_uid, unique=True, index=True)
    call_id: Mapped[int] = mapped_column(ForeignKey("call.id"), index=True)
    subject: Mapped[str] = mapped_column(String(40))
    media_type: Mapped[str] = mapped_column(String(40))
    sha256: Mapped[str] = mapped_column(String(64), index=True)
    content: Mapped[bytes] = mapped_column(LargeBinary)
    taken_at: Mapped[datetime]


class Setting(Table):
    """A setting of the shop, by name."""

    __tablename__ = "setting"
    name: Mapped[str] = mapped_column(String(60), primary_key=True)
    value: Mapped[dict[str, Any]]
    changed_at: Mapped[datetime]


class Account(Table):
    """Somebody who may sign in; the technician of the same name is who acts are noted under."""

    __tablename__ = "account"
    __table_args__ = (one_of("role", AccountRole, "role_is_known"),)
    name: Mapped[str] = mapped_column(String(200), primary_key=True)
    role: Mapped[str] = mapped_column(String(20))
    password: Mapped[str] = mapped_column(String(300))
    changed_at: Mapped[datetime]


class SignIn(Table):
    """A device that is signed in; `id` is a hash of its token."""

    __tablename__ = "sign_in"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    account: Mapped[str] = mapped_column(ForeignKey("account.name"), index=True)
    made_at: Mapped[datetime]
    seen_at: Mapped[datetime]


class SignInFailure(Table):
    """Failures to sign in, by name and by address."""

    __tablename__ = "sign_in_failure"
    key: Mapped[str] = mapped_column(String(200), primary_key=True)
    count: Mapped[int]
    last_at: Mapped[datetime]


class Act(Table):
    """An act that was done, by the id its page made: doing it again is harmless. `version` is the call's after it."""

    __tablename__ = "act"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    name: Mapped[str] = mapped_column(String(40))
    call_id: Mapped[int | None] = mapped_column(ForeignKey("call.id"), index=True)
    done_at: Mapped[datetime] = mapped_column(index=True)
    version: Mapped[int | None]
    who: Mapped[str | None] = mapped_column(String(200))
    says: Mapped[str | None] = mapped_column(String(300))


class CatalogueMotor(Table):
    """A motor of the catalog; columns for cutting it by the core's bounds, `plate` for judging."""

    __tablename__ = "catalogue_motor"
    __table_args__ = (
        Index(
            "ix_catalogue_cut",
            "phase",
            "hz",
            "kind",
            "rpm_low",
            "rpm_high",
            "volts_low",
            "volts_high",
            "amps_a",
            "hp",
            "shaft_in",
            "ambient_c",
        ),
    )
    part_no: Mapped[str] = mapped_column(String(200), primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    phase: Mapped[int]
    hz: Mapped[int]
    rpm: Mapped[float]
    rpm_low: Mapped[float]
    rpm_high: Mapped[float]
    volts_low: Mapped[float | None]
    volts_high: Mapped[float | None]
    amps_a: Mapped[float | None]
    hp: Mapped[float | None]
    shaft_in: Mapped[float | None]
    ambient_c: Mapped[float | None]
    role: Mapped[str | None] = mapped_column(String(20))
    search_text: Mapped[str] = mapped_column(String(800), default="", server_default=text("''"))
    plate: Mapped[dict[str, Any]]


class VanPart(Table):
    """A part on a van: a motor, a capacitor with its sections, or something else.

    `quantity` is the sum of its movements (`core/van/stock.py`), renewed with each; below none where a count is due.
    """

    __tablename__ = "van_part"
    __table_args__ = (one_of("kind", VanPartKind, "van_kind_is_known"),)
    van: Mapped[str] = mapped_column(String(60), primary_key=True, default=FIRST_VAN)
    part_no: Mapped[str] = mapped_column(String(200), primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    sections_uf: Mapped[str | None] = mapped_column(String(200))
    volts_v: Mapped[float | None]
    shape: Mapped[str | None] = mapped_column(String(20))
    height_in: Mapped[float | None]
    quantity: Mapped[int]


class StockMovement(Table):
    """Parts that came onto a van or left it; of a count, how many there are. Never changed."""

    __tablename__ = "stock_movement"
    __table_args__ = (
        one_of("kind", StockMovementKind, "movement_kind_is_known"),
        Index("ix_stock_movement_part", "van", "part_no"),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    uid: Mapped[str] = mapped_column(String(36), default=new_uid, unique=True, index=True)
    van: Mapped[str] = mapped_column(String(60))
    part_no: Mapped[str] = mapped_column(String(200))
    kind: Mapped[str] = mapped_column(String(20))
    quantity: Mapped[int]
    other_van: Mapped[str | None] = mapped_column(String(60))
    call_id: Mapped[int | None] = mapped_column(ForeignKey("call.id"), index=True)
    who: Mapped[str | None] = mapped_column(String(200))
    moved_at: Mapped[datetime]


class ImportDraft(Table):
    """A file that was sent and is looked at before anything of it is written; `report` counts what it would do."""

    __tablename__ = "import_draft"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    what: Mapped[str] = mapped_column(String(20))
    name: Mapped[str] = mapped_column(String(200))
    content: Mapped[bytes] = mapped_column(LargeBinary)
    made_at: Mapped[datetime]
    report: Mapped[dict[str, Any] | None]
    van: Mapped[str] = mapped_column(String(60), default=FIRST_VAN, server_default=text("'Van 1'"))
