"""Under Step: square and hex boards, movement ranges and routes for tactics games.

    import understep as us

cells       Cell Cells convert round_cube
grids       SquareGrid HexGrid Frame
boards      Board Terrain Edge Link Unit Movement Leap Footprint Attack Pattern
moves       reach reaches Reach route Route within field Field areas explain
sight       sees view fog
actions     attacks stands threats walk push intent Turns
drawing     Overlay Mark ribbon curve poses
files       load save
others      UnderstepError kernels

us.behaviors  what units do that the computer leads
us.maps       levels from text, tables and images; resize, scatter, check
us.shapes     which cells a shape in the world covers
us.draw       figures, terminal views, animations
us.worlds     large maps in sectors
us.study      surveys, searches step by step, comparisons, proof
us.answers    the classes of answers
us.errors     what can go wrong, as one tree
us.typing     the types of arguments

``help(us.reach)`` says what a call takes and returns; ``dir(us.maps)`` lists a module.
"""

from understep._face import face
from understep.kernels.loader import kernels as kernels  # first: else the package has this name

__version__ = "0.2.0"
__getattr__, __dir__ = face(__name__)
