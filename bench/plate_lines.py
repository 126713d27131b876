"""Lines that say what stands on a plate, in twenty spellings: spoken, typed, pasted. Shares nothing with the grammar."""

from __future__ import annotations

import random
from collections.abc import Callable

Truth = dict[str, object]
HORSES = (
    ("1/12", "twelfth", 0.083333), ("1/10", "tenth", 0.1), ("1/8", "eighth", 0.125), ("1/6", "sixth", 0.166667),
    ("1/5", "fifth", 0.2), ("1/4", "quarter", 0.25), ("1/3", "third", 0.333333), ("1/2", "half", 0.5),
    ("3/4", "three quarter", 0.75), ("1", "one", 1.0),
)  # fmt: skip
SPEEDS = (
    ("1075", "ten seventy five"), ("1090", "ten ninety"), ("1100", "eleven hundred"), ("1050", "ten fifty"),
    ("825", "eight twenty five"), ("850", "eight fifty"), ("1625", "sixteen twenty five"),
)  # fmt: skip
VOLTS = (
    ("208-230", "two oh eight two thirty"), ("115", "one fifteen"), ("230", "two thirty"), ("460", "four sixty"),
    ("115/230", "one fifteen slash two thirty"),
)  # fmt: skip
CANS = (
    ("3", "three"), ("4", "four"), ("5", "five"), ("7.5", "seven and a half"), ("10", "ten"), ("15", "fifteen"),
    ("12.5", "twelve and a half"),
)  # fmt: skip
WAYS = (("CW", "clockwise", "cw"), ("CCW", "counter clockwise", "ccw"), ("REV", "reversible", "reversible"))
DIGITS = "zero one two three four five six seven eight nine".split()


def facts(rng: random.Random) -> dict[str, tuple[str, ...]]:
    """A motor: each figure as printed, as spoken."""
    horse, horse_said, hp = rng.choice(HORSES)
    volts, volts_said = rng.choice(VOLTS)
    base = float(volts.split("-")[0].split("/")[0])
    amps = f"{max(round(hp * 746 / (base * rng.uniform(0.45, 0.68)), 1), 0.3):.1f}"
    speeds = str(rng.choice([1, 1, 2, 3]))
    return {
        "hp": (horse, horse_said, str(hp)), "volts": (volts, volts_said),
        "amps": (amps, _spoken(amps)), "rpm": rng.choice(SPEEDS), "uf": rng.choice(CANS),
        "cap_v": rng.choice([("370", "three seventy"), ("440", "four forty")]), "way": rng.choice(WAYS),
        "end": rng.choice([("SE", "shaft end", "shaft_end"), ("LE", "lead end", "lead_end")]), "speeds": (speeds,),
        "frame": (rng.choice(["48", "48Y", "56"]),),
    }  # fmt: skip


def _spoken(amps: str) -> str:
    whole, part = amps.split(".")
    number = DIGITS[int(whole)] if int(whole) < 10 else {"10": "ten", "11": "eleven", "12": "twelve"}.get(whole, whole)
    return f"{number} point {DIGITS[int(part)]}"


def _line(template: str) -> Callable[[dict[str, tuple[str, ...]]], str]:
    return lambda f: template.format(
        hp=f["hp"][0], hps=f["hp"][1], v=f["volts"][0], vs=f["volts"][1], a=f["amps"][0], as_=f["amps"][1],
        rpm=f["rpm"][0], rpms=f["rpm"][1], uf=f["uf"][0], ufs=f["uf"][1], cv=f["cap_v"][0], cvs=f["cap_v"][1],
        way=f["way"][0], ways=f["way"][1], end=f["end"][0], ends=f["end"][1], n=f["speeds"][0], fr=f["frame"][0],
    )  # fmt: skip


SPELLINGS: tuple[tuple[str, str], ...] = (
    ("{hps} horse {rpm} {v} {a} amps {ufs} mike {cv} {ways} {fr} frame shaft down", "hp rpm volts amps uf cap_v way"),
    ("{hp}HP {rpm}RPM {v}V {a}A {uf}MFD {cv}VAC {way} {end}", "hp rpm volts amps uf cap_v way"),
    ("HP {hp} RPM {rpm} V {v} A {a} PH 1 HZ 60 CAP {uf}/{cv} ROT {way}", "hp rpm volts amps uf cap_v way"),
    (
        "{hps} horse motor, {rpms} rpm, {vs} volts, {as_} amps, {ufs} microfarad {cvs} volt",
        "hp rpm volts amps uf cap_v",
    ),
    (
        "{hp} hp, {v} volt, {rpm} rpm, {a} amp, {uf} uf {cv} v cap, {ways}, {n} speed",
        "hp volts rpm amps uf cap_v way speeds",
    ),
    ("Motor {hp} HP | {v} V | {rpm} RPM | FLA {a} | {uf} µF / {cv} V", "hp volts rpm amps uf cap_v"),
    ("HP: {hp}; Volts: {v}; FLA: {a}; RPM: {rpm}; Phase: 1; Hz: 60; Frame: {fr}", "hp volts amps rpm frame"),
    ("HP\t{hp}\nVOLTS\t{v}\nAMPS\t{a}\nRPM\t{rpm}\nMFD\t{uf}\nCAP VOLTS\t{cv}", "hp volts amps rpm uf cap_v"),
    ("{v}/1/60 {hp}hp {rpm}rpm {a}fla", "hp rpm amps"),
    ("it's a {hps} horse, {rpms}, {vs} volt, pulls {as_} amps, uses a {ufs} mike cap", "hp rpm volts amps uf"),
    ("H.P. {hp} R.P.M. {rpm} VOLTS {v} F.L.A. {a} CAP. {uf} MFD. {cv} V. INS. CL. B", "hp rpm volts amps uf cap_v"),
    ("PSC {hp}HP {v}VAC {rpm}RPM {a}AMPS {way}{end} {n}SPD {uf}MFD", "hp volts rpm amps way speeds uf"),
    ("rpm {rpm} hp {hp} amps {a} volts {v}", "rpm hp amps volts"),
    ("{rpm} rpm {hp} horsepower {a} full load amps {v} volts single phase", "rpm hp amps volts"),
    ("{hps} h.p. {rpm} r.p.m. at {v} v, {a} a, needs {uf} mfd @ {cv} vac", "hp rpm volts amps uf cap_v"),
    (
        "HP {hp}, {n}-SPEED, {v}V, {a}A, {rpm} RPM, {way}, FR {fr}, TEAO, BALL BEARING",
        "hp speeds volts amps rpm way frame",
    ),
    ("Condenser fan motor {hp} HP {rpm} RPM {v} Volt {a} Amp {ways} rotation {ends}", "hp rpm volts amps way"),
    ("volts {v} amps {a} hp {hp} rpm {rpm} cap {uf} mfd", "volts amps hp rpm uf"),
    ("{v}V,{hp}HP,{rpm}RPM,{a}A,{uf}UF,{cv}V,{way}", "volts hp rpm amps uf cap_v way"),
    ("the plate says {hp} hp {rpm} {v} and {a} amps with a {ufs} mike {cvs} capacitor", "hp rpm volts amps uf cap_v"),
)
NAMES = {"hp": "hp", "rpm": "rpm", "volts": "volts", "amps": "amps_a", "uf": "capacitor_uf", "cap_v": "capacitor_v"}
NAMES |= {"way": "rotation.sense", "speeds": "speeds", "frame": "frame"}


def lines(count: int, seed: int = 7) -> list[tuple[str, Truth]]:
    """So many lines, each of the spellings in turn, with the values that they say."""
    rng = random.Random(seed)
    found = []
    for at in range(count):
        template, said = SPELLINGS[at % len(SPELLINGS)]
        f = facts(rng)
        values = {
            "hp": float(f["hp"][2]),
            "rpm": float(f["rpm"][0]),
            "volts": f["volts"][0],
            "amps": float(f["amps"][0]),
        }
        more = {
            "uf": float(f["uf"][0]),
            "cap_v": float(f["cap_v"][0]),
            "way": f["way"][2],
            "speeds": int(f["speeds"][0]),
        }
        every: Truth = {**values, **more, "frame": f["frame"][0]}
        found.append((_line(template)(f), {NAMES[name]: every[name] for name in said.split()}))
    return found
