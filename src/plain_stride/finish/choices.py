"""What may be chosen of a file of final art."""

from dataclasses import dataclass

LAYERINGS = PART, ROLE, TIER, ONE = ("part", "role", "tier", "one")
COLOURS = AUTO, GREY, RGB = ("auto", "grey", "rgb")


@dataclass(frozen=True)
class Choices:
    """bw: one bit a pixel; transparent: ink on nothing; pictured: textured lines as pictures; colour: auto, as the inks
    are, else grey or rgb; by: what layers or pages are of; marks: crop marks; strokes: lines of one width as
    strokes."""

    bw: bool = False
    transparent: bool = False
    pictured: bool = False
    colour: str = AUTO
    by: str = PART
    marks: bool = False
    strokes: bool = False

    def coloured(self, colours: bool) -> bool:
        """Whether pixels have colours. colours: whether the art has any."""
        return not self.bw and (self.colour == RGB or (self.colour == AUTO and colours))
