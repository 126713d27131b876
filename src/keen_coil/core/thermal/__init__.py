"""Losses to winding temperature, life against the plate's, and when the overload opens. Estimates, always a band."""
