"""What eyes, ears and hands find on a practice unit: a word of the contract, and how it shows itself."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from ..tables import answer, table
from .running import call_present, commanded, pulled_in, run_of
from .unit_state import UnitState
from .windings import overload_open

WEAKLY = 0.85
"""Below this share of its plate's speed a motor runs weakly."""
SAYS: dict[tuple[str, Any], str] = {
    (kind, answer(word)): says for kind, words in table(__package__, "senses").items() for word, says in words.items()
}
"""How each answer shows itself, so that the learner is the one who names it."""


def seen(
    truth: UnitState, kind: str, at: str | None, with_: str | None, leg: str | None, when: str | None, minutes: float
) -> Any:
    """The word that is true of a test of the senses, or yes or no; None when this unit has nothing of the kind."""
    found: dict[str, Callable[[], Any]] = {
        "breaker": lambda: "tripped" if "breaker" in truth.cut else "closed",
        "disconnect": lambda: "open" if "disconnect" in truth.cut else "closed",
        "fuse": lambda: "open" if "fuse" in truth.cut and leg in (None, bad_leg(truth)) else "closed",
        "starter_overload": lambda: "tripped" if "starter" in truth.cut else "closed",
        "control_call": lambda: "present" if call_present(truth) else "absent",
        "hold": lambda: at in truth.held,
        "safety": lambda: _safety(truth, at, when),
        "switch_pulled_in": lambda: pulled_in(truth),
        "capacitor_look": lambda: truth.look,
        "conductor": lambda: truth.wire if leg in (None, bad_leg(truth)) else "sound",
        "connection": lambda: truth.joint,
        "spin": lambda: _spin(truth, with_),
        "side_play": lambda: truth.play,
        "load_look": lambda: truth.load_look,
        "belt_look": lambda: truth.belt,
        "air_path": lambda: _air(truth),
        "vent_drain": lambda: "blocked" if truth.vent_blocked else "clear",
        "starts_with_push": lambda: _pushed(truth, minutes),
        "turned_before_power": lambda: truth.wind,
        "noise": lambda: _noise(truth, minutes),
        "turns_way": lambda: _way(truth, minutes),
        "trial": lambda: _tried(truth, with_, minutes),
        "ecm_power": lambda: "present" if any(run_of(truth).loaded_v["motor"]) else "absent",
        "ecm_command": lambda: "present" if commanded(truth) else "absent",
    }
    return found[kind]()


def bad_leg(truth: UnitState) -> str:
    """The conductor or fuse that is bad where one is."""
    return truth.chance.pick("leg", ("L1", "L2", "L3")) if truth.three else "switched"


def how_it_shows(truth: UnitState, kind: str, word: Any) -> str:
    """What is seen, heard or felt; an ECM rotor cogs where another would be called rough."""
    if kind == "spin" and word == "rough" and truth.call.motor.traits.is_electronic and truth.feel == "free":
        return SAYS["spin", "cogs"]
    return SAYS.get((kind, word), str(word))


def _safety(truth: UnitState, at: str | None, when: str | None) -> str:
    if at == "pressure_switch":
        return "closed" if truth.safety_stuck or when == "running" and "safety" not in truth.cut else "open"
    return "stuck_closed" if truth.safety_stuck else "open" if "safety" in truth.cut else "closed"


def _spin(truth: UnitState, with_: str | None) -> str:
    bare = with_ == "bare_shaft"
    if truth.locked or (truth.jammed and not bare):
        return "locked"
    if truth.call.motor.traits.is_electronic and not truth.module and not bare:
        return "brakes"
    if truth.feel == "free" and truth.call.motor.traits.is_electronic:
        return "rough" if truth.chance.happens("cogs", 0.4) else "free"
    return "stiff" if truth.feel == "free" and truth.rub > 0.1 and not bare else truth.feel


def _air(truth: UnitState) -> str:
    return "blocked" if truth.air > 0.75 else "dirty" if truth.air > 0.2 and not truth.vent_blocked else "clear"


def _pushed(truth: UnitState, minutes: float) -> bool:
    found = run_of(truth, open_overload=overload_open(truth, minutes))
    return found.turns or found.state == "pushed"


def _way(truth: UnitState, minutes: float) -> str:
    found = run_of(truth, open_overload=overload_open(truth, minutes))
    if not found.turns:
        return "not_turning"
    return "wrong" if truth.backwards != (found.backwards != truth.swapped) else "right"


def _tried(truth: UnitState, with_: str | None, minutes: float) -> str:
    """What a trial brings: the unit as it would be with the good part, the other speed, the power at its leads."""
    opened = overload_open(truth, minutes)
    if with_ == "push":
        return "runs" if not run_of(truth, open_overload=opened).turns and _pushed(truth, minutes) else "no_change"
    changed: dict[str | None, dict[str, Any]] = {
        "good_capacitor": {"uf": float(truth.call.motor.capacitor_uf or truth.uf), "uf_shorted": False},
        "other_module": {"module": True},
        "direct_power": {
            "cut": set(),
            "held": set(),
            "safety_stuck": False,
            "contact_share": 0.0,
            "wire": "sound",
            "joint": "sound",
            "joint_share": 0.0,
            "lost_line": False,
            "welded": True,
        },
    }
    speed = 2 if with_ == "other_speed" else 1
    before = run_of(truth, open_overload=opened)
    after = run_of(replace(truth, runs={}, **changed.get(with_, {})), speed, opened)
    if before.turns or not after.turns:
        return "no_change"
    return "runs_weak" if after.rpm < WEAKLY * float(truth.call.motor.rpm or 1) and speed == 1 else "runs"


def _noise(truth: UnitState, minutes: float) -> str:
    found = run_of(truth, open_overload=overload_open(truth, minutes))
    if not found.turns:
        hums = max(found.amps) > 0.3 * float(truth.call.motor.amps_a or 1) and not truth.call.motor.traits.is_electronic
        return "hum" if hums else "quiet"
    if truth.feel in ("rough", "stiff"):
        return "grind" if truth.feel == "rough" else "squeal"
    if truth.rub > 0.05 or truth.load_look == "bent":
        return "rub"
    loose = truth.slip > 0.1 or truth.load_look == "cracked" or truth.belt in ("slack", "misaligned")
    return "rattle" if loose else "hum" if truth.short > 0.1 else "quiet"
