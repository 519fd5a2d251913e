"""What has been signed, remembered by its words."""

from urdaten.core.memory.names import LONGEST, Name, NameMemory, Told, places_of

__all__ = ["LONGEST", "Name", "NameMemory", "Told", "places_of"]
