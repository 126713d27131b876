"""Prints how long our files and functions are, beside the aims: files at a median of 150 lines, functions of 8."""

from __future__ import annotations

import ast
import statistics
from pathlib import Path

ROOT = Path(__file__).parent.parent
MOST_LINES = 400
WEB = "src/keen_coil/web"
PRODUCT = (
    "src/keen_coil/**/*.py",
    "src/keen_coil/core/**/*.toml",
    f"{WEB}/templates/**/*.html",
    f"{WEB}/static/*.js",
    f"{WEB}/static/css/*.css",
)


def lines_of(pattern: str) -> dict[Path, int]:
    """Lines of each of our own files of a pattern."""
    ours = [path for path in ROOT.glob(pattern) if "vendor" not in path.parts]
    return {path: len(path.read_text(encoding="utf-8").splitlines()) for path in ours}


def functions(path: Path) -> list[tuple[int, str]]:
    """Lines of each function of a file, without its docstring, and its name."""
    found = []
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
            first = node.body[0]
            has_doc = isinstance(first, ast.Expr) and isinstance(first.value, ast.Constant)
            begins = first.end_lineno + 1 if has_doc and first.end_lineno else first.lineno
            found.append(((node.end_lineno or begins) - begins + 1, node.name))
    return found


def main() -> None:
    """Print the figures."""
    code = {path: n for path, n in lines_of("src/keen_coil/**/*.py").items() if n > 1}
    every = [size for path in code for size in functions(path)]
    product = sum(sum(lines_of(pattern).values()) for pattern in PRODUCT)
    tests = sum(lines_of("tests/**/*.py").values())
    largest = max(code, key=lambda path: code[path])
    print(f"product {product} lines, tests {tests}, {100 * tests / product:.0f} %")
    print(f"{len(code)} files of code, median {statistics.median(code.values()):.0f} lines, largest {code[largest]}")
    print(f"largest file: {largest.relative_to(ROOT)}")
    print(f"{len(every)} functions, median {statistics.median(n for n, _ in every):.0f} lines, largest {max(every)}")
    long = [f"{path.relative_to(ROOT)}: {n} lines" for path, n in code.items() if n > MOST_LINES]
    print("\n".join(long) or f"no file over {MOST_LINES} lines")
    raise SystemExit(1 if long else 0)


main()
