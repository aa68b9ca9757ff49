"""Jobs, as the API gives them."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Literal

from pydantic import Field

from lacertus.web.schemas import Out


class JobOut(Out):
    """Work that the worker does, how far it is, and how it ended."""

    id: uuid.UUID
    task: Literal["read_clip", "draw_still", "track_points", "draw_example", "make_marked_clip", "make_compared_film"]
    about: uuid.UUID = Field(description="What it is done to: a clip, a rep, a correction, a review")
    clip_id: uuid.UUID
    state: Literal["waiting", "running", "done", "failed", "stopped"]
    done: int
    of: int | None
    reason: str | None = Field(description="Why it failed, with what to do")
    stop_asked: bool
    asked_at: datetime


class ListedJobOut(JobOut):
    clip_name: str
    ahead: int | None = Field(description="How many wait before it, where it waits")
