"""The command line: one module a subject; `commands` has them all."""
