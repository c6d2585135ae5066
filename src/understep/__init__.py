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
    from understep.actions.plan import Plan, Reservations
    from understep.actions.push import Push, push
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
    "Aim": "understep.actions.attacks",
    "Alert": "understep.actions.alert",
    "Answer": "understep.worlds.survey",
    "Areas": "understep.moves.areas",
    "Attacks": "understep.actions.attacks",
    "Counterexample": "understep.proof.prove",
    "Crossing": "understep.worlds.border",
    "Curve": "understep.draw.curve",
    "Difference": "understep.boards.knowledge",
    "Explanation": "understep.moves.explain",
    "Field": "understep.moves.field",
    "Finding": "understep.moves.check",
    "Findings": "understep.moves.check",
    "Intent": "understep.actions.intent",
    "Journey": "understep.worlds.journey",
    "Knowledge": "understep.boards.knowledge",
    "Leap": "understep.moves.leap",
    "Moment": "understep.moves.trace",
    "Obstacle": "understep.moves.explain",
    "Piece": "understep.draw.ribbon",
    "Plan": "understep.actions.plan",
    "Pose": "understep.draw.poses",
    "Poses": "understep.draw.poses",
    "Proof": "understep.proof.prove",
    "Push": "understep.actions.push",
    "Reservations": "understep.actions.plan",
    "Sighting": "understep.sight.sees",
    "Stand": "understep.actions.stands",
    "Stands": "understep.actions.stands",
    "Stride": "understep.actions.walk",
    "Summary": "understep.worlds.survey",
    "Survey": "understep.worlds.survey",
    "Threats": "understep.actions.threats",
    "Trial": "understep.moves.trace",
    "Turns": "understep.actions.turns",
    "View": "understep.sight.view",
    "Walk": "understep.actions.walk",
    "World": "understep.worlds.world",
    "animate": "understep.draw.animation",
    "approach": "understep.actions.approach",
    "areas": "understep.moves.areas",
    "assort": "understep.boards.scatter",
    "attacks": "understep.actions.attacks",
    "bitmap": "understep.boards.shapes",
    "board_schema": "understep.files.schema",
    "box": "understep.boards.shapes",
    "chart": "understep.draw.chart",
    "chase": "understep.actions.alert",
    "check": "understep.moves.check",
    "circle": "understep.boards.shapes",
    "compare": "understep.moves.trace",
    "comparison": "understep.draw.comparison",
    "cover": "understep.boards.cover",
    "cover_shares": "understep.boards.cover",
    "curve": "understep.draw.curve",
    "delta": "understep.worlds.delta",
    "depth_order": "understep.grids.depth",
    "explain": "understep.moves.explain",
    "field": "understep.moves.field",
    "figure": "understep.draw.figure",
    "fog": "understep.sight.fog",
    "follow": "understep.actions.patrol",
    "hold": "understep.actions.wander",
    "intent": "understep.actions.intent",
    "labels": "understep.draw.labels",
    "load": "understep.files.board_file",
    "load_world": "understep.files.world_folder",
    "map_image": "understep.draw.map_image",
    "next_leg": "understep.actions.patrol",
    "notice": "understep.actions.alert",
    "patrol": "understep.actions.patrol",
    "picture": "understep.draw.terminal",
    "polygon": "understep.boards.shapes",
    "poses": "understep.draw.poses",
    "prove": "understep.proof.prove",
    "push": "understep.actions.push",
    "read_image": "understep.files.image",
    "read_table": "understep.files.levels",
    "read_text": "understep.files.levels",
    "reframe": "understep.boards.resize",
    "resize": "understep.boards.resize",
    "ribbon": "understep.draw.ribbon",
    "save": "understep.files.board_file",
    "save_world": "understep.files.world_folder",
    "scatter": "understep.boards.scatter",
    "sees": "understep.sight.sees",
    "shift": "understep.boards.resize",
    "stands": "understep.actions.stands",
    "strip": "understep.boards.shapes",
    "survey": "understep.worlds.survey",
    "threats": "understep.actions.threats",
    "trace": "understep.moves.trace",
    "view": "understep.sight.view",
    "walk": "understep.actions.walk",
    "wander": "understep.actions.wander",
    "withdraw": "understep.actions.approach",
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
