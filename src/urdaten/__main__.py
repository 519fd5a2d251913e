"""`python -m urdaten` is the `urdaten` command."""

from urdaten.cli import main

main()
