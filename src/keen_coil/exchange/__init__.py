"""The shop's server as a van reaches it: plain HTTPS requests."""
