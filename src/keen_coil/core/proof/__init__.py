"""Proving the run of the new motor."""
