"""The motor model: what a two-winding single-phase motor draws, how fast it turns, how it starts."""
