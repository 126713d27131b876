"""What a unit's fans sounded like, visit by visit: speed, hum and noise, kept as spectra with the calls."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.record import KeptSound
from ..core.sound.answer import What
from ..store import tables

TONES: tuple[What, What] = ("line", "blade")


@dataclass(frozen=True)
class SoundOfVisit:
    """A recording of a visit: rpm, None where none stood; hum against the blades in words, empty without both."""

    at: datetime
    left: bool
    rpm: float | None
    sure: bool
    hum: str
    noise: str


def sounds_of(session: Session, unit_id: int, role: str, without: int | None = None) -> list[KeptSound]:
    """Recordings of a unit's fan of one role, oldest first; `without` leaves a call out."""
    rows = session.execute(
        select(tables.Call.plan, tables.Motor.plate)
        .join(tables.Call.motor)
        .where(tables.Motor.unit_id == unit_id, tables.Call.id != (without or 0))
        .order_by(tables.Call.id)
    )
    found = [sound for plan, plate in rows if role_of(plate) == role for sound in plan.sounds]
    return sorted(found, key=lambda sound: sound.at)


def role_of(plate: dict[str, object]) -> str:
    """The role of a kept plate; `motor` where none was noted."""
    return str(plate.get("role") or "motor")


def over_the_visits(sounds: list[KeptSound]) -> list[SoundOfVisit]:
    """The unit's own recordings, oldest first; those of a sister are no visit of its own."""
    return [
        SoundOfVisit(
            at=sound.at,
            left=sound.stage == "proof",
            rpm=None if sound.heard.rpm is None else sound.heard.rpm[1],
            sure=sound.heard.state == "normal",
            hum=_hum(sound),
            noise=sound.heard.noise,
        )
        for sound in sounds
        if sound.stage != "sister"
    ]


def _hum(sound: KeptSound) -> str:
    line, blade = (_loudest(sound, what) for what in TONES)
    if line is None or blade is None:
        return ""
    over = round(line - blade)
    return f"{over:+d} dB" if over else "as loud"


def _loudest(sound: KeptSound, what: What) -> float | None:
    return max((tone.db for tone in sound.heard.tones if tone.what == what), default=None)
