"""Judging readings: one file a quantity, `readings.py` brings them together."""
