"""The core of Fair Texel: texture files, what they mean, and what is made of them.

Pure Python: no web framework, no database. ``texel.cli`` is its command line.
"""

import os

# Matrices are multiplied in threads of ours, one a core; each with threads of its own would wait for the others.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
