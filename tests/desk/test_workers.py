"""Workers that stand by: asked, stopped, held, killed; and the drawing that one of them has."""

import multiprocessing.process
import os
import signal
import time

import pytest

from plain_stride.board.page import Page
from plain_stride.desk.session import drawing_link
from plain_stride.desk.session.session import Session
from plain_stride.desk.workers.errands import errand_worker
from plain_stride.desk.workers.standing import ENDED
from plain_stride.hand.nib import DEFAULT_NIB
from plain_stride.hand.pull import Pull, View
from plain_stride.job.drawn import JobDrawing
from plain_stride.job.job_files import new_job
from plain_stride.job.questions import ContactsNow
from plain_stride.job.serving import Answered, Failed, Progressed
from plain_stride.job.weight_questions import WeightsNow
from tests.conftest import samples_along
from tests.counting import Count
from tests.waiting import wait_until


@pytest.fixture
def worker(qapp):
    worker = errand_worker()
    yield worker
    worker.close()


def last_of(replies):
    wait_until(lambda: replies and not isinstance(replies[-1], Progressed))
    return replies[-1]


def test_a_question_is_answered_with_its_progress(worker):
    replies = []
    number = worker.ask(Count(20), replies.append)
    assert worker.busy
    answer = last_of(replies)
    assert isinstance(answer, Answered) and answer.value == 20 and answer.number == number
    shares = [reply.share for reply in replies[:-1]]
    assert shares == sorted(shares) and len(shares) == 20 and not worker.busy


def test_questions_are_answered_in_their_order_and_by_one_process(worker):
    replies, pids = [], set()
    for n in (3, 2, 1):
        worker.ask(Count(n), replies.append)
        pids.add(worker.pid)
    wait_until(lambda: len([r for r in replies if isinstance(r, Answered)]) == 3)
    assert [r.value for r in replies if isinstance(r, Answered)] == [3, 2, 1] and len(pids) == 1


@pytest.mark.parametrize(("to", "words"), [(13, "thirteen is not counted to"), (7, "something went wrong (seven)")])
def test_a_question_that_fails_says_why_and_the_worker_goes_on(worker, to, words):
    replies = []
    worker.ask(Count(to), replies.append)
    fault = last_of(replies)
    assert isinstance(fault, Failed) and words in fault.words and not fault.stopped
    worker.ask(Count(1), replies.append)
    wait_until(lambda: isinstance(replies[-1], Answered))


def test_a_stop_is_told_at_once_and_the_next_question_is_answered(worker):
    replies, after = [], []
    number = worker.ask(Count(2000), replies.append)
    wait_until(lambda: replies)
    assert worker.stop(number) and replies[-1] == Failed(number, "stopped", stopped=True)
    assert not worker.stop(number)
    begun = time.monotonic()
    worker.ask(Count(1), after.append)
    assert last_of(after).value == 1 and time.monotonic() - begun < 5.0


def test_a_worker_that_dies_is_told_of_and_started_anew(worker):
    replies, deaths = [], []
    worker.died.connect(lambda: deaths.append(1))
    worker.ask(Count(2000), replies.append)
    wait_until(lambda: replies)
    os.kill(worker.pid, signal.SIGKILL)
    assert last_of(replies).words == ENDED and deaths == [1] and not worker.running
    worker.ask(Count(1), replies.append)
    wait_until(lambda: isinstance(replies[-1], Answered))


def test_a_worker_rests_while_the_pen_is_down(worker):
    replies = []
    worker.ask(Count(400), replies.append)
    wait_until(lambda: replies)
    worker.rest(True)
    wait_until(lambda: True)
    time.sleep(0.05)
    wait_until(lambda: True)
    seen = len(replies)
    time.sleep(0.2)
    wait_until(lambda: True)
    assert len(replies) == seen
    worker.rest(False)
    assert last_of(replies).value == 400


def test_a_worker_that_is_killed_while_it_rests_is_told_of_as_well(worker):
    replies = []
    worker.ask(Count(2000), replies.append)
    wait_until(lambda: replies)
    worker.rest(True)
    os.kill(worker.pid, signal.SIGKILL)
    assert last_of(replies).words == ENDED
    worker.rest(False)
    worker.ask(Count(1), replies.append)
    wait_until(lambda: isinstance(replies[-1], Answered))


def test_nothing_of_a_worker_is_left_when_it_is_closed(worker):
    worker.ask(Count(2000), lambda reply: None)
    pid = worker.pid
    worker.rest(True)
    worker.close()
    with pytest.raises(ProcessLookupError):
        os.kill(pid, 0)


# The drawing


@pytest.fixture
def session(qapp, tmp_path, monkeypatch):
    monkeypatch.setattr(drawing_link, "FEW_LINES", 0)
    path = tmp_path / "followed.stride"
    new_job(path, Page((120.0, 90.0), 300.0))
    session = Session(path)
    for y in (20, 40, 60):
        pull(session, (10, y), (110, y))
    pull(session, (60, 10), (60, 80))
    yield session
    session.close()


def pull(session, *points):
    made = session.make("pull", pull=Pull(samples_along(points, 0.6, 80, 0.5), DEFAULT_NIB, View(), "pen"))
    return made.results[0]


def asked(session, question):
    answers = []
    session.drawing.ask(question, answers.append)
    wait_until(lambda: answers, 30)
    return answers[0]


def contacts(session):
    wait_until(lambda: session.weigher.settled, 30)
    return as_words(JobDrawing(session.job, session.shapes).now().contacts)


def as_words(found):
    return {line: sorted(map(repr, many)) for line, many in found.items() if many}


def test_the_worker_has_the_drawing_that_the_window_has(session):
    """Read from the file, then followed: a pull, a move, a deletion, a plan, back and forth in the history."""
    assert as_words(asked(session, ContactsNow())) == contacts(session) != {}
    line = pull(session, (30, 10), (30, 80))
    assert as_words(asked(session, ContactsNow())) == contacts(session)
    for change, arguments in (("move", {"lines": [line], "by": [20, 0]}), ("delete", {"lines": [line]}),
                              ("plan", {"share": 60}), ("trim", {"line": next(iter(session.job.rows.lines)), "at": [100, 20]}),
                              ("part", {"name": session.now.part, "tier": "near"})):  # fmt: skip
        assert session.make(change, **arguments) is not None
    assert as_words(asked(session, ContactsNow())) == contacts(session)
    for _ in range(3):
        session.timeline.undo()
    session.timeline.redo()
    assert as_words(asked(session, ContactsNow())) == contacts(session)
    assert session.drawing.worker.running


def test_an_answer_that_came_too_late_is_dropped_and_asked_for_anew(session):
    asked(session, ContactsNow())
    answers = []
    session.drawing.ask(WeightsNow(), answers.append)
    session.make("plan", share=100)
    wait_until(lambda: answers, 30)
    assert len(answers) == 1
    local = []
    drawing_link.FEW_LINES = 1000
    session.drawing.ask(WeightsNow(), local.append)
    assert local == answers


def test_a_drawing_worker_that_dies_is_not_missed(session):
    asked(session, ContactsNow())
    os.kill(session.drawing.worker.pid, signal.SIGKILL)
    assert as_words(asked(session, ContactsNow())) == contacts(session)
    session.make("plan", share=40)
    assert as_words(asked(session, ContactsNow())) == contacts(session)


def test_what_is_not_written_yet_is_told_to_the_worker(session, monkeypatch):
    store = session.document.writer._store
    real, held = store.commit, []
    monkeypatch.setattr(store, "commit", lambda what: held.append(1) or time.sleep(0.4) or real(what))
    pull(session, (90, 10), (90, 80))
    assert session.document.writer.pending()
    assert as_words(asked(session, ContactsNow())) == contacts(session) and held


def test_without_room_for_a_worker_the_window_answers_itself(session, monkeypatch):
    def full(*_):
        raise BlockingIOError("no more processes")

    monkeypatch.setattr(multiprocessing.process.BaseProcess, "start", full)
    answers = []
    session.drawing.ask(ContactsNow(), answers.append)
    assert as_words(answers[0]) == contacts(session)
