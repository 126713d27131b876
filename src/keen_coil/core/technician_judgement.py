"""The technician's own judgment of a call: it stands beside the program's verdict and never replaces it."""

from __future__ import annotations

from .moments import AnyMoment
from .plates import StrictModel
from .units import LongText, Text
from .vocabulary import Verdict


class TechnicianJudgement(StrictModel):
    """What a technician judges, why, who it was and when; also one of an earlier visit or another shop."""

    verdict: Verdict
    why: LongText
    by: Text
    at: AnyMoment
