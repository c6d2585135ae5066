"""Write what follows from the code: docs/reference.md, docs/api, and the schema of board files.

``python tools/reference.py`` writes them; with ``--check`` it only says whether they are current.
"""

import inspect
import json
import re
import sys
from functools import cached_property
from pathlib import Path

import understep as us
from understep._face import homes
from understep.files.schema import schema_of_form

DOCS = Path(__file__).parents[1] / "docs"
MODULES = "behaviors", "maps", "shapes", "draw", "worlds", "study", "answers", "errors", "typing"
HEAD = """# Reference in lines

Each public name with what it takes, written by `python tools/reference.py` from the code.
`help(us.reach)` says more. A class in `us.answers` is what calls return; a type in `us.typing` is
for annotations.
"""


def names(module: str) -> dict[str, str]:
    """The public names of a module, or of the package (""), each with the module that holds it."""
    if module in ("shapes", "errors"):
        return dict.fromkeys(sorted(getattr(us, module).__all__), f"understep.{module}")
    place = getattr(us, module) if module else us
    found = homes(place.__name__)
    return {name: found[name] for name in sorted(found) if name not in MODULES}


def signature(thing: object) -> str:
    """What a call takes and returns, without the types of arguments."""
    try:
        taken = inspect.signature(thing)
    except (TypeError, ValueError):
        return "(...)"
    parts = [
        each.replace(annotation=inspect.Parameter.empty)
        for place, (name, each) in enumerate(taken.parameters.items())
        if not (place == 0 and name == "self")
    ]
    back = str(taken.return_annotation).replace("'", "").replace("|", "or")
    arrow = "" if taken.return_annotation in (inspect.Signature.empty, "None") else f" -> {back}"
    bare = taken.replace(parameters=parts, return_annotation=inspect.Signature.empty)
    return re.sub(r"<factory>", "{}", str(bare)) + arrow


def first(thing: object) -> str:
    """The first line of a docstring."""
    return (inspect.getdoc(thing) or "").partition("\n\n")[0].replace("\n", " ").replace("|", "\\|")


def members(kind: type) -> list[tuple[str, str, str]]:
    """The public members of a class, its own: name, what it takes, what it is."""
    shown = {id(getattr(us.answers, name)) for name in names("answers")} | {id(us.typing.Grid)}
    homes_of = [each for each in kind.__mro__ if each.__module__.startswith("understep")]
    parts = [each for each in homes_of if each is kind or id(each) not in shown]
    found = {}
    for name, made in ((n, m) for part in reversed(parts) for n, m in vars(part).items()):
        if name.startswith("_") or not (inspect.getdoc(made) or "").strip():
            continue
        if isinstance(made, (property, cached_property)):
            found[name] = ("", first(made))
        elif isinstance(made, (classmethod, staticmethod)):
            found[name] = (signature(getattr(kind, name)), first(getattr(kind, name)))
        elif inspect.isfunction(made):
            found[name] = (signature(made), first(made))
    return [(name, *found[name]) for name in sorted(found)]


def lines(module: str) -> list[str]:
    """A table of a module's names."""
    title = f"us.{module}" if module else "us"
    place = getattr(us, module) if module else us
    text = [f"\n## `{title}`\n", "| name | what it is |", "|---|---|"]
    classes = []
    for name in names(module):
        thing = getattr(place, name)
        own = isinstance(thing, type) and module != "errors"
        given = module in ("answers", "typing") or "made by" in first(thing)  # not made by users
        takes = signature(thing) if inspect.isfunction(thing) or (own and not given) else ""
        what = first(thing) if inspect.isfunction(thing) or isinstance(thing, type) else ""
        text.append(f"| `{name}{takes}` | {what} |")
        if own and thing.__module__.startswith("understep"):
            classes.append((name, members(thing)))
    for name, found in classes:
        if found:
            text += [f"\n### `{title}.{name}`\n", "| member | what it is |", "|---|---|"]
            text += [f"| `{each}{takes}` | {what} |" for each, takes, what in found]
    return text


def page(module: str) -> str:
    """A page of the site: the docstring of each name of a module."""
    title = f"us.{module}" if module else "us"
    blocks = [f"# {title}"]
    for name, home in names(module).items() if module != "typing" else ():
        blocks.append(f"::: {home}.{name}\n    options:\n      heading: {title}.{name}")
    if module == "typing":
        listed = ", ".join(f"`{name}`" for name in names(module))
        blocks.append(f"The types of arguments: {listed}.")
    return "\n\n".join(blocks) + "\n"


def written() -> dict[Path, str]:
    """Every file, and what it should hold."""
    tables = (line for module in ("", *MODULES) for line in lines(module))
    text = "\n".join([HEAD.rstrip(), *tables])
    found = {DOCS / "reference.md": text + "\n"}
    for module in ("", *MODULES):
        found[DOCS / "api" / f"{module or 'understep'}.md"] = page(module)
    schema = DOCS.parent / "src" / "understep" / "data" / "board.schema.json"
    found[schema] = json.dumps(schema_of_form(), indent=1) + "\n"
    return found


def main() -> int:
    """Write, or check; the exit status says whether all was current."""
    found = written()
    stale = [path for path, text in found.items() if not path.exists() or path.read_text() != text]
    stale += [path for path in (DOCS / "api").glob("*.md") if path not in found]
    if "--check" in sys.argv:
        for path in stale:
            print(f"{path.name} is not current: run python tools/reference.py")
        return bool(stale)
    for path in stale:
        if path in found:
            path.write_text(found[path])
        else:
            path.unlink()
    return 0


if __name__ == "__main__":
    sys.exit(main())
