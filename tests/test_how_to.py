"""The guides of docs/how-to are real: each example applies to a copy of this tree, and its own new test passes there."""

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent
COPIED = ("src", "tests", "bench", "scripts", "docs", "pyproject.toml")
SKIPPED = shutil.ignore_patterns("*.egg-info", "vendor", "screenshots", "browser")


GUIDES = ("reading-kind", "fault", "school", "unit-kind", "motor-kind")


@pytest.fixture(scope="module")
def tree(tmp_path_factory):
    """A copy of this tree."""
    copy = tmp_path_factory.mktemp("tree")
    for part in COPIED:
        source = ROOT / part
        if source.is_dir():
            shutil.copytree(source, copy / part, ignore=SKIPPED)
        else:
            shutil.copy(source, copy / part)
    return copy


def run(tree, *command):
    env = {**os.environ, "PYTHONPATH": f"{tree / 'src'}:{tree}"}
    return subprocess.run(command, cwd=tree, env=env, capture_output=True, text=True, check=False)


def test_each_example_applies_and_with_all_of_them_their_own_tests_pass(tree):
    """Each to this tree as it is, then all to one copy: their tests run together there."""
    fresh = []
    for name in GUIDES:
        text = (ROOT / f"docs/how-to/{name}.md").read_text(encoding="utf-8")
        patch = re.search(r"```diff\n(.*?)\n```\n", text, re.S)[1] + "\n"
        (tree / f"{name}.diff").write_text(patch, encoding="utf-8")
        added = re.findall(r"^\+\+\+ b/(tests/\S*/test_\w+\.py)$", patch, re.M)
        fresh += [path for path in added if not (ROOT / path).exists()]
    assert len(fresh) == len(GUIDES), "a guide brings one new test"
    for name in GUIDES:
        done = run(tree, "git", "apply", "--check", f"{name}.diff")
        assert done.returncode == 0, done.stderr
    for name in GUIDES:
        done = run(tree, "git", "apply", f"{name}.diff")
        assert done.returncode == 0, done.stderr
    dumped = run(tree, sys.executable, "scripts/dump_schema.py")
    assert dumped.returncode == 0, dumped.stderr
    tried = run(tree, sys.executable, "-m", "pytest", "-n", "0", "-p", "no:cacheprovider", *fresh)
    assert tried.returncode == 0, tried.stdout[-3000:] + tried.stderr[-1000:]
