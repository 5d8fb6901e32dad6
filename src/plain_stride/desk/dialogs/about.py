"""About: what this is, which version, under which licences."""

from importlib import metadata, resources
from pathlib import Path

from PySide6.QtWidgets import QDialog, QPlainTextEdit, QVBoxLayout, QWidget

from plain_stride import __version__
from plain_stride.desk.controls.controls import Heading, Sentence
from plain_stride.desk.look.theme import LABEL, THEME

LIBRARIES = ("PySide6-Essentials", "numpy", "numba", "scipy", "shapely", "pillow", "platformdirs", "defusedxml",
             "svgelements")  # fmt: skip


def licences() -> list[tuple[str, str]]:
    """(what, its licence in full): our own and that of the type that ships with it."""
    out = [("Plain Stride, MIT licence", _own_licence())]
    fonts = resources.files("plain_stride.desk").joinpath("fonts")
    for file in sorted(fonts.iterdir(), key=lambda f: f.name):
        if file.name.startswith("OFL-"):
            name = file.name.removeprefix("OFL-").removesuffix(".txt")
            out.append((f"Type: {name}, SIL Open Font License 1.1", file.read_text(encoding="utf-8")))
    return out


def _own_licence() -> str:
    """As the installed package carries it, else as it lies in a checkout."""
    try:
        files = metadata.files("plain-stride") or []
        for file in files:
            if file.name == "LICENSE":
                return Path(str(file.locate())).read_text(encoding="utf-8")
    except (metadata.PackageNotFoundError, OSError):
        pass
    beside = Path(__file__).resolve().parents[3] / "LICENSE"
    return beside.read_text(encoding="utf-8") if beside.exists() else "MIT licence"


def library_words() -> str:
    """The libraries it stands on, each with its version and licence as its package tells them."""
    told = []
    for name in LIBRARIES:
        try:
            data = metadata.metadata(name)
        except metadata.PackageNotFoundError:
            continue
        said = data.get_all("License-Expression") or []
        licence = ", ".join(said) or _classified(data.get_all("Classifier") or []) or "see its package"
        told.append(f"{data['Name']} {data['Version']} ({licence})")
    return "; ".join(told)


def _classified(classifiers: list[str]) -> str:
    found = [c.split("::")[-1].strip() for c in classifiers if c.startswith("License ::")]
    return ", ".join(found)


class About(QDialog):
    """Escape closes it."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("About Plain Stride")
        p = THEME.palette
        self.setStyleSheet(f"QDialog {{ background: {p.margin} }} QPlainTextEdit {{ background: {p.margin};"
                           f" color: {p.text}; border: 1px solid {p.hair} }}")  # fmt: skip
        column = QVBoxLayout(self)
        column.setContentsMargins(THEME.px(24), THEME.px(14), THEME.px(24), THEME.px(18))
        column.addWidget(Sentence(f"**Plain Stride {__version__}**, an inking bench: pencils in, final line art out."))
        column.addWidget(Sentence("Your drawings stay on this machine: nothing is sent anywhere.", colour="faint"))
        column.addWidget(Heading("Stands on"))
        column.addWidget(Sentence(library_words(), LABEL, "faint"))
        column.addWidget(Heading("Licences"))
        text = QPlainTextEdit("\n\n\n".join(f"{what}\n\n{licence}" for what, licence in licences()))
        text.setReadOnly(True)
        text.setFont(THEME.font(LABEL))
        text.setAccessibleName("Licences in full")
        column.addWidget(text, 1)
        self.resize(THEME.px(640), THEME.px(560))
