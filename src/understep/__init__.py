"""Under Step: square and hex boards, movement ranges and routes for tactics games.

grids    which cells exist, who neighbors whom, where they lie in the world
boards   terrain and units on a grid: the single owner of the truth
moves    movement rules, reach and routes, by one compiled kernel
sight    lines of sight, and what is seen from a place
actions  what units do to each other
overlay  an answer as plain data for the game to draw
proof    answers compared with a slow, obvious reference
worlds   large lands in sectors, a demo land of any size, surveys over many boards
files    board files
draw     figures and terminal views, to see what the rules decided
errors   what can go wrong, as one tree
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

from understep.boards.attack import Attack
from understep.boards.board import Board
from understep.boards.edge import Edge
from understep.boards.footprint import block, cluster
from understep.boards.links import Link
from understep.boards.pattern import Pattern
from understep.boards.site import Site
from understep.boards.terrain import Terrain
from understep.boards.unit import Unit
from understep.errors import (
    BoardFileError,
    CellError,
    CostError,
    CoverWarning,
    InputError,
    JournalError,
    KernelWarning,
    MissingExtraError,
    NameUnknownError,
    NameWarning,
    NoRoomError,
    NotReached,
    OccupiedError,
    StaleError,
    UnderstepError,
)
from understep.grids.cell import Cell, Cells
from understep.grids.frame import Frame
from understep.grids.grid import Fit
from understep.grids.hexes import HexGrid
from understep.grids.square import SquareGrid
from understep.grids.systems import convert, round_cube
from understep.grids.world import Box
from understep.moves.answer import Refusal
from understep.moves.ask import route
from understep.moves.goals import Within, within
from understep.moves.kernel import kernels
from understep.moves.movement import Movement
from understep.moves.reach import Entry, Reach, reach, reaches
from understep.moves.route import Route, Step
from understep.overlay import Mark, Overlay, stack

if TYPE_CHECKING:
    from understep.actions.alert import Alert, chase, notice
    from understep.actions.approach import approach, withdraw
    from understep.actions.attacks import Aim, Attacks, attacks
    from understep.actions.intent import Intent, intent
    from understep.actions.patrol import follow, next_leg, patrol
    from understep.actions.plan import Plan
    from understep.actions.push import Push, push
    from understep.actions.reservations import Reservations
    from understep.actions.stands import Stand, Stands, stands
    from understep.actions.threats import Threats, threats
    from understep.actions.turns import Turns
    from understep.actions.walk import Stride, Walk, walk
    from understep.actions.wander import hold, wander
    from understep.boards.cover import cover, cover_shares
    from understep.boards.knowledge import Difference, Knowledge
    from understep.boards.resize import reframe, resize, shift
    from understep.boards.scatter import assort, scatter
    from understep.boards.shapes import bitmap, box, circle, polygon, strip
    from understep.draw.animation import animate
    from understep.draw.chart import chart
    from understep.draw.comparison import comparison
    from understep.draw.curve import Curve, curve
    from understep.draw.figure import figure
    from understep.draw.map_image import map_image
    from understep.draw.poses import Pose, Poses, poses
    from understep.draw.ribbon import Piece, ribbon
    from understep.draw.terminal import picture
    from understep.files.board_file import load, save
    from understep.files.image import read_image
    from understep.files.levels import read_table, read_text
    from understep.files.schema import board_schema
    from understep.files.world_folder import load_world, save_world
    from understep.grids.depth import depth_order
    from understep.moves.areas import Areas, areas
    from understep.moves.check import Finding, Findings, check
    from understep.moves.explain import Explanation, Obstacle, explain
    from understep.moves.field import Field, field
    from understep.moves.leap import Leap
    from understep.moves.trace import Moment, Trial, compare, trace
    from understep.proof.prove import Counterexample, Proof, prove
    from understep.sight.fog import fog
    from understep.sight.sees import Sighting, sees
    from understep.sight.view import View, view
    from understep.worlds.border import Crossing
    from understep.worlds.delta import delta
    from understep.worlds.journey import Journey
    from understep.worlds.survey import Answer, Summary, Survey, survey
    from understep.worlds.world import World

__version__ = "0.1.0"

# loaded at first use, so that the import stays as light as NumPy's
_LATER = {
    name: f"understep.{module}"
    for module, names in {
        "actions.alert": "Alert chase notice",
        "actions.approach": "approach withdraw",
        "actions.attacks": "Aim Attacks attacks",
        "actions.intent": "Intent intent",
        "actions.patrol": "follow next_leg patrol",
        "actions.plan": "Plan",
        "actions.reservations": "Reservations",
        "actions.push": "Push push",
        "actions.stands": "Stand Stands stands",
        "actions.threats": "Threats threats",
        "actions.turns": "Turns",
        "actions.walk": "Stride Walk walk",
        "actions.wander": "hold wander",
        "boards.cover": "cover cover_shares",
        "boards.knowledge": "Difference Knowledge",
        "boards.resize": "reframe resize shift",
        "boards.scatter": "assort scatter",
        "boards.shapes": "bitmap box circle polygon strip",
        "draw.animation": "animate",
        "draw.chart": "chart",
        "draw.comparison": "comparison",
        "draw.curve": "Curve curve",
        "draw.figure": "figure",
        "draw.labels": "labels",
        "draw.map_image": "map_image",
        "draw.poses": "Pose Poses poses",
        "draw.ribbon": "Piece ribbon",
        "draw.terminal": "picture",
        "files.board_file": "load save",
        "files.image": "read_image",
        "files.levels": "read_table read_text",
        "files.schema": "board_schema",
        "files.world_folder": "load_world save_world",
        "grids.depth": "depth_order",
        "moves.areas": "Areas areas",
        "moves.check": "Finding Findings check",
        "moves.explain": "Explanation Obstacle explain",
        "moves.field": "Field field",
        "moves.leap": "Leap",
        "moves.trace": "Moment Trial compare trace",
        "proof.prove": "Counterexample Proof prove",
        "sight.fog": "fog",
        "sight.sees": "Sighting sees",
        "sight.view": "View view",
        "worlds.border": "Crossing",
        "worlds.delta": "delta",
        "worlds.journey": "Journey",
        "worlds.survey": "Answer Summary Survey survey",
        "worlds.world": "World",
    }.items()
    for name in names.split()
}

__all__ = [
    "Aim",
    "Alert",
    "Answer",
    "Areas",
    "Attack",
    "Attacks",
    "Board",
    "BoardFileError",
    "Box",
    "Cell",
    "CellError",
    "Cells",
    "CostError",
    "Counterexample",
    "CoverWarning",
    "Crossing",
    "Curve",
    "Difference",
    "Edge",
    "Entry",
    "Explanation",
    "Field",
    "Finding",
    "Findings",
    "Fit",
    "Frame",
    "HexGrid",
    "InputError",
    "Intent",
    "JournalError",
    "Journey",
    "KernelWarning",
    "Knowledge",
    "Leap",
    "Link",
    "Mark",
    "MissingExtraError",
    "Moment",
    "Movement",
    "NameUnknownError",
    "NameWarning",
    "NoRoomError",
    "NotReached",
    "Obstacle",
    "OccupiedError",
    "Overlay",
    "Pattern",
    "Piece",
    "Plan",
    "Pose",
    "Poses",
    "Proof",
    "Push",
    "Reach",
    "Refusal",
    "Reservations",
    "Route",
    "Sighting",
    "Site",
    "SquareGrid",
    "StaleError",
    "Stand",
    "Stands",
    "Step",
    "Stride",
    "Summary",
    "Survey",
    "Terrain",
    "Threats",
    "Trial",
    "Turns",
    "UnderstepError",
    "Unit",
    "View",
    "Walk",
    "Within",
    "World",
    "__version__",
    "animate",
    "approach",
    "areas",
    "assort",
    "attacks",
    "bitmap",
    "block",
    "board_schema",
    "box",
    "chart",
    "chase",
    "check",
    "circle",
    "cluster",
    "compare",
    "comparison",
    "convert",
    "cover",
    "cover_shares",
    "curve",
    "delta",
    "depth_order",
    "explain",
    "field",
    "figure",
    "fog",
    "follow",
    "hold",
    "intent",
    "kernels",
    "labels",
    "load",
    "load_world",
    "map_image",
    "next_leg",
    "notice",
    "patrol",
    "picture",
    "polygon",
    "poses",
    "prove",
    "push",
    "reach",
    "reaches",
    "read_image",
    "read_table",
    "read_text",
    "reframe",
    "resize",
    "ribbon",
    "round_cube",
    "route",
    "save",
    "save_world",
    "scatter",
    "sees",
    "shift",
    "stack",
    "stands",
    "strip",
    "survey",
    "threats",
    "trace",
    "view",
    "walk",
    "wander",
    "withdraw",
    "within",
]


def __getattr__(name: str) -> Any:
    if name in _LATER:
        found = globals()[name] = getattr(import_module(_LATER[name]), name)
        return found
    raise AttributeError(f"module 'understep' has no attribute {name!r}")


def __dir__() -> list[str]:
    return sorted({*globals(), *__all__})
