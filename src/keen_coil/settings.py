"""Settings from the environment (`KEEN_COIL_DB` ...), with defaults for one van and one laptop."""

from __future__ import annotations

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Where the database is, and how large an upload may be."""

    model_config = SettingsConfigDict(env_prefix="KEEN_COIL_")
    db: Path = Path("var/keen-coil.db")
    largest_upload: int = 8 * 1024 * 1024
