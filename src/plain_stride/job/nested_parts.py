"""Parts put inside parts, one deep: an eye in a head. What is inside is in the tier of what it is in, and goes along
where that is brought nearer, locked or hidden; it can be locked and hidden by itself."""

from collections.abc import Mapping

from plain_stride.job.change_context import ChangeContext
from plain_stride.job.errors import JobError
from plain_stride.job.part_order import inner

ALONG = ("tier", "locked", "hidden")
"""What is said of a part and holds for those inside it from then on."""


def put_inside(m: ChangeContext, part: str, name: str) -> None:
    """Puts a part inside the one of a name, or, where that is empty, beside all others again. Raises JobError."""
    rows = m.job.rows.parts
    if not name:
        m.draft.change("parts", part, inside=None)
        return
    outer = m.job.part_named(name)
    if outer is None:
        raise JobError(f"there is no part '{name}' to put '{rows[part].name}' inside")
    if outer.id == part:
        raise JobError("a part is not put inside itself")
    if outer.inside is not None:
        raise JobError(f"'{name}' is inside '{rows[outer.inside].name}' itself: parts are put inside one deep")
    if inner(rows, part):
        raise JobError(f"'{rows[part].name}' has parts inside it: parts are put inside one deep")
    m.draft.change("parts", part, inside=outer.id, tier=outer.tier)


def take_along(m: ChangeContext, part: str, new: Mapping[str, object]) -> None:
    """Lets the parts inside one go along with what is said of it. Raises JobError where a part inside another is to
    have a tier of its own."""
    rows = m.job.rows.parts
    outer = rows[part].inside
    if outer is not None and new.get("tier", rows[outer].tier) != rows[outer].tier:
        raise JobError(f"'{rows[part].name}' is inside '{rows[outer].name}', which is {rows[outer].tier}: take it out "
                       "first")  # fmt: skip
    along = {key: value for key, value in new.items() if key in ALONG}
    for key in inner(rows, part) if along else ():
        m.draft.change("parts", key, **along)


def let_out(m: ChangeContext, part: str) -> None:
    """Puts the parts inside one beside it, as it is going."""
    for key in inner(m.job.rows.parts, part):
        m.draft.change("parts", key, inside=None)
