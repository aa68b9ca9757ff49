"""Figures of this server for Prometheus: its own requests, and how queue, disk and database stand. No figure names a person."""

from __future__ import annotations

from collections.abc import Iterator

from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.metrics_core import GaugeMetricFamily, Metric
from prometheus_client.registry import Collector

from lacertus.services import watching
from lacertus.services.watching import SiteNow
from lacertus.store import database

SECONDS = (0.01, 0.025, 0.05, 0.1, 0.15, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0, 30.0)
METHODS = {"GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"}
OTHER = "other"
"""What no route took, and methods that nobody knows: each that is made up would be a figure of its own."""


class _Now(Collector):
    """What is asked of the site when somebody reads the figures."""

    def collect(self) -> Iterator[Metric]:
        now = watching.look()
        yield _gauge("lacertus_database_up", "Whether the database answers", float(now.database))
        yield _gauge("lacertus_storage_up", "Whether the media store answers", float(now.storage))
        yield _gauge("lacertus_disk_free_bytes", "Room on the disk for uploads on their way", float(now.free_bytes))
        yield _gauge("lacertus_database_connections", "Connections of this server in use", float(database.in_use()))
        if now.queue is not None:
            yield from _of_queue(now)


def _of_queue(now: SiteNow) -> Iterator[Metric]:
    assert now.queue is not None
    yield _gauge("lacertus_queue_oldest_seconds", "How long the oldest work that could be begun has waited", now.queue.oldest_s)
    yield _gauge("lacertus_workers", "Workers that were heard of in the last seconds", float(now.queue.workers))
    jobs = GaugeMetricFamily("lacertus_jobs", "Pieces of work, each as it was last asked for", labels=("task", "state"))
    for (task, state), count in sorted(now.queue.counts.items()):
        jobs.add_metric((task, state), float(count))
    yield jobs


def _gauge(name: str, about: str, value: float) -> Metric:
    return GaugeMetricFamily(name, about, value=value)


_registry = CollectorRegistry()
_requests = Counter("lacertus_requests", "Requests answered", ("method", "route", "status"), registry=_registry)
_seconds = Histogram("lacertus_request_seconds", "How long requests took", ("route",), buckets=SECONDS, registry=_registry)
_registry.register(_Now())


def note(method: str, route: str | None, status: int | None, seconds: float) -> None:
    """Count a request. `route` is its pattern, without what stood in its place; None where none took it."""
    _requests.labels(method if method in METHODS else OTHER, route or OTHER, str(status or 0)).inc()
    _seconds.labels(route or OTHER).observe(seconds)


def told() -> bytes:
    """All figures as text, in Prometheus's own form."""
    return generate_latest(_registry)
