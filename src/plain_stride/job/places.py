"""Where things lie that belong to the person at this machine, and to no job."""

from pathlib import Path

import platformdirs


def hand_book_path() -> Path:
    return Path(platformdirs.user_data_dir("plain-stride")) / "hand-book.db"


def ledger_path() -> Path:
    """A cache."""
    return Path(platformdirs.user_cache_dir("plain-stride")) / "ledger.db"
