"""Tangent-space normal maps: direction of green, unit length, third component, from height.

A stored normal holds (n + 1) / 2 of each component (glTF 2.0, 3.9.3; common practice). Inside this package vectors
are float32 of shape (height, width, 3) with +x right, +z to the viewer and y as stored.
"""
