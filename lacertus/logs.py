"""Logs: one line of JSON an event, on standard output."""

from __future__ import annotations

import logging
import sys

import structlog


def configure_logs() -> None:
    """Send our own and the libraries' logs to standard output as JSON lines."""
    shared: list[structlog.types.Processor] = [
        structlog.contextvars.merge_contextvars,
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
    ]
    structlog.configure(processors=[*shared, structlog.processors.dict_tracebacks, structlog.processors.JSONRenderer()])
    handler = logging.StreamHandler(sys.stdout)
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
