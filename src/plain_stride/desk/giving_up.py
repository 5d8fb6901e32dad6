"""Escape: what was begun and not done is left, one thing at a time; else nothing is chosen any more."""

from collections.abc import Callable

from plain_stride.desk.session.session import Session
from plain_stride.desk.sheet.moments import Moments
from plain_stride.desk.sheet.sheet_view import SheetView


def give_up(
    session: Session, sheet: SheetView, moments: Moments, say: Callable[[str], object], stops: list[Callable[[], bool]]
) -> None:
    """stops: what may be under way beside the sheet, each tells whether it was."""
    if any(stop() for stop in stops):
        return
    if sheet.key_points.give_up():
        say("The points were dropped: no line was pulled.")
    elif session.now.again:
        session.arm_again()
    elif sheet.gestures.drop_begun():
        say("The corners were dropped: no line was drawn.")
    elif sheet.gestures.put_tool_away():
        say("Put away: the pen pulls lines again.")
    elif moments.print_shown():
        moments.show_print(False)
    elif session.now.cover_of:
        session.take(cover_of="")
        say("No cover is drawn: the next pull is a line again.")
    else:
        session.choose([])
