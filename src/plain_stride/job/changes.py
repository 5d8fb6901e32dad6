"""The named changes: the one way to change a job, for the window, the command line and tests alike.

Each takes plain arguments, checks them at the door, and puts rows; `make` turns one or several into one step of
history. `docs/changes.md` lists them for people.
"""

from plain_stride.job import (
    again_changes,
    black_changes,
    board_changes,
    crossing_changes,
    frame_changes,
    from_black_changes,
    hand_over_changes,
    hold_changes,
    ink_changes,
    join_changes,
    line_changes,
    log_changes,
    mend_changes,
    part_changes,
    pencil_changes,
    place_changes,
    point_changes,
    proof_changes,
    role_changes,
    shape_changes,
    tone_changes,
    weight_changes,
)
from plain_stride.job.change_context import (
    CHANGES,
    DEFAULT_PART,
    DEFAULT_ROLE,
    DEFAULT_TIER,
    Made,
    argument_names,
    make,
    make_all,
)
from plain_stride.job.line_changes import trimmed_stretch
from plain_stride.job.pencil_changes import TINTS

__all__ = [
    "CHANGES",
    "DEFAULT_PART",
    "DEFAULT_ROLE",
    "DEFAULT_TIER",
    "TINTS",
    "Made",
    "again_changes",
    "argument_names",
    "black_changes",
    "board_changes",
    "crossing_changes",
    "frame_changes",
    "from_black_changes",
    "hand_over_changes",
    "hold_changes",
    "ink_changes",
    "join_changes",
    "line_changes",
    "log_changes",
    "make",
    "make_all",
    "mend_changes",
    "part_changes",
    "pencil_changes",
    "place_changes",
    "point_changes",
    "proof_changes",
    "role_changes",
    "shape_changes",
    "tone_changes",
    "trimmed_stretch",
    "weight_changes",
]  # fmt: skip
