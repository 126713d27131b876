"""Keen Coil: prove the path to a failed fan motor, match its replacement, prove the run."""

__version__ = "0.1.0"
