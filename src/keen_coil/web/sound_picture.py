"""The spectrum of a recording with its tones named, over the one before."""

from __future__ import annotations

from ..core.record import KeptSound
from ..core.sound.spectrum import sketch_db, sketch_hz
from ..services.stations.listening import SoundPanel
from .chart import NARROW, Chart, Mark, Series, chart

HARMONICS = 8
"""So many of the blade tone are shown."""
NAMES = {"blade": "blades", "line": "line", "bearing": "bearing", "other": "other"}


KINDS = ("should", "second-found", "third-found")
"""Strokes of what lies behind the latest, in turn."""


def sound_picture(panel: SoundPanel) -> Chart | None:
    """The latest recording of the panel over the one before and the sister's; only the sister's where that is all."""
    latest = panel.latest or panel.sister
    if latest is None:
        return None
    behind = [(f"before, {_when(panel.before)}", panel.before)] if panel.before else []
    behind += [("sister", panel.sister)] if panel.sister and panel.latest else []
    return _over_each_other(latest, "now" if panel.latest else "sister", behind)


def sounds_picture(sounds: list[KeptSound]) -> Chart | None:
    """The last recordings of a unit over each other, one a day; None without two."""
    own = {sound.at.astimezone().date(): sound for sound in sounds if sound.stage != "sister"}
    last = [*own.values()][-1 - len(KINDS) :]
    if len(last) < 2:
        return None
    return _over_each_other(last[-1], _when(last[-1]), [(_when(sound), sound) for sound in last[:-1]])


def _over_each_other(latest: KeptSound, name: str, behind: list[tuple[str, KeptSound]]) -> Chart:
    most = _most_hz(latest)
    series = [
        _series(sound, most, says, kind) for (says, sound), kind in zip(behind, KINDS[: len(behind)], strict=True)
    ]
    series.append(_series(latest, most, name, "found"))
    says = "Sound: dB over the background by pitch. " + ", ".join(
        f"{tone.what} {tone.hz:.0f} Hz" for tone in latest.heard.tones[:6]
    )
    return chart(series, "pitch, Hz", "dB over the background", _marks(latest, most), says=says, width=NARROW)


def _when(sound: KeptSound) -> str:
    at = sound.at.astimezone()
    return f"{at:%b} {at.day}"


def _most_hz(sound: KeptSound) -> float:
    first = next((tone.hz for tone in sound.heard.tones if tone.what == "blade"), 60.0)
    return min(max(HARMONICS * first, 260.0), 1400.0)


def _series(sound: KeptSound, most: float, name: str, kind: str) -> Series:
    rows = [(float(x), float(y)) for x, y in zip(sketch_hz(), sketch_db(sound.spectrum), strict=True) if x <= most]
    return Series(name, [x for x, _ in rows], [y for _, y in rows], kind)


def _marks(sound: KeptSound, most: float) -> list[Mark]:
    """The strongest tone of each sort, named."""
    found = []
    for what, name in NAMES.items():
        tones = [tone for tone in sound.heard.tones if tone.what == what and tone.hz <= most]
        if tones:
            tone = max(tones, key=lambda one: one.db)
            found.append(Mark(tone.hz, tone.db, "found", f"{name} {tone.hz:.0f}"))
    return found
