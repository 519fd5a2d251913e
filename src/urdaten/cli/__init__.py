"""The `urdaten` command."""

import sys

__all__ = ["main"]


def main() -> None:
    """Run the command. `run` is asked for again and again by programs, so it does not wait for what the others need."""
    if sys.argv[1:2] == ["run"]:
        from urdaten.cli.run import main as command
    else:
        from urdaten.cli.command import main as command
    command()
