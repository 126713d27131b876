"""Jobs that play themselves: scripts of a technician's day, the hand that plays them, what is written of each."""
