"""Photographs of plates that nobody took: words and layouts of their own, then light, dirt, angle and lens.

Shares nothing with the grammar that reads them. `photograph(seed, harm)` gives a JPEG and what stands on its plate.
"""

from __future__ import annotations

import io
import random
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

import numpy as np
from PIL import Image, ImageDraw, ImageFilter, ImageFont

Harm = Literal["clean", "mild", "bad"]
FONT_FOLDERS = ("/usr/share/fonts/truetype",)
PLAIN_FACES = (
    "DejaVuSans.ttf DejaVuSans-Bold.ttf DejaVuSansCondensed.ttf DejaVuSansCondensed-Bold.ttf DejaVuSansMono.ttf "
    "LiberationSans-Regular.ttf LiberationSans-Bold.ttf LiberationSansNarrow-Bold.ttf LiberationMono-Bold.ttf "
    "LiberationSerif-Bold.ttf FreeSans.ttf FreeSansBold.ttf FreeMonoBold.ttf Roboto-Medium.ttf Lato-Semibold.ttf"
).split()
CORE_FACES = ("DejaVuSans.ttf", "DejaVuSans-Bold.ttf", "DejaVuSansMono.ttf")
"""Of Debian's fonts-dejavu-core, which every machine of ours has."""
HORSES = {"1/12": 0.083333, "1/10": 0.1, "1/8": 0.125, "1/6": 0.166667, "1/5": 0.2, "1/4": 0.25, "1/3": 0.333333}
HORSES |= {"1/2": 0.5, "3/4": 0.75, "1": 1.0}
CANS = (3.0, 4.0, 5.0, 7.5, 10.0, 12.5, 15.0)
SPEEDS = {6: (1075, 1090, 1100, 1050), 8: (825, 830, 850, 810), 4: (1625, 1550, 1650), 2: (3350, 3450)}
MAKERS = ("PELLOW ELECTRIC", "NORTH SHORE MOTORS", "HARBOR WINDING CO", "GULL & ANCHOR", "SALTMARSH MFG")


@dataclass(frozen=True)
class Plate:
    """A plate: what it is of, its rows of label and text, and the values that stand on it by the contract's names."""

    kind: str
    rows: tuple[tuple[str, str], ...]
    truth: dict[str, object]


def number(value: float) -> str:
    """A figure as a plate writes it."""
    return f"{value:g}"


def motor_plate(rng: random.Random) -> Plate:
    """A single-phase fan motor's plate."""
    horse = rng.choice(list(HORSES))
    hp = HORSES[horse]
    volts, base = rng.choice([("208-230", 220), ("208-230", 220), ("115", 115), ("230", 230), ("460", 460)])
    amps = round(hp * 746 / (base * rng.uniform(0.42, 0.7)), 1 if rng.random() < 0.7 else 2)
    amps = max(amps, 0.3)
    rpm = rng.choice(SPEEDS[rng.choice([6, 6, 6, 8, 4])])
    speeds = rng.choice([1, 1, 1, 2, 3, 4])
    uf, cap_v = rng.choice(CANS), rng.choice([370, 370, 440])
    sense, end = rng.choice(["cw", "ccw", "reversible"]), rng.choice(["shaft_end", "lead_end"])
    ambient, letter, factor = rng.choice([40, 50, 60, 70]), rng.choice("BBFA"), rng.choice(["1.0", "1.0", "1.15"])
    frame = rng.choice(["48", "48Y", "56", "42"])
    part, serial = f"{rng.choice('GKPN')}{rng.randint(1000, 9999)}{rng.choice('ABDX')}", str(rng.randint(10**6, 10**7))
    truth: dict[str, object] = {
        "hp": hp, "volts": volts, "amps_a": amps, "rpm": rpm, "capacitor_uf": uf, "capacitor_v": cap_v, "phase": 1,
        "hz": 60, "rotation.sense": sense, "insulation_class": letter, "ambient_limit_c": ambient,
        "service_factor": float(factor), "frame": frame,
    }  # fmt: skip
    if sense != "reversible":
        truth["rotation.seen_from"] = end
    if speeds > 1:
        truth["speeds"] = speeds
    of = {"shaft_end": rng.choice(["SE", "SHAFT END"]), "lead_end": rng.choice(["LE", "LEAD END"])}[end]
    way = (
        rng.choice(["REV", "REVERSIBLE", "CW/CCW"])
        if sense == "reversible"
        else f"{sense.upper()}{rng.choice(['', ' '])}{of}"
    )
    rows = [
        (rng.choice(["HP", "H.P."]), horse),
        (rng.choice(["VOLTS", "V", "VOLTS AC"]), volts if rng.random() < 0.8 else volts.replace("-", "/")),
        (rng.choice(["AMPS", "FLA", "F.L.A.", "A"]), number(amps)),
        (rng.choice(["RPM", "R.P.M."]), f"{rpm}" if speeds == 1 or rng.random() < 0.5 else f"{rpm}/{speeds} SPD"),
        (rng.choice(["PH", "PHASE"]), "1"),
        (rng.choice(["HZ", "CY", "HERTZ"]), "60"),
        (rng.choice(["CAP", "CAPACITOR", "RUN CAP"]), _can(rng, uf, cap_v)),
        (rng.choice(["ROT", "ROTATION", "ROT."]), way),
        (rng.choice(["FR", "FRAME"]), frame),
        (rng.choice(["INS CL", "INS", "INSUL CLASS"]), letter),
        (rng.choice(["AMB", "MAX AMB"]), f"{ambient}{rng.choice(['C', ' C', '°C'])}"),
        (rng.choice(["S.F.", "SF"]), factor),
        (rng.choice(["DUTY", "TIME"]), rng.choice(["CONT", "CONT AIR OVER"])),
        (rng.choice(["MODEL", "MOD", "PART NO", "P/N"]), part),
        (rng.choice(["SER", "SERIAL", "S/N"]), serial),
    ]
    if speeds > 1 and "/" not in dict(rows).get("RPM", dict(rows).get("R.P.M.", "")):
        rows.append(("SPEEDS", str(speeds)))
    head, tail = rows[:4], rows[4:]
    rng.shuffle(head)
    rng.shuffle(tail)
    tail = tail if rng.random() < 0.6 else [row for row in tail if rng.random() < 0.8 or row[0] in _DECIDING]
    said = {label for label, _ in head + tail}
    kept = {key: value for key, value in truth.items() if any(label in said for label in _LABELS.get(key, said))}
    words = [("", "THERMALLY PROTECTED")] if rng.random() < 0.6 else []
    if words:
        kept["protection"] = "auto" if rng.random() < 0.5 else None
        words = [("", "THERMALLY PROTECTED AUTO")] if kept["protection"] else [("", "THERMALLY PROTECTED")]
    return Plate("motor", tuple(head + tail + words), {key: value for key, value in kept.items() if value is not None})


_DECIDING = {"CAP", "CAPACITOR", "RUN CAP", "ROT", "ROTATION", "ROT.", "SPEEDS"}
_LABELS = {
    "phase": ("PH", "PHASE"), "hz": ("HZ", "CY", "HERTZ"), "frame": ("FR", "FRAME"),
    "insulation_class": ("INS CL", "INS", "INSUL CLASS"), "ambient_limit_c": ("AMB", "MAX AMB"),
    "service_factor": ("S.F.", "SF"),
}  # fmt: skip


def _can(rng: random.Random, uf: float, volts: int) -> str:
    unit = rng.choice(["MFD", "µF", "UF", "MFD."])
    return rng.choice(
        [f"{number(uf)} {unit} {volts}V", f"{number(uf)}{unit}/{volts}VAC", f"{number(uf)}{unit} {volts} VAC"]
    )


def unit_plate(rng: random.Random) -> Plate:
    """A condenser's plate, with the compressor's row beside the fan's."""
    fla = round(rng.uniform(0.5, 2.8), 1)
    horse = rng.choice(["1/10", "1/8", "1/6", "1/5", "1/4", "1/3"])
    rla, lra = round(rng.uniform(7, 22), 1), rng.randint(40, 130)
    mca = round(rla * 1.25 + fla, 1)
    part, serial = f"{rng.choice('CHX')}{rng.randint(100, 999)}-{rng.randint(10, 60)}", str(rng.randint(10**7, 10**8))
    rows = [
        ("MODEL", part),
        (rng.choice(["SERIAL", "S/N"]), serial),
        (rng.choice(["VOLTS", "POWER SUPPLY"]), "208-230"),
        ("PH", "1"),
        ("HZ", "60"),
        ("COMPRESSOR", f"RLA {rla} LRA {lra}"),
        (rng.choice(["FAN MOTOR", "FAN MTR", "OUTDOOR FAN MOTOR"]), f"FLA {fla} HP {horse}"),
        (rng.choice(["MIN CIRCUIT AMPS", "MCA"]), number(mca)),
        (rng.choice(["MAX FUSE", "MOCP"]), str(rng.choice([15, 20, 25, 30, 40]))),
        (rng.choice(["FACTORY CHARGE", "REFRIGERANT"]), f"R410A {rng.randint(60, 180)} OZ"),
    ]
    truth = {"volts": "208-230", "phase": 1, "hz": 60, "amps_a": fla, "hp": HORSES[horse], "serial": serial}
    return Plate("unit", tuple(rows), truth)


def capacitor_label(rng: random.Random) -> Plate:
    """A run capacitor's label, dual or single."""
    fan, herm = rng.choice([3, 4, 5, 7.5, 10]), rng.choice([25, 30, 35, 40, 45, 50, 55, 60, 70])
    dual, volts, tolerance = rng.random() < 0.7, rng.choice([370, 440]), rng.choice([5, 6, 6, 10])
    unit = rng.choice(["MFD", "µF", "uF"])
    truth: dict[str, object] = {"volts_v": volts, "tolerance_pct": tolerance}
    size = f"{herm}{rng.choice(['/', '+', ' + '])}{number(fan)}" if dual else number(fan)
    truth |= {"herm": float(herm), "fan": float(fan)} if dual else {"single": float(fan)}
    shown = "370/440" if volts == 440 and rng.random() < 0.5 else str(volts)
    rows = [
        ("", f"{size} {unit}"),
        ("", f"±{tolerance}%  {shown} {rng.choice(['VAC', 'V AC'])}"),
        ("", rng.choice(["50/60 HZ", "60 HZ"])),
        ("", rng.choice(["PROTECTED S 10000 AFC", "PROTECTED P2", "NO PCB"])),
    ]
    return Plate("capacitor", tuple(rows), truth)


def photograph(seed: int, harm: Harm, kind: str = "", faces: Sequence[str] = tuple(PLAIN_FACES)) -> tuple[bytes, Plate]:
    """A plate as a phone sees it, JPEG, and what stands on it; `faces` are the files of its letters."""
    rng = random.Random(seed)
    make = {"motor": motor_plate, "unit": unit_plate, "capacitor": capacitor_label}
    plate = make[kind or rng.choice(["motor"] * 4 + ["unit", "capacitor"])](rng)
    drawn = _drawn(plate, rng, faces)
    shot = _shot(drawn, rng, harm)
    out = io.BytesIO()
    shot.save(out, "JPEG", quality={"clean": 88, "mild": 75, "bad": rng.randint(45, 65)}[harm])
    return out.getvalue(), plate


def _files_of(faces: Sequence[str]) -> list[Path]:
    return sorted(path for folder in FONT_FOLDERS for path in Path(folder).rglob("*.ttf") if path.name in faces)


def _drawn(plate: Plate, rng: random.Random, faces: Sequence[str]) -> Image.Image:
    """The plate itself, flat: its metal, its frame and its words."""
    face = str(rng.choice(_files_of(faces)))
    size = rng.randint(30, 40)
    columns = 1 if plate.kind != "motor" else rng.choice([1, 2, 2])
    style = rng.choice(["printed", "printed", "light_on_dark", "stamped"])
    ground = {"printed": rng.randint(205, 245), "light_on_dark": rng.randint(25, 60), "stamped": rng.randint(150, 190)}
    ink = {"printed": rng.randint(10, 60), "light_on_dark": rng.randint(200, 240), "stamped": 70}[style]
    font, small = ImageFont.truetype(face, size), ImageFont.truetype(face, int(size * 0.62))
    above = plate.kind == "motor" and columns == 2 and rng.random() < 0.4
    rows = list(plate.rows)
    pitch = int(size * (2.15 if above else 1.65))
    per = -(-len(rows) // columns)
    wide = max(int(font.getlength(f"{label}  {text}")) for label, text in rows) + 60
    width, height = wide * columns + 60, per * pitch + size * 3 + 40
    image = Image.new("L", (width, height), ground[style])
    draw = ImageDraw.Draw(image)
    draw.rectangle((8, 8, width - 9, height - 9), outline=ink, width=3)
    _write(draw, (36, 24), rng.choice(MAKERS), ImageFont.truetype(face, int(size * 1.2)), ink, style)
    gap = rng.choice([" ", "  ", ": ", " "])
    for at, (label, text) in enumerate(rows):
        x, y = 36 + (at // per) * wide, size * 2 + 40 + (at % per) * pitch
        if above and label:
            _write(draw, (x, y), label, small, ink, style)
            _write(draw, (x, y + int(size * 0.75)), text, font, ink, style)
        else:
            _write(draw, (x, y), f"{label}{gap}{text}" if label else text, font, ink, style)
    return image


def _write(draw: ImageDraw.ImageDraw, at: tuple[int, int], text: str, font: object, ink: int, style: str) -> None:
    if style == "stamped":
        draw.text((at[0] + 2, at[1] + 2), text, 225, font=font)
    draw.text(at, text, ink, font=font)


def _shot(plate: Image.Image, rng: random.Random, harm: Harm) -> Image.Image:
    """The plate on its machine, photographed."""
    level = {"clean": 0.15, "mild": 0.5, "bad": 1.0}[harm]
    noise = np.random.default_rng(rng.randint(0, 2**31))
    flat = np.asarray(plate, float)
    flat = _dirt(flat, rng, noise, level)
    room = int(0.25 * max(plate.size))
    width, height = plate.width + 2 * room, plate.height + 2 * room
    scene = Image.new("L", (width, height), rng.randint(60, 150))
    grain = noise.normal(0, 12, (height // 8 + 1, width // 8 + 1))
    back = np.asarray(scene, float) + np.kron(grain, np.ones((8, 8)))[:height, :width]
    back[room : room + plate.height, room : room + plate.width] = flat
    image = Image.fromarray(np.clip(back, 0, 255).astype(np.uint8))
    turn = rng.uniform(-1, 1) * {"clean": 3, "mild": 12, "bad": 25}[harm]
    image = image.transform(
        image.size, Image.Transform.PERSPECTIVE, _lean(image.size, rng, level), Image.Resampling.BICUBIC
    )
    image = image.rotate(turn, Image.Resampling.BICUBIC, expand=True, fillcolor=100)
    image = image.filter(ImageFilter.GaussianBlur(level * rng.uniform(0.4, 1.9)))
    array = _light(np.asarray(image, float), rng, level)
    array += noise.normal(0, 3 + 9 * level, array.shape)
    tint = np.array([1.0, rng.uniform(0.93, 1.0), rng.uniform(0.85, 1.0)])
    colored = np.clip(array[..., None] * tint, 0, 255).astype(np.uint8)
    shot = Image.fromarray(colored)
    long_side = rng.choice([1400, 1600, 2000])
    shot.thumbnail((long_side, long_side))
    return shot


def _dirt(flat: np.ndarray, rng: random.Random, noise: np.random.Generator, level: float) -> np.ndarray:
    """Scratches, rust and grime on the plate."""
    canvas = Image.fromarray(flat.astype(np.uint8))
    draw = ImageDraw.Draw(canvas)
    width, height = canvas.size
    for _ in range(int(14 * level)):
        x, y = rng.uniform(0, width), rng.uniform(0, height)
        end = (x + rng.uniform(-200, 200), y + rng.uniform(-120, 120))
        draw.line((x, y, *end), fill=rng.randint(90, 230), width=rng.choice([1, 1, 2]))
    out = np.asarray(canvas, float)
    for _ in range(int(6 * level)):
        cy, cx, r = rng.uniform(0, height), rng.uniform(0, width), rng.uniform(20, 80)
        y, x = np.ogrid[:height, :width]
        spot = np.exp(-(((y - cy) ** 2 + (x - cx) ** 2) / r**2))
        out = out * (1 - 0.35 * level * spot) + 0.35 * level * spot * 95
    return out


def _lean(size: tuple[int, int], rng: random.Random, level: float) -> list[float]:
    """Coefficients of a lens that does not look straight at it."""
    width, height = size
    lean = 0.10 * level
    corners = [(0, 0), (width, 0), (width, height), (0, height)]
    moved = [(x + rng.uniform(-lean, lean) * width, y + rng.uniform(-lean, lean) * height) for x, y in corners]
    rows, right = [], []
    for (x, y), (u, v) in zip(corners, moved, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    return list(np.linalg.solve(np.array(rows, float), np.array(right, float)))


def _light(array: np.ndarray, rng: random.Random, level: float) -> np.ndarray:
    """Uneven light, a shadow's edge and the sun in the metal."""
    height, width = array.shape
    y, x = np.mgrid[0 : 1 : height * 1j, 0 : 1 : width * 1j]
    slope = 1 + 0.5 * level * (rng.uniform(-1, 1) * (x - 0.5) + rng.uniform(-1, 1) * (y - 0.5)) * 2
    out = array * slope
    if rng.random() < 0.5 * level:
        cx, cy, r = rng.uniform(0.2, 0.8), rng.uniform(0.2, 0.8), rng.uniform(0.08, 0.2)
        out += 90 * level * np.exp(-(((x - cx) ** 2 + (y - cy) ** 2) / r**2))
    if rng.random() < 0.6 * level:
        out = np.where(x * rng.uniform(0.5, 1.5) + y > rng.uniform(0.6, 1.4), out * 0.7, out)
    return out
