"""Writes `core/machine/even_points.toml`: the low-discrepancy points that motors and conditions are drawn by.

They are Sobol points of `scipy.stats.qmc`, moved off the corner. They stand in a file because importing `scipy.stats`
takes longer than a whole assessment; a test holds the file to scipy.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
from scipy.stats import qmc

FILE = Path(__file__).parent.parent / "src/keen_coil/core/machine/even_points.toml"
SETS = {"motors": (16, 6), "conditions": (32, 4)}


def points(many: int, dimensions: int) -> np.ndarray:
    """So many points that fill a box evenly, none on its edge."""
    drawn = qmc.Sobol(dimensions, scramble=False).random(many)
    return (drawn + 0.5 / len(drawn)) % 1.0


def text() -> str:
    """The file."""
    lines = ["# Points that fill a box evenly, written by scripts/even_points.py from scipy.stats.qmc (Sobol)."]
    for name, (many, dimensions) in SETS.items():
        rows = [f"  [{', '.join(f'{value:.6f}' for value in row)}]," for row in points(many, dimensions)]
        lines += ["", f"{name} = [", *rows, "]"]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    FILE.write_text(text(), encoding="utf-8")
