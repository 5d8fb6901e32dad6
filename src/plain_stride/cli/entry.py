"""One command after the other: found by its name, done, and its faults told in a sentence. Statuses: 0 done, 1 could
not, 2 wrong use."""

import argparse
import os
import sys
import warnings
from collections.abc import Callable
from typing import NoReturn

from plain_stride import __version__
from plain_stride.cli import (
    export_command,
    hand_over_command,
    job_commands,
    line_commands,
    log_command,
    pencil_commands,
    proof_command,
    tone_command,
    window_commands,
)
from plain_stride.cli.telling import refuse
from plain_stride.errors import StrideError

ROOMS = (window_commands, job_commands, pencil_commands, line_commands, tone_command, proof_command,
         export_command, hand_over_command, log_command)  # fmt: skip


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        print(f"plain-stride: {message}", file=sys.stderr)
        sys.exit(2)


def run() -> None:
    # What libraries warn of is for their users, not for ours: a command says one sentence.
    warnings.simplefilter("ignore")
    status = main(sys.argv[1:])
    try:
        sys.stdout.flush()
    except OSError as fault:
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)
        if not isinstance(fault, BrokenPipeError):
            status = refuse(1, f"what was to be told could not be written: {fault.strerror}")
    sys.exit(status)


def main(argv: list[str]) -> int:
    """Does one command; gives the exit status. Nothing but a wrong use of the command raises SystemExit."""
    arguments = _parser().parse_args(argv)
    work: Callable[[argparse.Namespace], int | None] = arguments.work
    try:
        return work(arguments) or 0
    except StrideError as fault:
        return refuse(1, str(fault))
    except BrokenPipeError:
        return 1
    except OSError as fault:
        return refuse(1, f"the system would not do it: {fault.strerror or fault}; the job is as it was")
    except KeyboardInterrupt:
        return refuse(1, "stopped: what was announced as saved is saved")
    except MemoryError:
        return refuse(1, "there is not enough memory for that: nothing was changed")
    except Exception as fault:
        from plain_stride.job.logfile import log_crash

        return refuse(1, f"something went wrong here ({fault}); the job is as it was. The log: {log_crash()}")


def _parser() -> argparse.ArgumentParser:
    top = _Parser(prog="plain-stride", description="An inking bench: pencils in, final line art out.")
    top.add_argument("--version", action="version", version=f"plain-stride {__version__}")
    commands = top.add_subparsers(metavar="COMMAND", required=True, parser_class=_Parser)

    def command(name: str, work: Callable[[argparse.Namespace], int | None], words: str) -> argparse.ArgumentParser:
        sub = commands.add_parser(name, help=words, description=words)
        sub.set_defaults(work=work)
        return sub

    for room in ROOMS:
        room.add_commands(command)
    return top
