"""The kinds of motor: one row of traits each. What a kind has, how it is reversed, what its work and amps may be.

A rule asks for the trait and not for the kind, so that a new kind is a word of `vocabulary.MotorKind` and a row here;
a word without a row fails when this is loaded.
"""

from __future__ import annotations

from typing import Literal, NamedTuple

from .tables import complete
from .vocabulary import MotorKind, words_of


class MotorTraits(NamedTuple):
    """What is true of every motor of a kind. Shares and multiples are typical figures (trade, catalogs)."""

    words: str
    """As people say it."""
    windings: Literal["main_and_start", "main", "three_phase", "module"]
    """What its leads bring out; behind a module only power and command."""
    run_capacitor: bool
    is_modelled: bool
    """Whether the two-winding model is fitted to its plate."""
    phases: Literal[1, 3] | None
    """Its own; none where its plate or its unit says."""
    reversed_by: Literal["start_winding", "line_wires", "module", "nothing"]
    efficiency: float
    power_factor: float
    locked_times: float
    """Locked-rotor amps at most, in plate amps."""
    work_share: tuple[float, float] | None
    """Least and most of the plate's volt-amperes that come out as work; none where a plate does not tell."""
    stands_in: tuple[MotorKind, ...] = ()
    """Other kinds that may take its place."""
    r_and_x: tuple[float, float] | None = None
    """R1 and X1 = X2 in plate volts over plate amps, of which practice makes a motor that no model is fitted to."""
    turning_words: str = ""
    """How it is reversed, where that does not hang on its leads."""

    @property
    def is_electronic(self) -> bool:
        """Whether a module of its own sets its speed and its way: line power and a command at its plug."""
        return self.windings == "module"

    @property
    def has_main_winding(self) -> bool:
        """Whether it hangs on one line and its return: its circuit is solved."""
        return self.windings in ("main_and_start", "main")

    @property
    def has_start_winding(self) -> bool:
        """Whether its leads bring out a start winding."""
        return self.windings == "main_and_start"

    @property
    def is_three_phase(self) -> bool:
        """Whether it turns by three lines."""
        return self.windings == "three_phase"


MOTOR_TRAITS: dict[MotorKind, MotorTraits] = {
    "psc": MotorTraits(
        words="PSC",
        windings="main_and_start",
        run_capacitor=True,
        is_modelled=True,
        phases=1,
        reversed_by="start_winding",
        efficiency=0.55,
        power_factor=0.92,
        locked_times=4.0,
        work_share=(0.25, 0.9),
    ),
    "shaded_pole": MotorTraits(
        words="shaded pole",
        windings="main",
        run_capacitor=False,
        is_modelled=False,
        phases=1,
        reversed_by="nothing",
        efficiency=0.22,
        power_factor=0.62,
        locked_times=3.0,
        work_share=(0.08, 0.35),
        stands_in=("psc",),
        r_and_x=(0.28, 0.22),
        turning_words="It turns one way only. Its shading coils decide, not its leads.",
    ),
    "three_phase": MotorTraits(
        words="three-phase",
        windings="three_phase",
        run_capacitor=False,
        is_modelled=False,
        phases=3,
        reversed_by="line_wires",
        efficiency=0.70,
        power_factor=0.75,
        locked_times=8.5,
        work_share=(0.3, 0.95),
        r_and_x=(0.045, 0.09),
    ),
    "ecm": MotorTraits(
        words="ECM",
        windings="module",
        run_capacitor=False,
        is_modelled=False,
        phases=None,
        reversed_by="module",
        efficiency=0.75,
        power_factor=0.60,
        locked_times=2.0,
        work_share=None,
        turning_words="Its module sets the rotation, not its leads.",
    ),
}
complete(MOTOR_TRAITS, words_of(MotorKind), "MOTOR_TRAITS")

UNREAD = MOTOR_TRAITS["psc"]._replace(words="", phases=None, locked_times=6.0)
"""Where the plate was not read: most of these units have a PSC, so its tests are offered; nothing is concluded."""


def traits_of(kind: MotorKind | None) -> MotorTraits:
    """The traits of a kind, those of an unread plate for none."""
    return MOTOR_TRAITS[kind] if kind else UNREAD
