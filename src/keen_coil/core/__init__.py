"""The job itself: types, limits, judgments, diagnosis, matching, run proof. No input, output, clock or chance."""
