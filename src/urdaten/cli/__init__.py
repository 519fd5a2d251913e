"""The `urdaten` command."""

from urdaten.cli.command import main

__all__ = ["main"]
