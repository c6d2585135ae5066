from understep.files.world_folder import load_world as load_world
from understep.files.world_folder import save_world as save_world
from understep.maps._read_world import read_world as read_world
from understep.worlds._delta import delta as delta
from understep.worlds._journey import Journey as Journey
from understep.worlds._world import World as World
