"""A page as PDF by WeasyPrint: our own font, nothing fetched from anywhere."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ..core.errors import bad


class NoPdf(RuntimeError):
    """PDF cannot be made on this machine: Pango is missing."""


def pdf_of(html: str, folder: Path) -> bytes:
    """The PDF of a page whose style sheets and pictures lie in a folder or in the page itself.

    Raises `NoPdf` where Pango is missing, `BadInput` on an address outside the folder.
    """
    try:
        from weasyprint import HTML, default_url_fetcher
    except OSError as error:
        raise NoPdf(f"PDF needs Pango (Debian: libpango-1.0-0 libpangoft2-1.0-0): {error}") from None
    home = folder.resolve().as_uri() + "/"

    def fetch(url: str, *args: Any, **named: Any) -> Any:
        if not url.startswith(("data:", home)):
            raise bad("url", url[:80], "something that ships with the program")
        return default_url_fetcher(url, *args, **named)

    made: bytes = HTML(string=html, base_url=home, url_fetcher=fetch).write_pdf()
    return made
