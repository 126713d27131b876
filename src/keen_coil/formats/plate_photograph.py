"""The text of a photographed plate: where it stands, what it says, how sure each sign is.

The engine (RapidOCR on ONNX Runtime, its models in its wheel) finds the lines of text; each is straightened by its own
four corners and read, so that neither angle nor perspective of the plate matters. Decision 066.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from functools import lru_cache
from importlib.util import find_spec
from typing import Any

import numpy as np

from ..core.plate.pieces import Piece, Point
from ..core.units import CONTROL

EXTRA = "plates"
SIGNS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789 .,:;-+/%()&#*'\"=°±µμØ℃"
"""What may stand on a plate; the engine's other six thousand signs are not asked for."""
LONGEST_FOUND, LINE_HEIGHT, LEAST_WIDTH, WIDEST = 960, 48, 320, 2400
MOST_LINES = 120
LEAST_SURE, WELL_READ, SPACE, POINT = 0.5, 0.93, 0.05, 0.08
TALL = 1.5
Corners = np.ndarray[Any, np.dtype[np.float32]]
Crop = np.ndarray[Any, Any]
Progress = Callable[[int, int], None]


class EngineMissing(RuntimeError):
    """The package that reads photographs is not installed."""


@lru_cache(maxsize=1)
def _engine() -> Any:
    try:
        from rapidocr_onnxruntime import RapidOCR
    except ImportError as missing:
        raise EngineMissing(EXTRA) from missing
    return RapidOCR(intra_op_num_threads=2, inter_op_num_threads=1)


@lru_cache(maxsize=1)
def _signs() -> tuple[np.ndarray[Any, Any], list[str]]:
    """The engine's numbers of the signs that plates have, and the signs; the first says nothing."""
    known = _engine().text_rec.postprocess_op.character
    kept = [at for at, sign in enumerate(known) if at == 0 or sign in SIGNS]
    return np.array(kept), ["", *(known[at] for at in kept[1:])]


def read_photograph(picture: bytes, progress: Progress | None = None) -> list[Piece]:
    """The lines of text of an upright JPEG or PNG, each with its corners in pixels and how sure each sign is.

    `progress` is told how many of how many lines are read. Raises `EngineMissing`.
    """
    import cv2

    engine = _engine()
    image = cv2.imdecode(np.frombuffer(picture, np.uint8), cv2.IMREAD_COLOR)
    if image is None:
        return []
    lines = _lines_in(image, engine)[:MOST_LINES]
    crops = [_straight(image, corners) for corners in lines]
    if lines and _is_upside_down(crops, engine):
        lines = [np.roll(corners, 2, axis=0) for corners in lines]
        crops = [np.ascontiguousarray(crop[::-1, ::-1]) for crop in crops]
    pieces = []
    for at, (corners, crop) in enumerate(zip(lines, crops, strict=True)):
        text, sure = _best_reading(crop, engine)
        if text and sum(sure) / len(sure) >= LEAST_SURE:
            pieces.append(Piece(text, _points(corners), tuple(sure)))
        if progress:
            progress(at + 1, len(lines))
    return pieces


def _points(corners: Corners) -> tuple[Point, Point, Point, Point]:
    a, b, c, d = ((float(x), float(y)) for x, y in corners)
    return a, b, c, d


def _lines_in(image: Crop, engine: Any) -> list[Corners]:
    """The corners of each line of text, clockwise from where its reading begins."""
    import cv2

    height, width = image.shape[:2]
    scale = min(1.0, LONGEST_FOUND / max(height, width))
    size = (max(round(width * scale / 32), 1) * 32, max(round(height * scale / 32), 1) * 32)
    found, _ = engine.text_det(cv2.resize(image, size, interpolation=cv2.INTER_AREA))
    if found is None or not len(found):
        return []
    back = np.array([width / size[0], height / size[1]], np.float32)
    lines = [np.asarray(corners, np.float32) * back for corners in found]
    tall = sum(_is_tall(corners) for corners in lines)
    return [np.roll(c, -1, axis=0) for c in lines] if 2 * tall > len(lines) else lines


def _is_tall(corners: Corners) -> bool:
    return _far(corners[0], corners[3]) > TALL * _far(corners[0], corners[1])


def _far(one: Corners, other: Corners) -> float:
    """How far two points lie apart, pixels."""
    return float(np.linalg.norm(one - other))


def _straight(image: Crop, corners: Corners) -> Crop:
    """A line of text as if it had been looked at straight."""
    import cv2

    width = max(_far(corners[0], corners[1]), _far(corners[2], corners[3]), 8.0)
    height = max(_far(corners[0], corners[3]), _far(corners[1], corners[2]), 8.0)
    wide = int(min(max(width * LINE_HEIGHT / height, 16), WIDEST))
    flat = np.array([[0, 0], [wide, 0], [wide, LINE_HEIGHT], [0, LINE_HEIGHT]], np.float32)
    how = cv2.getPerspectiveTransform(corners, flat)
    return cv2.warpPerspective(image, how, (wide, LINE_HEIGHT), borderMode=cv2.BORDER_REPLICATE, flags=cv2.INTER_CUBIC)


def _is_upside_down(crops: Sequence[Crop], engine: Any) -> bool:
    """Whether most of the longer lines stand on their heads."""
    longer = sorted(crops, key=lambda crop: -crop.shape[1])[:9]
    _, votes, _ = engine.text_cls([crop.copy() for crop in longer])
    return bool(2 * sum(label == "180" and sure > 0.7 for label, sure in votes) > len(longer))


def _best_reading(crop: Crop, engine: Any) -> tuple[str, list[float]]:
    """A line read as it is, and where that is doubtful also with its light evened out; where they differ, unsure."""
    text, sure = _reading(crop, engine)
    if sure and min(sure) >= WELL_READ:
        return text, sure
    other, sure_too = _reading(_evened(crop), engine)
    if not sure_too or (sure and text.replace(" ", "") == other.replace(" ", "")):
        better = sure_too if sum(sure_too) > sum(sure) and len(sure_too) == len(sure) else sure
        return text, better
    if not sure or sum(sure_too) / len(sure_too) > sum(sure) / len(sure):
        text, sure, other = other, sure_too, text
    return text, _where_they_agree(text, sure, other)


def _where_they_agree(text: str, sure: list[float], other: str) -> list[float]:
    """How sure each sign is when another reading says something else in places."""
    from difflib import SequenceMatcher

    agreed = set()
    for a, _, size in SequenceMatcher(None, text, other, autojunk=False).get_matching_blocks():
        agreed |= set(range(a, a + size))
    return [one if at in agreed else min(one, 0.4) for at, one in enumerate(sure)]


def _evened(crop: Crop) -> Crop:
    """A line with its light evened out: contrast stretched within small fields."""
    import cv2

    gray = cv2.cvtColor(crop, cv2.COLOR_BGR2GRAY)
    even = cv2.createCLAHE(clipLimit=3.0, tileGridSize=(2, max(crop.shape[1] // 64, 1))).apply(gray)
    return cv2.cvtColor(cv2.GaussianBlur(even, (3, 3), 0), cv2.COLOR_GRAY2BGR)


def _reading(crop: Crop, engine: Any) -> tuple[str, list[float]]:
    """The text of a straight line, and how sure each sign is; lost blanks are put back where the gap shows them."""
    kept, signs = _signs()
    ratio = max(crop.shape[1] / crop.shape[0], LEAST_WIDTH / LINE_HEIGHT)
    batch = engine.text_rec.resize_norm_img(crop, ratio)[np.newaxis].astype(np.float32)
    chances = engine.text_rec.session(batch)[0][0][:, kept]
    best = chances.argmax(axis=1)
    space, point = signs.index(" "), signs.index(".")
    text: list[str] = []
    sure: list[float] = []
    last, before = 0, -1
    for at, one in enumerate(best):
        if one and one != last:
            between = chances[before + 1 : at] if before >= 0 else chances[:0]
            if text and text[-1] != " " and one != space and len(between) and between[:, space].max() > SPACE:
                text.append(" ")
                sure.append(1.0)
            chance = float(chances[at, one])
            if text and text[-1].isdigit() and signs[one].isdigit() and len(between):
                chance = min(chance, 1.0 if between[:, point].max() < POINT else 0.5)
            text.append(signs[one])
            sure.append(chance)
        elif one and one == last:
            sure[-1] = max(sure[-1], float(chances[at, one]))
        if one:
            before = at
        last = int(one)
    return "".join(text), sure


def crop_of(picture: bytes, box: tuple[int, int, int, int]) -> bytes | None:
    """A part of a photograph (x, y, width, height in pixels), JPEG, with room around it; None outside of it."""
    from PIL import Image

    with Image.open(io.BytesIO(picture)) as image:
        x, y, width, height = box
        room = max(height // 3, 8)
        corners = (
            max(x - room, 0),
            max(y - room, 0),
            min(x + width + room, image.width),
            min(y + height + room, image.height),
        )
        if corners[0] >= corners[2] or corners[1] >= corners[3]:
            return None
        out = io.BytesIO()
        image.crop(corners).convert("RGB").save(out, "JPEG", quality=85)
    return out.getvalue()


MOST, LONGEST = 8, 400


def codes_in(picture: bytes) -> list[str]:
    """The texts of the codes in a photograph, each once; none where the package that finds them is missing."""
    if find_spec("zxingcpp") is None:
        return []
    import zxingcpp
    from PIL import Image

    with Image.open(io.BytesIO(picture)) as image:
        found = zxingcpp.read_barcodes(image.convert("L"))
    texts = (CONTROL.sub(" ", code.text).strip()[:LONGEST] for code in found)
    return list(dict.fromkeys(text for text in texts if text))[:MOST]
