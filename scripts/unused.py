"""Finds code that nothing uses: vulture over the package, with what the templates use counted as used.

Fields of the contract's types and rows are left out: files and pages hold them whether or not our code reads each.
"""

from __future__ import annotations

import keyword
import re
import sys
from pathlib import Path

from vulture import Vulture

ROOT = Path(__file__).parent.parent
PATHS = ("src/keen_coil", "tests", "bench", "scripts")
DECORATED = [
    "@router.*",
    "@*app.*",
    "@model_validator*",
    "@field_validator*",
    "@field_serializer*",
    "@pytest.*",
]
CALLED_BY = ["writable", "handle_starttag", "handle_data", "handle_endtag"]
"""Methods that the standard library calls: of files, of the HTML parser."""
NAMES = [*CALLED_BY, "process_bind_param", "process_result_value", "pytest_*", "test_*"]


def unused() -> list[str]:
    """One line for each function, class, method, property, import or constant that nothing uses."""
    found = Vulture(ignore_names=NAMES, ignore_decorators=DECORATED)
    found.scavenge([str(ROOT / path) for path in PATHS], exclude=["*/migrations/*"])
    for template in (ROOT / "src/keen_coil/web/templates").rglob("*.html"):
        names = sorted(set(re.findall(r"[A-Za-z_][A-Za-z0-9_]*", template.read_text(encoding="utf-8"))))
        found.scan("\n".join(f"_.{name}" for name in names if name.isidentifier() and name not in RESERVED))
    return [
        f"{Path(item.filename).relative_to(ROOT)}:{item.first_lineno}: unused {item.typ} {item.name}"
        for item in found.get_unused_code(min_confidence=60)
        if item.typ in ("function", "class", "method", "property", "import")
        or (item.typ == "variable" and item.name.isupper())
    ]


RESERVED = frozenset(keyword.kwlist)

lines = unused()
print("\n".join(lines))
sys.exit(1 if lines else 0)
