"""Corrections: drawn, made ready, copied, spoken over, with a picture of the same done right beside them."""

from __future__ import annotations

import uuid
from typing import Annotated

from fastapi import APIRouter, Depends, Header, Response
from fastapi.responses import StreamingResponse

from lacertus.services.corrections import correct, examples, phrases
from lacertus.services.corrections.correct import Drawing
from lacertus.store.media import media
from lacertus.web.corrections import schemas as cor
from lacertus.web.files import FileAsked, send_file
from lacertus.web.review import schemas as ben
from lacertus.web.review.noted import noted
from lacertus.web.review.routes import answer_rep, answer_review
from lacertus.web.session import Content, Db, SignedIn, takes

router = APIRouter(tags=["corrections"], dependencies=[Depends(noted)])


@router.put("/reps/{rep_id}/corrections/{correction_id}")
def draw_correction(rep_id: uuid.UUID, correction_id: uuid.UUID, form: cor.CorrectionIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Draw a correction of a missed checkpoint, or change it; places that lie at a landmark hang on it."""
    given = Drawing(
        checkpoint=form.checkpoint,
        frame=form.frame,
        first=form.first_frame,
        last=form.last_frame,
        marks=tuple(form.marks),
        cue=form.cue,
        snap=form.snap,
        voice_s=form.voice_s,
    )
    correct.draw(db, coach.academy_id, rep_id, given, correction_id)
    return answer_rep(db, coach, rep_id)


@router.post("/reps/{rep_id}/corrections/{correction_id}/default")
def draw_default(rep_id: uuid.UUID, correction_id: uuid.UUID, form: cor.CheckpointIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Make the default correction of a missed checkpoint: marks, frames and words from what it measures."""
    correct.draw_default(db, coach.academy_id, rep_id, form.checkpoint, correction_id)
    return answer_rep(db, coach, rep_id)


@router.post("/corrections/{correction_id}/copy")
def copy_correction(correction_id: uuid.UUID, form: cor.CopiesIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Copy a correction to other reps in which the same was missed; marks follow that rep's landmarks."""
    review_id = correct.one(db, coach.academy_id, correction_id).review_id
    correct.copy(db, coach.academy_id, correction_id, {copy.rep: copy.id for copy in form.copies})
    return answer_review(db, coach, review_id)


@router.delete("/corrections/{correction_id}")
def delete_correction(correction_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.ReviewOut:
    review_id = correct.one(db, coach.academy_id, correction_id).review_id
    correct.delete(db, coach.academy_id, correction_id)
    return answer_review(db, coach, review_id)


@router.get("/reps/{rep_id}/drawn")
def read_drawn(rep_id: uuid.UUID, coach: SignedIn, db: Db) -> list[cor.DrawnCorrectionOut]:
    """What is drawn of each correction of a rep, stretch by stretch of frames, as plain shapes."""
    found = correct.shown(db, coach.academy_id, rep_id)
    return [
        cor.DrawnCorrectionOut(id=key, stretches=[cor.DrawnStretchOut.model_validate(one) for one in stretches])
        for key, stretches in found.items()
    ]


@router.get("/corrections/{correction_id}/still", response_class=StreamingResponse)
def read_still(correction_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """The picture of a correction (JPEG)."""
    return send_file(*correct.still_file(db, coach.academy_id, correction_id), "image/jpeg", asked)


# --- right beside wrong -------------------------------------------------------------------------------


@router.get("/corrections/{correction_id}/example")
def read_choices(correction_id: uuid.UUID, coach: SignedIn, db: Db) -> list[cor.ExampleChoiceOut]:
    """What can stand beside a correction: the student's own best rep, another's who lends pictures, the studio's figure."""
    return [cor.ExampleChoiceOut(source=c.source, words=c.words) for c in examples.choices(db, coach.academy_id, correction_id)]


@router.get("/corrections/{correction_id}/phrases")
def read_phrases(correction_id: uuid.UUID, coach: SignedIn, db: Db) -> list[str]:
    """Words for a correction: what this coach wrote for the same checkpoint before, the most used first, then the technique's."""
    return phrases.known(db, coach.academy_id, coach.id, correction_id)


@router.put("/corrections/{correction_id}/example")
def put_example(correction_id: uuid.UUID, form: cor.ExampleIn, coach: SignedIn, db: Db) -> ben.ReviewOut:
    """Have the best picture of a source stand beside a correction; no source takes it away."""
    correction = examples.put_example(db, coach.academy_id, correction_id, form.source)
    return answer_review(db, coach, correction.review_id)


@router.get("/corrections/{correction_id}/example/picture", response_class=StreamingResponse)
def read_example(correction_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """The picture beside a correction (JPEG)."""
    return send_file(*examples.example_file(db, coach.academy_id, correction_id), "image/jpeg", asked)


@router.get("/corrections/{correction_id}/example/film", response_class=StreamingResponse)
def read_example_film(correction_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """The studio's figure beside a correction, moving, at half speed (MP4)."""
    return send_file(*examples.example_film(db, coach.academy_id, correction_id), "video/mp4", asked)


# --- the voice note -----------------------------------------------------------------------------------


@router.put("/corrections/{correction_id}/voice", openapi_extra=takes("application/octet-stream"))
def keep_voice(
    correction_id: uuid.UUID,
    seconds: Annotated[float, Header(alias="X-Seconds", gt=0, le=3600, allow_inf_nan=False)],
    sound: Content,
    coach: SignedIn,
    db: Db,
) -> ben.ReviewOut:
    """Keep what the coach said over a correction, as the browser recorded it."""
    review_id = correct.one(db, coach.academy_id, correction_id).review_id
    correct.keep_voice(db, coach.academy_id, correction_id, sound, seconds)
    return answer_review(db, coach, review_id)


@router.delete("/corrections/{correction_id}/voice")
def drop_voice(correction_id: uuid.UUID, coach: SignedIn, db: Db) -> ben.ReviewOut:
    review_id = correct.one(db, coach.academy_id, correction_id).review_id
    correct.drop_voice(db, coach.academy_id, correction_id)
    return answer_review(db, coach, review_id)


@router.get("/corrections/{correction_id}/voice", response_class=StreamingResponse)
def read_voice(correction_id: uuid.UUID, coach: SignedIn, db: Db, asked: FileAsked) -> Response:
    """The voice note, as it was recorded."""
    key = correct.voice_file(db, coach.academy_id, correction_id)
    return send_file(media(), key, "audio/webm", asked)
