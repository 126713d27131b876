"""The processes of a run: the one that shares the tests out loads nothing, each of the others reads what it runs.

What tests are given stands in `fixtures.py`.
"""

from __future__ import annotations

import gc
import importlib
import os
import tempfile
from contextlib import suppress
from pathlib import Path

import pytest
from hypothesis import settings

settings.register_profile("house", deadline=None, max_examples=40)  # a slow machine is no fault of the code
settings.register_profile("long", deadline=None, max_examples=1000)  # pytest --hypothesis-profile=long, by hand
settings.load_profile("house")


@pytest.hookimpl(tryfirst=True)
def pytest_configure(config):
    """All processes of a run share a folder: what is made for all is made by whoever wants it first."""
    if "KEEN_COIL_TEST_RUN" not in os.environ:
        folder = tempfile.TemporaryDirectory(prefix="keen-coil-tests-", ignore_cleanup_errors=True)
        os.environ["KEEN_COIL_TEST_RUN"] = folder.name
        config.add_cleanup(folder.cleanup)
    if hasattr(config, "workerinput") or not config.getoption("numprocesses", None):
        gc.disable()
        config.pluginmanager.import_plugin("tests.fixtures")


@pytest.hookimpl(tryfirst=True)
def pytest_collection(session):
    """Of several processes each begins to load the tests at another place: what one has rewritten the others find."""
    worker = getattr(session.config, "workerinput", None)
    if worker is None:
        return
    found = [path for place in session.config.args for path in sorted(Path(place).resolve().rglob("test_*.py"))]
    begin = len(found) * int(worker["workerid"].removeprefix("gw")) // worker["workercount"]
    for path in found[begin:] + found[:begin]:
        with suppress(Exception):  # told with its place when it is collected
            importlib.import_module(".".join(path.relative_to(session.config.rootpath).with_suffix("").parts))


def pytest_collection_finish():
    """What was imported stays: it is not looked through for garbage again and again."""
    gc.collect()
    gc.freeze()
    gc.enable()
    gc.set_threshold(20_000, 20, 50)
