"""Making the marked clip of a review, with captions and voice notes."""

from __future__ import annotations

import tempfile
import uuid
from pathlib import Path

import structlog
from sqlalchemy.orm import Session

from lacertus.core.corrections.marked_clip import MarkedClipMade
from lacertus.jobs.run import Job, Progress
from lacertus.outputs.captions import captions
from lacertus.services.corrections import correct, marked_clip
from lacertus.store.media import NoMedia, captions_key, marked_key, media, review_key, voice_key
from lacertus.store.queue import MAKE_MARKED_CLIP
from lacertus.video.corrections.marked_clip import Drawn, write_marked
from lacertus.video.corrections.voice import BadVoice, Samples, read_voice

log = structlog.get_logger()


class MakeMarkedClip(Job[marked_clip.Wanted, tuple[marked_clip.Wanted, MarkedClipMade]]):
    task, about = MAKE_MARKED_CLIP, "review"
    what = "Making the marked clip"
    next_step = "The review is kept: make the clip again."

    def load(self, db: Session, about: uuid.UUID, **more: int) -> marked_clip.Wanted | None:
        return marked_clip.wanted(db, about)

    def work(self, about: uuid.UUID, wanted: marked_clip.Wanted, progress: Progress) -> tuple[marked_clip.Wanted, MarkedClipMade]:
        """Write clip and captions. A torn voice note leaves the clip without it."""
        corrections = {key: Drawn(cue=cue, shapes=wanted.shapes[key]) for key, cue in wanted.cues.items()}
        with tempfile.TemporaryDirectory() as name, media().as_local(review_key(wanted.clip)) as copy:
            folder = Path(name)
            voices, lost = _voices(wanted, folder)
            target, words = folder / "marked.mp4", folder / "marked.vtt"
            write_marked(copy, target, wanted.plan, corrections, voices, progress)
            words.write_text(captions(wanted.plan), encoding="utf-8")
            media().put(target, marked_key(wanted.clip))
            media().put(words, captions_key(wanted.clip))
        return wanted, MarkedClipMade(lost=tuple(lost), seconds=round(wanted.plan.length_s, 1))

    def done(self, db: Session, about: uuid.UUID, made: tuple[marked_clip.Wanted, MarkedClipMade]) -> None:
        wanted, told = made
        if not marked_clip.note_made(db, about, told, [uuid.UUID(key) for key in wanted.cues]):
            # Whoever deleted the correction found no clip yet: it may show somebody who is forgotten.
            for key in (marked_key(wanted.clip), captions_key(wanted.clip)):
                media().delete(key)


def _voices(wanted: marked_clip.Wanted, folder: Path) -> tuple[dict[str, Samples], list[str]]:
    """The voice notes that can be heard, by correction, and the cues of those that cannot."""
    voices, lost = {}, []
    for correction in wanted.voices:
        try:
            with media().as_local(voice_key(wanted.clip, correction)) as note:
                voices[str(correction)] = read_voice(note, folder / f"{correction}.pcm", correct.LONGEST_VOICE_S)
        except (BadVoice, NoMedia) as error:
            log.warning("voice note left out", correction=str(correction), why=str(error))
            lost.append(wanted.cues[str(correction)])
    return voices, lost
