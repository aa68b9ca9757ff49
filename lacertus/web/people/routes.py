"""Signing in and out, and students."""

from __future__ import annotations

import shutil
import tempfile
import uuid
from datetime import date
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Cookie, Request, Response
from fastapi.responses import FileResponse
from starlette.background import BackgroundTask

from lacertus.core.errors import BadInput
from lacertus.services.academy import roster
from lacertus.services.people import accounts, people
from lacertus.services.techniques import adaptations
from lacertus.services.transfer import forget, student_in, student_out
from lacertus.web import schemas as s
from lacertus.web.body import COOKIE
from lacertus.web.people.cookies import DEVICE_COOKIE, device_word, open_session
from lacertus.web.session import Content, ContentFile, Db, HalfSignedIn, SignedIn, Token, takes
from lacertus.web.techniques import presenters

router = APIRouter(tags=["people"])
Device = Annotated[str | None, Cookie(alias=DEVICE_COOKIE, include_in_schema=False)]


@router.post("/session")
def sign_in(form: s.SignInForm, request: Request, response: Response, db: Db, device: Device = None) -> s.CoachOut:
    """Sign in; the answer sets the session cookie, and one by which this device is known again."""
    address = request.client.host if request.client else ""
    opened = accounts.sign_in(db, form.email, form.password, address, device, form.code, device_word(request))
    return open_session(db, request, response, opened)


@router.get("/session")
def who(coach: HalfSignedIn) -> s.CoachOut:
    """Who is signed in."""
    return s.CoachOut.model_validate(coach)


@router.delete("/session")
def sign_out(response: Response, db: Db, token: Token = None) -> s.Done:
    accounts.sign_out(db, token)
    response.delete_cookie(COOKIE, path="/")
    # Pictures of people are not to be found in the browser of a laptop at the mat's edge afterwards.
    response.headers["Clear-Site-Data"] = '"cache"'
    return s.Done()


@router.get("/students")
def read_students(coach: SignedIn, db: Db) -> list[s.StudentOut]:
    """The students who come, by name."""
    return [s.StudentOut.model_validate(student) for student in people.students(db, coach.academy_id)]


@router.get("/roster")
def read_roster(coach: SignedIn, db: Db, archived: bool = False) -> list[s.RosterRowOut]:
    """The students with what is open, last filmed, due, and who may be thrown; with `archived` those of before too."""
    return [s.RosterRowOut.model_validate(row) for row in roster.roster(db, coach.academy_id, date.today(), archived)]


@router.post("/students", status_code=201)
def create_student(form: s.NewStudentIn, coach: SignedIn, db: Db) -> s.StudentOut:
    """Add a student. Where there is one of nearly this name, it is asked whether that is meant (`likely_double`)."""
    if not form.sure:
        people.check_no_double(db, coach.academy_id, form.name)
    created = people.create_student(db, coach.academy_id, **form.model_dump(exclude={"sure"}))
    return s.StudentOut.model_validate(created)


@router.put("/students/{student_id}/archived")
def archive_student(student_id: uuid.UUID, coach: SignedIn, db: Db) -> s.StudentOut:
    """Leave a student out of the lists; everything is kept."""
    return s.StudentOut.model_validate(people.archive(db, coach.academy_id, student_id, True))


@router.delete("/students/{student_id}/archived")
def take_student_back(student_id: uuid.UUID, coach: SignedIn, db: Db) -> s.StudentOut:
    return s.StudentOut.model_validate(people.archive(db, coach.academy_id, student_id, False))


@router.post("/students/{student_id}/join")
def join_students(student_id: uuid.UUID, form: s.JoinStudentsIn, coach: SignedIn, db: Db) -> s.StudentOut:
    """Join another student into this one: the history of both is this one's then."""
    return s.StudentOut.model_validate(forget.join(db, coach.academy_id, student_id, form.other))


@router.get("/students/{student_id}/goes")
def read_what_goes(student_id: uuid.UUID, coach: SignedIn, db: Db) -> s.GoesOut:
    """What deleting this student would delete."""
    return s.GoesOut.model_validate(forget.what_goes(db, coach.academy_id, student_id))


@router.delete("/students/{student_id}")
def delete_student(student_id: uuid.UUID, coach: SignedIn, db: Db) -> s.GoesOut:
    """Delete a student with everything. This cannot be undone."""
    return s.GoesOut.model_validate(forget.forget(db, coach.academy_id, student_id))


@router.post("/students/list", status_code=201, openapi_extra=takes("text/plain"))
def bring_students(content: Content, coach: SignedIn, db: Db) -> list[s.StudentOut]:
    """Add students from a CSV (docs/formats.md); those that are there already stay as they are. Answers with those added."""
    try:
        text = content.decode("utf-8")
    except UnicodeDecodeError as error:
        raise BadInput("this list is not in UTF-8; nothing was stored") from error
    return [s.StudentOut.model_validate(student) for student in people.import_students(db, coach.academy_id, text)]


@router.patch("/students/{student_id}")
def change_student(student_id: uuid.UUID, form: s.StudentChange, coach: SignedIn, db: Db) -> s.StudentOut:
    """Change what is known of a student; what is left out stays as it is."""
    told = form.model_dump(exclude_unset=True)
    change = {name: value for name, value in told.items() if value is not None or name in s.CAN_BE_EMPTIED}
    return s.StudentOut.model_validate(people.change_student(db, coach.academy_id, student_id, change))


@router.get("/students/{student_id}/adaptations")
def read_adaptations(student_id: uuid.UUID, coach: SignedIn, db: Db) -> list[s.AdaptationOut]:
    """What is asked differently of a student, with the reasons."""
    return [presenters.adaptation_out(found) for found in adaptations.in_force(db, coach.academy_id, student_id)]


@router.post("/students/{student_id}/adaptations", status_code=201)
def adapt(student_id: uuid.UUID, form: s.AdaptationIn, coach: SignedIn, db: Db) -> list[s.AdaptationOut]:
    """Ask a checkpoint differently of a student from now on; finished reviews keep what was asked then."""
    data = form.model_dump(exclude={"technique"}, exclude_none=True)
    adaptations.adapt(db, coach.academy_id, student_id, form.technique, data)
    return read_adaptations(student_id, coach, db)


@router.delete("/students/{student_id}/adaptations/{adaptation_id}")
def end_adaptation(student_id: uuid.UUID, adaptation_id: uuid.UUID, coach: SignedIn, db: Db) -> list[s.AdaptationOut]:
    """Ask a checkpoint as of anyone again."""
    adaptations.end(db, coach.academy_id, student_id, adaptation_id)
    db.flush()
    return read_adaptations(student_id, coach, db)


@router.get("/students/{student_id}/file.zip", response_class=FileResponse)
def read_student_file(student_id: uuid.UUID, coach: SignedIn, db: Db) -> FileResponse:
    """A student's everything as one ZIP."""
    folder = Path(tempfile.mkdtemp(prefix="lacertus-"))
    target = folder / "student.zip"
    try:
        student_out.write(db, coach.academy_id, student_id, target)
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    gone = BackgroundTask(shutil.rmtree, folder, ignore_errors=True)
    return FileResponse(target, media_type="application/zip", filename="student.zip", background=gone)


@router.post("/students/file", status_code=201, openapi_extra=takes("application/octet-stream"))
def bring_student(file: ContentFile, coach: SignedIn, db: Db) -> s.StudentOut:
    """Bring in a student's ZIP under new ids; its films are read anew. Larger ones: `lacertus import student`."""
    student, _ = student_in.read(db, coach.academy_id, file)
    return s.StudentOut.model_validate(student)
