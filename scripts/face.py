"""Holds templates and style sheets to their shape: no template line over 140, one CSS declaration a line."""

from __future__ import annotations

import re
import sys
from pathlib import Path

WEB = Path(__file__).parent.parent / "src/keen_coil/web"
LONGEST = 140
MOST_CONTROLS = 75
"""Control tags of a template: a page that decides more than this wants a view model."""


def faults() -> list[str]:
    """One line for each fault."""
    found = []
    for path in sorted((WEB / "templates").rglob("*.html")):
        text = path.read_text(encoding="utf-8")
        found += [
            f"{path.relative_to(WEB)}:{number}: {len(line)} characters"
            for number, line in enumerate(text.splitlines(), start=1)
            if len(line) > LONGEST
        ]
        controls = len(re.findall(r"{%-? *(?:if|elif|else|for|set)\b", text))
        if controls > MOST_CONTROLS:
            found.append(f"{path.relative_to(WEB)}: {controls} control tags, at most {MOST_CONTROLS}")
    for path in sorted((WEB / "static/css").glob("*.css")):
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), start=1):
            plain = re.sub(r"\"[^\"]*\"|url\([^)]*\)|/\*.*?\*/", "", line)
            if len(line) > LONGEST or plain.count(";") > 1 or re.search(r"{.*[:;]", plain.removesuffix("{")):
                found.append(f"{path.relative_to(WEB)}:{number}: more than one declaration")
    return found


lines = faults()
print("\n".join(lines) or "templates and style sheets keep their shape")
sys.exit(1 if lines else 0)
