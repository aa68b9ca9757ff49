"""The tables. Every root row has its academy; a review keeps the technique version it was judged by."""

from lacertus.store.tables.base import Base
from lacertus.store.tables.clips import Clip, UploadRow, ViewTie
from lacertus.store.tables.people import (
    Academy,
    Account,
    AccountLink,
    AdaptationRow,
    AuditRow,
    Note,
    SignIn,
    SignInAttempt,
    Student,
)
from lacertus.store.tables.progress import Feeling, Grade, JudgementRow, ReactedRow, Requirement, RungDecision, Tally, Taught
from lacertus.store.tables.reviews import Answer, Correction, EventMark, Opinion, OverruleRow, PointRow, RemarkRow, RepRow, Review
from lacertus.store.tables.sheets import Revision, ShareLink, SheetAnswer
from lacertus.store.tables.site import JobRow, SiteFact, SiteKey
from lacertus.store.tables.students import ConsentRow, InboxRow, StudentLink
from lacertus.store.tables.techniques import MadeStart, TechniqueVersion

__all__ = [
    "Academy",
    "Account",
    "AccountLink",
    "AdaptationRow",
    "Answer",
    "AuditRow",
    "Base",
    "Clip",
    "ConsentRow",
    "Correction",
    "EventMark",
    "Feeling",
    "Grade",
    "InboxRow",
    "JobRow",
    "JudgementRow",
    "MadeStart",
    "Note",
    "Opinion",
    "OverruleRow",
    "PointRow",
    "ReactedRow",
    "RemarkRow",
    "RepRow",
    "Requirement",
    "Review",
    "Revision",
    "RungDecision",
    "ShareLink",
    "SheetAnswer",
    "SignIn",
    "SignInAttempt",
    "SiteFact",
    "SiteKey",
    "Student",
    "StudentLink",
    "Tally",
    "Taught",
    "TechniqueVersion",
    "UploadRow",
    "ViewTie",
]
