"""What the demo files hold, and the limits that they keep."""

from urdaten.demo.measures.difficulty import Difficulty, difficulty
from urdaten.demo.measures.report import Report, measure

__all__ = ["Difficulty", "Report", "difficulty", "measure"]
