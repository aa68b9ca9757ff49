"""Uploading over HTTP, as the front end does."""

from __future__ import annotations

import base64
import time
from pathlib import Path
from typing import Any

import httpx

TUS = {"Tus-Resumable": "1.0.0"}
NOBODY = "00000000-0000-4000-8000-000000000000"


def student_of(client: httpx.Client) -> str:
    found = client.get("/api/students")
    assert found.status_code == 200, found.text
    return str(found.json()[0]["id"])


def metadata(**values: str) -> str:
    return ",".join(f"{key} {base64.b64encode(value.encode()).decode()}" for key, value in values.items())


def start_upload(client: httpx.Client, size: int, **values: str) -> httpx.Response:
    base = {"filename": "kick.mp4", "filetype": "video/mp4", "student": student_of(client), "filmed_on": "2026-05-04"}
    headers = TUS | {"Upload-Length": str(size), "Upload-Metadata": metadata(**(base | values))}
    return client.post("/api/uploads/", headers=headers)


def send(client: httpx.Client, location: str, data: bytes, offset: int) -> httpx.Response:
    headers = TUS | {"Upload-Offset": str(offset), "Content-Type": "application/offset+octet-stream"}
    return client.patch(location, content=data, headers=headers)


def wait_for(client: httpx.Client, *states: str) -> dict[str, Any]:
    for _ in range(300):
        clip = client.get("/api/clips").json()[0]
        if clip["state"] in states:
            return dict(clip)
        time.sleep(0.1)
    raise AssertionError(f"the clip never became {states}: {clip}")


def upload(client: httpx.Client, path: Path) -> dict[str, Any]:
    data = path.read_bytes()
    location = start_upload(client, len(data)).headers["location"]
    middle = len(data) // 2
    assert send(client, location, data[:middle], 0).status_code == 204
    # The connection breaks off here; the client asks where to go on.
    offset = int(client.head(location, headers=TUS).headers["upload-offset"])
    assert offset == middle
    assert send(client, location, data[offset:], offset).status_code == 204
    return wait_for(client, "ready", "failed")
