"""The check of a file's form, in time and memory that its size bounds, however faulty it is."""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Callable, Iterator
from itertools import islice
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel, ConfigDict, ValidationError, WrapValidator, model_validator
from pydantic_core import InitErrorDetails, PydanticCustomError

from understep.errors import MOST_FAULTS, BoardFileError

MOST_BYTES = 64 << 20
MOST_DEPTH = 16
CHUNK = 1000  # things that are checked at once: so many faults are met at most before it ends

P = TypeVar("P", bound=BaseModel)


def _pieces(value: list[Any] | dict[str, Any]) -> Iterator[tuple[int, Any]]:
    """Pieces of a list or table, with the place of the first thing."""
    if isinstance(value, list):
        yield from ((start, value[start : start + CHUNK]) for start in range(0, len(value), CHUNK))
        return
    items = iter(value.items())
    while piece := dict(islice(items, CHUNK)):
        yield 0, piece


def _few(value: Any, handler: Callable[[Any], Any]) -> Any:
    """Validate a list or table piece by piece, and stop after the first piece with faults."""
    if not isinstance(value, list | dict) or len(value) <= CHUNK:
        return handler(value)
    made: Any = type(value)()
    for start, piece in _pieces(value):
        try:
            found = handler(piece)
        except ValidationError as error:
            raise _moved(error, start) from None
        add = made.extend if isinstance(made, list) else made.update
        add(found)
        for key in piece if isinstance(piece, dict) else range(start, start + len(piece)):
            value[key] = None  # what was read is released: both at once take too much memory
    return made


def _moved(error: ValidationError, start: int) -> ValidationError:
    """The first faults of a piece, with the places that they have in the whole."""
    details = []
    for fault in _faults(error):
        loc = fault["loc"]
        if loc and isinstance(loc[0], int):
            loc = (loc[0] + start, *loc[1:])
        said = PydanticCustomError("fault", "{said}", {"said": fault["msg"]})
        details.append(InitErrorDetails(type=said, loc=loc, input=None))
    return ValidationError.from_exception_data("piece", details)


def _faults(error: ValidationError) -> list[Any]:
    return error.errors(include_url=False, include_context=False, include_input=False)


NOTHING: dict[str, Any] = {}  # all empty objects are this one, which takes less memory
#: For lists and tables of any length.
Few = WrapValidator(_few)


class FileObject(BaseModel):
    """What all parts of a file share."""

    model_config = ConfigDict(extra="forbid", strict=True)

    @model_validator(mode="before")
    @classmethod
    def _unknown(cls, value: Any) -> Any:
        """Leave out unknown keys, except for the first ones."""
        if isinstance(value, dict) and len(value) > len(cls.model_fields) + MOST_FAULTS:
            unknown = [key for key in value if key not in cls.model_fields]
            kept = [*cls.model_fields, *unknown[:MOST_FAULTS]]
            value = {key: value[key] for key in kept if key in value}
        return value


def validated(raw: bytes, source: str, part: type[P]) -> P:
    """Check the bytes of a file; the first faults of form are listed with their places."""
    text = decoded(raw, source)
    if _depth(text) > MOST_DEPTH:
        raise BoardFileError(source, [("", f"nested deeper than {MOST_DEPTH} levels")])
    try:
        content = json.loads(
            text, object_pairs_hook=_no_twins, parse_constant=_no_constant, parse_float=_number
        )
        return part.model_validate(content)
    except json.JSONDecodeError as error:
        place = f"line {error.lineno}, column {error.colno}"
        raise BoardFileError(source, [(place, f"is not JSON: {error.msg}")]) from None
    except ValidationError as error:
        faults = [(".".join(map(str, each["loc"])), _said(each["msg"])) for each in _faults(error)]
        raise BoardFileError(source, faults) from None
    except ValueError as error:
        raise BoardFileError(source, [("", str(error))]) from None


def read_bytes(path: Path) -> bytes:
    """The bytes of a file; of one that is too large a few more than may be."""
    pieces, size = [], 0
    with path.open("rb") as file:
        while size <= MOST_BYTES and (piece := file.read(1 << 20)):
            pieces.append(piece)
            size += len(piece)
    return b"".join(pieces)


def decoded(raw: bytes, source: str, encoding: str = "utf-8") -> str:
    """The text of a file, unless it is too large."""
    if len(raw) > MOST_BYTES:
        raise BoardFileError(source, [("", f"larger than {MOST_BYTES >> 20} MiB")])
    try:
        return raw.decode(encoding)
    except UnicodeDecodeError as error:
        raise BoardFileError(source, [(f"byte {error.start}", "is not UTF-8")]) from None


def _depth(text: str) -> int:
    """How deeply lists and objects are nested."""
    depth = deepest = 0
    for match in re.finditer(r'"(?:[^"\\]|\\.)*"?|[\[{]|[\]}]', text, re.DOTALL):
        sign = match[0]
        if sign in "[{":
            depth += 1
            deepest = max(deepest, depth)
        elif sign in "]}":
            depth -= 1
    return deepest


def _said(message: str) -> str:
    """A validator's message in this library's words."""
    if message.startswith("Extra inputs"):
        return "is no key of this file"
    if message.startswith("Input should be a valid dictionary"):
        return "should be an object"
    if message.startswith("Input should be a valid list"):
        return "should be an array"
    return message[:1].lower() + message[1:]


def _no_twins(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    if not pairs:
        return NOTHING
    made = dict(pairs)
    if len(made) != len(pairs):
        counts = Counter(name for name, _ in pairs)
        twin = next(name for name in counts if counts[name] > 1)
        raise ValueError(f"the key {twin!r} stands twice in one object")
    return made


def _no_constant(word: str) -> None:
    raise ValueError(f"{word} is not a number of JSON")


def _number(digits: str) -> int | float:
    """A number; 3.0 is the whole number 3, as JSON Schema has it."""
    value = float(digits)
    return int(value) if value.is_integer() else value
