"""`python -m plain_stride.cli_main`: the command line, for processes that have no script on their path."""

from plain_stride.cli import run

if __name__ == "__main__":
    run()
