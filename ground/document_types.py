"""Write texel/document_types.py: the JSON schemas of our documents as types of Python."""

from __future__ import annotations

import json
import re
import subprocess
import sys
from pathlib import Path
from typing import Any

from texel.schemas import document_types

__all__ = ["OUTPUT", "types_text"]

CHECKOUT = Path(__file__).resolve().parent.parent
OUTPUT = CHECKOUT / "texel" / "document_types.py"
# What a type can say; limits and patterns are checked against the schemas themselves.
_SAID = ("title", "type", "properties", "required", "items", "additionalProperties", "patternProperties", "enum",
         "const", "anyOf", "$ref", "$defs")  # fmt: skip
_HEAD = '''"""The documents of the studio as types, made from texel/schema by `python -m ground.document_types`.

Nothing is to be changed here by hand. Limits and patterns are in the schemas: see texel.schemas.check_document.
"""
'''


def _plain(part: Any, named: bool = False) -> Any:
    """named: the keys of this part are names of a document's own, not words of JSON schema."""
    if isinstance(part, list):
        return [_plain(one) for one in part]
    if not isinstance(part, dict):
        return part
    return {
        key: _plain(value, not named and key in ("properties", "$defs", "patternProperties"))
        for key, value in part.items()
        if named or key in _SAID
    }


def types_text() -> str:
    """The module's text, as the formatter leaves it."""
    bin = Path(sys.executable).parent
    asked = json.dumps({"$defs": _plain(document_types(), named=True)})
    made = subprocess.run(
        [
            bin / "datamodel-codegen", "--input-file-type", "jsonschema", "--output-model-type", "typing.TypedDict",
            "--target-python-version", "3.11", "--use-standard-collections", "--use-union-operator",
            "--no-use-closed-typed-dict", "--formatters", "builtin", "--disable-timestamp",
        ],
        input=asked, capture_output=True, text=True, check=True,
    ).stdout  # fmt: skip
    body = made[made.index("from __future__") :].replace("Model: TypeAlias = Any\n", "")
    if len(re.findall(r"\bAny\b", body)) == 1:
        body = body.replace("import Any, ", "import ")
    # The one of the standard library is not enough for pydantic before Python 3.12.
    body = body.replace(", TypedDict\n", "\n\nfrom typing_extensions import TypedDict\n", 1)
    return subprocess.run(
        [bin / "ruff", "format", "-", "--stdin-filename", OUTPUT],
        input=_HEAD + "\n" + body, capture_output=True, text=True, check=True,
    ).stdout  # fmt: skip


if __name__ == "__main__":
    OUTPUT.write_text(types_text())
