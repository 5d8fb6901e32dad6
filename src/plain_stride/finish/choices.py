"""What may be chosen of a file of final art."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Choices:
    """bw: one bit a pixel; transparent: ink on nothing; pictured: textured lines as pictures."""

    bw: bool = False
    transparent: bool = False
    pictured: bool = False
