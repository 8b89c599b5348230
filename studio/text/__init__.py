"""A project as text, in and out: documents that a version-control system can compare and merge."""
