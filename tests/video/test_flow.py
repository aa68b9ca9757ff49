"""Points tracked through a clip by flow: held against a patch whose way is known, and against the studio's figures."""

from __future__ import annotations

import json
from pathlib import Path

import av
import numpy as np
import pytest

from lacertus.core.errors import BadInput
from lacertus.core.measuring.repfile import Body, read_rep
from lacertus.video.tracking.flow import Seed, track_seeds
from lacertus.video.tracking.points import track_points
from tests.command import lacertus

SIZE, SIDE, FRAMES = (320, 240), 60, 40
PACE = np.array([2.5, 1.0])
START = np.array([60.0, 80.0])


@pytest.fixture(scope="module")
def clip(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A speckled patch that goes over a still, speckled ground, and from frame 30 on is hidden."""
    chance = np.random.default_rng(4)
    ground, patch = (chance.integers(40, 216, (h, w), dtype=np.uint8) for h, w in ((SIZE[1], SIZE[0]), (SIDE, SIDE)))
    ground, patch = (np.kron(grid[::4, ::4], np.ones((4, 4), dtype=np.uint8)) for grid in (ground, patch))
    path = tmp_path_factory.mktemp("flow") / "patch.mp4"
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=30, options={"crf": "12"})
        stream.width, stream.height, stream.pix_fmt = *SIZE, "yuv420p"
        for number in range(FRAMES):
            picture = ground.copy()
            if number < 30:
                x, y = np.round(START + PACE * number - SIDE / 2).astype(int)
                picture[y : y + SIDE, x : x + SIDE] = patch
            frame = av.VideoFrame.from_ndarray(np.stack([picture] * 3, axis=-1), format="rgb24")
            out.mux(stream.encode(frame))
        out.mux(stream.encode())
    return path


def middle(frame: int) -> np.ndarray:
    return np.round(START + PACE * frame - SIDE / 2) + SIDE / 2


def seed(frame: int, off: float = 0.0) -> Seed:
    x, y = middle(frame) + off
    return Seed(name=("performer", "left_knee"), frame=frame, x=float(x), y=float(y), sigma=0.5)


def test_a_point_is_tracked_both_ways_and_grows_unsure(clip: Path) -> None:
    (way,) = track_seeds(clip, [seed(12)], 2, 25)
    assert [spot.frame for spot in way.spots] == list(range(2, 26))
    for spot in way.spots:
        assert (spot.x, spot.y) == pytest.approx(tuple(middle(spot.frame)), abs=0.6)
    sigmas = [spot.sigma for spot in way.spots]
    assert sigmas[10] == min(sigmas) == 0.5
    assert sigmas[10:] == sorted(sigmas[10:]) and sigmas[:11] == sorted(sigmas[:11], reverse=True)
    assert way.lost is None


def test_what_is_hidden_is_lost_and_nothing_is_made_up(clip: Path) -> None:
    (way,) = track_seeds(clip, [seed(20)], 20, 39)
    assert way.lost == 30
    assert way.spots[-1].frame == 29


def bodies(*frames: int, off: float = 0.0) -> dict[str, Body]:
    points = [{"frame": f, "x": float(middle(f)[0]) + off, "y": float(middle(f)[1]), "sigma": 1.0} for f in frames]
    return {"performer": Body.model_validate({"landmarks": {"left_knee": points}})}


def test_placed_points_stay_and_what_lies_between_comes_from_both(clip: Path) -> None:
    found, lost = track_points(clip, bodies(4, 24), 0, 28)  # type: ignore[arg-type]
    points = {point.frame: point for point in found["performer"].landmarks["left_knee"]}
    assert sorted(points) == list(range(29)) and lost == ()
    assert points[4].by == points[24].by == "placed" and points[14].by == "tracked"
    one_sided, _ = track_points(clip, bodies(4), 0, 28)  # type: ignore[arg-type]
    alone = next(point for point in one_sided["performer"].landmarks["left_knee"] if point.frame == 14)
    assert points[14].sigma is not None and alone.sigma is not None and points[14].sigma < alone.sigma
    again, _ = track_points(clip, found, 0, 28)
    assert again == found


def test_two_sides_that_disagree_are_unsure_by_it(clip: Path) -> None:
    wrong = bodies(4)["performer"].landmarks["left_knee"] + bodies(24, off=-20.0)["performer"].landmarks["left_knee"]
    found, _ = track_points(clip, {"performer": Body(landmarks={"left_knee": wrong})}, 4, 24)
    middle_one = next(point for point in found["performer"].landmarks["left_knee"] if point.frame == 14)
    assert middle_one.sigma is not None and middle_one.sigma >= 9


@pytest.mark.parametrize(
    ("first", "last", "message"), [(30, 39, "no placed point"), (4, 60, "no frame 60"), (0, 5000, "at most 900")]
)
def test_a_stretch_that_cannot_be_is_told(clip: Path, first: int, last: int, message: str) -> None:
    with pytest.raises(BadInput, match=message):
        track_points(clip, bodies(12), first, last)  # type: ignore[arg-type]


def test_the_command_answers_with_a_bodies_object(clip: Path, tmp_path: Path) -> None:
    given = tmp_path / "points.json"
    given.write_text(json.dumps({"performer": bodies(12)["performer"].model_dump(mode="json", exclude_unset=True)}))
    done = lacertus("track", clip, "--from", 12, "--to", 35, "--points", given, "--json")
    assert done.returncode == 0 and "left knee, placed at frame 12, was lost at frame 30" in done.stderr
    answer = json.loads(done.stdout)
    assert [point["frame"] for point in answer["performer"]["landmarks"]["left_knee"]] == list(range(12, 30))
    assert {point["by"] for point in answer["performer"]["landmarks"]["left_knee"][1:]} == {"tracked"}
    assert Body.model_validate(answer["performer"])


@pytest.mark.parametrize("text", ["no json", "[]", '{"dog": {}}', '{"performer": {"landmarks": {"tail": []}}}', "{}"])
def test_a_bad_points_file_is_told_in_one_line(clip: Path, tmp_path: Path, text: str) -> None:
    given = tmp_path / "points.json"
    given.write_text(text)
    done = lacertus("track", clip, "--from", 0, "--to", 9, "--points", given, "--json")
    assert (done.returncode, done.stdout) == (2, "")
    assert done.stderr.startswith("lacertus: ") and done.stderr.count("\n") == 1


def test_on_the_studios_figures_most_points_lie_within_what_sigma_says(tmp_path: Path) -> None:
    """2.45 σ holds 95 % of a Gaussian in the plane; feet in a kick are not Gaussian."""
    script = tmp_path / "kick.yaml"
    script.write_text(
        "lacertus_script: 1\nid: x\ntechnique: front-kick\nsays: x\nseed: 3\nreps:\n  - {}\n"
        "camera: {size: [640, 360]}\nrecording: {fps: 60}\n"
    )
    assert lacertus("studio", "render", script, "--out", tmp_path).returncode == 0
    rep = read_rep(json.loads((tmp_path / "truth.json").read_text())["reps"][0])
    start = rep.range[0] + 10
    truth = {name: {p.frame: p for p in points} for name, points in rep.bodies["performer"].landmarks.items()}
    seeds = [Seed(name=("performer", name), frame=start, x=at[start].x, y=at[start].y, sigma=1.0) for name, at in truth.items()]
    inside = []
    for way in track_seeds(tmp_path / "clip.mp4", seeds, start, start + 10):
        for spot in way.spots[1:]:
            true = truth[way.seed.name[1]][spot.frame]
            inside.append(np.hypot(spot.x - true.x, spot.y - true.y) <= 2.45 * spot.sigma)
    assert len(inside) > 100
    assert np.mean(inside) > 0.85
