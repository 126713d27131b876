"""Practice: units with hidden faults, what instruments and senses read on them, and how a learner did."""
