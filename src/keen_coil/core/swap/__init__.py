"""The swap: what this job is, its steps, what to carry, how long it takes, what was marked."""
