"""One line for each figure: what was measured, what was asked."""


def told(what: str, value: float, asked: float | None, kind: str, unit: str) -> bool:
    """Prints a figure. kind: "least" or "most"; unit "%" takes shares. Gives whether what was asked is reached."""
    reached = asked is None or (value >= asked if kind == "least" else value <= asked)
    sign = ">=" if kind == "least" else "<="
    beside = "" if asked is None else f"  ({sign} {_shown(asked, unit)}){'' if reached else '  NOT REACHED'}"
    print(f"    {what:58} {_shown(value, unit):>10}{beside}", flush=True)
    return reached


def _shown(value: float, unit: str) -> str:
    return f"{value:.1%}" if unit == "%" else f"{value:.3f} {unit}".strip()
