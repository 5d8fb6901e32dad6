"""The window opened, the program put into the menus of a desktop."""

import argparse
from pathlib import Path

from plain_stride.cli.telling import Command


def add_commands(command: Command) -> None:
    demo = command("demo", _demo, "open the demo job")
    instead = demo.add_mutually_exclusive_group()
    instead.add_argument("--tour", type=Path, metavar="DIR", help="save a picture of every station there instead")
    instead.add_argument("--job", type=Path, metavar="FILE", help="write the demo's job file there instead")
    opening = command("open", _open, "open a job in the window; without one, the job worked on last")
    opening.add_argument("job", type=Path, metavar="JOB", nargs="?")
    command("install", _install, "put the program into the desktop's menus, with its icon and kind of file")
    command("uninstall", _uninstall, "take it out of the desktop's menus again")


def _demo(a: argparse.Namespace) -> int:
    if a.tour is not None:
        from plain_stride.desk.tour import tour

        return tour(a.tour)
    if a.job is not None:
        from plain_stride.compiled.ready import load_if_compiled
        from plain_stride.demo.job import make_demo

        load_if_compiled()
        make_demo(a.job)
        return 0
    from plain_stride.desk.start import start_demo

    return start_demo()


def _open(a: argparse.Namespace) -> int:
    from plain_stride.desk.start import start_job, start_last

    return start_last() if a.job is None else start_job(a.job)


def _install(a: argparse.Namespace) -> None:
    from plain_stride.installed import install

    for path in install():
        print(f"put in place: {path}")


def _uninstall(a: argparse.Namespace) -> None:
    from plain_stride.installed import uninstall

    gone = uninstall()
    for path in gone:
        print(f"taken away: {path}")
    if not gone:
        print("nothing was in place")
