"""How fields of a record lie in the file, and what is asked of values from it."""

from collections.abc import Callable, Mapping
from dataclasses import MISSING, dataclass, field, fields
from typing import Any, ClassVar

from plain_stride import measure
from plain_stride.errors import StrideError
from plain_stride.hand.nib import Nib, nib_from_row

FARTHEST_PLACE_MM, FARTHEST_SOURCE = measure.FARTHEST_MM * 20, 1e9
MOST_SHARED = 4096
Points = tuple[tuple[float, float], ...]


class RecordError(StrideError):
    """A row that stands for nothing; the message names what of it is wrong."""


@dataclass(frozen=True)
class Column:
    """How a field lies in the file. kind: text, real, int or json; since: the schema that brought it; refers: the table
    whose key it holds; encode, decode: between the field's value and what SQL or JSON holds, for all but None."""

    kind: str
    since: int = 1
    nullable: bool = False
    refers: str = ""
    encode: Callable[[Any], Any] = lambda value: value
    decode: Callable[[Any], Any] = lambda value: value


def column_field(kind: str, default: Any = MISSING, **more: Any) -> Any:
    """A field that is a column of the file."""
    return field(default=default, metadata={"column": Column(kind, **more)})


def text_field(default: Any = MISSING, **more: Any) -> Any:
    """A column of text."""
    return column_field("text", default, **more)


def real_field(default: Any = MISSING, **more: Any) -> Any:
    """A column of a number."""
    return column_field("real", default, decode=float, **more)


def flag_field(default: Any = MISSING, **more: Any) -> Any:
    """A column of a truth value."""
    return column_field("int", default, encode=int, decode=bool, **more)


def json_field(decode: Callable[[Any], Any], default: Any = MISSING, **more: Any) -> Any:
    """A column of JSON; decode: what its data stands for."""
    return column_field("json", default, decode=decode, **more)


def wanted(holds: bool, what: str) -> None:
    """Raises RecordError, in the words given, where something does not hold."""
    if not holds:
        raise RecordError(what)


def numbers(values: Any, count: int | None = None, most: float = FARTHEST_PLACE_MM) -> tuple[float, ...]:
    """Finite numbers, none of them a truth value in disguise. Raises RecordError."""
    for value in values:
        real = isinstance(value, int | float) and not isinstance(value, bool)
        wanted(real and -most <= value <= most, "no numbers")
    out = tuple(map(float, values))
    wanted(count is None or len(out) == count, "no numbers")
    return out


def pair(values: Any) -> tuple[float, ...]:
    """Two numbers, mm. Raises RecordError."""
    return numbers(values, 2)


def points_of(value: Any) -> Points:
    pairs = (pair(point) for point in value)
    return tuple((x, y) for x, y in pairs)


def maybe_number(value: Any) -> float | None:
    """A number in the own unit of a line (s of a pull, mm of a form), or None. Raises RecordError."""
    return None if value is None else numbers((value,), 1, FARTHEST_SOURCE)[0]


_nibs: dict[str, Nib] = {}


def shared_nib(row: Any) -> Nib:
    """Thousands of lines are drawn with a few nibs: each is made and checked once, and they share it."""
    words = repr(row)
    nib = _nibs.get(words)
    if nib is None:
        if len(_nibs) > MOST_SHARED:
            _nibs.clear()
        nib = _nibs[words] = nib_from_row(row)
    return nib


@dataclass(frozen=True)
class Record:
    """What all records have in common: a table, and fields that are its columns."""

    table: ClassVar[str]
    renamed: ClassVar[Mapping[str, str]] = {}
    _columns: ClassVar[dict[str, Column]]
    _added: ClassVar[dict[str, Any]]

    @classmethod
    def columns(cls) -> Mapping[str, Column]:
        """Columns by name, in the order of the file."""
        if "_columns" not in cls.__dict__:
            cls._columns = {f.name: f.metadata["column"] for f in fields(cls)}
        return cls._columns

    @classmethod
    def added(cls) -> Mapping[str, Any]:
        """Columns that came after schema 1, with what they hold for rows of before."""
        if "_added" not in cls.__dict__:
            cls._added = {f.name: None if f.default is None else cls.columns()[f.name].encode(f.default)
                          for f in fields(cls) if cls.columns()[f.name].since > 1}  # fmt: skip
        return cls._added

    def plain(self) -> dict[str, Any]:
        """The row as SQL and JSON hold it; columns of kind json as data."""
        out = {}
        for name, column in self.columns().items():
            value = getattr(self, name)
            out[name] = None if value is None else column.encode(value)
        return out
