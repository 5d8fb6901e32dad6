"""Who owns an object of Qt, and takes it along when it goes.

What a job's desk is made of points at each other by signals, which Python's own collector cannot follow: owned, all of
it goes with the desk.
"""

from typing import TypeVar

from PySide6.QtCore import QObject

T = TypeVar("T", bound=QObject)


def owned(owner: QObject, one: T) -> T:
    """The object, gone when its owner goes."""
    one.setParent(owner)
    return one
