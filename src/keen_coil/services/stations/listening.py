"""Speed and noise by sound: a recording heard out, kept small with the call, and offered as readings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from ...core.call import Call
from ...core.errors import invalid
from ...core.practice.score import Done
from ...core.record import MOST_SOUNDS, KeptSound, SoundOf
from ...core.sound.answer import SoundHeard, What
from ...core.sound.asked import MOST_BLADES, bounds_for
from ...core.sound.speed import Bounds
from ...core.units import whole_number
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on
from ..calls.call_view import CallView, open_call_view
from ..practice.kept import add_done
from ..practice.practice import practice_blades, unit_now

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


Stage = Literal["found", "proof"]
BY_SOUND = ("run_rpm", "noise")
"""Readings that a recording gives."""
LISTENING_MIN = 2.0
"""What a recording takes on a practice unit, minutes."""
DOUBT_SHARE = 0.1
"""Least uncertainty of a speed that is not sure: wider than a speed class, so that nothing is proved by it."""


@dataclass(frozen=True)
class Offer:
    """A reading to take from a recording: its kind, value, uncertainty (text, empty for a word), how it reads."""

    kind: str
    value: str
    u: str
    says: str


@dataclass(frozen=True)
class SoundPanel:
    """What stands under the pad of speed and noise. `why_not` says why this motor cannot be heard, else empty.

    blades: as they were said last for this unit, else empty. latest: of this call and stage. before: an earlier one
    of the unit, to lay it over; sister: the last of a like unit on this call. visits: every one, oldest first.
    """

    stage: Stage
    why_not: str
    blades: str
    latest: KeptSound | None
    before: KeptSound | None
    sister: KeptSound | None
    visits: list[SoundOfVisit]
    offers: list[Offer]


def sound_panel(db: Database, view: CallView, kind: str, stage: Stage) -> SoundPanel | None:
    """The panel of a reading; None for those that are not heard."""
    if kind not in BY_SOUND:
        return None
    mine = view.row.plan.sounds
    with db.reading() as session:
        role = role_of(view.row.motor.plate)
        earlier = sounds_of(session, view.row.motor.unit_id, role, without=view.row.id)
    every = [sound for sound in (*earlier, *mine) if sound.stage != "sister"]
    known = str(every[-1].blades) if every else practice_blades(view.row)
    latest = next((sound for sound in reversed(mine) if sound.stage == stage), None)
    before = next((sound for sound in reversed(every) if sound is not latest), None) if latest else None
    sister = next((sound for sound in reversed(mine) if sound.stage == "sister"), None)
    return SoundPanel(
        stage=stage,
        why_not=_why_not(view.call, stage),
        blades=known,
        latest=latest,
        before=before,
        sister=sister,
        visits=over_the_visits(every),
        offers=_offers(latest) if latest else [],
    )


def _why_not(call: Call, stage: Stage) -> str:
    motor = call.motor_on_proof if stage == "proof" else call.motor
    if motor.drive == "belt":
        return "Not for a belt drive: its wheel turns at another speed than the motor. Use a tachometer."
    if bounds_for(call, 3, stage == "proof") is None:
        return "Enter the motor's RPM or poles on Nameplate first."
    return ""


def _offers(sound: KeptSound) -> list[Offer]:
    heard, found = sound.heard, []
    if heard.rpm is not None:
        u = uncertainty_of(heard)
        sure = "" if heard.state == "normal" else ", doubtful"
        found.append(Offer("run_rpm", f"{heard.rpm[1]:.0f}", f"{u:.1f}", f"{heard.rpm[1]:.0f} rpm ± {u:.0f}{sure}"))
    if heard.state != "unjudged":
        found.append(Offer("noise", heard.noise, "", heard.noise))
    return found


def uncertainty_of(heard: SoundHeard) -> float:
    """Uncertainty of the speed, rpm: its interval where sure, else 10 % or as far as the next comb."""
    low, middle, high = heard.rpm or (0.0, 0.0, 0.0)
    half = (high - low) / 2
    if heard.state == "normal":
        return half
    return max([half, DOUBT_SHARE * middle, *(abs(rpm - middle) for rpm in heard.other_rpm[:1])])


def asked_of(db: Database, call_id: int, fields: Mapping[str, str]) -> Bounds:
    """The bounds of what is asked by a form. Raises `InvalidField` naming blades, or recording for no speed to seek."""
    call, stage = open_call_view(db, call_id).call, stage_of(fields)
    blades = whole_number(fields.get("blades", "").strip(), MOST_BLADES + 1)
    if blades is None or blades < 2:
        raise invalid("blades", fields.get("blades", "").strip(), f"a whole number from 2 to {MOST_BLADES}")
    bounds = bounds_for(call, blades, stage == "proof")
    if bounds is None:
        raise invalid("recording", "a motor whose speed is not known", _why_not(call, stage))
    off = fields.get("compressor_off") == "yes"
    return replace(bounds, compressor_off=off)


def whose_of(fields: Mapping[str, str]) -> SoundOf:
    """Whose sound a form sends: of a sister unit where it says so, else of this motor as found or as it is in."""
    return "sister" if fields.get("sister") == "yes" and fields.get("stand_in") != "yes" else stage_of(fields)


def stage_of(fields: Mapping[str, str]) -> Stage:
    """Whether a form is of the run test."""
    return "proof" if fields.get("stage") == "proof" else "found"


def heard_in(data: bytes, bounds: Bounds) -> tuple[SoundHeard, str]:
    """A recording heard out, and its spectrum made small. Raises `InvalidField` on the recording."""
    from ...core.sound.listen import listen
    from ...core.sound.spectrum import sketched
    from ...formats.wav import read_wav

    answer, spectrum = listen(*read_wav(data), bounds)
    return answer, sketched(spectrum)


def practice_sound(db: Database, call_id: int, now: datetime) -> bytes:
    """The stand-in unit of a practice call as a microphone hears it now, a WAV file. Raises `NotFound` for others."""
    from ...core.practice.sound import RATE, unit_sound
    from ...formats.wav import Recording, write_wav

    row = open_call_view(db, call_id).row
    truth, minutes, energised = unit_now(row, now)
    return write_wav(Recording(unit_sound(truth, minutes, energised), RATE))


def keep_sound(
    db: Database,
    call_id: int,
    context: ActContext,
    bounds: Bounds,
    stage: SoundOf,
    heard: SoundHeard,
    spectrum: str,
) -> None:
    """Keep what was heard with the call; of more than eight the oldest goes."""
    with act_on(db, call_id, context, "listen") as (_, row):
        found = KeptSound(
            at=context.now,
            stage=stage,
            blades=bounds.blades,
            compressor_off=bounds.compressor_off,
            heard=heard,
            spectrum=spectrum,
        )
        row.plan = row.plan.changed(sounds=[*row.plan.sounds, found][-MOST_SOUNDS:])
        if row.practice:
            add_done(row, Done(do="test", kind="run_rpm", name="sound", minutes=LISTENING_MIN))
