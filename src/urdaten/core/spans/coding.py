"""BIO coding: spans as one label per token, and back.

Label 0 is "outside"; type k of an ordered list has label 2k+1 where a span begins and 2k+2 inside it
(Ramshaw and Marcus 1995, in the variant that marks every beginning).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from urdaten.core.spans.span import Span
from urdaten.core.text.analysis import Analysis


def label_count(types: Sequence[str]) -> int:
    return 2 * len(types) + 1


def encode(spans: Sequence[Span], analysis: Analysis, types: Sequence[str]) -> NDArray[np.int16]:
    """Labels of shape (n_tokens,). Spans of other types are left out; of overlapping spans the
    longer one is coded."""
    labels = np.zeros(len(analysis), dtype=np.int16)
    number = {code: k for k, code in enumerate(types)}
    for span in sorted(spans, key=lambda s: (s.end - s.start, -s.start)):
        if span.type not in number:
            continue
        first, last = analysis.token_range(span.start, span.end)
        if last > first:
            # A later, longer span may cover a shorter one's beginning: clear what it leaves behind.
            tail = last
            while tail < len(labels) and labels[tail] and labels[tail] % 2 == 0:
                labels[tail] = 0
                tail += 1
            labels[first:last] = 2 * number[span.type] + 2
            labels[first] = 2 * number[span.type] + 1
    return labels


def decode(labels: NDArray[np.int16], types: Sequence[str]) -> list[tuple[int, int, str]]:
    """Token ranges (first, one past last, type) from labels of shape (n_tokens,).

    An inside label that does not continue a span of its type begins one.
    """
    found: list[tuple[int, int, str]] = []
    padded = np.append(labels, 0)
    kind = (padded + 1) // 2  # 0 outside, k+1 for type k
    begins = (padded % 2 == 1) | ((kind > 0) & (np.diff(kind, prepend=0) != 0))
    for first in np.flatnonzero(begins):
        last = int(first) + 1
        while padded[last] and kind[last] == kind[first] and not begins[last]:
            last += 1
        found.append((int(first), last, types[int(kind[first]) - 1]))
    return found


def allowed_transitions(types: Sequence[str]) -> NDArray[np.bool_]:
    """Matrix of shape (n_labels + 1, n_labels): may label j follow label i? The last row is the
    sentence's beginning."""
    count = label_count(types)
    allowed = np.ones((count + 1, count), dtype=bool)
    for k in range(len(types)):
        inside = 2 * k + 2
        allowed[:, inside] = False
        allowed[[inside - 1, inside], inside] = True
    return allowed
