"""Barcodes and QR codes on a label: the text they carry."""

from __future__ import annotations

import io
from importlib.util import find_spec

from ..core.units import CONTROL

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
