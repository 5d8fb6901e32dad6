"""The drawing as a value: it shares what did not change, and is that of a job opened anew."""

import numpy as np
import pytest

from plain_stride.form.contacts import CROSSING, TEE
from plain_stride.job.drawn import JobDrawing


@pytest.fixture
def drawn(open_job):
    open_job.one = open_job.pull((10, 20), (110, 20), part="Gate", role="outer")
    open_job.two = open_job.pull((60, 5), (60, 60), part="Wall")
    open_job.three = open_job.pull((90, 21), (95, 60), part="Wall", role="detail")
    open_job.drawing = JobDrawing(open_job.job, open_job.shapes)
    return open_job


def change(drawn, name, /, **arguments):
    before = drawn.job.history.head
    result = drawn.do(name, **arguments)
    assert drawn.job.history.head != before
    drawn.drawing.changed(drawn.job.history.steps[drawn.job.history.head].rows)
    return result


def facts(drawing):
    return (
        {key: (line.part, line.role, line.draft, float(line.path.arc.length), line.hand.full.sum())
         for key, line in drawing.lines.items()},
        [(part.name, part.order, part.tier, part.hidden) for part in drawing.parts],
        {key: sorted((c.kind, round(c.gap, 6)) for c in found) for key, found in drawing.contacts.items()},
        drawing.order,
    )  # fmt: skip


def test_a_drawing_says_what_the_job_has(drawn):
    now = drawn.drawing.now()
    assert set(now.lines) == {drawn.one, drawn.two, drawn.three} and now.order == tuple(drawn.job.line_ids())
    kinds = {frozenset(c.lines): c.kind for c in now.contacts[drawn.one]}
    assert kinds == {frozenset((drawn.one, drawn.two)): CROSSING, frozenset((drawn.one, drawn.three)): TEE}
    assert drawn.drawing.now() is now
    inked = drawn.drawing.inked()
    assert inked.drawing is now and inked.shapes[drawn.one] is drawn.shapes[drawn.one]


def test_one_change_leaves_all_else_shared(drawn):
    before = drawn.drawing.now()
    change(drawn, "move", lines=[drawn.three], by=[0.0, 5.0])
    after = drawn.drawing.now()
    assert after.version > before.version
    assert (
        after.lines[drawn.one] is before.lines[drawn.one] and after.lines[drawn.three] is not before.lines[drawn.three]
    )
    assert len(before.contacts[drawn.one]) == 2 and len(after.contacts[drawn.one]) == 1
    change(drawn, "part", name="Wall", hidden=True)
    assert drawn.drawing.now().contacts == {} and not drawn.drawing.now().is_seen(drawn.two)


def test_after_many_changes_it_is_that_of_a_job_opened_anew(drawn):
    rng = np.random.default_rng(7)
    for _ in range(40):
        keys = list(drawn.job.rows.lines)
        line = str(rng.choice(keys)) if keys else ""
        kind = rng.choice(["pull", "move", "swell", "delete", "set", "part", "plan", "beside", "undo"])
        if kind == "pull" or not keys:
            drawn.pull(
                tuple(rng.uniform(5, 85, 2)), tuple(rng.uniform(5, 85, 2)), part=str(rng.choice(["Gate", "Wall"]))
            )
        elif kind == "undo":
            commit = drawn.job.undo()
            drawn.store.commit(commit)
            drawn.drawing.changed(commit.rows)
            continue
        else:
            wanted = {
                "move": {"lines": [line], "by": rng.uniform(-9, 9, 2).tolist()},
                "swell": {"line": line, "factor": 1.3},
                "delete": {"lines": [line]},
                "set": {"lines": [line], "role": str(rng.choice(["outer", "inner"]))},
                "part": {"name": "Gate", "hidden": bool(rng.integers(0, 2))},
                "plan": {"share": int(rng.integers(0, 101))},
                "beside": {"line": line, "gap": 1.5},
            }[str(kind)]
            drawn.do(str(kind), **wanted)
        drawn.drawing.changed(drawn.job.history.steps[drawn.job.history.head].rows)
        if rng.random() < 0.5:
            drawn.drawing.now()
    again = drawn.again()
    mine, fresh = facts(drawn.drawing.now()), facts(JobDrawing(again.job, again.shapes).now())
    assert mine[1] == fresh[1] and mine[3] == fresh[3] and set(mine[0]) == set(fresh[0])
    for key, line in mine[0].items():
        assert line[:3] == fresh[0][key][:3] and line[3:] == pytest.approx(fresh[0][key][3:], rel=1e-6)
    assert {k: [c[0] for c in v] for k, v in mine[2].items()} == {k: [c[0] for c in v] for k, v in fresh[2].items()}
