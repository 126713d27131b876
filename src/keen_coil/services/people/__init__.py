"""Technicians, accounts, settings, the trail of who did what, the first steps of a shop."""
