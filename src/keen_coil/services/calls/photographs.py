"""Photographs kept with a call: plates, wiring, blade. Drawn anew, made smaller, without where they were taken."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from ...core.errors import InvalidField, NotFound, invalid
from ...store import tables
from ...store.database import Database
from ..acts import ActContext, act_on

SUBJECTS = ("plate", "unit_plate", "capacitor_label", "wiring", "blade", "other")
READABLE = ("plate", "unit_plate", "capacitor_label")
"""What carries text that is read."""
FORMATS = ("JPEG", "PNG", "WEBP")
LONGEST_SIDE, MOST_PIXELS, MOST_OF_A_CALL = 1600, 60_000_000, 40
MEDIA_TYPE, QUALITY = "image/jpeg", 82
EXPECTED = "a photograph: JPEG, PNG or WebP"
PHONE_ONLY = (b"ftypheic", b"ftypheix", b"ftypmif1", b"ftypheim", b"ftypmsf1", b"ftyphevc")
EXPECTED_JPEG = f"{EXPECTED}. This one is HEIC: set the phone's camera to JPEG (most compatible), or send a screenshot"


@dataclass(frozen=True)
class Shown:
    """A photograph as a page lists it."""

    id: int
    subject: str
    taken_at: datetime


def checked_jpeg(content: bytes, name: str) -> bytes:
    """A photograph that came from elsewhere: a JPEG with nothing in it but its pixels, as `drawn_anew` makes them.

    Raises `InvalidField` on its name. It keeps its bytes, by whose hash laptops know it; so it is not drawn once more.
    """
    from PIL import Image

    try:
        if not _is_bare(content):
            raise ValueError
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(content), formats=("JPEG",)) as picture:
                if picture.width * picture.height > MOST_PIXELS:
                    raise ValueError
                picture.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
                picture.load()
    except Exception:
        raise invalid(name, f"{len(content)} bytes", "a JPEG picture with nothing but its pixels") from None
    return content


_BARE = frozenset({0xC0, 0xC1, 0xC2, 0xC4, 0xDB, 0xDD, 0xE0, 0xEE})
"""Segments of a JPEG that are about its pixels: frames, tables, restart interval, JFIF head, color transform."""


def _is_bare(content: bytes) -> bool:
    """Whether a JPEG has no comment, no metadata, nothing before its beginning or after its end (ITU-T T.81, B.1)."""
    at = 2
    while content[:2] == b"\xff\xd8" and at + 4 <= len(content) and content[at] == 0xFF:
        marker, size = content[at + 1], int.from_bytes(content[at + 2 : at + 4])
        if marker == 0xDA:
            return _to_the_end(content, at)
        if marker not in _BARE or (marker == 0xE0 and size != 16) or (marker == 0xEE and size != 14):
            return False
        at += 2 + size
    return False


def _to_the_end(content: bytes, at: int) -> bool:
    """Whether from a scan on there are only scans and their tables, and the end of the picture ends the file."""
    while 0 <= (at := content.find(b"\xff", at + 1)) < len(content) - 1:
        marker = content[at + 1]
        if marker == 0xD9:
            return at + 2 == len(content)
        if not (marker in (0x00, 0xC4, 0xDA, 0xDB, 0xFF) or 0xD0 <= marker <= 0xD7):
            return False
    return False


def add_photograph(db: Database, call_id: int, context: ActContext, subject: str, content: bytes) -> int:
    """Keep a photograph, as `drawn_anew` made it, with a call; its id. Raises `InvalidField` on an unknown subject."""
    if subject not in SUBJECTS:
        raise invalid("subject", subject, "one of " + ", ".join(SUBJECTS))
    with act_on(db, call_id, context, "add_photograph") as (session, row):
        had = session.scalars(select(tables.Photograph.id).where(tables.Photograph.call_id == row.id)).all()
        if len(had) >= MOST_OF_A_CALL:
            raise invalid("photo", f"{len(had) + 1} photographs", f"at most {MOST_OF_A_CALL} photographs for a call")
        found = tables.Photograph(
            call_id=call_id,
            subject=subject,
            media_type=MEDIA_TYPE,
            content=content,
            sha256=hashlib.sha256(content).hexdigest(),
            taken_at=context.now,
        )
        session.add(found)
        session.flush()
        return found.id


def drawn_anew(data: bytes, name: str) -> bytes:
    """The picture as a JPEG of its pixels alone: turned upright, at most 1600 a side, no metadata.

    Raises `InvalidField` on anything that is not a picture of a known format, or far too large.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=FORMATS) as picture:
                if picture.width * picture.height > MOST_PIXELS:
                    raise invalid(
                        "photo", f"{picture.width} x {picture.height}", f"at most {MOST_PIXELS // 1_000_000} megapixels"
                    )
                # decoded small where the format can, made small before it is turned: never two of it at full size
                picture.draft("RGB", (2 * LONGEST_SIDE, 2 * LONGEST_SIDE))
                small = picture if picture.mode in ("RGB", "RGBA", "L") else picture.convert("RGB")
                small.thumbnail((LONGEST_SIDE, LONGEST_SIDE), reducing_gap=2.0)
                upright = ImageOps.exif_transpose(small).convert("RGB")
    except (Image.DecompressionBombWarning, Image.DecompressionBombError):
        raise invalid("photo", "far more", f"at most {MOST_PIXELS // 1_000_000} megapixels") from None
    except InvalidField:
        raise
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
        raise invalid("photo", name, EXPECTED_JPEG if data[4:12] in PHONE_ONLY else EXPECTED) from None
    plain = Image.new("RGB", upright.size)
    plain.paste(upright)
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue()


def photographs_of(db: Database, call_id: int) -> list[Shown]:
    """The photographs of a call, oldest first."""
    with db.reading() as session:
        columns = (tables.Photograph.id, tables.Photograph.subject, tables.Photograph.taken_at)
        query = select(*columns).where(tables.Photograph.call_id == call_id).order_by(tables.Photograph.id)
        return [Shown(*row) for row in session.execute(query)]


def photograph(db: Database, call_id: int, photo_id: int) -> bytes:
    """A photograph's bytes, a JPEG. Raises `NotFound`."""
    with db.reading() as session:
        found = session.get(tables.Photograph, photo_id)
        if found is None or found.call_id != call_id:
            raise NotFound(f"photograph {photo_id}")
        return found.content


def subject_of(db: Database, call_id: int, photo_id: int) -> str:
    """What a photograph shows. Raises `NotFound`."""
    with db.reading() as session:
        row = tables.Photograph
        found = session.scalar(select(row.subject).where(row.id == photo_id, row.call_id == call_id))
    if found is None:
        raise NotFound(f"photograph {photo_id}")
    return found
