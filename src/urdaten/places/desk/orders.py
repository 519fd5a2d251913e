"""Names of the orders of the queue."""

from typing import Literal

By = Literal["reading", "disputes", "doubt", "novelty", "random"]
