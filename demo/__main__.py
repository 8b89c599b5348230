"""``python -m demo FOLDER`` writes the untidy folders of the demo."""

import sys
from pathlib import Path

from demo.intake import write_demo_intake

if len(sys.argv) != 2:
    raise SystemExit("usage: python -m demo FOLDER")
write_demo_intake(Path(sys.argv[1]))
