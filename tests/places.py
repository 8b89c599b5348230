"""Where the surface is in the tests that hold back ends together: values of all starts that are no coordinates.

Imports nothing: the program that draws MaterialX reads it too. Positions lie on the middles of texels of a map of 16.
"""

PLACE = {
    "vertex": (0.25, 0.5, 0.75, 1.0),
    "object_position": (0.21875, 0.65625, -0.40625),
    "world_position": (0.28125, 0.53125, 0.78125),
    "world_normal": (0.36, 0.8, 0.48),
    "world_tangent": (0.8, -0.0, -0.6),
    "world_bitangent": (-0.48, 0.6, -0.64),
    "view_direction": (0.6, 0.64, 0.48),
    "time": (0.40625,),
}
