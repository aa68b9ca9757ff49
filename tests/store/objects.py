"""An object store on loopback: the real client speaks to it, and it keeps its objects in memory."""

from __future__ import annotations

import uuid
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from moto.server import ThreadedMotoServer

from lacertus.settings import settings
from lacertus.store.media import media


@contextmanager
def object_store(address: str = "127.0.0.1") -> Iterator[dict[str, str]]:
    """The environment of a store of its own with an empty bucket; Lacertus keeps its media there meanwhile."""
    server = ThreadedMotoServer(ip_address=address, port=0, verbose=False)
    server.start()
    bucket = f"hall-{uuid.uuid4().hex[:8]}"
    values = {
        "LACERTUS_MEDIA_URL": f"s3://{bucket}/media",
        "LACERTUS_MEDIA_ENDPOINT": "http://{}:{}".format(*server.get_host_and_port()),
        "LACERTUS_MEDIA_REGION": "eu-central-1",
        "LACERTUS_MEDIA_KEY": "a-key",
        "LACERTUS_MEDIA_SECRET": "a-secret",
    }
    with pytest.MonkeyPatch.context() as patch:
        for name, value in values.items():
            patch.setenv(name, value)
        settings.cache_clear()
        media()._fs.mkdir(bucket)
        try:
            yield values
        finally:
            server.stop()
    settings.cache_clear()
