"""`python -m keen_coil`."""

from .cli import main

main()
