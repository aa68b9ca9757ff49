"""A sheet’s page → what the API gives."""

from __future__ import annotations

from lacertus.core.sheets.revision import left_in_words
from lacertus.services.sheets.page import Link, SheetPage
from lacertus.web.jobs.schemas import JobOut
from lacertus.web.review.schemas import SaidOut
from lacertus.web.sheets import schemas as t


def sheet_page_out(page: SheetPage, site: str) -> t.SheetPageOut:
    review, sheet = page.review, page.sheet
    return t.SheetPageOut(
        review=review.id,
        clip=review.clip_id,
        student=page.student.id,
        student_name=page.student.name,
        email=page.student.email,
        finished=review.finished_at is not None,
        reopened_why=review.reopened_why,
        good=list(sheet.good),
        fixes=[fix.ask for fix in sheet.fixes],
        compare=[t.ToCompareOut(ask=fix.ask, rep=rep, checkpoint=fix.checkpoint) for fix, rep in page.to_compare],
        question=sheet.question,
        next_on=sheet.next_on,
        words=review.words,
        marked=review.marked,
        corrections=len(review.corrections),
        revisions=[
            t.RevisionOut(
                number=one.number,
                created_at=one.created_at,
                by=by,
                why=one.why,
                changes=list(one.changes),
                left=list(left_in_words(one.record)),
            )
            for one, by in page.revisions
        ],
        links=[link_out(link, site) for link in page.links],
        said=[SaidOut.model_validate(said) for said in page.view.said],
        jobs=[JobOut.model_validate(job) for job in page.work],
    )


def link_out(found: Link, site: str) -> t.LinkOut:
    own = {name: getattr(found.link, name) for name in t.LinkOut.model_fields if name != "address"}
    return t.LinkOut(**own, address=f"{site}/s/{found.token}")
