"""Small pictures of jobs, kept for the opening sheet: the ink as it was when a job was put away."""

import hashlib
from pathlib import Path

import platformdirs
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage

WIDE, HIGH = 190, 126


def _file(job: Path) -> Path:
    name = hashlib.sha256(str(job.resolve()).encode()).hexdigest()[:24]
    return Path(platformdirs.user_cache_dir("plain-stride")) / "pictures" / f"{name}.png"


def keep_picture(job: Path, image: QImage) -> None:
    """Keeps a picture of a job; one that cannot be written is left out, since nothing depends on it."""
    if image.isNull():
        return
    small = image.scaled(WIDE, HIGH, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
    try:
        _file(job).parent.mkdir(parents=True, exist_ok=True)
    except OSError:
        return
    small.save(str(_file(job)))


def picture_of(job: Path) -> QImage | None:
    """The picture of a job; None where there is none yet."""
    image = QImage(str(_file(job)))
    return None if image.isNull() else image
