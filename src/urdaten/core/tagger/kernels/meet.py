"""A place where threads wait for each other inside kernels, for work too short to hand out anew each time.

Each thread keeps its own count of the times it has waited; an int64 array of one element, 0 at the start, counts
all arrivals.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, cast

from llvmlite import ir
from numba.core import types
from numba.extending import intrinsic

from urdaten.core.arrays import Ints
from urdaten.core.jit import kernel

# So many looks before the processor is offered to others: a wait is short unless another program runs.
_LOOKS = 2000


def _build_arrive(_context: Any, array: Any) -> Any:
    """Add one to the first element, seen by all threads in one order; its value before."""

    def build(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        held = context.make_array(signature.args[0])(context, builder, arguments[0])
        return builder.atomic_rmw("add", held.data, ir.Constant(ir.IntType(64), 1), "seq_cst")

    return types.int64(array), build


def _build_arrived(_context: Any, array: Any) -> Any:
    """The first element as all threads see it now."""

    def build(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        held = context.make_array(signature.args[0])(context, builder, arguments[0])
        return builder.load_atomic(held.data, "seq_cst", 8)

    return types.int64(array), build


def _build_give_way(_context: Any) -> Any:
    """Let other threads and programs have the processor (POSIX sched_yield)."""

    def build(_context: Any, builder: Any, _signature: Any, _arguments: Any) -> Any:
        kind = ir.FunctionType(ir.IntType(32), [])
        held = builder.module.globals.get("sched_yield") or ir.Function(builder.module, kind, "sched_yield")
        return builder.call(held, [])

    return types.int32(), build


# In kernels these take what their builders take after the context.
_arrive = cast("Callable[[Ints], int]", intrinsic(_build_arrive))
_arrived = cast("Callable[[Ints], int]", intrinsic(_build_arrived))
_give_way = cast("Callable[[], int]", intrinsic(_build_give_way))


@kernel
def meet(arrivals: Ints, parts: int, times: int) -> int:
    """Wait until all parts have come here as often as this one, which came `times` times before; one more than that."""
    times += 1
    if parts > 1:
        _arrive(arrivals)
        looks = 0
        while _arrived(arrivals) < times * parts:
            looks += 1
            if looks > _LOOKS:
                _give_way()
    return times
