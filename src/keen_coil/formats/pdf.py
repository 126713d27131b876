"""A page as PDF by WeasyPrint: our own font, nothing fetched from anywhere."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ..core.errors import KeenCoilError, invalid


class PdfUnavailable(KeenCoilError):
    """PDF cannot be made on this machine: Pango is missing."""

    status, title = 501, "No PDF on this machine"

    @property
    def lines(self) -> list[str]:
        """What is missing, and what is there all the same."""
        return [str(self), "The record to print is there all the same."]


def pdf_of(html: str, folder: Path) -> bytes:
    """The PDF of a page whose style sheets and pictures lie in a folder or in the page itself.

    Raises `PdfUnavailable` where Pango is missing, `InvalidField` on an address outside the folder.
    """
    try:
        from weasyprint import HTML
        from weasyprint.urls import URLFetcher
    except OSError as error:
        raise PdfUnavailable(f"PDF needs Pango (Debian: libpango-1.0-0 libpangoft2-1.0-0): {error}") from None
    home = folder.resolve().as_uri() + "/"

    class Ours(URLFetcher):  # type: ignore[misc]
        """Takes what ships with the program, nothing else."""

        def fetch(self, url: str, headers: Any = None) -> Any:
            """A file of ours, or data in the page itself."""
            if not url.startswith(("data:", home)) or "/../" in url:
                raise invalid("url", url[:80], "something that ships with the program")
            return super().fetch(url, headers)

    fetcher = Ours(allowed_protocols=("file", "data"), fail_on_errors=True)
    made: bytes = HTML(string=html, base_url=home, url_fetcher=fetcher).write_pdf()
    return made
