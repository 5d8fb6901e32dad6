"""The commands of practice, planning and the log."""

import argparse
from collections.abc import Sequence
from datetime import datetime
from pathlib import Path
from typing import Any

from plain_stride.cli.telling import Command, print_json, progress_shown, refuse
from plain_stride.order.pauses import PAUSE_S, PAUSES_S


def add_commands(command: Command) -> None:
    log = command("log", _log, "tell what was done in a job, or in all jobs of a folder, and when")
    log.add_argument("job", type=Path, metavar="JOB|FOLDER")
    log.add_argument("out", type=Path, nargs="?", metavar="OUT.md|html|pdf|csv|json")
    _add_pause(log)
    order = command("order", _order, "tell what to ink next")
    order.add_argument("job", type=Path, metavar="JOB")
    order.add_argument("--json", action="store_true", help="tell it as JSON")
    forecast = command("forecast", _forecast, "tell how long what is left will take")
    forecast.add_argument("job", type=Path, metavar="JOB|FOLDER")
    forecast.add_argument("--json", action="store_true", help="tell it as JSON")
    forecast.add_argument("--calendar", type=Path, metavar="OUT.ics", help="write the days it takes as a calendar")
    _add_pause(forecast)
    practice = command("practice", _practice, "tell what the hand book says of your hand")
    practice.add_argument("--json", action="store_true", help="tell it as JSON")
    practice.add_argument("--book", type=Path, metavar="FILE", help="another hand book than your own")
    practice.add_argument("--drill", metavar="NAME", help="have the simulated hand practise a drill")
    practice.add_argument("--hand", choices=("calm", "average", "shaky"), default="average")
    practice.add_argument("--count", type=int, default=20, metavar="N", help="how many pulls")
    practice.add_argument("--seed", type=int, default=1, metavar="N")
    practice.add_argument("--take-in", type=Path, metavar="BOOK.json", help="add what another hand book has")


def _add_pause(command: argparse.ArgumentParser) -> None:
    command.add_argument("--pause", type=_pause, default=PAUSE_S, metavar="S", help="a longer pause is no work")


def _pause(text: str) -> float:
    low, high = PAUSES_S
    try:
        if low <= (seconds := float(text)) <= high:
            return seconds
    except ValueError:
        pass
    raise argparse.ArgumentTypeError(f"a pause is {low:g} to {high:g} s, not {text}")


def _log(a: argparse.Namespace) -> int | None:
    from plain_stride.job.log_files import KINDS

    if a.out is not None and a.out.suffix.lower() not in KINDS:
        return refuse(2, f"a log is written as {', '.join(KINDS)}, not as '{a.out.name}'")
    told = _log_of_folder(a) if a.job.is_dir() else _log_of_job(a)
    if a.out is None:
        from plain_stride.finish.log_sheets import log_markdown

        print(log_markdown(told, {}).decode(), end="")
    return 1 if told.get("faults") else None


def _log_of_job(a: argparse.Namespace) -> dict[str, Any]:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job.job_files import opened
    from plain_stride.job.log_files import job_log
    from plain_stride.job.shapes import Shapes

    load_if_compiled()
    with opened(a.job) as (job, store):
        return job_log(job, Shapes(job, store), a.pause, a.out, progress_shown)


def _log_of_folder(a: argparse.Namespace) -> dict[str, Any]:
    from plain_stride.job.ledger import ledger
    from plain_stride.job.log_files import folder_log, jobs_of
    from plain_stride.job.places import ledger_path

    with ledger(ledger_path(), a.pause) as book:
        told = folder_log(book, jobs_of(a.job), a.out, progress_shown)
    for fault in told["faults"]:
        refuse(1, fault)
    return told


def _order(a: argparse.Namespace) -> None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.job.job_files import opened
    from plain_stride.job.job_forecast import forecast_of, hours_by_step, pieces_read
    from plain_stride.job.shapes import Shapes
    from plain_stride.job.work_order import steps_of_job, told_steps
    from plain_stride.job.worked import worked

    load_if_compiled()
    with opened(a.job) as (job, store):
        pieces = pieces_read(job, Shapes(job, store), progress_shown)
        steps = steps_of_job(job, pieces)
        hours = hours_by_step(forecast_of(job, worked(job), pieces, _now()), steps)
        told = told_steps(job, steps, hours)
    if a.json:
        print_json(told)
        return
    for one in told["steps"]:
        tick = "done" if one["done"] >= 0.97 else "aside" if one["aside"] else f"{one['done']:.0%}"
        print(f"{tick:>6}  {one['kind']}, {one['part'] or 'no part yet'}: {one['mm_left']:.0f} mm left"
              f" at ({one['x']:.0f}, {one['y']:.0f}) mm")  # fmt: skip
    if not told["steps"]:
        print("nothing is left to ink: there are no pencils without ink, and nothing is marked to be drawn")


def _forecast(a: argparse.Namespace) -> int | None:
    from plain_stride.compiled.ready import load_if_compiled
    from plain_stride.finish.write import write_whole
    from plain_stride.job.calendar import calendar_of
    from plain_stride.job.job_forecast import forecasts_of
    from plain_stride.job.log_files import jobs_of

    load_if_compiled()
    paths = jobs_of(a.job) if a.job.is_dir() else [a.job]
    told, faults = forecasts_of(paths, a.pause, _now(), progress_shown)
    for fault in faults:
        refuse(1, fault)
    if not told:
        return 1
    if a.calendar is not None:
        write_whole(a.calendar, calendar_of(told, _now()))
    if a.json:
        print_json(told[0] if not a.job.is_dir() else {"units": "mm", "jobs": told})
    else:
        for one in told:
            print(f"{one['job']}: {one['sentence']}" if a.job.is_dir() else one["sentence"])
    return 1 if faults else None


def _practice(a: argparse.Namespace) -> int | None:
    from plain_stride.job.places import hand_book_path
    from plain_stride.job.reading import read_json
    from plain_stride.practice.drills import drill_named
    from plain_stride.practice.hand_book import hand_book
    from plain_stride.practice.report import practice_json

    drill = drill_named(a.drill) if a.drill is not None else None
    if not 1 <= a.count <= 10_000:
        return refuse(2, "a drill has 1 to 10,000 pulls")
    if drill is not None and a.book is None:
        return refuse(2, "the simulated hand practises into a book of its own, not into yours: name it by --book FILE")
    with hand_book(a.book or hand_book_path()) as book:
        if a.take_in is not None:
            print_unless_json(a, f"{book.take_in(read_json(a.take_in))} pulls and pages were taken in")
        if drill is not None:
            from plain_stride.practice.simulated import practised

            for kept in practised(drill, a.hand, a.count, a.seed, a.hand):
                book.add(kept)
        told = practice_json(book)
    if a.json:
        print_json(told)
        return None
    _tell_hands(told["hands"])
    return None


def print_unless_json(a: argparse.Namespace, words: str) -> None:
    if not a.json:
        print(words)


def _tell_hands(hands: Sequence[dict[str, Any]]) -> None:
    for hand in hands:
        figures = hand["figures"]
        print(f"{hand['person']}, {hand['device']}: {hand['pulls']} pulls; of the last {figures['pulls']}: shake"
              f" {figures['shake']['value']:.2f} mm at {figures['hz']['value']:.1f} Hz, wander"
              f" {figures['wander']['value']:.2f} mm, ends missed by {figures['end']['value']:.2f} mm")  # fmt: skip
    if not hands:
        print("the hand book is empty: pull a drill at Practice, and it begins")


def _now() -> datetime:
    return datetime.now().astimezone()
