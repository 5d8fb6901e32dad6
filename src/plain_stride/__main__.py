"""python -m plain_stride: the command line."""

from plain_stride.cli import run

run()
