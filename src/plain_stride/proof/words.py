"""What the proof's kinds are called on the screen, and how a finding is told in few words."""

from plain_stride.proof.finding import Finding

TITLES = {
    "gap": "open end",
    "overshoot": "runs past",
    "wobble": "shivers",
    "blob": "blob",
    "too-thin": "dies in print",
    "fill-in": "will close",
    "restated": "drawn twice",
    "stray": "stray mark",
    "lost": "lost from the rough",
    "uneven-hatch": "uneven hatching",
    "weight-inversion": "inner outweighs outline",
    "tier-inversion": "far outweighs near",
    "light-inversion": "lit outweighs shade",
    "tangent": "edges kiss",
    "flat-weight": "one flat weight",
    "unfinished": "no ink yet",
    "straying": "strays from pencils",
    "off-board": "off the board",
    "pale-colour": "colour too pale",
    "low-resolution": "too few pixels",
    "halo-uneven": "uneven halo",
    "halo-open": "halo closes",
    "doubled-edge": "doubled edge",
    "loose-strand": "loose strand",
}
"""By kind."""


def measured_words(found: Finding, plain: bool = False) -> str:
    """What a finding measures, with its unit; shares as per cent."""
    return _value(found.measured, found.unit, plain)


def limit_words(found: Finding) -> str:
    """Its limit, with its unit."""
    return _value(found.limit, found.unit, False)


def _value(value: float, unit: str, plain: bool) -> str:
    if unit.startswith("of "):
        share = f"{value:.0%}".replace("%", " %")
        return share if plain else f"{share} {unit}"
    if unit == "times":
        return f"{value:.2f} times"
    if unit == "degrees":
        return f"{value:.0f}°"
    if unit == "mm":
        return f"{value:.2f} mm" if value < 10.0 else f"{value:.0f} mm"
    return f"{value:.0f} {unit}"
