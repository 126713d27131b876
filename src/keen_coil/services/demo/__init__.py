"""Pellow Island: the demo database and its log."""
