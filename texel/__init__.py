"""The core of Fair Texel: texture files, what they mean, and what is made of them.

Pure Python: no web framework, no database. ``texel.cli`` is its command line.
"""

__version__ = "0.1.0"
