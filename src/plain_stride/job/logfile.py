"""The log file: what went wrong, for whoever has to find out why."""

import logging
import sys
import traceback
from logging.handlers import RotatingFileHandler
from pathlib import Path

import platformdirs


def log_path() -> Path:
    return Path(platformdirs.user_log_dir("plain-stride")) / "plain-stride.log"


def logger() -> logging.Logger:
    """The application's log; silent where its folder cannot be written."""
    log = logging.getLogger("plain_stride")
    if not log.handlers:
        log.setLevel(logging.INFO)
        try:
            log_path().parent.mkdir(parents=True, exist_ok=True)
            handler: logging.Handler = RotatingFileHandler(log_path(), maxBytes=1_000_000, backupCount=2)
        except OSError:
            handler = logging.NullHandler()
        handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(message)s"))
        log.addHandler(handler)
    return log


def log_crash() -> Path:
    """Writes the error that is being handled to the log; gives the log's place."""
    logger().error("crash\n%s", "".join(traceback.format_exception(*sys.exc_info())))
    return log_path()
