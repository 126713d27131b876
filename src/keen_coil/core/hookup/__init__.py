"""The hook-up bench: what is joined to what, what a motor does when it is wired so, and how to wire it right."""
