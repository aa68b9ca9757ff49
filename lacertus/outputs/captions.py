"""Cues as WebVTT."""

from __future__ import annotations

from collections.abc import Sequence

import webvtt

from lacertus.core.corrections.marked_clip import MarkedClipPlan


def captions(plan: MarkedClipPlan) -> str:
    """The cues of a marked clip."""
    return vtt([(one.from_s, one.to_s, one.cue) for one in plan.spoken])


def vtt(cues: Sequence[tuple[float, float, str]]) -> str:
    """Cues (from, to in seconds, words) as WebVTT; what would be markup there is plain text."""
    found = webvtt.WebVTT()
    for start, end, words in cues:
        text = " ".join(words.split()).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
        found.captions.append(webvtt.Caption(_clock(start), _clock(max(end, start + 0.001)), text))
    return str(found.content) + "\n"


def _clock(seconds: float) -> str:
    whole = max(0, round(seconds * 1000))
    return f"{whole // 3_600_000:02d}:{whole // 60_000 % 60:02d}:{whole // 1000 % 60:02d}.{whole % 1000:03d}"
