"""The van: what the units of an area ask for, how many to carry between restocks, which few parts cover most of it."""
