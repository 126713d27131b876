"""Motors, capacitors and vans: the shelf, what is imported to it, stock as movements, the plan of a van."""
