"""Logs: one line of JSON an event, on standard output."""

from __future__ import annotations

import logging
import re
import sys
from typing import Any, TextIO

import structlog

_SECRETS = (
    (re.compile(r"(/s/)[A-Za-z0-9_.%~-]{8,}"), r"\1…"),
    (re.compile(r"(\w+://[^:/@\s\"\\]+:)[^@\s\"\\]+@"), r"\1…@"),
    (re.compile(r"((?:lacertus_session|lacertus_device|password|PGPASSWORD)\W{1,4}?)[^\s\"\\,;&')]+"), r"\1…"),
)
"""What opens something, wherever a text holds it: the token of a link, the password in an address, a cookie."""


def without_secrets(text: str) -> str:
    """A text with tokens and passwords replaced by dots."""
    for pattern, shown in _SECRETS:
        text = pattern.sub(shown, text)
    return text


def _render(logger: Any, name: str, event: structlog.types.EventDict) -> str:
    return without_secrets(str(_JSON(logger, name, event)))


_JSON = structlog.processors.JSONRenderer()
_TRACEBACKS = structlog.processors.ExceptionRenderer(structlog.tracebacks.ExceptionDictTransformer(show_locals=False))
"""Where it happened, and nothing of what the variables held: sessions, links and passwords are among them."""


def configure_logs(to: TextIO | None = None) -> None:
    """Send our own and the libraries' logs to a stream (standard output unless given) as JSON lines."""
    stream = to or sys.stdout
    shared: list[structlog.types.Processor] = [
        structlog.contextvars.merge_contextvars,
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    structlog.configure(processors=[*shared, _TRACEBACKS, _render], logger_factory=structlog.PrintLoggerFactory(stream))
    handler = logging.StreamHandler(stream)
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=shared,
            processors=[structlog.stdlib.ProcessorFormatter.remove_processors_meta, _TRACEBACKS, _render],
        )
    )
    logging.basicConfig(handlers=[handler], level=logging.WARNING, force=True)
