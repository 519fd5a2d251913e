"""Kinds of arrays, by what they hold; docstrings say how wide where it counts."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Ints = NDArray[np.integer[Any]]
Floats = NDArray[np.floating[Any]]
Bools = NDArray[np.bool_]
Array = NDArray[Any]
