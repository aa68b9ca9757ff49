"""Points as COCO person keypoints (JSON), out and in. Pixels of the displayed picture, x right, y down; frames from 0.

A file of ours names our landmarks in its category and keeps σ and provenance under `lacertus`, so that what goes out comes back
the same. The usual seventeen keypoints are read too; eyes are left out, as no landmark lies there.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from pydantic import Field, ValidationError

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import BODIES, LANDMARKS, SEGMENTS, BodyName
from lacertus.core.measuring.repfile import Body, PointEntry
from lacertus.core.model import Record, problems_of

ABSENT, HIDDEN, SEEN = 0, 1, 2
KEYPOINTS: tuple[str, ...] = tuple(sorted(LANDMARKS))
SEVENTEEN: tuple[str, ...] = (
    "nose", "left_eye", "right_eye", "left_ear", "right_ear", "left_shoulder", "right_shoulder", "left_elbow", "right_elbow",
    "left_wrist", "right_wrist", "left_hip", "right_hip", "left_knee", "right_knee", "left_ankle", "right_ankle",
)  # fmt: skip
MOST_ANNOTATIONS = 200_000
_PER_POINT = ("sigma", "shared", "grain", "by")


class BadKeypoints(BadInput):
    """This keypoints file cannot be read. Nothing was stored."""


class _Image(Record, extra="ignore"):
    id: int
    width: int = Field(gt=0, le=100_000)
    height: int = Field(gt=0, le=100_000)
    file_name: str = ""
    frame: int | None = Field(default=None, ge=0)


class _Annotation(Record, extra="ignore"):
    image_id: int
    category_id: int
    keypoints: tuple[float, ...] = Field(max_length=300)
    track_id: int | None = None
    body: Literal["performer", "partner"] | None = None
    lacertus: dict[str, list[Any]] = {}


class _Category(Record, extra="ignore"):
    id: int
    name: str = ""
    keypoints: tuple[str, ...] = Field(max_length=100)


class _File(Record, extra="ignore"):
    images: tuple[_Image, ...] = Field(max_length=MOST_ANNOTATIONS)
    annotations: tuple[_Annotation, ...] = Field(max_length=MOST_ANNOTATIONS)
    categories: tuple[_Category, ...] = Field(max_length=50)


def coco_of(bodies: Mapping[BodyName, Body], size: tuple[int, int], name: str = "clip") -> dict[str, Any]:
    """Bodies as a COCO keypoints file: an image for each frame that has a point, an annotation for each body on it."""
    frames = sorted({p.frame for data in bodies.values() for points in data.landmarks.values() for p in points})
    annotations: list[dict[str, Any]] = []
    for track, body in enumerate(BODIES, 1):
        data = bodies.get(body)
        by_frame: dict[int, dict[str, PointEntry]] = {}
        for landmark, points in (data.landmarks if data else {}).items():
            for point in points:
                by_frame.setdefault(point.frame, {})[landmark] = point
        for frame in sorted(by_frame):
            annotations.append(_annotation(len(annotations) + 1, frame, track, body, by_frame[frame]))
    return {
        "info": {"description": f"Lacertus: points of {name}", "version": "1"},
        "images": [{"id": f + 1, "file_name": f"frame_{f:06d}", "width": size[0], "height": size[1], "frame": f} for f in frames],
        "annotations": annotations,
        "categories": [
            {
                "id": 1,
                "name": "person",
                "supercategory": "person",
                "keypoints": list(KEYPOINTS),
                "skeleton": [[KEYPOINTS.index(a) + 1, KEYPOINTS.index(b) + 1] for a, b in _bones()],
            }
        ],
    }


def _bones() -> list[tuple[str, str]]:
    return [(a, b) for a, b in SEGMENTS.values() if a in LANDMARKS and b in LANDMARKS]


def _annotation(number: int, frame: int, track: int, body: BodyName, points: Mapping[str, PointEntry]) -> dict[str, Any]:
    flat: list[float] = []
    more: dict[str, list[Any]] = {key: [] for key in _PER_POINT}
    for landmark in KEYPOINTS:
        point = points.get(landmark)
        flat += [0.0, 0.0, ABSENT] if point is None else [point.x, point.y, HIDDEN if point.hidden else SEEN]
        for key in _PER_POINT:
            more[key].append(None if point is None else getattr(point, key))
    xs, ys = [p.x for p in points.values()], [p.y for p in points.values()]
    box = [min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)]
    return {
        "id": number,
        "image_id": frame + 1,
        "category_id": 1,
        "track_id": track,
        "body": body,
        "iscrowd": 0,
        "keypoints": flat,
        "num_keypoints": len(points),
        "bbox": box,
        "area": box[2] * box[3],
        "lacertus": more,
    }


def bodies_of(data: Any, size: tuple[int, int], frames: int) -> dict[BodyName, Body]:
    """The bodies of a COCO keypoints file, for a clip of a size and so many frames.

    Raises:
        BadKeypoints: it is no such file, of another skeleton, another picture or other frames, or has more bodies than two.
    """
    try:
        file = _File.model_validate(data)
    except ValidationError as error:
        raise BadKeypoints("the keypoints file: " + "; ".join(str(p) for p in problems_of(error)[:3])) from error
    names = {category.id: _names(category) for category in file.categories}
    frame_of = _frames(file, size, frames)
    found: dict[BodyName, dict[str, list[PointEntry]]] = {}
    for annotation in file.annotations:
        if annotation.category_id not in names:
            raise BadKeypoints(f"an annotation is of category {annotation.category_id}, which the file does not tell of")
        if annotation.image_id not in frame_of:
            raise BadKeypoints(f"an annotation is of image {annotation.image_id}, which the file does not tell of")
        landmarks = found.setdefault(_body(annotation), {})
        for landmark, entry in _points(annotation, names[annotation.category_id], frame_of[annotation.image_id]):
            landmarks.setdefault(landmark, []).append(entry)
    try:
        return {
            body: Body(landmarks={name: tuple(points) for name, points in landmarks.items()}) for body, landmarks in found.items()
        }
    except ValidationError as error:
        raise BadKeypoints("two annotations give the same body on one frame; say which is which by track_id 1 and 2") from error


def _names(category: _Category) -> tuple[str, ...]:
    if len(set(category.keypoints)) != len(category.keypoints):
        raise BadKeypoints("a keypoint stands twice in the skeleton")
    unknown = [name for name in category.keypoints if name not in LANDMARKS and name not in SEVENTEEN]
    if unknown or not category.keypoints:
        raise BadKeypoints(
            f"this file is of another skeleton ({', '.join(unknown[:3]) or 'no keypoints'}): known are a rep file’s landmarks "
            "or the usual seventeen of a person"
        )
    return category.keypoints


def _frames(file: _File, size: tuple[int, int], frames: int) -> dict[int, int]:
    """Frame of each image: as it says, else the number in its name, else its id less one."""
    found = {}
    for image in file.images:
        if (image.width, image.height) != size:
            raise BadKeypoints(f"these keypoints are of a picture of {image.width}×{image.height}, the clip is {size[0]}×{size[1]}")
        digits = "".join(c for c in image.file_name.rpartition("/")[2].partition(".")[0] if c.isdigit())
        frame = image.frame if image.frame is not None else int(digits[:9]) if digits else image.id - 1
        if not 0 <= frame < frames:
            raise BadKeypoints(f"image {image.id} would be frame {frame}; the clip has the frames 0–{frames - 1}")
        found[image.id] = frame
    return found


def _body(annotation: _Annotation) -> BodyName:
    if annotation.body is not None:
        return annotation.body
    if annotation.track_id not in (None, 1, 2):
        raise BadKeypoints(f"track {annotation.track_id}: two bodies are known here, the performer (1) and the partner (2)")
    return BODIES[(annotation.track_id or 1) - 1]


def _points(annotation: _Annotation, names: tuple[str, ...], frame: int) -> list[tuple[str, PointEntry]]:
    flat = annotation.keypoints
    if len(flat) != 3 * len(names):
        raise BadKeypoints(f"an annotation has {len(flat)} numbers where its skeleton asks for {3 * len(names)}")
    found = []
    for i, name in enumerate(names):
        x, y, seen = flat[3 * i : 3 * i + 3]
        if seen == ABSENT or name not in LANDMARKS:
            continue
        kept = {key: values[i] for key, values in annotation.lacertus.items() if key in _PER_POINT and len(values) == len(names)}
        entry = {"frame": frame, "x": x, "y": y, "hidden": seen == HIDDEN, "by": "model"} | {
            key: value for key, value in kept.items() if value is not None
        }
        try:
            found.append((name, PointEntry.model_validate(entry)))
        except ValidationError as error:
            raise BadKeypoints(f"{name} on frame {frame}: " + str(problems_of(error)[0])) from error
    return found
