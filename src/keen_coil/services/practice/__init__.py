"""Practice calls: units with hidden faults, their cases, jobs and scores."""
