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


@pytest.mark.parametrize("name", ["reading-kind", "fault", "school", "unit-kind"])
def test_the_example_applies_and_its_own_test_passes(name, tmp_path):
    text = (ROOT / f"docs/how-to/{name}.md").read_text(encoding="utf-8")
    patch = re.search(r"```diff\n(.*?)\n```\n", text, re.S)[1] + "\n"
    for part in COPIED:
        source = ROOT / part
        if source.is_dir():
            shutil.copytree(source, tmp_path / part, ignore=SKIPPED)
        else:
            shutil.copy(source, tmp_path / part)
    (tmp_path / "example.diff").write_text(patch, encoding="utf-8")
    done = subprocess.run(["git", "apply", "example.diff"], cwd=tmp_path, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    added = re.findall(r"^\+\+\+ b/(tests/\S*/test_\w+\.py)$", patch, re.M)
    fresh = [path for path in added if not (ROOT / path).exists()]
    assert len(fresh) == 1, "a guide brings one new test"
    env = {**os.environ, "PYTHONPATH": f"{tmp_path / 'src'}:{tmp_path}"}
    run = [sys.executable, "-m", "pytest", "-n", "0", "-p", "no:cacheprovider", *fresh]
    tried = subprocess.run(run, cwd=tmp_path, env=env, capture_output=True, text=True, check=False)
    assert tried.returncode == 0, tried.stdout[-3000:] + tried.stderr[-1000:]
