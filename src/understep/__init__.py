"""Under Step: square and hex boards, movement ranges and routes for tactics games.

grids      which cells exist, who neighbors whom, where they lie in the world
boards     terrain and units on a grid: the single owner of the truth
rules      what a movement allows, compiled to step tables
moves      reach, routes, fields, areas, explanations
sight      lines of sight, views, fog of war
actions    what units do to each other
behaviors  what units do that the computer leads
worlds     large maps in sectors
files      board files and world folders
maps       levels from text, tables and images; resize, scatter, check
draw       figures and terminal views
study      surveys, traces, comparisons, proof
shapes     which cells a shape in the world covers
overlay    an answer as plain data for the game to draw
kernels    the compiled searches
errors     what can go wrong, as one tree
"""

from importlib import import_module
from typing import Any

from understep.kernels.loader import kernels as kernels  # first: else the package has this name

__version__ = "0.1.0"

# Every other name is loaded on first use, so that the import stays light. `__init__.pyi` says the
# same to editors and type checkers.
_MODULES = {
    "actions.attacks": "Aim Attacks attacks",
    "actions.intent": "Intent intent",
    "actions.push": "Push push",
    "actions.stands": "Stand Stands stands",
    "actions.threats": "Threats threats",
    "actions.turns": "Turns",
    "actions.walk": "Stride Walk walk",
    "behaviors.alert": "Alert chase notice",
    "behaviors.approach": "approach withdraw",
    "behaviors.patrol": "follow next_leg patrol",
    "behaviors.plan": "Plan",
    "behaviors.reservations": "Reservations",
    "behaviors.wander": "hold wander",
    "boards.attack": "Attack",
    "boards.board": "Board",
    "boards.edge": "Edge",
    "boards.footprint": "block cluster",
    "boards.knowledge": "Difference Knowledge",
    "boards.links": "Link",
    "boards.pattern": "Pattern",
    "boards.site": "Site",
    "boards.terrain": "Terrain",
    "boards.unit": "Unit",
    "draw.animation": "animate",
    "draw.comparison": "comparison",
    "draw.curve": "Curve curve",
    "draw.figure": "figure",
    "draw.labels": "labels",
    "draw.map_image": "map_image",
    "draw.poses": "Pose Poses poses",
    "draw.ribbon": "Piece ribbon",
    "draw.terminal": "picture",
    "errors": (
        "BoardFileError CellError CostError CoverWarning InputError JournalError KernelWarning "
        "MissingExtraError NameUnknownError NameWarning NoRoomError NotReached OccupiedError "
        "StaleError UnderstepError"
    ),
    "files.board_file": "load save",
    "files.schema": "board_schema",
    "files.world_folder": "load_world save_world",
    "grids.cell": "Cell Cells",
    "grids.depth": "depth_order",
    "grids.frame": "Frame",
    "grids.grid": "Fit",
    "grids.hexes": "HexGrid",
    "grids.square": "SquareGrid",
    "grids.systems": "convert round_cube",
    "grids.layout": "Box",
    "maps.check": "Finding Findings check",
    "maps.levels": "read_table read_text",
    "maps.read_image": "read_image",
    "maps.resize": "reframe resize shift",
    "maps.scatter": "assort scatter",
    "moves.answer": "Refusal",
    "moves.areas": "Areas areas",
    "moves.ask": "route",
    "moves.explain": "Explanation Obstacle explain",
    "moves.field": "Field field",
    "moves.goals": "Within within",
    "moves.reach": "Entry Reach reach reaches",
    "moves.route": "Route Step",
    "overlay": "Mark Overlay stack",
    "rules.leap": "Leap",
    "rules.movement": "Movement",
    "shapes": "bitmap box circle cover cover_shares polygon strip",
    "sight.fog": "fog",
    "sight.sees": "Sighting sees",
    "sight.view": "View view",
    "study.chart": "chart",
    "study.prove": "Counterexample Proof prove",
    "study.survey": "SurveyRow Summary Survey survey",
    "study.trace": "Moment Trial compare trace",
    "worlds.border": "Crossing",
    "worlds.delta": "delta",
    "worlds.journey": "Journey",
    "worlds.world": "World",
}
_HOMES = {name: module for module, names in _MODULES.items() for name in names.split()}
__all__ = sorted([*_HOMES, "kernels", "__version__"])


def __getattr__(name: str) -> Any:
    if name in _HOMES:
        found = globals()[name] = getattr(import_module(f"understep.{_HOMES[name]}"), name)
        return found
    raise AttributeError(f"module 'understep' has no attribute {name!r}")


def __dir__() -> list[str]:
    return sorted({*globals(), *__all__})
