"""One file of routes for each screen."""
