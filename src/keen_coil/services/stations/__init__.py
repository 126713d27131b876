"""The stations of a call, from Make safe to Hand over, under the names of their routes and templates."""
