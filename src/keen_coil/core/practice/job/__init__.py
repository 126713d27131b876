"""The whole job of a practice case: what was done to the unit, what it is then, what comes back of it."""
