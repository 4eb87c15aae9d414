"""Settings from the environment, with defaults for one machine. All state lives under one folder."""

from __future__ import annotations

import os
import secrets
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


@dataclass(frozen=True)
class Settings:
    var: Path
    database_url: str
    """SQLAlchemy form: postgresql+psycopg://..."""
    audio_url: str
    """Any fsspec location: a folder by default."""
    secret_key: str
    frontend: Path
    secure_cookies: bool
    proxies: int = 0
    """How many trusted proxies stand before the web processes: as many addresses in X-Forwarded-For are believed."""

    @property
    def store_seen(self) -> Path:
        """Where it is remembered that the store of recordings was there."""
        return self.var / "store.seen"

    @property
    def conninfo(self) -> str:
        """The same database as psycopg and procrastinate want it."""
        return self.database_url.replace("postgresql+psycopg://", "postgresql://", 1)


def load_settings() -> Settings:
    """Read OWL_VAR, OWL_DATABASE_URL, OWL_AUDIO_URL, OWL_SECURE_COOKIES, OWL_PROXIES. Raises RuntimeError with one sentence
    where there is no database to go to."""
    var = Path(os.environ.get("OWL_VAR", ROOT / "var")).resolve()
    url = os.environ.get("OWL_DATABASE_URL")
    if not url:
        written = var / "database.url"
        if not written.is_file():
            raise RuntimeError("There is no database yet: run ./start first, or set OWL_DATABASE_URL.")
        url = written.read_text().strip()
    return Settings(
        var=var,
        database_url=url,
        audio_url=os.environ.get("OWL_AUDIO_URL", f"file://{var / 'audio'}"),
        secret_key=_secret(var / "secret.key"),
        frontend=Path(os.environ.get("OWL_FRONTEND", ROOT / "frontend" / "dist")),
        secure_cookies=os.environ.get("OWL_SECURE_COOKIES", "") == "1",
        proxies=int(os.environ.get("OWL_PROXIES", "0")),
    )


def _secret(path: Path) -> str:
    """The key that signs sessions; made once, kept with the data."""
    path.parent.mkdir(parents=True, exist_ok=True)
    try:
        with open(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as handle:
            handle.write(secrets.token_hex(32))
    except FileExistsError:
        pass
    return path.read_text().strip()
