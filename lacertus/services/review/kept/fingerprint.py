"""The fingerprint of a rep: a digest of everything that its judgements depend on, so that nothing is judged twice."""

from __future__ import annotations

import hashlib

from sqlalchemy import inspect

from lacertus.core.techniques.definition import Technique
from lacertus.store.tables import Base, RepRow, Review

_CLIP = ("id", "width", "height", "capture_rate", "camera", "film", "has_film", "has_sound", "state")
_REVIEW = ("heights_px", "reference", "marking")
_NOT_JUDGED = {"tracking", "created_at", "linked_to", "partner_student_id"}
_techniques: dict[int, tuple[Technique, bytes]] = {}
MOST_TECHNIQUES = 200


def fingerprint_of(review: Review, rep: RepRow, technique: Technique) -> bytes:
    """The fingerprint of a rep as it is asked of its performer; its points are known by their version."""
    clip = review.clip
    parts = (
        digest_of(technique),
        [getattr(clip, name) for name in _CLIP],
        (len(clip.pts_s or ()), (clip.pts_s or [0.0])[-1], clip.duration_s),
        [getattr(review, name) for name in _REVIEW],
        _columns(rep),
        sorted((one.event, one.frames) for one in rep.events),
        sorted((one.checkpoint, one.asked_of, one.yes) for one in rep.answers),
        sorted((one.checkpoint, one.verdict, one.reason) for one in rep.overrules),
    )
    return hashlib.blake2b(repr(parts).encode(), digest_size=24).digest()


def _columns(row: Base) -> list[object]:
    return [(column.key, getattr(row, column.key)) for column in inspect(type(row)).columns if column.key not in _NOT_JUDGED]


def digest_of(technique: Technique) -> bytes:
    """The digest of a definition, kept as long as the definition is: most are asked of everyone as they are."""
    known = _techniques.get(id(technique))
    if known is not None and known[0] is technique:
        return known[1]
    digest = hashlib.blake2b(technique.model_dump_json().encode(), digest_size=24).digest()
    if len(_techniques) >= MOST_TECHNIQUES:
        _techniques.clear()
    _techniques[id(technique)] = (technique, digest)
    return digest
