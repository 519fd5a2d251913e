"""Settings, read once from the environment (prefix URDATEN_) and passed down."""

from __future__ import annotations

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Settings of one running Urdaten."""

    model_config = SettingsConfigDict(env_prefix="URDATEN_", frozen=True)

    # Database address for psycopg 3, e.g. postgresql+psycopg://app@127.0.0.1:5544/urdaten
    database_url: str = "postgresql+psycopg://app@127.0.0.1:5432/urdaten"
    # Folder of the built front end; served when it is there.
    web_dir: Path = Path(__file__).parents[3] / "web" / "dist"
    # Memory cost of a password hash in KiB and its passes; tests make both small.
    password_memory_kib: int = 65536
    password_passes: int = 3
    # How long a session lasts without signing in again, in hours.
    session_hours: int = 24 * 14
    # How long a one-time sign-in link can be used, in minutes.
    link_minutes: int = 60 * 12

    @property
    def psycopg_dsn(self) -> str:
        """The database address as psycopg reads it."""
        return self.database_url.replace("postgresql+psycopg://", "postgresql://", 1)
