"""Builds the pose model's bundle from the published model files: a stored ZIP of two TensorFlow Lite models with metadata.

The models say nothing of how brightness is to be scaled; the library asks for it in each model's metadata. Run by the set-up:
`python -m lacertus.local.pose_model SOURCE BUNDLE`.
"""

from __future__ import annotations

import json
import re
import sys
import zipfile
from pathlib import Path
from typing import Any

import flatbuffers

from lacertus.core.errors import BadInput

DETECTOR = "pose_detection.tflite"
LANDMARKS = "pose_landmark_full.tflite"
PACKED, INDEX = "pose_solution_packed_assets.data", "pose_solution_packed_assets_loader.js"
DETECTOR_SCALE = (127.5, 127.5)
"""Mean and standard deviation of brightness, 0 to 255, as the detector expects it: −1 to 1."""
LANDMARKS_SCALE = (0.0, 255.0)
"""The landmark model expects 0 to 1."""


def build(source: Path, bundle: Path) -> None:
    """Write the bundle.

    Raises:
        BadInput: the folder does not hold the models.
    """
    try:
        detector = _packed(source, DETECTOR)
        landmarks = (source / LANDMARKS).read_bytes()
    except (OSError, ValueError) as error:
        raise BadInput(f"{source} does not hold the pose models: {error}") from error
    bundle.parent.mkdir(parents=True, exist_ok=True)
    fresh = bundle.with_suffix(".part")
    with zipfile.ZipFile(fresh, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr("pose_detector.tflite", _scaled(detector, *DETECTOR_SCALE))
        archive.writestr("pose_landmarks_detector.tflite", _scaled(landmarks, *LANDMARKS_SCALE))
    fresh.replace(bundle)


def _packed(source: Path, name: str) -> bytes:
    """A file out of the package's packed assets; its script tells where each begins and ends."""
    index = (source / INDEX).read_text(encoding="utf-8")
    for entry in re.findall(r'\{"filename":[^{}]*\}', index):
        found = json.loads(entry)
        if found["filename"].endswith(name):
            return (source / PACKED).read_bytes()[found["start"] : found["end"]]
    raise ValueError(f"{PACKED} has no {name}")


def _scaled(model: bytes, mean: float, deviation: float) -> bytes:
    """The model with metadata that tells how its input is to be scaled."""
    from mediapipe.tasks.metadata import schema_py_generated as tflite

    found = tflite.ModelT.InitFromObj(tflite.Model.GetRootAsModel(bytearray(model), 0))
    buffer = tflite.BufferT()
    buffer.data = list(_metadata(mean, deviation))
    found.buffers.append(buffer)
    entry = tflite.MetadataT()
    entry.name, entry.buffer = "TFLITE_METADATA", len(found.buffers) - 1
    found.metadata = [*(found.metadata or []), entry]
    return _packed_up(found, b"TFL3")


def _metadata(mean: float, deviation: float) -> bytes:
    from mediapipe.tasks.metadata import metadata_schema_py_generated as schema

    scale = schema.NormalizationOptionsT()
    scale.mean, scale.std = [mean], [deviation]
    unit = schema.ProcessUnitT()
    unit.optionsType, unit.options = schema.ProcessUnitOptions.NormalizationOptions, scale
    tensor = schema.TensorMetadataT()
    tensor.name, tensor.processUnits = "image", [unit]
    part = schema.SubGraphMetadataT()
    part.inputTensorMetadata = [tensor]
    whole = schema.ModelMetadataT()
    whole.name, whole.subgraphMetadata = "pose", [part]
    return _packed_up(whole, b"M001")


def _packed_up(record: Any, mark: bytes) -> bytes:
    builder = flatbuffers.Builder(0)
    builder.Finish(record.Pack(builder), mark)
    return bytes(builder.Output())


if __name__ == "__main__":
    build(Path(sys.argv[1]), Path(sys.argv[2]))
