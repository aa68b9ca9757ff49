"""Logs: one line of JSON an event, on standard output."""

from __future__ import annotations

import logging
import sys
from typing import TextIO

import structlog


def configure_logs(to: TextIO | None = None) -> None:
    """Send our own and the libraries' logs to a stream (standard output unless given) as JSON lines."""
    stream = to or sys.stdout
    shared: list[structlog.types.Processor] = [
        structlog.contextvars.merge_contextvars,
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    structlog.configure(
        processors=[*shared, structlog.processors.dict_tracebacks, structlog.processors.JSONRenderer()],
        logger_factory=structlog.PrintLoggerFactory(stream),
    )
    handler = logging.StreamHandler(stream)
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=shared,
            processors=[
                structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                structlog.processors.dict_tracebacks,
                structlog.processors.JSONRenderer(),
            ],
        )
    )
    logging.basicConfig(handlers=[handler], level=logging.WARNING, force=True)
