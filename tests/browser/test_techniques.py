"""The Techniques screen: found by any name, read as a lesson, written anew with every problem told."""

from __future__ import annotations

import re
import time
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Locator, Page, expect

from lacertus.core.techniques.practice import Drill
from lacertus.library import check_text
from tests.browser import walk

SQUAT = """\
lacertus_technique: 1
id: deep-squat
names: {main: Deep squat, aliases: [sit]}
family: position
phases: [down]
events:
  lowest: {phase: down, mark: First frame in which the hips no longer sink}
checkpoints:
  - id: knee_folded
    phase: down
    kind: angle
    ask: Knee folded
    measure: {points: [working_hip, working_knee, working_ankle], at: lowest}
    within: [null, 90]
    fault: {code: half-squat, family: half range}
    cues: [Sit by your heels]
    why: A high squat cannot roll
cautions: [supervised]
"""


@pytest.fixture
def techniques(page: Page) -> Page:
    page.get_by_role("link", name="Techniques").click()
    expect(page.get_by_role("heading", name="Techniques")).to_be_visible()
    return page


def test_a_technique_is_found_by_another_schools_name_and_read(techniques: Page) -> None:
    page = techniques
    page.get_by_label("Find a technique").fill("mae geri")
    expect(page.locator("main li")).to_have_count(1)
    page.get_by_role("link", name=re.compile("Front kick")).click()
    expect(page.get_by_role("heading", name="Front kick")).to_be_visible()
    expect(page.get_by_label("Cautions")).to_contain_text("supervision")
    line = page.locator('[data-lesson-checkpoint="tight_chamber"]')
    line.get_by_role("button", name="More").click()
    expect(line).to_contain_text("right knee")
    page.get_by_role("group", name="Side").get_by_role("button", name="left").click()
    expect(line).to_contain_text("left knee")
    page.get_by_role("button", name="Push", exact=True).click()
    expect(page.get_by_role("status")).to_contain_text("not asked with this choice of options")


def picture_of(figure: Locator) -> bytes:
    expect(figure).to_have_attribute("data-ready", "yes")
    return figure.screenshot()


def at(figure: Locator) -> float:
    return float(figure.get_attribute("data-at") or "nan")


class TestTheMovingFigure:
    """The studio's figure on a lesson card: it moves, steps, is seen from two sides, and shows a fault beside it done right."""

    @pytest.fixture
    def card(self, page: Page) -> Locator:
        page.goto(page.url.split("#")[0] + "#/techniques/front-fall")
        figure = page.get_by_label("Front fall as a moving figure", exact=True)
        expect(figure.get_by_test_id("figure")).to_have_attribute("data-ready", "yes", timeout=30_000)
        return figure

    def test_it_steps_plays_and_goes_to_an_event(self, card: Locator) -> None:
        figure = card.get_by_test_id("figure")
        card.get_by_role("button", name="tip starts").click()
        start = at(figure)
        still = picture_of(figure)
        card.get_by_role("button", name="One frame on").click()
        assert at(figure) == pytest.approx(start + 1 / 30, abs=0.02)
        figure.press("ArrowLeft")
        assert at(figure) <= start
        card.get_by_role("button", name="palms meet").click()
        assert picture_of(figure) != still
        card.get_by_role("button", name="tip starts").click()
        card.get_by_role("button", name="Play").click()
        expect(figure).not_to_have_attribute("data-at", f"{start:.3f}")
        card.get_by_role("button", name="Pause").click()
        stopped = at(figure)
        card.page.wait_for_timeout(200)
        assert at(figure) == stopped

    def test_it_is_seen_from_another_side_and_turned_by_dragging(self, card: Locator) -> None:
        figure = card.get_by_test_id("figure")
        side = picture_of(figure)
        card.get_by_text("front", exact=True).click()
        front = picture_of(figure)
        assert front != side
        box = figure.bounding_box()
        assert box is not None
        card.page.mouse.move(box["x"] + 200, box["y"] + 100)
        card.page.mouse.down()
        card.page.mouse.move(box["x"] + 300, box["y"] + 100)
        card.page.mouse.up()
        assert picture_of(figure) != front

    def test_a_fault_stands_beside_it_done_right_with_what_is_measured(self, card: Locator) -> None:
        line = card.page.locator('[data-lesson-checkpoint="no_straight_arm"]')
        line.get_by_role("button", name="More").click()
        expect(line.get_by_test_id("figure")).to_have_attribute("data-ready", "yes", timeout=30_000)
        expect(line.get_by_text("Right", exact=True)).to_be_visible()
        expect(line.get_by_text(re.compile("Wrong by .*: the elbows are so much straighter"))).to_be_visible()
        right, wrong = (float(words.split("°")[0]) for words in line.locator(".note").all_text_contents())
        assert wrong > right + 20

    def test_a_choice_that_the_studio_cannot_do_yet_is_said(self, page: Page) -> None:
        page.goto(page.url.split("#")[0] + "#/techniques/back-fall")
        page.get_by_role("button", name=re.compile("Spring from the back")).click()
        expect(page.get_by_test_id("no-figure").first).to_contain_text("does not show this choice of options yet")
        line = page.locator('[data-lesson-checkpoint="hands_not_behind"]')
        line.get_by_role("button", name="More").click()
        expect(line.get_by_label("The checkpoint on a sample rep")).to_be_visible()


def test_nothing_found_says_what_to_do(techniques: Page) -> None:
    techniques.get_by_label("Find a technique").fill("moon dance")
    expect(techniques.get_by_text("No technique is called")).to_be_visible()


def write(page: Page, text: str) -> None:
    """Another text in the editor, as one pastes it."""
    page.get_by_label("Technique file").click()
    page.keyboard.press("Control+a")
    page.keyboard.insert_text(text)


def as_text(page: Page) -> None:
    page.get_by_role("radiogroup", name="How to write it").get_by_text("as text").click()
    expect(page.get_by_test_id("editor")).to_be_visible()


def test_a_technique_is_written_checked_as_it_is_typed_and_kept(techniques: Page, tmp_path: Path) -> None:
    page = techniques
    page.get_by_role("link", name="Write or import one").click()
    as_text(page)
    broken = tmp_path / "squat.yaml"
    broken.write_text(SQUAT.replace("working_knee", "working_tail"))
    page.get_by_test_id("technique-file").set_input_files(broken)
    problems = page.get_by_test_id("problems")
    expect(problems).to_contain_text("“working_tail” is not a landmark")
    expect(problems).to_contain_text("line 13")
    expect(page.locator(".cm-lint-marker-error")).to_have_count(1)
    problems.get_by_role("button", name="line 13").click()
    expect(page.locator(".cm-activeLineGutter")).to_contain_text(["13"])
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    page.reload()
    as_text(page)
    expect(page.get_by_test_id("problems")).to_contain_text("working_tail")
    write(page, SQUAT)
    expect(page.get_by_text("No problems.")).to_be_visible()
    expect(page.locator("figure svg")).to_contain_text("right knee")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("heading", name="Deep squat")).to_be_visible()
    expect(page.get_by_text("academy’s own version")).to_be_visible()


class Walk:
    """Acts of a coach who writes a technique in steps: each click, choice, drag or field that is typed into counts one."""

    def __init__(self, page: Page) -> None:
        self.page, self.acts, self.typed = page, 0, 0

    def click(self, where: Locator) -> None:
        self.acts += 1
        where.click()

    def type(self, label: str, words: str) -> None:
        self.acts += 1
        self.typed += 1
        self.page.get_by_label(label, exact=True).fill(words)

    def choose(self, label: str, choice: str) -> None:
        self.acts += 1
        self.page.get_by_role("combobox", name=label, exact=True).select_option(label=choice)

    def step(self, name: str) -> None:
        self.click(self.page.get_by_role("button", name=re.compile(rf"^\d {name}")))

    def instant(self, frames: int, called: str, seen: str) -> None:
        """Step the figure on by so many frames, and say what happens there."""
        figure = self.page.get_by_test_id("figure")
        figure.focus()
        for _ in range(frames):
            self.acts += 1
            figure.press("ArrowRight")
        self.acts += 1
        self.typed += 1
        self.page.get_by_test_id("happens").fill(called)
        self.type("It is the first frame in which", seen)
        self.click(self.page.get_by_role("button", name="Add this instant"))
        expect(self.page.get_by_label(f"Name of {called}")).to_have_value(called)

    def checkpoint(self, form: str) -> None:
        if not self.page.get_by_test_id("forms").is_visible():
            self.click(self.page.locator("summary").filter(has_text="Add a checkpoint"))
        self.click(self.page.get_by_test_id("forms").get_by_role("button", name=form))

    def say(self, ask: str, fault: str, cue: str, why: str) -> None:
        self.type("What is asked", ask)
        self.type("What the fault is called", fault)
        self.type("What you say to the student", cue)
        self.type("What goes wrong without it", why)


def drag(page: Page, handle: Locator, dx: float, dy: float) -> None:
    box = handle.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx / 2, y + dy / 2)
    page.mouse.move(x + dx, y + dy)
    page.mouse.up()


def test_a_technique_of_five_checkpoints_is_written_in_steps_by_one_who_has_never_seen_a_file(techniques: Page) -> None:
    """In ten minutes: an act takes 1.3 s, a field that is typed into ten seconds more."""
    page, begun = techniques, time.monotonic()
    walk_ = Walk(page)
    walk_.click(page.get_by_role("link", name="Write or import one"))
    walk_.type("What it is called", "Pushing kick")
    walk_.type("What it is", "A kick that moves the other away.")
    expect(page.get_by_role("button", name="Save")).to_be_disabled()

    walk_.step("Movement")
    walk_.choose("It moves like", "Front kick")
    expect(page.get_by_test_id("figure")).to_have_attribute("data-ready", "yes", timeout=30_000)
    walk_.click(page.get_by_role("button", name="One frame on"))
    walk_.instant(10, "foot off", "the working foot leaves the mat")
    walk_.instant(8, "knee top", "the working knee no longer rises")
    walk_.instant(8, "full reach", "the working knee no longer straightens")
    # Once more, a little later, by the figure; and one was too much.
    page.get_by_test_id("figure").press("ArrowRight")
    walk_.click(page.get_by_role("listitem").filter(has=page.get_by_label("Name of full reach")).get_by_text("set to"))
    walk_.instant(6, "too much", "nothing happens")
    walk_.click(page.get_by_role("button", name="Delete too much"))

    walk_.step("Checkpoints")
    walk_.checkpoint("How bent a joint is")
    pose = page.get_by_test_id("pose")
    # The hip instead of the knee by clicking on the figure, and back.
    walk_.click(pose.locator('[data-point="working_hip"]'))
    expect(page.get_by_label("joint", exact=True)).to_have_value("working_hip")
    walk_.choose("joint", "working knee")
    walk_.acts += 1
    before = page.get_by_label("At least").input_value()
    handle = page.get_by_test_id("handle-0")
    drag(page, handle, 0, 25)
    expect(page.get_by_label("At least")).not_to_have_value(before)
    walk_.type("At least", "150")
    page.keyboard.press("Tab")
    walk_.say("Leg nearly straight", "bent leg", "Reach through", "A bent leg pushes nobody away")
    walk_.checkpoint("How far something leans")
    expect(page.get_by_test_id("ruler")).not_to_have_attribute("data-value", "", timeout=20_000)
    walk_.say("Trunk upright", "leaning back", "Stay tall", "Leaning back takes the weight off the kick")
    walk_.checkpoint("What comes first")
    walk_.say("Knee before reach", "straight from the mat", "Knee first", "A straight leg is seen early")
    walk_.choose("first", "foot off")
    walk_.choose("then", "knee top")
    walk_.checkpoint("How long it takes")
    walk_.say("Quick", "slow kick", "Snap", "A slow kick is caught")
    walk_.checkpoint("What only the eye can tell")
    walk_.say("Toes pulled back", "toes forward", "Toes to the ceiling", "Toes break")
    expect(page.get_by_text("to fill in")).to_have_count(0)

    walk_.step("Drills")
    walk_.click(page.get_by_role("button", name="Add a drill"))
    walk_.type("Name of the drill", "Slow kicks at a wall")
    walk_.type("How it is done", "Reach out slowly, one hand on the wall")
    page.keyboard.press("Tab")
    expect(page.get_by_text("No drill yet for")).to_contain_text("toes forward")
    expect(page.get_by_role("button", name="Save")).to_be_enabled()
    walk_.click(page.get_by_role("button", name="Save"))
    expect(page.get_by_role("heading", name="Pushing kick")).to_be_visible()
    expect(page.locator("[data-lesson-checkpoint]")).to_have_count(5)
    # The lesson moves, by the figure that it was written on.
    expect(page.get_by_test_id("figure").first).to_have_attribute("data-ready", "yes", timeout=30_000)
    waited = time.monotonic() - begun
    assert walk_.typed == 33
    assert walk_.acts * 1.3 + walk_.typed * 10 + waited < 600

    text = page.request.get(f"{page.url.split('#')[0]}api/techniques/pushing-kick/file").text()
    assert "moves_like" in text
    kept = check_text(text)
    assert [one.kind for one in kept.checkpoints] == ["angle", "inclination", "order", "interval", "seen"]
    assert kept.checkpoints[0].within == (150, None)
    assert kept.checkpoints[0].id == "leg_nearly_straight"
    assert kept.checkpoints[2].events_used == ("foot_off", "knee_top")
    assert list(kept.events) == ["foot_off", "knee_top", "full_reach"]
    assert isinstance(kept.drills[0], Drill) and kept.drills[0].answers == ("bent-leg",)


def test_steps_and_text_are_one_file(techniques: Page) -> None:
    page = techniques
    page.get_by_role("link", name="Write or import one").click()
    as_text(page)
    write(page, "# Ours.\n" + SQUAT)
    page.get_by_role("radiogroup", name="How to write it").get_by_text("in steps").click()
    page.get_by_label("When it works", exact=True).fill("When the mat is soft")
    Walk(page).step("Checkpoints")
    expect(page.get_by_test_id("sentence")).to_contain_text("The angle at the")
    page.get_by_label("What is asked").fill("")
    expect(page.get_by_text("Please fill this in.")).to_be_visible()
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    page.get_by_label("What is asked").fill("Knee folded: deep")
    expect(page.get_by_role("button", name="Save")).to_be_enabled()
    Walk(page).step("Movement")
    page.get_by_label("Name of lowest").fill("deepest")
    page.keyboard.press("Tab")
    expect(page.get_by_label("Name of deepest")).to_be_visible()
    as_text(page)
    editor = page.get_by_test_id("editor")
    for words in ("# Ours.", "When the mat is soft", '"Knee folded: deep"', "deepest:", "at: deepest"):
        expect(editor).to_contain_text(words)
    write(page, "lacertus_technique: [1")
    page.get_by_role("radiogroup", name="How to write it").get_by_text("in steps").click()
    expect(page.get_by_role("alert")).to_contain_text("The text cannot be read")
    page.get_by_role("button", name="Mend it in line 1").click()
    expect(editor).to_be_visible()


def test_a_file_goes_out_and_comes_in_the_same(client: httpx.Client) -> None:
    text = client.get("/api/techniques/side-kick/file").text
    kept = client.put("/api/techniques", json={"text": text})
    assert kept.status_code == 200 and kept.json()["own"] is True
    assert client.get("/api/techniques/side-kick/file").text == text
    again = client.put("/api/techniques", json={"text": text.replace("Side kick", "Our side kick")}).json()
    assert (again["version"], again["name"]) == (2, "Our side kick")


@pytest.mark.parametrize(
    "text", ["", "a: [", "&a [*a]", "lacertus_technique: 1", "x" * 200_001], ids=["empty", "torn", "alias", "bare", "huge"]
)
def test_a_bad_text_is_refused_with_what_is_wrong(client: httpx.Client, text: str) -> None:
    answer = client.put("/api/techniques", json={"text": text})
    assert answer.status_code in (400, 422) and answer.json()["message"]
    assert client.get("/api/techniques").status_code == 200


def adapting(page: Page) -> Locator:
    """The form that adapts the kicking leg's checkpoint, opened on the student's page."""
    page.get_by_role("link", name="Students").click()
    page.get_by_role("link", name="A Student").click()
    part = page.get_by_label("Adaptations")
    part.get_by_role("button", name="Adapt a checkpoint").click()
    walk.pick(page, "adapt-technique", "Front kick")
    walk.pick(page, "adapt-checkpoint", "Kicking leg nearly straight at full reach")
    return part


def test_a_checkpoint_is_switched_off_for_one_student_and_asked_again(page: Page) -> None:
    part = adapting(page)
    part.get_by_label("What changes").select_option(label="another range")
    part.get_by_role("textbox", name="From").fill("130")
    part.get_by_label("Reason").fill("stiff hamstring")
    part.get_by_role("button", name="Save").click()
    line = part.locator('[data-adaptation="leg_straight"]')
    expect(line).to_contain_text("at least 130°")
    line.get_by_role("button", name="Ask again").click()
    expect(line).to_have_count(0)


def test_a_checkpoint_is_replaced_by_a_question_for_one_student(page: Page) -> None:
    part = adapting(page)
    part.get_by_label("What changes").select_option(label="something else, told by eye")
    part.get_by_label("Asked instead").fill("The ball of the foot reaches the pad")
    part.get_by_label("What to look for").fill("The pad moves")
    part.get_by_label("When").select_option(label="full reach")
    part.get_by_label("Reason").fill("stiff hamstring")
    part.get_by_role("button", name="Save").click()
    line = part.locator('[data-adaptation="leg_straight"]')
    expect(line).to_contain_text("instead: The ball of the foot reaches the pad")
    line.get_by_role("button", name="Ask again").click()
    expect(line).to_have_count(0)
