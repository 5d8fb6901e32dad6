"""Named changes of inks: named colours, and what they are laid on."""

from typing import Any

from plain_stride.colour import checked_colour
from plain_stride.errors import StrideError
from plain_stride.form.roles import ROLES
from plain_stride.job.change_context import ChangeContext, change, line_list, number
from plain_stride.job.darker_lines import darker_lines
from plain_stride.job.errors import JobError
from plain_stride.job.flats import flats_of
from plain_stride.job.hand_over_records import InkRecord
from plain_stride.job.inks import PLAIN_INKS, hand_over_of, ink_named
from plain_stride.job.names import checked_name
from plain_stride.job.rows import INKED

MOST_INKS = 500
AS_PART = "as the part"


@change
def ink(m: ChangeContext, name: str, colour: Any = None, roles: Any = None, rename: str | None = None) -> str:
    """Makes an ink or alters one: a colour, #rrggbb; roles: of lines in black parts that it is laid on, where neither
    they nor their parts have an ink; rename: its new name. Gives its key. Raises JobError."""
    key = ink_named(m.job, checked_name(name, "an ink's name"))
    if name in PLAIN_INKS or rename in PLAIN_INKS:
        raise JobError("black and white are always there and stay as they are: give the ink another name")
    if key is None:
        if colour is None:
            raise JobError(f"there is no ink '{name}': give a colour to make it")
        if len(m.job.rows.inks) >= MOST_INKS:
            raise JobError(f"{MOST_INKS} inks at most: take one away first")
        key = m.job.new_id("k")
        m.draft.put(key, InkRecord(name=name, colour=colour_of(colour)))
    elif colour is not None:
        m.draft.change("inks", key, colour=colour_of(colour))
    if roles is not None:
        _lay_on_roles(m, key, roles)
    if rename is not None and rename != name:
        if ink_named(m.job, checked_name(rename, "an ink's name")) is not None:
            raise JobError(f"there is an ink '{rename}' already")
        m.draft.change("inks", key, name=rename)
    return key


def _lay_on_roles(m: ChangeContext, key: str, roles: Any) -> None:
    if not isinstance(roles, list) or not all(role in ROLES for role in roles):
        raise JobError(f"roles are a list of {', '.join(ROLES)}")
    for other, row in list(m.job.rows.inks.items()):
        # A role has one ink: it leaves the one that it had.
        left = tuple(role for role in row.roles if role not in roles)
        if other != key and left != row.roles:
            m.draft.change("inks", other, roles=left)
    m.draft.change("inks", key, roles=tuple(dict.fromkeys(roles)))


@change
def ink_delete(m: ChangeContext, name: str) -> None:
    """Takes an ink away: what it was laid on is black or white again, as its part is. Raises JobError."""
    key = ink_named(m.job, name)
    if key is None:
        raise JobError(f"there is no ink '{name}'")
    for table in (*INKED, "parts"):
        for one, row in list(m.job.rows.of(table).items()):
            if row.colour == key:
                m.draft.change(table, one, colour=None)
    m.draft.remove("inks", key)


@change
def recolour(m: ChangeContext, lines: list[str], ink: str) -> None:
    """Lays an ink, by its name, on lines and blacks; "as the part" takes their own away. Geometry stays. Raises
    JobError."""
    key = None if ink == AS_PART else ink_key(m, ink)
    for one in line_list(lines):
        row = m.ink(one)
        if row.colour != key:
            m.draft.change(row.table, one, colour=key)


def ink_key(m: ChangeContext, name: object) -> str:
    """The key of the ink of a name. Raises JobError."""
    key = str(name) if name in PLAIN_INKS else ink_named(m.job, str(name))
    if key is None:
        known = [*PLAIN_INKS, *(row.name for row in m.job.rows.inks.values())]
        raise JobError(f"there is no ink '{str(name)[:60]}': there are {', '.join(known)}")
    return key


def colour_of(value: Any) -> str:
    """A colour as "#rrggbb". Raises JobError."""
    try:
        return checked_colour(value)
    except StrideError as fault:
        raise JobError(str(fault)) from None


@change
def darker(m: ChangeContext, lines: list[str], step: Any = None, colours: Any = None) -> list[str]:
    """Lays on each line an ink that is darker than the flats beside it by a step of L*; inks of these colours are made
    where there are none. colours: of each line, where they are known, null to leave it. Lines where it cannot be stay
    as they are. Gives the lines that were recoloured. Raises JobError."""
    keys = line_list(lines)
    for key in keys:
        m.line(key)
    wanted = _darker(m, keys, step) if colours is None else _told(colours, keys)
    done = []
    for key, made in wanted.items():
        if made is None:
            continue
        m.draft.change("lines", key, colour=_ink_of(m, made))
        done.append(key)
    if not done:
        raise JobError("no line has a flat beside it that it could be darker than")
    return done


def _darker(m: ChangeContext, keys: list[str], step: Any) -> dict[str, str | None]:
    by = hand_over_of(m.job).step if step is None else number(step, "a step", 1.0, 100.0)
    found = darker_lines(m.shapes, flats_of(m.job, m.shapes, with_leaks=False), keys, by)
    return {one.line: one.colour for one in found}


def _told(colours: Any, keys: list[str]) -> dict[str, str | None]:
    if not isinstance(colours, list) or len(colours) != len(keys):
        raise JobError("colours are a list of #rrggbb or null, one for each line")
    return {key: None if one is None else colour_of(one) for key, one in zip(keys, colours, strict=True)}


def _ink_of(m: ChangeContext, made: str) -> str:
    """The ink of a colour, made where there is none."""
    known = next((key for key, row in m.job.rows.inks.items() if row.colour == made), None)
    if known is not None:
        return known
    names = {row.name for row in m.job.rows.inks.values()}
    name, n = made, 1
    while name in names:
        n += 1
        name = f"{made} {n}"
    return str(ink(m, name, made))
