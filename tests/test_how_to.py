"""The examples of docs/how-to are real: each diff still applies to this tree."""

import re
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).parent.parent


@pytest.mark.parametrize("name", ["reading-kind", "fault", "school", "unit-kind"])
def test_the_example_applies(name, tmp_path):
    text = (ROOT / f"docs/how-to/{name}.md").read_text(encoding="utf-8")
    diff = tmp_path / "example.diff"
    diff.write_text(re.search(r"```diff\n(.*?)\n```\n", text, re.S)[1] + "\n", encoding="utf-8")
    done = subprocess.run(["git", "apply", "--check", str(diff)], cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
