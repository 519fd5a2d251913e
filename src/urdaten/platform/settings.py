"""Settings, read once from the environment (prefix URDATEN_) and passed down."""

from __future__ import annotations

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict


class Settings(BaseSettings):
    """Settings of one running Urdaten."""

    model_config = SettingsConfigDict(env_prefix="URDATEN_", frozen=True)

    # Database address for psycopg 3, e.g. postgresql+psycopg://urdaten@127.0.0.1:5544/urdaten
    database_url: str = "postgresql+psycopg://urdaten@127.0.0.1:5432/urdaten"
    # Folder of the built front end; served when it is there.
    web_dir: Path = Path(__file__).parents[3] / "web" / "dist"
    # Names under which the server answers, without ports; a request for any other is refused.
    hosts: tuple[str, ...] = ("127.0.0.1", "localhost", "[::1]")
    # Tells this Urdaten's cookie from that of another one on the same host.
    instance: str = ""
    # Memory cost of a password hash in KiB and its passes; tests make both small.
    password_memory_kib: int = 65536
    password_passes: int = 3
    # A session ends when it was not used for so many hours, and after so many days in any case.
    idle_hours: int = 24 * 7
    session_days: int = 30
    # How long a one-time sign-in link can be used, in minutes.
    link_minutes: int = 60 * 12
    # How long an invitation to a project can be used, in days.
    invitation_days: int = 14
    # May web sites on this machine and in private networks be imported?
    fetch_local: bool = False

    @property
    def psycopg_dsn(self) -> str:
        """The database address as psycopg reads it."""
        return self.database_url.replace("postgresql+psycopg://", "postgresql://", 1)

    @property
    def cookie(self) -> str:
        """Name of the session's cookie; cookies know no ports."""
        return f"urdaten_{self.instance}" if self.instance else "urdaten_session"
