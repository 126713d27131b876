"""The shop's settings: limits that it tightens. They are never loosened past the defaults of the core."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import time
from typing import Any

from sqlalchemy import ScalarSelect, select
from sqlalchemy.orm import Session

from ...core.capacitors.needed import RENEWALS
from ...core.errors import FieldError, InvalidField, invalid
from ...core.limits import ABOUT, DEFAULTS, Limits, tightened
from ...core.match.schools import SCHOOLS
from ...core.temperature import DEFAULT, Degrees
from ...core.units import plain
from ...core.vocabulary import Renewal, SizingSchool
from ...meter.link import meter_address
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, record_act

LIMITS, OF_SHOP, FERRIES, METER = "limits", "schools", "ferries", "meter"
SHOP, LONGEST_SHOP = "shop", 80
UNITS, LONGEST_CURRENCY = "units", 6
MOST_FERRIES = 24
DELIVERY, LONGEST_DELIVERY = "delivery", 40


@dataclass(frozen=True)
class Schools:
    """What the shop holds to where schools differ: sizing of a replacement, renewal of capacitors."""

    sizing: SizingSchool = "amps"
    renewal: Renewal = "always"


@dataclass(frozen=True)
class ShopUnits:
    """In which degrees the shop reads its thermometers, and what its money is called. Files keep degrees C."""

    degrees: Degrees = DEFAULT
    currency: str = "$"


@dataclass(frozen=True)
class LimitRow:
    """A limit as the settings page shows it."""

    name: str
    says: str
    unit: str
    default: float
    now: float
    source: str
    tighter: str


_UNITS = {"pct": "%", "ohm": "ohm", "mohm": "Mohm", "v": "V", "c": "C", "minutes": "min"}


def wished_limits() -> ScalarSelect[dict[str, Any] | None]:
    """The limits that the shop has tightened, as a column beside whatever else is asked for."""
    return select(tables.Setting.value).where(tables.Setting.name == LIMITS).scalar_subquery()


def chosen_units() -> ScalarSelect[dict[str, Any] | None]:
    """The degrees and the currency that the shop has chosen, as a column beside whatever else is asked for."""
    return select(tables.Setting.value).where(tables.Setting.name == UNITS).scalar_subquery()


def limits_of(wished: dict[str, float] | None) -> Limits:
    """The limits in force, from what the shop has tightened."""
    return tightened(wished) if wished else DEFAULTS


def limits_in(session: Session) -> Limits:
    """The limits in force in this shop."""
    return limits_of(session.scalar(select(wished_limits())))


def shop_limits(db: Database) -> Limits:
    """The limits in force in this shop."""
    with db.reading() as session:
        return limits_in(session)


def limit_rows(limits: Limits) -> list[LimitRow]:
    """Every limit with its default, its source, and what it is now."""
    return [
        LimitRow(
            name,
            about.says,
            _UNITS.get(name.rsplit("_", 1)[-1], ""),
            getattr(DEFAULTS, name),
            getattr(limits, name),
            about.source,
            about.tighter,
        )
        for name, about in ABOUT.items()
    ]


def save_limits(db: Database, context: ActContext, fields: Mapping[str, str]) -> None:
    """Tighten limits; an empty field goes back to the default. Raises `InvalidField` on each that would loosen."""
    wished: dict[str, float] = {}
    faults = []
    for name in (name for name in ABOUT if fields.get(name, "").strip()):
        try:
            value = float(fields[name])
            tightened({name: value})
        except ValueError:
            faults.append(FieldError(name, fields[name][:40], _expected(name)))
        else:
            if value != getattr(DEFAULTS, name):
                wished[name] = value
    if faults:
        raise InvalidField(faults)
    with db.writing() as session:
        record_act(session, context, "save_limits", None)
        session.merge(tables.Setting(name=LIMITS, value=wished, changed_at=context.now))


def _expected(name: str) -> str:
    about, default = ABOUT[name], getattr(DEFAULTS, name)
    if about.tighter == "fixed":
        return f"{plain(default)}: this limit is not moved"
    return f"a number, {plain(default)} or {about.tighter}"


def schools_in(session: Session) -> Schools:
    """The schools of this shop; the defaults where nothing was chosen."""
    kept = session.scalar(select(tables.Setting.value).where(tables.Setting.name == OF_SHOP)) or {}
    sizing, renewal = kept.get("sizing"), kept.get("renewal")
    return Schools(sizing if sizing in SCHOOLS else Schools.sizing, renewal if renewal in RENEWALS else Schools.renewal)


def shop_schools(db: Database) -> Schools:
    """The schools of this shop."""
    with db.reading() as session:
        return schools_in(session)


def save_schools(db: Database, context: ActContext, fields: Mapping[str, str]) -> None:
    """Choose the shop's schools; calls that are open keep theirs. Raises `InvalidField`."""
    sizing, renewal = fields.get("sizing", ""), fields.get("renewal", "")
    if sizing not in SCHOOLS:
        raise invalid("sizing", sizing, "one of " + ", ".join(SCHOOLS))
    if renewal not in RENEWALS:
        raise invalid("renewal", renewal, "one of " + ", ".join(RENEWALS))
    with db.writing() as session:
        record_act(session, context, "save_schools", None)
        chosen = {"sizing": sizing, "renewal": renewal}
        session.merge(tables.Setting(name=OF_SHOP, value=chosen, changed_at=context.now))


def ferries_in(session: Session) -> list[str]:
    """Local times of the day at which parts come over (`07:30`); none noted, none waited for."""
    kept = session.scalar(select(tables.Setting.value).where(tables.Setting.name == FERRIES)) or {}
    return list(kept.get("times", ()))


def shop_ferries(db: Database) -> list[str]:
    """Local times of the day at which parts come over."""
    with db.reading() as session:
        return ferries_in(session)


def delivery_name(db: Database) -> str:
    """What brings parts, as this shop calls it: ferry, supply-house truck; `delivery` until it says."""
    with db.reading() as session:
        kept = session.scalar(select(tables.Setting.value).where(tables.Setting.name == FERRIES)) or {}
        return str(kept.get("name") or DELIVERY)


def save_ferries(db: Database, context: ActContext, text: str, name: str = "") -> None:
    """Note when parts come, apart by spaces or commas, and what brings them; none clears. Raises `InvalidField`."""
    called = name.strip()
    if len(called) > LONGEST_DELIVERY:
        raise invalid("delivery_name", called[:40], f"at most {LONGEST_DELIVERY} characters: truck, counter")
    times = []
    for word in text.replace(",", " ").split():
        try:
            times.append(f"{time.fromisoformat(word.zfill(5)):%H:%M}")
        except ValueError:
            raise invalid("ferries", word[:40], "times of the day such as 07:30 13:00") from None
    if len(times) > MOST_FERRIES:
        raise invalid("ferries", f"{len(times)} times", f"at most {MOST_FERRIES}")
    with db.writing() as session:
        record_act(session, context, "save_ferries", None)
        kept = {"times": sorted(dict.fromkeys(times))} | ({"name": called} if called else {})
        session.merge(tables.Setting(name=FERRIES, value=kept, changed_at=context.now))


def meter_of_shop(db: Database) -> str:
    """The address of the meter that is linked; empty when none is."""
    with db.reading() as session:
        kept = session.scalar(select(tables.Setting.value).where(tables.Setting.name == METER)) or {}
        return str(kept.get("address", ""))


def save_meter(db: Database, context: ActContext, text: str) -> str:
    """Link a meter by its address on this machine, or none; the address. Raises `InvalidField`."""
    address = meter_address(text) if text.strip() else ""
    with db.writing() as session:
        record_act(session, context, "save_meter", None)
        session.merge(tables.Setting(name=METER, value={"address": address}, changed_at=context.now))
    return address


def shop_name(db: Database) -> str:
    """The shop's name as records carry it; empty until it is given."""
    with db.reading() as session:
        kept = session.scalar(select(tables.Setting.value).where(tables.Setting.name == SHOP)) or {}
        return str(kept.get("name", ""))


def save_shop_name(db: Database, context: ActContext, text: str) -> None:
    """Give the shop its name. Raises `InvalidField`."""
    name = text.strip()
    if len(name) > LONGEST_SHOP:
        raise invalid("shop", f"{len(name)} characters", f"at most {LONGEST_SHOP}")
    with db.writing() as session:
        record_act(session, context, "save_shop_name", None)
        session.merge(tables.Setting(name=SHOP, value={"name": name}, changed_at=context.now))


def shop_units(db: Database) -> ShopUnits:
    """The degrees and the currency of this shop."""
    with db.reading() as session:
        return units_of(session.scalar(select(chosen_units())))


def units_of(chosen: dict[str, Any] | None) -> ShopUnits:
    """Degrees and currency from what the shop has chosen."""
    kept = chosen or {}
    return ShopUnits("C" if kept.get("degrees") == "C" else DEFAULT, str(kept.get("currency", ShopUnits.currency)))


def save_units(db: Database, context: ActContext, fields: Mapping[str, str]) -> None:
    """Choose degrees and currency. Raises `InvalidField`."""
    degrees, currency = fields.get("degrees", ""), fields.get("currency", "").strip()
    if degrees not in ("F", "C"):
        raise invalid("degrees", degrees, "F or C")
    if len(currency) > LONGEST_CURRENCY:
        raise invalid("currency", currency[:20], f"at most {LONGEST_CURRENCY} characters, such as $")
    with db.writing() as session:
        record_act(session, context, "save_units", None)
        chosen = {"degrees": degrees, "currency": currency}
        session.merge(tables.Setting(name=UNITS, value=chosen, changed_at=context.now))
