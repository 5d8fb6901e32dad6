"""What the pages of Tone say of what was measured, and read of what is typed."""

from typing import Any

from plain_stride.desk.controls.controls import Field, plain_number
from plain_stride.desk.session.session import Session
from plain_stride.measure import MeasureError, parse_length_mm

AUTO, NONE = "as fine as holds", "none"


def tone_in_hand(session: Session, *kinds: str) -> str:
    """The tone that what is chosen belongs to, of one of some kinds; '' for none, or for several."""
    job = session.job
    rows = job.inked_rows()
    tones = {rows[key].tone for key in session.chosen if key in rows}
    if len(tones) != 1:
        return ""
    (tone,) = tones
    row = job.rows.tones.get(tone) if tone is not None else None
    return str(tone) if row is not None and row.kind in kinds else ""


def percent(value: float) -> str:
    """A share in per cent as it is shown."""
    return f"{value:.0f} %"


def read_percent(text: str) -> float:
    """Per cent, 0 to 100, with or without the sign. Raises MeasureError."""
    value = plain_number(text.replace("%", ""))
    if not 0.0 <= value <= 100.0:
        raise MeasureError(f"per cent go from 0 to 100, not {value:g}")
    return value


def degrees_of(field: Field) -> float | None:
    """Degrees; None for none. Raises MeasureError."""
    text = field.entry.text().replace("°", "").strip()
    return None if text.casefold() in ("", NONE) else plain_number(text)


def length_of(field: Field) -> float | None:
    """mm; None where it is left open. Raises MeasureError."""
    text = field.entry.text().strip()
    return None if text.casefold() in ("", AUTO, NONE) else parse_length_mm(text)


def hatch_words(told: dict[str, Any]) -> str:
    """What a hatch measures."""
    grey = told["grey"]
    asked, found = grey["asked"], grey["measured"]
    if isinstance(asked, list):
        what = f"Asked {_shares(asked)}, measured **{_shares(found)}**"
    else:
        what = f"Asked {asked:.0%}, measured **{found:.1%}**"
    uneven = f"uneven by **{told['cv_pitch']:.1%}**, widths by **{told['cv_width']:.1%}**"
    return f"{what}. Pitch **{told['pitch_mm']:.2f} mm**, {uneven}."


def print_words(told: dict[str, Any]) -> str:
    """What print makes of a hatch."""
    made = told["print"]
    out = f"On {made['target']} **{made['coverage']:.0%}** of it is ink, and reads as {made['reads']:.0%}."
    if made["lost"] >= 0.005:
        out += f" **{made['lost']:.1%}** is too thin and lost."
    if told["clogs"]:
        out += f" **{made['closed']:.1%}** clogs."
    if told["reads_as_grid"]:
        out += " So wide a pitch reads as lines, not as a grey."
    cells = told.get("cells")
    return out if cells is None else f"{out} Cells {cells['area']:.1f} mm², {cells['elongation']:.1f} times as long."


def _shares(both: list[float]) -> str:
    return f"{both[0]:.0%} to {both[1]:.0%}"
