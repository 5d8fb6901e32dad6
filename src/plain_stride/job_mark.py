"""What marks a file as a job, whatever its name."""

from pathlib import Path

APPLICATION_ID = 0x53545244
"""'STRD' as four bytes, in SQLite's header."""


def is_job(path: Path) -> bool:
    """Whether there is a job under a name. What cannot be read is none."""
    try:
        if not path.is_file():
            return False
        with path.open("rb") as file:
            head = file.read(72)
    except (OSError, ValueError):
        return False
    return head[:16] == b"SQLite format 3\0" and head[68:72] == APPLICATION_ID.to_bytes(4, "big")
