"""What the bench adds to a review: verdicts overruled, the frame of reference, tracked points, proposed events, live measuring."""

from __future__ import annotations

import uuid
from typing import Any

import pytest
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from lacertus.core.errors import BadInput
from lacertus.core.measuring.body import LANDMARKS
from lacertus.core.review.reconcile import Observed
from lacertus.core.review.reference import FrameOfReference
from lacertus.jobs import tasks
from lacertus.services.clips import intake
from lacertus.services.errors import Conflict, NotFound
from lacertus.services.review import blind_remarking, live, loading, reference, tracking
from lacertus.services.review import review as reviewing
from lacertus.services.review.cuts import RepChanges, RepCut
from lacertus.services.review.review import Spot
from lacertus.services.sheets import clip_facts
from lacertus.services.sheets import finish as finishing
from lacertus.store import queue
from lacertus.store.tables import Account, JudgementRow, PointRow
from lacertus.video.tracking.bodies import TrackedBodies
from tests.halls import Hall, cut, hall, judged, read_in


@pytest.fixture
def review(db: Session, where: Hall, clip: uuid.UUID) -> uuid.UUID:
    found = reviewing.open_review(db, where.academy, clip).id
    db.commit()
    return found


@pytest.fixture
def truth(truths: dict[str, Any]) -> dict[str, Any]:
    return dict(truths["constant"]["reps"][0])


@pytest.fixture
def rep(db: Session, where: Hall, review: uuid.UUID, truth: dict[str, Any]) -> uuid.UUID:
    return cut(db, where, review, truth)


def judgement(db: Session, where: Hall, review: uuid.UUID, checkpoint: str) -> Any:
    return next(j for j in judged(db, where, review)[0].judgements if j.id == checkpoint)


class TestOverrule:
    def test_both_verdicts_stay_with_the_reason_and_go_into_the_ledger(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        before = judgement(db, where, review, "thigh_lifted")
        other = "missed" if before.verdict == "met" else "met"
        reviewing.overrule(db, where.academy, rep, "thigh_lifted", other, "seen from the other side")
        after = judgement(db, where, review, "thigh_lifted")
        assert (after.verdict, after.measured, after.because) == (other, before.verdict, "seen from the other side")
        assert (after.value, after.uncertainty) == (before.value, before.uncertainty)
        finishing.finish(db, where.academy, review)
        db.flush()
        row = db.scalars(select(JudgementRow).where(JudgementRow.checkpoint == "thigh_lifted")).one()
        assert (row.verdict, row.measured, row.because) == (other, before.verdict, "seen from the other side")
        with pytest.raises(Conflict, match="This review is finished and kept as"):
            reviewing.overrule(db, where.academy, rep, "thigh_lifted", None)

    def test_it_is_taken_back(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        before = judgement(db, where, review, "thigh_lifted")
        reviewing.overrule(db, where.academy, rep, "thigh_lifted", "not_seen", "an arm is in the way")
        reviewing.overrule(db, where.academy, rep, "thigh_lifted", None)
        assert judgement(db, where, review, "thigh_lifted") == before

    def test_an_unknown_checkpoint_is_refused(self, db: Session, where: Hall, rep: uuid.UUID) -> None:
        with pytest.raises(BadInput, match="no checkpoint"):
            reviewing.overrule(db, where.academy, rep, "tail_up", "met", "why not")


CORNERS = [(100, 200, 0, 0), (300, 200, 1, 0), (320, 240, 1, 1), (80, 240, 0, 1)]


def floor(*corners: tuple[float, float, float, float]) -> list[dict[str, float]]:
    return [dict(zip(("x", "y", "X", "Y"), corner, strict=True)) for corner in corners]


class TestInSpace:
    LEG = ("left_hip", "right_hip", "right_knee", "right_ankle")

    @pytest.fixture
    def frame(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truth: dict[str, Any]) -> int:
        """A leg in one frame, of a body whose height is marked."""
        body, frame = truth["bodies"]["performer"], int(truth["events"]["knee_top"][0])
        reference.set_height(db, where.academy, review, "performer", body["height_px"])
        for landmark in self.LEG:
            place = body["landmarks"][landmark][frame]
            reviewing.place_point(
                db, where.academy, rep, Spot(body="performer", landmark=landmark, frame=frame), place["x"], place["y"]
            )
        return frame

    def knee(self, db: Session, where: Hall, rep: uuid.UUID, frame: int) -> int:
        """How likely the right knee is nearer than the hip, per cent."""
        performer = next(one for one in reference.in_space(db, where.academy, rep) if one.body == "performer")
        near = next(one for one in performer.frames if one.frame == frame).near
        share = near[[lean.joint for lean in performer.leaning].index("right_knee")]
        assert share is not None
        return share

    @pytest.mark.parametrize("nearer", [True, False])
    def test_what_is_told_of_depth_is_believed_and_taken_back(
        self, db: Session, where: Hall, rep: uuid.UUID, frame: int, nearer: bool
    ) -> None:
        before = self.knee(db, where, rep, frame)
        told = {"body": "performer", "landmark": "right_knee", "frame": frame, "nearer": nearer}
        reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate({"nearer": [told]}))
        assert self.knee(db, where, rep, frame) in (range(80, 101) if nearer else range(21))
        reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate({"nearer": []}))
        assert self.knee(db, where, rep, frame) == before

    @pytest.mark.parametrize(("change", "says"), [({"frame": 9999}, "past the clip"), ({"landmark": "nose"}, "not one of")])
    def test_what_does_not_fit_is_refused(
        self, db: Session, where: Hall, rep: uuid.UUID, frame: int, change: dict[str, Any], says: str
    ) -> None:
        told = {"body": "performer", "landmark": "right_knee", "frame": frame, "nearer": True} | change
        with pytest.raises((ValueError, BadInput), match=says):
            reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate({"nearer": [told]}))

    def test_of_another_academy_nothing_is_told(self, db: Session, rep: uuid.UUID) -> None:
        with pytest.raises(NotFound, match="no such rep"):
            reference.in_space(db, uuid.uuid4(), rep)


class TestReference:
    def test_its_parts_reach_the_judge_and_are_taken_back(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        change = {"upright": {"deg": 3.0, "u": 0.5}, "centimetres_per_pixel": 0.4, "floor": floor(*CORNERS)}
        reference.set_reference(db, where.academy, review, FrameOfReference.model_validate(change))
        loaded = loading.load(db, where.academy, review)
        file = loading.rep_file(loaded, loaded.reps[0])
        assert (file.upright.deg, file.upright.u, file.centimetres_per_pixel) == (3.0, 0.5, 0.4)
        assert file.floor is not None and file.floor[1].X == 1
        reference.set_reference(db, where.academy, review, FrameOfReference.model_validate({"floor": None}))
        loaded = loading.load(db, where.academy, review)
        file = loading.rep_file(loaded, loaded.reps[0])
        assert file.floor is None and file.upright.deg == 3.0

    @pytest.mark.parametrize(
        ("corners", "words"),
        [
            ([(0, 0, 0, 0), (10, 0, 1, 0), (20, 0, 2, 0), (30, 0, 3, 0)], "in a line"),
            ([(100, 200, 0, 0), (300, 200, 1, 0), (9000, 240, 1, 1), (80, 240, 0, 1)], "outside the picture"),
        ],
        ids=["line", "outside"],
    )
    def test_mat_points_that_give_no_plan_are_refused(
        self, db: Session, where: Hall, review: uuid.UUID, corners: list[tuple[float, float, float, float]], words: str
    ) -> None:
        with pytest.raises(BadInput, match=words):
            reference.set_reference(db, where.academy, review, FrameOfReference.model_validate({"floor": floor(*corners)}))

    def test_lengths_are_read_off_a_still_frame_and_forgotten(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truth: dict[str, Any]
    ) -> None:
        frame = truth["events"]["full_reach"][0]
        by_table = judgement(db, where, review, "leg_straight")
        reference.read_lengths(db, where.academy, rep, "performer", frame)
        by_frame = judgement(db, where, review, "leg_straight")
        assert by_frame.rests_on == by_table.rests_on == ("picture", "lengths")
        assert by_frame.uncertainty != by_table.uncertainty
        reference.read_lengths(db, where.academy, rep, "performer", None)
        assert judgement(db, where, review, "leg_straight") == by_table
        with pytest.raises(BadInput, match="no limb"):
            reference.read_lengths(db, where.academy, rep, "partner", frame)


class TestTracking:
    def test_points_are_tracked_by_the_worker_and_placed_ones_stay(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truth: dict[str, Any]
    ) -> None:
        first, last = truth["range"]
        placed = db.scalars(select(func.count()).select_from(PointRow).where(PointRow.rep_id == rep)).one()
        tracking.ask(db, where.academy, rep, first, last)
        db.commit()
        tasks.track_points(str(rep), first, last)
        db.expire_all()
        row = loading.load(db, where.academy, review).reps[0]
        assert row.tracking is not None
        job = queue.state_of(db, queue.TRACK_POINTS, rep)
        assert job is not None
        assert job.state == "done"
        tracked = [point for point in row.points if point.by == "tracked"]
        assert len([point for point in row.points if point.by == "placed"]) == placed
        assert len(tracked) > 2 * placed and all(point.sigma and point.sigma > 0 for point in tracked)
        tracking.ask(db, where.academy, rep, first, last)
        db.commit()
        tasks.track_points(str(rep), first, last)
        db.expire_all()
        again = [p for p in loading.load(db, where.academy, review).reps[0].points if p.by == "tracked"]
        assert {(p.landmark, p.frame, p.x) for p in again} == {(p.landmark, p.frame, p.x) for p in tracked}
        tracking.drop(db, where.academy, rep)
        db.commit()
        db.expire_all()
        assert len(loading.load(db, where.academy, review).reps[0].points) == placed

    def test_points_of_all_landmarks_on_every_frame_are_stored(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, clip: uuid.UUID
    ) -> None:
        frames = len(intake.clip(db, where.academy, clip).pts_s or ())
        seen = Observed(model=tuple((frame, 5.0, 5.0, 2.0) for frame in range(frames)))
        bodies = {"performer": dict.fromkeys(LANDMARKS, seen), "partner": dict.fromkeys(LANDMARKS, seen)}
        tracking.store(db, rep, TrackedBodies(observed=bodies), 0, frames - 1)  # type: ignore[arg-type]
        count = select(func.count()).select_from(PointRow).where(PointRow.rep_id == rep)
        # Where the model lies far off a placed point it is doubted, and too unsure to be kept.
        assert 0.8 < db.scalars(count).one() / (2 * frames * len(LANDMARKS)) < 1

    def test_one_placed_point_makes_its_path_anew_and_taking_it_away_brings_the_old_one_back(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truth: dict[str, Any]
    ) -> None:
        first, last = truth["range"]
        seen = Observed(model=tuple((frame, 100.0, 100.0, 6.0) for frame in range(first, last + 1)))
        tracking.store(db, rep, TrackedBodies(observed={"performer": {"left_ear": seen}}), first, last)

        def path() -> dict[int, float]:
            db.expire_all()
            points = loading.load(db, where.academy, review).reps[0].points
            return {point.frame: point.x for point in points if point.landmark == "left_ear"}

        before = path()
        assert set(before) == set(range(first, last + 1))
        middle = (first + last) // 2
        spot = Spot(body="performer", landmark="left_ear", frame=middle)
        reviewing.place_point(db, where.academy, rep, spot, 110.0, 100.0)
        tracking.update_path(db, where.academy, rep, "performer", "left_ear")
        after = path()
        assert after[middle] == 110.0 and after[middle + 1] > before[middle + 1] + 1
        reviewing.remove_point(db, where.academy, rep, spot)
        tracking.update_path(db, where.academy, rep, "performer", "left_ear")
        assert path() == before
        tracking.update_path(db, where.academy, rep, "performer", "nose")

    def test_a_fault_of_the_servers_own_ends_in_a_reason(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        def broken(*_: object) -> None:
            raise MemoryError

        monkeypatch.setattr("lacertus.jobs.track_points.track_bodies", broken)
        assert "an error on the server (MemoryError)" in self.failed(db, where, rep, 100)

    def test_without_a_placed_point_nothing_is_asked(self, db: Session, where: Hall, rep: uuid.UUID, truth: dict[str, Any]) -> None:
        last = truth["range"][1]
        with pytest.raises(BadInput, match="place at least one point"):
            tracking.ask(db, where.academy, rep, last, last)

    def test_a_rep_that_is_gone_ends_quietly_and_a_bad_stretch_in_a_reason(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        tasks.track_points(str(uuid.uuid4()), 0, 10)
        assert "at most 900 frames" in self.failed(db, where, rep, 100_000)
        assert loading.load(db, where.academy, review).reps[0].tracking is None

    @staticmethod
    def failed(db: Session, where: Hall, rep: uuid.UUID, last: int) -> str:
        """Why tracking from the first frame to a last one failed."""
        tracking.ask(db, where.academy, rep, 0, last)
        db.commit()
        tasks.track_points(str(rep), 0, last)
        job = queue.state_of(db, queue.TRACK_POINTS, rep)
        assert job is not None
        assert job.state == "failed"
        return job.reason or ""


class TestProposals:
    def test_an_event_marked_in_one_rep_is_proposed_in_the_next(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truth: dict[str, Any]
    ) -> None:
        first, last = truth["range"]
        facts = {"side": "right", "first_frame": first + 10, "last_frame": last, "options": {}}
        second = reviewing.cut_rep(db, where.academy, review, "front-kick", RepCut.model_validate(facts))
        db.commit()
        db.expire_all()
        entry = next(entry for entry in judged(db, where, review) if entry.rep.id == second.id)
        found = {proposal.event: proposal for proposal in entry.proposed}
        top = truth["events"]["knee_top"][0]
        share = (top - first) / (last - first)
        assert found["knee_top"].frame == first + 10 + round(share * (last - first - 10))
        assert found["knee_top"].why == "as in rep 1"
        reviewing.mark_event(db, where.academy, second.id, "knee_top", [top])
        db.commit()
        db.expire_all()
        entry = next(entry for entry in judged(db, where, review) if entry.rep.id == second.id)
        assert "knee_top" not in {proposal.event for proposal in entry.proposed}

    def test_a_finished_review_proposes_nothing(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        reviewing.mark_event(db, where.academy, rep, "foot_down", None)
        finishing.finish(db, where.academy, review)
        db.commit()
        db.expire_all()
        assert judged(db, where, review)[0].proposed == ()


class TestLive:
    def test_it_measures_as_if_the_point_lay_there_and_stores_nothing(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID, truth: dict[str, Any]
    ) -> None:
        held = live.live_rep(db, where.academy, rep)
        frame = truth["events"]["full_reach"][0]
        ankle = truth["bodies"]["performer"]["landmarks"]["right_ankle"][frame]
        spot = Spot(body="performer", landmark="right_ankle", frame=frame)
        loading = judgement(db, where, review, "leg_straight")
        moved = next(j for j in held.with_point(spot, ankle["x"], ankle["y"] - 60) if j.id == "leg_straight")
        same = next(j for j in held.with_point(spot, ankle["x"], ankle["y"]) if j.id == "leg_straight")
        assert moved.value is not None and abs(moved.value - loading.value) > 10
        assert same.value == pytest.approx(loading.value)
        assert judgement(db, where, review, "leg_straight") == loading
        reviewing.place_point(db, where.academy, rep, spot, ankle["x"], ankle["y"] - 60)
        db.commit()
        db.expire_all()
        stored = judgement(db, where, review, "leg_straight")
        assert stored.value is not None and stored.uncertainty is not None
        # While it is dragged, lengths and leans are those of before; sixty pixels away they tell the same to within a part of u.
        assert abs(stored.value - moved.value) < 0.25 * stored.uncertainty

    def test_of_another_academy_or_an_unknown_landmark_it_measures_nothing(self, db: Session, where: Hall, rep: uuid.UUID) -> None:
        other = hall(db, "Other", "other@example.test")
        with pytest.raises(NotFound, match="There is no such rep in your"):
            live.live_rep(db, other.academy, rep)
        with pytest.raises(BadInput, match="not a landmark"):
            live.live_rep(db, where.academy, rep).with_point(Spot(body="performer", landmark="tail", frame=3), 1, 1)


class TestFacts:
    def test_a_rep_that_starts_midway_leaves_out_what_came_before(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        facts = {"start_at": "extension", "outcome": "completed", "reaction": "stepped back"}
        reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate(facts))
        assert judgement(db, where, review, "thigh_lifted").verdict == "not_asked"
        with pytest.raises(BadInput, match="no phase"):
            reviewing.change_rep(db, where.academy, rep, RepChanges.model_validate({"start_at": "take_off"}))

    def test_a_rep_is_linked_to_another_of_its_review_only(
        self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID
    ) -> None:
        facts = {"side": "left", "first_frame": 5, "last_frame": 60, "options": {}, "linked_to": rep}
        fall = reviewing.cut_rep(db, where.academy, review, "back-fall", RepCut.model_validate(facts))
        assert fall.linked_to == rep
        for wrong in (fall.id, uuid.uuid4()):
            with pytest.raises(BadInput, match="another rep of the same review"):
                reviewing.change_rep(db, where.academy, fall.id, RepChanges.model_validate({"linked_to": wrong}))


class TestMarkingAgain:
    def coach(self, db: Session, where: Hall) -> uuid.UUID:
        return db.scalars(select(Account.id).where(Account.academy_id == where.academy)).one()

    def test_a_rep_is_marked_again_blind_and_the_scatter_becomes_the_coachs_own(
        self, db: Session, where: Hall, clip: uuid.UUID, review: uuid.UUID, rep: uuid.UUID, truth: dict[str, Any]
    ) -> None:
        again = blind_remarking.mark_again(db, where.academy, rep)
        assert blind_remarking.mark_again(db, where.academy, rep).id == again.id
        first, blind = judged(db, where, review)
        assert blind.rep.blind_of == rep and blind.proposed == () and not blind.rep.events and not blind.rep.points
        assert {(n.body, n.landmark, n.frame) for n in blind.needs} == {(p.body, p.landmark, p.frame) for p in first.rep.points}
        with pytest.raises(BadInput, match="nothing is marked both times"):
            blind_remarking.compare(db, where.academy, self.coach(db, where), again.id)
        for event, frames in truth["events"].items():
            reviewing.mark_event(db, where.academy, again.id, event, frames)
        for i, point in enumerate(first.rep.points):
            shift = 1.5 if i % 2 else -1.5
            spot = Spot(body=point.body, landmark=point.landmark, frame=point.frame)
            reviewing.place_point(db, where.academy, again.id, spot, point.x + shift, point.y - shift)
        here, everything = blind_remarking.compare(db, where.academy, self.coach(db, where), again.id)
        assert here == everything and here.px == pytest.approx(1.5 / 2**0.5) and here.frames == 0
        assert everything.marking.own
        # A review that the coach opens from now on is judged by it.
        assert blind_remarking.marking_of(db, self.coach(db, where)).own == everything.marking.own

    def test_it_counts_in_neither_ledger_nor_fix_first(self, db: Session, where: Hall, review: uuid.UUID, rep: uuid.UUID) -> None:
        blind_remarking.mark_again(db, where.academy, rep)
        finishing.finish(db, where.academy, review)
        db.flush()
        assert set(db.scalars(select(JudgementRow.rep_id))) == {rep}

    def test_a_rep_without_marks_is_not_marked_again(
        self, db: Session, where: Hall, review: uuid.UUID, truth: dict[str, Any]
    ) -> None:
        facts = {"first_frame": 3, "last_frame": 9, "side": "right"}
        bare = reviewing.cut_rep(db, where.academy, review, truth["technique"], RepCut.model_validate(facts))
        with pytest.raises(Conflict, match="Mark this rep"):
            blind_remarking.mark_again(db, where.academy, bare.id)


class TestTiedViews:
    def test_what_one_clip_lacks_is_read_from_the_other_and_the_ledger_is_told_once(
        self, db: Session, where: Hall, clip: uuid.UUID, review: uuid.UUID, rep: uuid.UUID, truth: dict[str, Any],
        clips: dict[str, Any], tmp_path: Any,
    ) -> None:  # fmt: skip
        other = read_in(db, where, clips["constant"], tmp_path)
        second = reviewing.open_review(db, where.academy, other).id
        facts = {key: truth[key] for key in ("side", "heading", "view", "partner", "rung")}
        facts |= {"first_frame": truth["range"][0], "last_frame": truth["range"][1], "options": {}}
        bare = reviewing.cut_rep(db, where.academy, second, truth["technique"], RepCut.model_validate(facts))
        for event, frames in truth["events"].items():
            reviewing.mark_event(db, where.academy, bare.id, event, frames)
        assert judgement(db, where, second, "leg_straight").verdict == "not_seen"
        clip_facts.tie_views(db, where.academy, other, clip, 0, 0)
        found, measured = judgement(db, where, second, "leg_straight"), judgement(db, where, review, "leg_straight")
        assert (found.verdict, found.value, found.frames) == (measured.verdict, measured.value, measured.frames)
        assert found.view == clips["constant"].name and measured.view is None
        finishing.finish(db, where.academy, review)
        db.flush()
        before = db.scalar(select(func.count()).select_from(JudgementRow))
        finishing.finish(db, where.academy, second)
        db.flush()
        assert db.scalar(select(func.count()).select_from(JudgementRow)) == before

    def test_events_marked_in_the_other_clip_are_proposed(
        self, db: Session, where: Hall, clip: uuid.UUID, review: uuid.UUID, rep: uuid.UUID, truth: dict[str, Any],
        clips: dict[str, Any], tmp_path: Any,
    ) -> None:  # fmt: skip
        other = read_in(db, where, clips["constant"], tmp_path)
        second = reviewing.open_review(db, where.academy, other).id
        facts = {"first_frame": truth["range"][0], "last_frame": truth["range"][1], "side": truth["side"]}
        reviewing.cut_rep(db, where.academy, second, truth["technique"], RepCut.model_validate(facts))
        clip_facts.tie_views(db, where.academy, other, clip, 0, 0)
        proposed = {p.event: p.frame for p in judged(db, where, second)[0].proposed}
        assert proposed == {event: frames[0] for event, frames in truth["events"].items() if frames}
