"""What was: the log, the history of a unit, archives and nightly copies."""
