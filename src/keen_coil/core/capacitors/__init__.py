"""Run capacitors: what is on the van, and which of it, alone or joined, serves a motor."""
