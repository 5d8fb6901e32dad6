"""The command line, as tests of jobs use it."""

import pytest

from plain_stride.cli import main


@pytest.fixture
def run(capsys):
    def call(*arguments, want=0):
        try:
            status = main([str(a) for a in arguments])
        except SystemExit as stop:
            status = stop.code
        out, err = capsys.readouterr()
        assert status == want, err
        assert "Traceback" not in err
        if status:
            assert len(err.strip().splitlines()) == 1
        return out if not status else err

    return call
