"""Documents: every public name has its place and says what it takes, every page its pictures."""

import inspect
import re
import subprocess
import sys
from pathlib import Path

import pytest
from click.testing import CliRunner
from face import PUBLIC

import understep as us
from understep.cli.main import main
from understep.draw._roles import ROLES
from understep.files.schema import schema_of_form

DOCS = Path(__file__).parents[1] / "docs"
FUNCTIONS = [name for name, thing in PUBLIC.items() if inspect.isfunction(thing)]
CLASSES = [
    name
    for name, thing in PUBLIC.items()
    if inspect.isclass(thing) and not name.startswith("typing")
]


def test_the_reference_is_current():
    done = subprocess.run(
        [sys.executable, "-W", "ignore", "tools/reference.py", "--check"],
        capture_output=True, text=True, cwd=DOCS.parent, check=False,
    )  # fmt: skip
    assert (done.returncode, done.stdout) == (0, "")


def test_every_call_that_is_named_is_there_and_every_public_call_is_named():
    board = us.maps.shipped("fen")
    text = (DOCS / "calls.md").read_text("utf-8")
    answers = {"reach": us.Reach, "route": us.Route, "field": us.Field, "board": board}
    for root, path in re.findall(r"\b(us|board|reach|route|field)\.([\w.]+)", text):
        thing = us if root == "us" else answers[root]
        for name in path.split("."):
            assert hasattr(thing, name) or name in getattr(thing, "__annotations__", {}), path
            thing = getattr(thing, name, None)
    pages = " ".join(
        page.read_text("utf-8") for page in DOCS.rglob("*.md") if "api" not in page.parts
    )
    shown = pages.replace((DOCS / "reference.md").read_text("utf-8"), "")
    missing = [name for name in FUNCTIONS if f"us.{name}" not in shown]
    assert not missing


def test_every_page_is_on_the_site():
    site = (DOCS.parent / "mkdocs.yml").read_text("utf-8")
    shown = set(re.findall(r"[\w/-]+\.md", site))
    there = {page.relative_to(DOCS).as_posix() for page in DOCS.rglob("*.md")}
    assert shown == there


def told(thing):
    """A docstring, and what follows each of its headings."""
    text = inspect.getdoc(thing)
    parts = re.split(r"^(\w+)\n-+\n", text, flags=re.M)
    return text, dict(zip(parts[1::2], parts[2::2], strict=True))


def check_names(function):
    """Arguments and errors are described by the names that arguments have."""
    parts = told(function)[1]
    heads = re.findall(r"^(\w[\w, *]*)$", parts.get("Parameters", ""), re.M)
    named = {word for head in heads for word in re.findall(r"\w+", head)}
    takes = inspect.signature(function).parameters
    fixed = {name for name, each in takes.items() if each.kind is not each.VAR_KEYWORD} - {"self"}
    assert not named or fixed <= named <= set(takes)
    blamed = set(re.findall(r"``([a-z_]+)``", parts.get("Raises", "")))
    assert blamed <= {*takes, "faults"}


@pytest.mark.parametrize("name", FUNCTIONS)
def test_every_function_names_what_it_takes_and_gives_and_shows_it(name):
    function = PUBLIC[name]
    text, parts = told(function)
    assert "Examples" in parts
    assert f"us.{name}(" in parts["Examples"]
    assert set(inspect.signature(function).parameters) <= set(re.findall(r"\w+", text))
    check_names(function)
    if "raise" in inspect.getsource(function).split('"""')[-1]:
        assert "Raises" in parts


@pytest.mark.parametrize("name", CLASSES)
def test_every_class_and_its_methods_say_what_they_are(name):
    kind = PUBLIC[name]
    assert inspect.getdoc(kind).strip()
    for method, made in inspect.getmembers(kind):
        own = getattr(made, "__module__", "") or ""
        if method.startswith("_") or not own.startswith("understep"):
            continue
        assert inspect.getdoc(made), method
        if inspect.isfunction(made):
            check_names(made)


@pytest.mark.parametrize("page", sorted(DOCS.rglob("*.md")), ids=lambda page: page.stem)
def test_every_picture_of_a_page_is_there_and_none_is_left_over(page):
    text = page.read_text("utf-8")
    for picture in re.findall(r"\]\(([^)]+\.png)\)", text):
        assert (page.parent / picture).read_bytes()[:4] == b"\x89PNG"
    if page.parent.name == "how":
        assert f"]({page.stem}.png)" in text
    used = {
        (each.parent / picture).resolve()
        for each in [DOCS.parent / "README.md", *DOCS.rglob("*.md")]
        for picture in re.findall(r"\]\(([^)]+\.png)\)", each.read_text("utf-8"))
    }
    assert {path.resolve() for path in page.parent.glob("*.png")} <= used


def test_the_page_of_overlays_names_every_role_and_its_meaning():
    told = re.findall(
        r"^\| `([a-z -]+)` \| (.+) \|$", (DOCS / "motion.md").read_text("utf-8"), re.M
    )
    assert told == [(name, role.words) for name, role in ROLES.items()]


def test_the_schema_that_is_shipped_is_that_of_the_form():
    assert us.maps.board_schema() == schema_of_form()


PAGES = [page.read_text("utf-8") for page in [DOCS.parent / "README.md", *DOCS.rglob("*.md")]]
TOLD = {
    line.strip()
    for text in PAGES
    for line in re.findall(r"(?:`|^)understep ([^`#\n]+)", text, re.M)
}
# whole commands, with nothing left to be filled in; `explore` serves until it is ended
COMMANDS = sorted(
    line
    for line in TOLD
    if " " in line and not re.search(r"\b[A-Z]{2,}|level.csv|^route --gif$|^explore", line)
)


@pytest.mark.parametrize("command", COMMANDS)
def test_every_command_that_is_told_of_works(command, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    shorter = command.replace("--seconds 20", "--seconds 1").replace("0:20", "0:2")
    words = shorter.split()
    if words[:2] == ["prove", "fen"] and len(words) == 2:
        words += ["--seconds", "1"]
    run = CliRunner().invoke(main, words)
    assert run.exit_code == (words[0] == "explain"), run.output  # which says no
    assert run.output.strip()
    if "--png" in words:
        assert Path(words[words.index("--png") + 1]).read_bytes()[:4] == b"\x89PNG"
