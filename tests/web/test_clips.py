"""The API of clips: named in lines, capture rates, second views, filmstrip and traces, the same file twice."""

from __future__ import annotations

import uuid
from pathlib import Path
from typing import Any

import httpx
import pytest
from PIL import Image

from tests.web.uploading import send, start_upload, upload


@pytest.fixture
def clip(client: httpx.Client, clips: dict[str, Path]) -> dict[str, Any]:
    return upload(client, clips["constant"])


def test_a_line_is_understood_and_nothing_is_stored(client: httpx.Client, clip: dict[str, Any]) -> None:
    answer = client.post("/api/naming", json={"line": "front kick, left, xyz, so", "clip": clip["id"]}).json()
    assert [(part["kind"], part["means"]) for part in answer["parts"][:2]] == [("technique", "Front kick"), ("side", "left")]
    assert "“xyz”" in answer["parts"][2]["problem"]
    assert answer["completions"] == ["solo"]
    assert client.get(f"/api/clips/{clip['id']}").json()["naming"]["technique"] is None


def test_clips_are_named_and_their_line_is_shown(client: httpx.Client, clip: dict[str, Any]) -> None:
    (named,) = client.put("/api/clips/names", json={"clips": [clip["id"]], "line": 'front kick, left, "Why?"'}).json()
    assert named["line"] == 'A Student, Front kick, left, "Why?"'
    assert named["naming"]["question"] == "Why?"
    bad = client.put("/api/clips/names", json={"clips": [clip["id"]], "line": "nonsense"})
    assert bad.status_code == 400
    assert "Nothing was changed" in bad.json()["message"]


@pytest.mark.parametrize(
    "body",
    [
        {"clips": [], "line": "left"},
        {"clips": [str(uuid.uuid4())], "line": "left"},
        {"clips": ["x"], "line": "left"},
        {"clips": [str(uuid.uuid4())] * 201, "line": "left"},
        {"clips": [str(uuid.uuid4())], "line": "x" * 2001},
    ],
    ids=["none", "unknown", "no id", "too many", "too long"],
)
def test_what_cannot_be_named_is_refused(client: httpx.Client, body: dict[str, Any]) -> None:
    assert client.put("/api/clips/names", json=body).status_code in (404, 422)


def test_the_same_file_twice_is_refused_with_where_it_is(
    client: httpx.Client, clip: dict[str, Any], clips: dict[str, Path]
) -> None:
    data = clips["constant"].read_bytes()
    location = start_upload(client, len(data), filename="again.mp4").headers["location"]
    answer = send(client, location, data, 0)
    assert answer.status_code == 400
    assert "“again.mp4” is here already as “kick.mp4” for A Student" in answer.json()["message"]
    assert len(client.get("/api/clips").json()) == 1


def test_filmstrip_and_traces_are_served_to_the_academy_alone(client: httpx.Client, clip: dict[str, Any]) -> None:
    film = clip["film"]
    sheet = client.get(f"/api/clips/{clip['id']}/film/0/0")
    assert sheet.headers["content-type"] == "image/jpeg"
    import io

    assert Image.open(io.BytesIO(sheet.content)).height % film["height"] == 0
    traces = client.get(f"/api/clips/{clip['id']}/traces").json()
    assert len(traces["motion"]) == clip["frames_done"]
    for path in ("film/0/99", "film/99/0", "film/0/-1"):
        assert client.get(f"/api/clips/{clip['id']}/{path}").status_code in (404, 422)
    client.delete("/api/session")
    for path in ("film/0/0", "traces"):
        assert client.get(f"/api/clips/{clip['id']}/{path}").status_code == 401


def test_a_capture_rate_is_set_and_real_time_follows(client: httpx.Client, clip: dict[str, Any]) -> None:
    path = f"/api/clips/{clip['id']}"
    before = client.get(path).json()
    rates = [{"frame": 0, "rate": 1.0}, {"frame": 60, "rate": 8.0}]
    assert client.put(f"{path}/capture-rate", json={"rates": rates}).json() == {"verdicts_changed": 0}
    after = client.get(path).json()
    assert after["capture_rate"] == rates
    assert after["real_s"][:61] == pytest.approx(before["pts_s"][:61])
    assert after["real_s"][68] - after["real_s"][60] == pytest.approx((before["pts_s"][68] - before["pts_s"][60]) / 8)
    assert client.put(f"{path}/capture-rate", json={"rates": [{"frame": 5, "rate": 1.0}]}).status_code == 400
    assert client.put(f"{path}/capture-rate", json={"rates": [{"frame": 0, "rate": -1.0}]}).status_code == 422


def test_views_are_tied_and_untied(client: httpx.Client, clip: dict[str, Any], clips: dict[str, Path]) -> None:
    other = next(one for one in [upload(client, clips["long_gop"]), *client.get("/api/clips").json()] if one["id"] != clip["id"])
    path = f"/api/clips/{clip['id']}"
    (possible,) = client.get(path).json()["views"]
    assert (possible["id"], possible["frame"], possible["aligned"]) == (other["id"], None, [])
    assert client.put(f"{path}/views/{other['id']}", json={"frame": 40, "other_frame": 20}).status_code == 200
    (tied,) = client.get(path).json()["views"]
    assert (tied["frame"], tied["other_frame"], tied["aligned"][40]) == (40, 20, 20)
    assert client.put(f"{path}/views/{clip['id']}", json={"frame": 0, "other_frame": 0}).status_code == 400
    assert client.delete(f"{path}/views/{other['id']}").status_code == 200
    assert client.get(path).json()["views"][0]["frame"] is None
