"""A shop's own tables, from the folder that `KEEN_COIL_TABLES` names: taken by every process before it reads any.

A table stands at the place that ours has, such as `core/limits.toml`, and takes its place as a whole.
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

VARIABLE = "KEEN_COIL_TABLES"
OURS = Path(__file__).parent
_LOAD_ALL = """
import importlib, pkgutil, keen_coil.core
from keen_coil.core.tables import TableError
try:
    for module in pkgutil.walk_packages(keen_coil.core.__path__, "keen_coil.core."):
        importlib.import_module(module.name)
    import keen_coil.web.help_texts, keen_coil.services.field_messages
except (TableError, KeyError, TypeError, ValueError) as wrong:
    raise SystemExit(f"{type(wrong).__name__}: {wrong}")
"""


def take_own_tables() -> None:
    """Put the tables of the folder in the place of ours, where the variable names one."""
    folder = os.environ.get(VARIABLE)
    if folder:
        from .core.tables import OWN_TABLES

        OWN_TABLES.update({place: file.read_text(encoding="utf-8") for place, file in _files(Path(folder))})


def faults_of(folder: Path) -> list[str]:
    """What is wrong in a folder of edited tables, a line each; nothing when they can be used.

    Each is held to its types beside our others, then all of them together.
    """
    found = list(_files(folder))
    ours = [place for place, _ in _files(OURS) if place.partition("/")[0] in ("core", "web", "services")]
    unknown = [f"{place}: no table of this name; ours are {', '.join(ours)}" for place, _ in found if place not in ours]
    faults = [f"{place}: {says}" for place, file in found if place in ours and (says := _loaded({place: file}))]
    if not unknown and not faults and len(found) > 1:
        faults = [f"together: {says}" for says in [_loaded(dict(found))] if says]
    return ["no table, *.toml, is in this folder"] if not found else [*unknown, *faults]


def _loaded(tables: dict[str, Path]) -> str:
    """What loading all tables says with these in the place of ours; nothing where it goes through."""
    import subprocess  # every process loads this module, and only a check asks another
    import sys
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        for place, file in tables.items():
            there = Path(folder) / place
            there.parent.mkdir(parents=True, exist_ok=True)
            there.write_bytes(file.read_bytes())
        env = {**os.environ, VARIABLE: folder}
        command = [sys.executable, "-c", _LOAD_ALL]
        done = subprocess.run(command, env=env, capture_output=True, text=True, check=False)  # noqa: S603, our own code
    return "" if done.returncode == 0 else done.stderr.strip().rpartition("\n")[2] or "it can't be loaded"


def _files(folder: Path) -> Iterator[tuple[str, Path]]:
    for file in sorted(folder.rglob("*.toml")):
        yield file.relative_to(folder).as_posix(), file
