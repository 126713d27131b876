"""Writes the schema that the newest migration leaves, to test upgrades from later: run it with every new migration."""

from __future__ import annotations

import sqlite3
import tempfile
from pathlib import Path

from keen_coil.store.database import MIGRATIONS, migrate

with tempfile.TemporaryDirectory() as folder:
    migrate(Path(folder) / "new.db")
    with sqlite3.connect(Path(folder) / "new.db") as made:
        text = "\n".join(made.iterdump()) + "\n"
newest = max(path.name[:4] for path in (MIGRATIONS / "versions").glob("0*.py"))
(MIGRATIONS / "schema" / f"{newest}.sql").write_text(text, encoding="utf-8")
print(f"schema/{newest}.sql")
