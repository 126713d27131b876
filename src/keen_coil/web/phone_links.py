"""Links that sign one phone in as one technician, once: made on the laptop, shown as a code, over after ten minutes.

They live in this process: a server that was started again knows none of them.
"""

from __future__ import annotations

import secrets
import threading
from dataclasses import dataclass
from datetime import datetime, timedelta

from ..core.errors import KeenCoilError

GOOD_FOR = timedelta(minutes=10)
MOST = 200


@dataclass
class PhoneLink:
    """Who a link signs in, until when, and whether it was used."""

    technician: str
    ends_at: datetime
    used: bool = False


class LinkOver(KeenCoilError):
    """A link that signs nobody in: used, too old, or of a server that is gone."""

    status, title = 410, "This link is over"

    def __init__(self, why: str) -> None:
        super().__init__(why)
        self.why = why

    def __str__(self) -> str:
        return f"{self.why} On the laptop, open Settings, Phones, and scan a new code."


class PhoneLinks:
    """The links of this server."""

    def __init__(self) -> None:
        self._links: dict[str, PhoneLink] = {}
        self._lock = threading.Lock()

    def make(self, technician: str, now: datetime) -> str:
        """A new link for a technician: its token. An older one for the same is over."""
        token = secrets.token_urlsafe(18)
        with self._lock:
            kept = {
                key: link
                for key, link in self._links.items()
                if now - link.ends_at < GOOD_FOR and (link.used or link.technician != technician)
            }
            self._links = dict(list(kept.items())[-MOST:]) | {token: PhoneLink(technician, now + GOOD_FOR)}
        return token

    def look(self, token: str, now: datetime) -> str:
        """The technician that a link would sign in. Raises `LinkOver`."""
        with self._lock:
            return self._good(token, now).technician

    def take(self, token: str, now: datetime) -> str:
        """Use a link up: the technician it signs in. Raises `LinkOver`."""
        with self._lock:
            link = self._good(token, now)
            link.used = True
            return link.technician

    def _good(self, token: str, now: datetime) -> PhoneLink:
        link = self._links.get(token)
        if link is None:
            raise LinkOver("This laptop does not know that link any more.")
        if link.used:
            raise LinkOver("That link signed a phone in already, and works once.")
        if now > link.ends_at:
            raise LinkOver("That link was good for ten minutes, and they are over.")
        return link
