from understep.draw._animation import animate as animate
from understep.draw._figure import figure as figure
from understep.draw._labels import labels as labels
from understep.draw._side_by_side import side_by_side as side_by_side
from understep.draw._terminal import terminal as terminal
from understep.grids.depth import depth_order as depth_order
from understep.study._chart import chart as chart
