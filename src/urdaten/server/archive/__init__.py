"""A project as one file, and back again: docs/formats.md describes it."""

from urdaten.server.archive.reading import import_project
from urdaten.server.archive.writing import export_project

__all__ = ["export_project", "import_project"]
