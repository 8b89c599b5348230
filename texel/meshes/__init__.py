"""Meshes: what a model file holds, which slot wears what, and whether its UVs suit its textures."""
