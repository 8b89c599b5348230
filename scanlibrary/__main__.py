"""``python -m scanlibrary serve FOLDER PORT`` serves the library; ``publish FOLDER SURFACE`` brings out a revision."""

from __future__ import annotations

import sys
from pathlib import Path

from scanlibrary.service import Service
from scanlibrary.shelf import Shelf

_USAGE = "usage: python -m scanlibrary serve FOLDER PORT | publish FOLDER SURFACE | key FOLDER"


def main(words: list[str]) -> int:
    match words:
        case ["serve", folder, port]:
            service = Service(Shelf(Path(folder)), int(port))
            print(f"the scan library is at {service.address}", flush=True)
            try:
                service.serve_forever()
            except KeyboardInterrupt:
                service.server_close()
        case ["publish", folder, surface]:
            try:
                print(f"{surface}: revision {Shelf(Path(folder)).publish(surface)}")
            except KeyError:
                print(f"there is no surface {surface}", file=sys.stderr)
                return 2
        case ["key", folder]:
            print(Shelf(Path(folder)).key)
        case _:
            print(_USAGE, file=sys.stderr)
            return 2
    return 0


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
