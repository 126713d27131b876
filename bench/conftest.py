"""Figures are collected and printed together at the end."""

from __future__ import annotations

import pytest

LINES: list[str] = []


@pytest.fixture
def say():
    """Keeps a line of figures for the end."""
    return LINES.append


def pytest_terminal_summary(terminalreporter):
    """Print the figures."""
    terminalreporter.write_sep("=", "figures")
    for line in LINES:
        terminalreporter.write_line(line)
