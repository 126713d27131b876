"""The job itself: types, limits, judgements, diagnosis, matching, run proof. No input, output, clock or chance."""
