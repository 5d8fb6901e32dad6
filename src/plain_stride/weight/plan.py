"""The plan's width of a line: base x 2^(k / 2), k the sum of what its role and its tier add, in steps of sqrt 2."""

from dataclasses import dataclass, field

from plain_stride.errors import StrideError

TIERS = ("near", "middle", "far")
STANDARD = "Standard"


class PlanError(StrideError):
    """A plan or a tier that is not known."""


@dataclass(frozen=True)
class Plan:
    """base in mm; steps of sqrt 2 for each role and tier; share 0..1: how much the plan counts against the hand; light:
    degrees that it comes from, 0 the right, 90 above, None for no light; bends: whether tight bends are heavier."""

    name: str = STANDARD
    base: float = 0.35
    roles: dict[str, float] = field(
        default_factory=lambda: {"outer": 1.0, "inner": 0.0, "detail": -1.25, "texture": -2.0, "ruled": 0.0}
    )
    tiers: dict[str, float] = field(default_factory=lambda: {"near": 1.0, "middle": 0.0, "far": -1.0})
    halo: float = 0.35
    share: float = 0.0
    light: float | None = None
    bends: bool = False

    def __post_init__(self) -> None:
        if not 0.0 <= self.share <= 1.0:
            raise PlanError(f"a share of {self.share * 100:g} % is not possible: 0 to 100")
        if not 0.01 <= self.base <= 20.0:
            raise PlanError(f"a base width of {self.base:g} mm is not possible: 0.01 to 20 mm")
        if self.light is not None and not -360.0 <= self.light <= 360.0:
            raise PlanError(f"light from {self.light:g} degrees is not possible: -360 to 360, 90 is above")

    def width(self, role: str, tier: str) -> float:
        """The plan's full width in mm; a halo has its own constant width."""
        if role == "halo":
            return self.halo
        return self.base * 2.0 ** ((self.roles[role] + self.tiers[tier]) / 2.0)

    @property
    def is_even(self) -> bool:
        """Whether it wants one width along all of a line."""
        return self.light is None and not self.bends

    def share_of(self, role: str) -> float:
        """How much the plan counts against the hand (0..1): a halo's width is its own, whatever the share."""
        return 1.0 if role == "halo" else self.share


def check_tier(tier: object) -> str:
    """The tier, if it is one. Raises PlanError."""
    if tier not in TIERS:
        raise PlanError(f"tier '{tier}' is not known: {', '.join(TIERS)}")
    return str(tier)
