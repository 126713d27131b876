"""What instruments, eyes and hands read on a faulted unit: the truth with the meter's error and a person's slips."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from .faulted_units import Unit

FORGOTTEN_TURNS = 0.03
"""Share of clamp readings of which the turns through the jaw were not written down."""
COOL = {"minutes_off": 80, "temperature_c": 32}
WARM = {"minutes_off": 15, "temperature_c": 58}


def read(unit: Unit, kind: str, at: str | None, with_: str | None, section: str | None) -> list[dict[str, Any]] | None:
    """The readings a technician brings back from a test; None when it cannot be made here."""
    rng = unit.rng
    if rng.random() < (0.35 if unit.unforeseen == "missing_tests" else 0.03):
        return None
    made = _MAKERS.get(kind)
    if made is None:
        return None
    rows = made(unit, at, with_, section)
    if rows is not None and unit.unforeseen == "misread" and rng.random() < 0.25:
        _spoil(unit, rows)
    for row in rows or ():
        if at and "at" not in row:
            row["at"] = at
    return rows


def _spoil(unit: Unit, rows: list[dict[str, Any]]) -> None:
    """A reading taken down wrongly: a digit lost, a word mixed up."""
    row = rows[unit.rng.randrange(len(rows))]
    value = row["value"]
    if isinstance(value, float):
        row["value"] = round(value * unit.rng.choice([0.1, 10.0, 0.55, 1.7]), 3)
    elif value in ("free", "sound", "clear", "none", "present", "closed"):
        row["value"] = {
            "free": "stiff",
            "sound": "sound",
            "clear": "clear",
            "none": "some",
            "present": "present",
            "closed": "closed",
        }[value]


def _noisy(unit: Unit, value: float, share: float = 0.012, digit: float = 0.1) -> float:
    high = 1.08 if unit.unforeseen == "meter_high" else 1.0
    return max(0.0, round(value * high * unit.rng.gauss(1.0, share / 2) / digit) * digit)


def _word(kind: str, value: Any, **more: Any) -> list[dict[str, Any]]:
    return [{"kind": kind, "value": value, **more}]


def _volts(unit: Unit, at: str | None, *_: Any) -> list[dict[str, Any]]:
    volts = unit.nominal * unit.volts(at or "unit")
    if not unit.three:
        return _word("supply_v", round(_noisy(unit, volts), 1), at=at)
    spread = [1.0, 1.0, 1.0]
    if unit.unbalance:
        spread = [1 + unit.unbalance / 100, 1.0, 1 - unit.unbalance / 100]
    if unit.legs_lost and volts > 20:
        spread = [1.0, 0.05, 0.06] if unit.rng.random() < 0.7 else [1.0, 0.6, 0.55]
    if unit.blocked == "fuse" and at != "unit":
        volts, spread = unit.nominal * unit.supply, [1.0, 0.04, 0.05]
    return _word("supply_v", [round(_noisy(unit, volts * part), 1) for part in spread], at=at)


def _capacitance(unit: Unit, _at: Any, _with: Any, section: str | None) -> list[dict[str, Any]] | None:
    if not unit.sections:
        return None
    return _word(
        "capacitance_uf",
        round(_noisy(unit, unit.uf * unit.uf_ratio * unit.label_ratio, 0.015, 0.01), 2),
        section=section or "single",
    )


def _ohm(unit: Unit, value: float) -> Any:
    return "OL" if math.isinf(value) else round(_noisy(unit, value, 0.006), 1)


def _windings(unit: Unit, at: str | None, *_: Any) -> list[dict[str, Any]] | None:
    heat = {**(WARM if unit.hot else COOL)}
    inf = math.inf
    if unit.three:
        base = [unit.run_ohm] * 3
        if unit.short:
            base[1] *= 1 - unit.short
        if unit.open == "all":
            base = [base[0], inf, inf]
        if unit.open == "common" or (at == "switch_load" and unit.wire == "open" and unit.rng.random() < 0.5):
            base = [inf] * 3
        return [
            {"kind": "winding_ohm", "value": [_ohm(unit, part) for part in base], **heat, **({"at": at} if at else {})}
        ]
    if unit.kind == "ecm" or at == "switch_load":
        return None
    if unit.kind == "shaded_pole":
        value = inf if unit.open else unit.run_ohm * (1 - unit.short)
        return [{"kind": "winding_ohm", "value": _ohm(unit, value), "pair": ["A", "B"], **heat}]
    run = inf if unit.open in ("run", "all") else unit.run_ohm * (1 - unit.short)
    start = inf if unit.open in ("start", "all") else unit.start_ohm
    both = run + start
    if unit.open == "common":
        run = start = inf
    pairs = (("C", "R", run), ("C", "S", start), ("R", "S", both))
    return [{"kind": "winding_ohm", "value": _ohm(unit, value), "pair": [a, b], **heat} for a, b, value in pairs]


def _ground(unit: Unit, at: str | None, *_: Any) -> list[dict[str, Any]] | None:
    if unit.kind == "ecm":
        return None
    mohm = unit.mohm
    if at == "switch_load" and unit.wire == "chafed":
        mohm = min(mohm, 10 ** unit.rng.uniform(-5, -2))
    value: Any = "OL" if mohm > 40 else round(mohm * 1e6 * unit.rng.uniform(0.97, 1.03))
    return [{"kind": "ground_ohm", "value": value, "lead": "A", **({"at": at} if at else {})}]


def _megger(unit: Unit, *_: Any) -> list[dict[str, Any]] | None:
    if unit.kind == "ecm":
        return None
    return _word("insulation_mohm", round(unit.mohm * unit.rng.uniform(0.95, 1.05), 4), temperature_c=40, lead="A")


def _spin(unit: Unit, _at: Any, with_: str | None, _section: Any) -> list[dict[str, Any]]:
    bare = with_ == "bare_shaft"
    locked = unit.locked or (not bare and unit.load in ("jammed", "iced"))
    drag = unit.drag if not (bare and unit.load == "rubbing") else 0.05
    feel = (
        "locked" if locked else "free" if drag < unit.rng.uniform(0.11, 0.19) else unit.rng.choice(["stiff", "rough"])
    )
    if feel == "free" and unit.unforeseen == "unsure_hands" and unit.rng.random() < 0.3:
        feel = "stiff"
    return _word("spin", feel, with_=None) if not bare else [{"kind": "spin", "value": feel, "with": "bare_shaft"}]


def _play(unit: Unit, *_: Any) -> list[dict[str, Any]]:
    felt = (
        unit.play
        + unit.rng.gauss(0, 0.06)
        + (0.2 if unit.unforeseen == "unsure_hands" and unit.rng.random() < 0.3 else 0)
    )
    return _word("side_play", "none" if felt < 0.22 else "some" if felt < 0.5 else "much")


def _load(unit: Unit, *_: Any) -> list[dict[str, Any]]:
    missed = unit.load in ("rubbing", "hub_loose", "bent") and unit.rng.random() < 0.2
    return _word("load_look", "sound" if missed else unit.load)


def _turns(unit: Unit, *_: Any) -> list[dict[str, Any]]:
    spun = (
        unit.unforeseen == "runs_by_chance"
        and not unit.locked
        and unit.fed
        and not unit.open
        and unit.starts_pushed
        and unit.rng.random() < 0.5
    )
    if not unit.turns and not spun:
        return _word("turns_way", "not_turning")
    return _word("turns_way", "wrong" if unit.backwards else "right")


def _noise(unit: Unit, *_: Any) -> list[dict[str, Any]]:
    if not unit.turns:
        return _word("noise", "hum" if unit.draws and unit.kind != "ecm" and unit.open != "all" else "quiet")
    heard = "quiet"
    if unit.drag > 0.2 and unit.load != "rubbing":
        heard = unit.rng.choice(["squeal", "grind", "grind", "quiet"])
    if unit.load in ("rubbing", "bent"):
        heard = unit.rng.choice(["rub", "rub", "quiet"])
    if unit.slip > 0.3 or unit.load == "cracked":
        heard = unit.rng.choice(["rattle", "rattle", "quiet"])
    return _word("noise", heard)


def _amps(unit: Unit, *_: Any) -> list[dict[str, Any]]:
    value = unit.amps()
    if not unit.three:
        turns = unit.rng.choice([2, 3, 5, 10]) if unit.rng.random() < FORGOTTEN_TURNS else 1
        return _word("run_amps_a", round(_noisy(unit, value * turns, 0.02, 0.01), 2))
    legs = [value, value, value * (0.02 if unit.legs_lost or unit.blocked == "fuse" else 1 - unit.short * 0.8)]
    if unit.unbalance:
        legs = [value * 1.25, value, value * 0.75]
    return _word("run_amps_a", [round(_noisy(unit, leg, 0.02, 0.01), 2) for leg in legs])


def _push(unit: Unit, *_: Any) -> list[dict[str, Any]]:
    rotor_free = not unit.locked and unit.load not in ("jammed", "iced")
    goes = rotor_free and unit.draws and unit.kind != "ecm" and unit.starts_pushed
    return _word("starts_with_push", bool(goes and unit.rng.random() < 0.92))


def _contact(unit: Unit, *_: Any) -> list[dict[str, Any]]:
    loaded = unit.open not in ("all", "common") and unit.wire != "open" and unit.volts("switch_line") > 0.5
    return _word("contact_drop_v", round(unit.contact_v * unit.rng.uniform(0.9, 1.1), 2) if loaded else 0.0)


def _fact(kind: str, good: Any, bad: Any, is_bad: Any, miss: float = 0.02) -> Any:
    def make(unit: Unit, at: str | None, *_: Any) -> list[dict[str, Any]]:
        return _word(kind, bad if is_bad(unit, at) and unit.rng.random() > miss else good)

    return make


def _wire(unit: Unit, *_: Any) -> list[dict[str, Any]]:
    return _word("conductor", unit.wire if unit.rng.random() > 0.1 else "sound")


def _module_off(unit: Unit, *_: Any) -> list[dict[str, Any]] | None:
    if unit.kind != "ecm":
        return None
    ohms = [6.0, 6.0, 6.0 if unit.coils or unit.rng.random() < 0.2 else unit.rng.choice([2.5, 4.0, 60.0])]
    return _word("ecm_winding_ohm", [_ohm(unit, part) for part in ohms])


def _trial(unit: Unit, _at: Any, with_: str | None, _section: Any) -> list[dict[str, Any]] | None:
    """What a trial brings on a unit that stands still."""
    if unit.turns or with_ in (None, "other_speed"):
        return None
    if with_ == "good_capacitor":
        good = replace(unit, uf_ratio=1.0, label_ratio=1.0) if unit.sections else None
        return None if good is None else _word("trial", "runs" if good.turns else "no_change", **{"with": with_})
    if with_ == "other_module":
        return (
            _word("trial", "runs" if replace(unit, module=True).turns else "no_change", **{"with": with_})
            if unit.kind == "ecm"
            else None
        )
    fed = replace(unit, blocked="", wire="sound", joint="sound", contact_v=0.05, legs_lost=False)
    return _word("trial", "runs" if fed.turns else "no_change", **{"with": with_})


_MAKERS: dict[str, Any] = {
    "supply_v": _volts,
    "capacitance_uf": _capacitance,
    "winding_ohm": _windings,
    "ground_ohm": _ground,
    "insulation_mohm": _megger,
    "spin": _spin,
    "side_play": _play,
    "load_look": _load,
    "turns_way": _turns,
    "noise": _noise,
    "run_amps_a": _amps,
    "trial": _trial,
    "starts_with_push": _push,
    "contact_drop_v": _contact,
    "conductor": _wire,
    "ecm_winding_ohm": _module_off,
    "breaker": _fact("breaker", "closed", "tripped", lambda u, at: u.blocked == "breaker"),
    "disconnect": _fact("disconnect", "closed", "open", lambda u, at: u.blocked == "disconnect", 0.05),
    "fuse": _fact("fuse", "closed", "open", lambda u, at: u.blocked == "fuse"),
    "starter_overload": _fact("starter_overload", "closed", "tripped", lambda u, at: u.blocked == "starter"),
    "control_call": _fact(
        "control_call",
        "present",
        "absent",
        lambda u, at: (
            u.blocked in ("call", "held", "safety", "supply")
            or (u.blocked in ("breaker", "disconnect") and u.role != "condenser_fan")
        ),
    ),
    "hold": _fact("hold", False, True, lambda u, at: u.blocked == "held" and at == "delay"),
    "safety": lambda u, *_: _word(
        "safety",
        "stuck_closed" if "pressure_switch_stuck" in u.faults else "open" if u.blocked == "safety" else "closed",
    ),
    "switch_pulled_in": _fact(
        "switch_pulled_in",
        True,
        False,
        lambda u, at: u.blocked in ("coil", "call", "held", "safety", "supply", "starter"),
    ),
    "capacitor_look": lambda u, *_: _word("capacitor_look", u.cap_look) if u.sections else None,
    "capacitor_case_ohm": lambda u, *_: (
        _word("capacitor_case_ohm", "OL" if u.can_mohm > 40 else round(u.can_mohm * 1e6)) if u.sections else None
    ),
    "connection": lambda u, *_: _word("connection", u.joint if u.rng.random() > 0.12 else "sound"),
    "belt_look": lambda u, *_: _word("belt_look", u.belt) if u.belted else None,
    "air_path": _fact("air_path", "clear", "dirty", lambda u, at: u.air > 1.1, 0.05),
    "vent_drain": _fact("vent_drain", "clear", "blocked", lambda u, at: not u.vent, 0.08),
    "ecm_power": _fact(
        "ecm_power",
        "present",
        "absent",
        lambda u, at: u.blocked in ("supply", "breaker", "disconnect", "power") or u.wire == "open" or u.joint == "off",
    ),
    "ecm_command": _fact(
        "ecm_command",
        "present",
        "absent",
        lambda u, at: u.blocked in ("supply", "breaker", "disconnect", "command", "call", "held", "safety"),
    ),
    "ecm_ground_ohm": lambda u, *_: _word("ecm_ground_ohm", "OL"),
    "turned_before_power": lambda u, *_: _word("turned_before_power", False),
    "run_rpm": lambda u, *_: _word("run_rpm", round(u.rpm() * u.rng.gauss(1, 0.004))) if u.turns else None,
    "shell_c": lambda u, *_: _word("shell_c", 58 if u.hot else 32, minutes_off=15 if u.hot else 80),
}
