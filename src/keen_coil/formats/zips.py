"""Zip files from outside: a broken one is told as bad input."""

from __future__ import annotations

import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager

from ..core.errors import InvalidField, invalid

BROKEN = (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, ValueError, OverflowError, zlib.error)
"""What reading a broken, encrypted or odd zip raises."""


@contextmanager
def broken_is_told() -> Iterator[None]:
    """Whatever a broken zip raises inside becomes `InvalidField`."""
    try:
        yield
    except InvalidField:
        raise
    except BROKEN as error:
        raise invalid("", str(error) or "a broken zip", "a zip file that can be read") from None
