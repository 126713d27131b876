"""`python -m keen_coil`."""

from .cli.commands import main

main()
