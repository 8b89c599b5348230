"""A scan library to try the studio with: a small service of its own, with invented surfaces (see docs/scan-library.md).

It stands in for a store that a team has, and shows what such a store must answer.
"""
