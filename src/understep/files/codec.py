"""The codec of board files: a dataclass as a JSON object, its fields by name.

A field at its default is left out. What a field can hold follows from its annotation, in the form
that is checked, in the schema, in reading and in writing.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import MISSING, fields, is_dataclass
from fractions import Fraction
from types import UnionType
from typing import (
    Annotated,
    Any,
    Literal,
    NamedTuple,
    TypeAlias,
    TypeVar,
    Union,
    get_args,
    get_origin,
    get_type_hints,
)

from pydantic import Field, JsonValue, Strict, WithJsonSchema, create_model

from understep.boards.cost import LARGEST, exact, fraction, plain
from understep.checks import Limits
from understep.errors import MOST_FAULTS, BoardFileError, InputError
from understep.files.bounded import Few, FileObject

FRACTION = r"^[0-9]{1,28}/[0-9]{0,27}[1-9][0-9]*$"
#: A cost: a number, or a text such as "1/3" where a decimal would not be exact.
Number: TypeAlias = Annotated[
    int | float | str,
    WithJsonSchema({
        "anyOf": [
            {"type": "number", "minimum": 0, "maximum": LARGEST},
            {"type": "string", "pattern": FRACTION, "maxLength": 29},
        ]
    }),
]  # fmt: skip
T = TypeVar("T")
Coordinate = Annotated[int, Field(ge=-(1 << 31), le=1 << 31)]
# JSON has lists alone
PairOf: TypeAlias = Annotated[tuple[T, T], Strict(False)]
At: TypeAlias = PairOf[Coordinate]
ListOf: TypeAlias = Annotated[list[T], Few]
TableOf: TypeAlias = Annotated[dict[str, T], Few]
#: Facts of the game's own.
DataPart: TypeAlias = TableOf[JsonValue]


class Faults:
    """The first faults found so far, each with its place, and how many others there are."""

    def __init__(self) -> None:
        self.found: list[tuple[str, str]] = []
        self._more = 0

    def add(self, place: str, what: str) -> None:
        """Note one."""
        # a file of another format has thousands, and the first few tell
        if len(self.found) < MOST_FAULTS:
            self.found.append((place, what))
        else:
            self._more += 1

    def check(self, source: str) -> None:
        """Raise if there are any."""
        if self.found:
            raise BoardFileError(source, self.found, self._more)

    def build(self, place: str, make: Any, *arguments: Any, **named: Any) -> Any:
        """Call something; note what it refuses, and return None then."""
        try:
            return make(*arguments, **named)
        except InputError as error:
            self.add(place, str(error))
            return None


def number(value: Any, argument: str) -> Any:
    """A number as it is, or a text such as "1/3" as a fraction."""
    if not isinstance(value, str):
        return value
    # before it is made: a power of ten could take up all memory
    if len(value) > 29 or not re.fullmatch(FRACTION, value, re.ASCII):
        raise InputError(argument, "a text must be a fraction such as '1/3'", value)
    above, _, below = value.partition("/")
    return exact(Fraction(int(above), int(below)), argument)


def shown(cost: Any) -> int | float | str:
    """A cost as JSON shows it: a number where that reads back exactly, else a fraction."""
    # a number that reads back as another would change a level by saving it
    whole = fraction(cost)
    value = plain(whole)
    return value if exact(value, "cost") == whole else f"{whole.numerator}/{whole.denominator}"


class FieldCodec(NamedTuple):
    """How values of a type stand in a file: the type there, and how to get there and back."""

    form: Any
    read: Callable[[Any, str], Any]
    write: Callable[[Any], Any]


def _same(value: Any, _argument: str = "") -> Any:
    return value


class Form:
    """A dataclass as an object of a file.

    Parameters
    ----------
    kind
        The dataclass.
    always
        Fields that are written even at their default.
    apart
        Fields that the caller reads and writes: by name the type in the file and the default;
        None: they stand elsewhere.
    """

    def __init__(
        self, kind: type, always: Iterable[str] = (), apart: Mapping[str, Any] | None = None
    ) -> None:
        self._kind, self._always, apart = kind, set(always), dict(apart or {})
        hints = get_type_hints(kind, include_extras=True)
        self._ways: dict[str, FieldCodec] = {}
        self._defaults: dict[str, Any] = {}
        places: dict[str, Any] = {}
        # the order of the dataclass is that of the file
        for each in fields(kind):
            # what the reader has to look up elsewhere comes apart
            if not each.init or each.name in apart:
                continue
            way = self._ways[each.name] = _way(hints[each.name])
            given: Any = ...
            if each.default is not MISSING:
                self._defaults[each.name] = each.default
                given = way.write(each.default)
            elif each.default_factory is not MISSING:
                self._defaults[each.name] = each.default_factory()
                given = Field(default_factory=each.default_factory)
            places[each.name] = (way.form, given)
        places |= {name: place for name, place in apart.items() if place is not None}
        made: Any = create_model
        line = (kind.__doc__ or "").partition("\n")[0]
        self._model = made(f"{kind.__name__}Part", __base__=FileObject, __doc__=line, **places)

    def __get_pydantic_core_schema__(self, _source: Any, handler: Any) -> Any:
        return handler(self._model)

    def read(self, part: Any, **apart: Any) -> Any:
        """The object that a part of a file describes."""
        given = {
            name: self._ways[name].read(getattr(part, name), name)
            for name in self._ways
            # others have the defaults of the class, which may be of this release
            if name in part.model_fields_set
        }
        return self._kind(**given, **apart)

    def write(self, value: Any) -> dict[str, Any]:
        """The fields that are not at their default."""
        found = {}
        for name, way in self._ways.items():
            held = getattr(value, name)
            if name in self._always or name not in self._defaults or held != self._defaults[name]:
                found[name] = way.write(held)
        return found


def _way(hint: Any) -> FieldCodec:
    """How values with an annotation stand in a file."""
    origin, inner = get_origin(hint), get_args(hint)
    if origin is Annotated:
        way, limits = _way(inner[0]), inner[1]
        return way._replace(form=Annotated[way.form, _field(inner[0], limits)])
    if origin in (Union, UnionType):
        return _union(list(inner))
    if _is_kind(origin, Mapping):
        return _table(_way(inner[1]))
    if _is_kind(origin, Iterable):
        return _many(inner)
    # in a file there are only lists, so that a class of pairs is one, too
    if _is_kind(hint, tuple):  # a class of its own, of what it is a tuple of
        return _way(hint.__orig_bases__[0])
    if is_dataclass(hint):
        kind: Any = hint
        form = Form(kind)

        def read(part: Any, argument: str) -> Any:
            try:
                return form.read(part)
            except InputError as error:
                raise InputError(f"{argument}.{error.argument}", error.rule, error.got) from None

        return FieldCodec(Annotated[Any, form], read, form.write)
    return FieldCodec(hint, _same, _same)


def _is_kind(kind: Any, of: Any) -> bool:
    """Whether something is a class of a kind."""
    return isinstance(kind, type) and issubclass(kind, of)


def _field(kind: type, limits: Limits) -> Any:
    """Limits as a schema says them; the dataclass itself checks them."""
    names = {"integer": int, "number": float, "string": str}
    facts: dict[str, Any] = {"type": next(name for name, each in names.items() if each is kind)}
    facts |= {"minimum": limits.least, "maximum": limits.most, "pattern": limits.pattern or None}
    return WithJsonSchema({key: fact for key, fact in facts.items() if fact is not None})


def _union(options: list[Any]) -> FieldCodec:
    """One of several types; all numbers of a cost are one."""
    none = type(None) in options
    options = [each for each in options if each is not type(None)]
    if Fraction in options:
        words = [word for each in options if get_origin(each) is Literal for word in get_args(each)]
        tables = [each for each in options if _is_kind(get_origin(each), Mapping)]
        form: Any = Number
        if words:
            literal: Any = Literal
            form = literal[tuple(words)] | form
        # a movement has one cost for all terrains, or one for each
        table = _way(tables[0]) if tables else None
        if table is not None:
            form = table.form | form

        def read(value: Any, argument: str) -> Any:
            if table is not None and isinstance(value, dict):
                return table.read(value, argument)
            return value if value is None or value in words else number(value, argument)

        def write(value: Any) -> Any:
            if table is not None and isinstance(value, Mapping):
                return table.write(value)
            return value if value is None or isinstance(value, str) else shown(value)

        return FieldCodec(form | None if none else form, read, write)
    way = _way(options[0])
    return FieldCodec(
        way.form | None,
        lambda value, argument: None if value is None else way.read(value, argument),
        lambda value: None if value is None else way.write(value),
    )


def _table(way: FieldCodec) -> FieldCodec:
    """Values by name."""
    form: Any = way.form
    return FieldCodec(
        TableOf[form],
        lambda value, argument: {name: way.read(each, argument) for name, each in value.items()},
        lambda value: {name: way.write(each) for name, each in value.items()},
    )


def _many(inner: tuple[Any, ...]) -> FieldCodec:
    """Two numbers, several texts, or several pairs of whole numbers."""
    if inner == (float, float):
        return FieldCodec(Annotated[tuple[float, float], Strict(False)], _same, list)
    if inner[0] is str:
        return FieldCodec(ListOf[str], lambda value, _: tuple(value), list)
    return FieldCodec(
        ListOf[At], lambda value, _: tuple(map(tuple, value)), lambda v: [list(p) for p in v]
    )
