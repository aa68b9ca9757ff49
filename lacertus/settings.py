"""Settings, read once from the environment. docs/operations.md lists them all."""

from __future__ import annotations

import os
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path

from lacertus.core.errors import BadInput


@dataclass(frozen=True, kw_only=True)
class Settings:
    """Where things are and how much is allowed.

    Sizes in bytes; minutes, hours and seconds as named.
    """

    database_url: str = "postgresql://127.0.0.1:5432/lacertus"
    media_url: str = "file://.run/media"
    media_endpoint: str = ""
    media_region: str = ""
    media_key: str = field(default="", repr=False)
    media_secret: str = field(default="", repr=False)
    uploads_dir: str = ".run/uploads"
    ui_dir: str = "ui/dist"
    largest_upload_bytes: int = 4_000_000_000
    academy_bytes: int = 500_000_000_000
    largest_archive_bytes: int = 40_000_000_000
    trusted_proxies: str = ""
    most_frames: int = 60_000
    most_pixels: int = 3840 * 2160
    most_minutes: int = 20
    reader_bytes: int = 6_000_000_000
    reader_minutes: int = 60
    reader_idle_seconds: int = 60
    work_dir: str = ".run/work"
    worker_nice: int = 10
    eye_films: int = 400
    pose_model: str = ".run/models/pose.task"
    outbox_dir: str = ".run/outbox"
    mail_relay: str = ""
    mail_from: str = "Lacertus <lacertus@localhost>"
    public_url: str = ""
    root_url: str = ""
    session_hours: int = 14
    secure_cookies: bool = False
    metrics_token: str = field(default="", repr=False)
    backup_dir: str = ""
    backup_key: str = ""
    backup_hour: int = 2

    @property
    def sqlalchemy_url(self) -> str:
        return self.database_url.replace("postgresql://", "postgresql+psycopg://", 1)


ENVIRONMENT = {
    "database_url": "LACERTUS_DATABASE_URL",
    "media_url": "LACERTUS_MEDIA_URL",
    "media_endpoint": "LACERTUS_MEDIA_ENDPOINT",
    "media_region": "LACERTUS_MEDIA_REGION",
    "media_key": "LACERTUS_MEDIA_KEY",
    "media_secret": "LACERTUS_MEDIA_SECRET",
    "uploads_dir": "LACERTUS_UPLOADS_DIR",
    "ui_dir": "LACERTUS_UI_DIR",
    "largest_upload_bytes": "LACERTUS_LARGEST_UPLOAD_BYTES",
    "academy_bytes": "LACERTUS_ACADEMY_BYTES",
    "largest_archive_bytes": "LACERTUS_LARGEST_ARCHIVE_BYTES",
    "trusted_proxies": "LACERTUS_TRUSTED_PROXIES",
    "most_frames": "LACERTUS_MOST_FRAMES",
    "most_pixels": "LACERTUS_MOST_PIXELS",
    "most_minutes": "LACERTUS_MOST_MINUTES",
    "reader_bytes": "LACERTUS_READER_BYTES",
    "reader_minutes": "LACERTUS_READER_MINUTES",
    "reader_idle_seconds": "LACERTUS_READER_IDLE_SECONDS",
    "work_dir": "LACERTUS_WORK_DIR",
    "worker_nice": "LACERTUS_WORKER_NICE",
    "eye_films": "LACERTUS_EYE_FILMS",
    "pose_model": "LACERTUS_POSE_MODEL",
    "outbox_dir": "LACERTUS_OUTBOX_DIR",
    "mail_relay": "LACERTUS_MAIL_RELAY",
    "mail_from": "LACERTUS_MAIL_FROM",
    "public_url": "LACERTUS_PUBLIC_URL",
    "root_url": "LACERTUS_ROOT_URL",
    "session_hours": "LACERTUS_SESSION_HOURS",
    "secure_cookies": "LACERTUS_SECURE_COOKIES",
    "metrics_token": "LACERTUS_METRICS_TOKEN",
    "backup_dir": "LACERTUS_BACKUP_DIR",
    "backup_key": "LACERTUS_BACKUP_KEY",
    "backup_hour": "LACERTUS_BACKUP_HOUR",
}


def read_settings(environment: Mapping[str, str]) -> Settings:
    """Settings from environment variables; what is not set keeps its default."""
    values: dict[str, object] = {}
    for name, variable in ENVIRONMENT.items():
        text = environment.get(variable)
        if text is None:
            continue
        default = getattr(Settings, name)
        if isinstance(default, bool):
            values[name] = text.lower() in ("1", "true", "yes")
        else:
            values[name] = _number(variable, text) if isinstance(default, int) else text
    return Settings(**values)  # type: ignore[arg-type]


def _number(variable: str, text: str) -> int:
    try:
        return int(text)
    except ValueError as error:
        raise BadInput(f"{variable} must be a whole number, not “{text}”") from error


@cache
def settings() -> Settings:
    """The settings of this process."""
    return read_settings(os.environ)


def ui_folder() -> Path:
    return Path(settings().ui_dir)
