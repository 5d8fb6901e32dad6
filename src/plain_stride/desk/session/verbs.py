"""What is done to the chosen lines, or taken in hand, by one press."""

from plain_stride.desk.session.session import Session
from plain_stride.form.roles import ROLES
from plain_stride.hand.follow import SUGGESTED
from plain_stride.hand.nib import SCHOOLS, next_of_group
from plain_stride.texts import counted

HEAVIER = 2.0**0.125
"""A quarter of a step of the ladder, which goes by sqrt 2."""


def toggle_plan(session: Session) -> None:
    """Lifts the plan off, or lays it as far as it lay before."""
    share = session.job.plan.share * 100.0
    session.make("plan", share=0.0 if share > 0 else session.now.share_before)
    if share > 0:
        session.take(share_before=share)


def step_role(session: Session, step: int) -> None:
    """The next or the previous role, of the chosen lines or of the next one."""
    lines = session.chosen_lines()
    now = session.job.rows.lines[lines[-1]].role if lines else session.now.role
    role = ROLES[(ROLES.index(now) + step) % len(ROLES)]
    if lines and session.make("set", lines=lines, role=role) is None:
        return
    if not lines:
        session.take(role=role)
    session.said.emit(f"{'The chosen lines are' if lines else 'The next line is'} **{role}**.", False)


def fellow_nib(session: Session) -> str:
    """The next nib of the group of the one in hand."""
    key = session.now.nib
    fellow = next_of_group(session.job.nibs(), key)
    if fellow == key:
        session.said.emit(f"Nib **{key}** is alone: give it and another the same group, at Pull, Nib.", False)
    return fellow


def step_nib(session: Session, step: int) -> None:
    """The next heavier nib, or the next lighter one."""
    keys = list(session.job.nibs())
    at = keys.index(session.now.nib) + step
    if 0 <= at < len(keys):
        session.take(nib=keys[at])


def delete_chosen(session: Session) -> None:
    if session.chosen:
        session.make("delete", lines=session.chosen)


def choose_all(session: Session) -> None:
    """All ink that is seen and not dimmed."""
    shown, rows = session.shown_parts(), session.job.inked_rows()
    session.choose([key for key in session.job.ink_ids() if rows[key].part in shown])


def choose_alike(session: Session) -> None:
    """Lines of the role, the nib and the part of one that is chosen, besides those."""
    rows, chosen = session.job.rows.lines, session.chosen_lines()
    if not chosen:
        session.said.emit("Choose a line first: then all that are like it.", True)
        return
    wanted = {(rows[key].role, rows[key].nib, rows[key].part) for key in chosen}
    alike = [key for key in open_ink(session) if key in rows
             and (rows[key].role, rows[key].nib, rows[key].part) in wanted]  # fmt: skip
    session.choose([*chosen, *(key for key in alike if key not in chosen)])
    session.said.emit(f"**{counted(len(alike), 'line')}** of that role, nib and part.", False)


def choose_others(session: Session) -> None:
    """All ink that is not chosen, instead of what is."""
    session.choose([key for key in open_ink(session) if key not in set(session.chosen)])


def open_ink(session: Session) -> list[str]:
    """All ink that is seen, not dimmed and not locked, in drawing order."""
    shown, rows = session.shown_parts(), session.job.inked_rows()
    locked = {part.id for part in session.job.parts() if part.locked}
    return [key for key in session.job.ink_ids() if rows[key].part in shown - locked]


def part_before(session: Session) -> None:
    """The part that was in hand before this one."""
    lately = session.parts_lately()
    if lately:
        session.take(part=lately[0])
    else:
        session.said.emit("No other part was in hand yet: press its name, and take one from the list.", False)


def step_part(session: Session, step: int) -> None:
    """The next part from near to far, or the one before."""
    names = [part.name for part in session.job.parts()]
    if session.now.part in names:
        at = names.index(session.now.part) + step
        if 0 <= at < len(names):
            session.take(part=names[at])


def step_school(session: Session, step: int = 1) -> None:
    """The next school of steadying, for the nib in hand."""
    school = SCHOOLS[(SCHOOLS.index(session.nib.steadying.school) + step) % len(SCHOOLS)]
    session.make("nib", key=session.now.nib, school=school)


def follow(session: Session, share: float) -> None:
    """Pulls come so far to the pencils from now on, 0 to 1."""
    session.take(follow_share=share)
    if share > 0.0 and not session.strokes.guides.lines:
        session.said.emit("Read the pencils first (Pencils, page Read): then pulls can follow them.", False)


def toggle_follow(session: Session) -> None:
    """Pulls follow the pencils as suggested, or the hand is free."""
    follow(session, 0.0 if session.now.follow_share > 0.0 else SUGGESTED)
