"""Watched folders: files that a painting program exports are taken in when they have stopped changing."""
