"""What the demo files hold, and the limits that they keep."""

from urdaten.demo.measures.difficulty import Difficulty, how_hard
from urdaten.demo.measures.report import Report, measure

__all__ = ["Difficulty", "Report", "how_hard", "measure"]
