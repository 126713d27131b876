"""Settings from the environment (`KEEN_COIL_DB` ...), with defaults for one van and one laptop."""

from __future__ import annotations

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Where the database is, how large an upload may be; whether people must sign in, host names it is asked by.

    accounts is set when the server listens on another address than loopback; `names` are host names it answers to.
    share_address: where phones reach it, with its slash, when the laptop shares itself: whoever sits at the laptop need
    not sign in then. authority: the file of the laptop's own authority, where it made its certificate.
    """

    model_config = SettingsConfigDict(env_prefix="KEEN_COIL_")
    db: Path = Path("var/keen-coil.db")
    largest_upload: int = 8 * 1024 * 1024
    accounts: bool = False
    names: list[str] = []
    share_address: str = ""
    authority: Path | None = None
