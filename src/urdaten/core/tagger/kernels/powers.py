"""Exponentials that a loop can take many of at once."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, cast

import numpy as np
from llvmlite import ir
from numba.core import types
from numba.extending import intrinsic

from urdaten.core.arrays import Floats
from urdaten.core.jit import kernel

SINGLE_FLOOR = 30.0
DOUBLE_FLOOR = 300.0
_LOG2_E = 1.4426950408889634
# ln 2 in two parts, the first short enough that its products with small whole numbers are exact.
_LN2_HIGH = 0.693359375
_LN2_LOW = -2.12194440e-4


def _build_power(_context: Any, _exponent: Any, like: Any) -> Any:
    single = like == types.float32
    width, shift, bias = (32, 23, 127) if single else (64, 52, 1023)
    target = ir.FloatType() if single else ir.DoubleType()

    def build(_context: Any, builder: Any, _signature: Any, arguments: Any) -> Any:
        number = ir.IntType(width)
        raised = builder.add(builder.trunc(arguments[0], number) if single else arguments[0], number(bias))
        return builder.bitcast(builder.shl(raised, number(shift)), target)

    return like(types.int64, like), build


# 2ⁿ for a whole number n, int64, in the precision of the second argument; put together from its bits (IEEE 754).
_power_of_two = cast("Callable[[Any, Any], Any]", intrinsic(_build_power))


@kernel
def exp_row(values: Floats, peak: float, out: Floats) -> None:
    """out = exp(values − peak), not below the floor of its precision, for values ≤ peak; within 1e-12 of exact
    in double precision."""
    one = out.dtype.type
    low = one(-SINGLE_FLOOR if out.itemsize == 4 else -DOUBLE_FLOOR)
    log2_e, high, rest = one(_LOG2_E), one(_LN2_HIGH), one(_LN2_LOW)
    half = one(0.5)
    for j in range(len(values)):
        x = max(one(values[j]) - one(peak), low)
        n = np.floor(x * log2_e + half)
        r = x - n * high - n * rest
        y = one(1 / 3628800)
        y = y * r + one(1 / 362880)
        y = y * r + one(1 / 40320)
        y = y * r + one(1 / 5040)
        y = y * r + one(1 / 720)
        y = y * r + one(1 / 120)
        y = y * r + one(1 / 24)
        y = y * r + one(1 / 6)
        y = y * r + half
        y = y * r + one(1)
        y = y * r + one(1)
        out[j] = y * _power_of_two(np.int64(n), half)
