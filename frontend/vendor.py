"""Copies the pinned front-end packages into the application, with their licences; icons as one sprite of those used."""

from __future__ import annotations

import re
import shutil
from pathlib import Path

HERE = Path(__file__).parent
MODULES = HERE / "node_modules"
TARGET = HERE.parent / "src/keen_coil/web/static/vendor"
FILES = {
    "bootstrap/dist/css/bootstrap-reboot.min.css": "bootstrap-reboot.min.css",
    "bootstrap/LICENSE": "bootstrap.LICENSE.txt",
    "htmx.org/dist/htmx.min.js": "htmx.min.js",
    "htmx.org/LICENSE": "htmx.LICENSE.txt",
    "@alpinejs/csp/dist/cdn.min.js": "alpine-csp.min.js",
    "@fontsource-variable/overpass/files/overpass-latin-wght-normal.woff2": "overpass-latin.woff2",
    "@fontsource-variable/overpass/LICENSE": "overpass.LICENSE.txt",
    "bootstrap-icons/LICENSE": "bootstrap-icons.LICENSE.txt",
}
ICONS = (
    "lock-fill", "lightning-charge-fill", "plus-lg", "upload", "download", "printer", "question-circle", "moon-stars",
    "sun", "arrow-right", "check-lg", "truck", "clock", "arrow-counterclockwise", "exclamation-triangle", "dash-lg", "camera",
    "arrow-left-right",
)


def sprite() -> str:
    """The icons used, as symbols of one file."""
    symbols = []
    for name in ICONS:
        svg = (MODULES / f"bootstrap-icons/icons/{name}.svg").read_text(encoding="utf-8")
        inner = re.sub(r"^.*?<svg[^>]*>|</svg>\s*$", "", svg, flags=re.S).strip()
        symbols.append(f'<symbol id="{name}" viewBox="0 0 16 16">{inner}</symbol>')
    return '<svg xmlns="http://www.w3.org/2000/svg">' + "\n".join(symbols) + "</svg>\n"


def main() -> None:
    """Copy everything."""
    TARGET.mkdir(parents=True, exist_ok=True)
    for source, name in FILES.items():
        shutil.copyfile(MODULES / source, TARGET / name)
    css = TARGET / "bootstrap-reboot.min.css"
    css.write_text(re.sub(r"\s*/\*# sourceMappingURL=.*?\*/", "", css.read_text(encoding="utf-8")), encoding="utf-8")
    (TARGET / "icons.svg").write_text(sprite(), encoding="utf-8")


main()
