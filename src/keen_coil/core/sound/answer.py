"""The answer of a recording, as files, pages and the command give it."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from ..vocabulary import NoiseHeard

What = Literal["blade", "line", "bearing", "other"]


class Tone(BaseModel):
    """A line of the sound: Hz, dB over the background there, and what it belongs to."""

    hz: float
    db: float
    what: What


class SoundHeard(BaseModel):
    """The answer. `rpm` is least, middle and most, null where no blade tone stands; `state` normal only where sure.

    `other_rpm`: speeds of the other combs, strongest first.
    """

    rpm: tuple[float, float, float] | None
    state: Literal["normal", "suspect", "unjudged"]
    because: str
    do: str
    noise: NoiseHeard
    noise_because: str
    tones: list[Tone]
    other_rpm: list[float]
    seconds: float
    clipped: bool
