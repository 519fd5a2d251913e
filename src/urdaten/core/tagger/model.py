"""A trained tagger: its weights, how it tags, and how it is kept as one run of bytes."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from urdaten.core.spans.coding import allowed_transitions, decode, label_count
from urdaten.core.spans.span import Span
from urdaten.core.tagger import chain
from urdaten.core.tagger.features import OFFSETS, WINDOW, AttributeTable, Sentences, TaggerInput, lay_out
from urdaten.core.text.analysis import Vocabulary
from urdaten.errors import BadFile, BadInput

FORMAT = 1
Floats = NDArray[np.float64]


@dataclass
class Weights:
    """Weights of a linear-chain model. L = labels.

    attribute (n_attributes, OFFSETS · L) · evidence (n_columns, OFFSETS · L) · start (L,) ·
    transition (L, L). Forbidden moves hold chain.FORBIDDEN and are never changed.
    """

    attribute: Floats
    evidence: Floats
    start: Floats
    transition: Floats

    @classmethod
    def zeros(cls, attributes: int, columns: int, types: Sequence[str]) -> Weights:
        labels = label_count(types)
        moves = np.where(allowed_transitions(types), 0.0, chain.FORBIDDEN)
        return cls(
            np.zeros((attributes, OFFSETS * labels)),
            np.zeros((columns, OFFSETS * labels)),
            moves[-1].copy(),
            moves[:-1].copy(),
        )

    def copy(self) -> Weights:
        return Weights(self.attribute.copy(), self.evidence.copy(), self.start.copy(), self.transition.copy())


def emission_scores(
    form_scores: Floats, weights: Weights, data: Sentences, tokens: NDArray[np.int64]
) -> Floats:
    """Scores of shape (n, L) for the given real tokens; `form_scores` is A·W."""
    labels = len(weights.start)
    scores = np.zeros((len(tokens), labels))
    positions = data.position[tokens]
    for k in range(OFFSETS):
        part = slice(k * labels, (k + 1) * labels)
        at = positions + k - WINDOW
        scores += form_scores[data.word[at], part]
        if data.evidence.shape[1]:
            scores += data.evidence[at] @ weights.evidence[:, part]
    return scores


def falling_length(length: NDArray[np.int64]) -> NDArray[np.int64]:
    """Order of sentences by falling length; equal lengths keep their order."""
    return np.argsort(-length, kind="stable")


@dataclass
class Tagger:
    """A trained linear-chain tagger. `manifest` says what it was made from."""

    types: tuple[str, ...]
    sources: tuple[str, ...]
    table: AttributeTable
    weights: Weights
    manifest: dict[str, Any]

    BLOCK = 128

    def tag(self, inputs: Sequence[TaggerInput], vocabulary: Vocabulary) -> list[list[Span]]:
        """Spans of each input with their exact probabilities. The inputs share the vocabulary."""
        forms = vocabulary.forms
        data = lay_out(inputs, self.types, self.sources, len(forms))
        form_scores = self.table.matrix(forms) @ self.weights.attribute
        return self.tag_laid_out(inputs, data, form_scores)

    def tag_laid_out(
        self, inputs: Sequence[TaggerInput], data: Sentences, form_scores: Floats
    ) -> list[list[Span]]:
        """As `tag`, for columns and form scores that are already at hand."""
        found: list[list[tuple[int, int, str, float]]] = [[] for _ in range(len(data))]
        order = falling_length(data.length)
        for at in range(0, len(order), self.BLOCK):
            chosen = order[at : at + self.BLOCK]
            length = data.length[chosen]
            tokens = np.concatenate(
                [np.arange(data.first[s], data.first[s] + data.length[s]) for s in chosen]
            )
            scores = emission_scores(form_scores, self.weights, data, tokens)
            block = chain.make_block(scores, np.cumsum(length) - length, length)
            passes = chain.forward_backward(block, self.weights.start, self.weights.transition)
            paths = chain.best_paths(block, self.weights.start, self.weights.transition)
            for column, sentence in enumerate(chosen):
                for first, last, code in decode(paths[column], self.types):
                    begin = 2 * self.types.index(code) + 1
                    probability = chain.span_probability(
                        passes, self.weights.transition, column, int(length[column]), first, last, begin
                    )
                    found[sentence].append((first, last, code, probability))
        result: list[list[Span]] = []
        sentence = 0
        for item in inputs:
            spans = []
            for a, _ in item.token_ranges():
                for first, last, code, probability in found[sentence]:
                    start = int(item.analysis.start[a + first])
                    end = int(item.analysis.end[a + last - 1])
                    spans.append(Span(start, end, code, "tagger", round(probability, 4), "sequence tagger"))
                sentence += 1
            result.append(spans)
        return result

    def to_bytes(self) -> bytes:
        """The tagger as one run of bytes (arrays and a JSON manifest, nothing executable)."""
        used = np.abs(self.weights.attribute).max(axis=1) > 1e-4
        used[0] = True  # what stands for "beyond the sentence" is always asked for
        head = {
            "format": FORMAT,
            "types": self.types,
            "sources": self.sources,
            "groups": self.table.groups,
            "attributes": [name for name, use in zip(self.table.names, used, strict=True) if use],
            "manifest": self.manifest,
        }
        out = io.BytesIO()
        np.savez_compressed(
            out,
            head=np.frombuffer(json.dumps(head, ensure_ascii=False).encode(), dtype=np.uint8),
            attribute=self.weights.attribute[used].astype(np.float32),
            evidence=self.weights.evidence.astype(np.float32),
            start=self.weights.start,
            transition=self.weights.transition,
        )
        return out.getvalue()

    @classmethod
    def from_bytes(cls, data: bytes) -> Tagger:
        """Read what `to_bytes` wrote. Raises BadFile for anything else."""
        try:
            with np.load(io.BytesIO(data), allow_pickle=False) as arrays:
                head = json.loads(arrays["head"].tobytes())
                if head["format"] != FORMAT:
                    raise BadFile(
                        f"This tagger has format {head['format']}; this program reads format {FORMAT}. Train it again."
                    )
                weights = Weights(
                    arrays["attribute"].astype(np.float64),
                    arrays["evidence"].astype(np.float64),
                    arrays["start"],
                    arrays["transition"],
                )
        except (ValueError, KeyError, OSError, EOFError, zipfile.BadZipFile) as fault:
            raise BadFile(
                "This is not a tagger that Urdaten wrote, or it is damaged. Train it again."
            ) from fault
        return cls(
            tuple(head["types"]),
            tuple(head["sources"]),
            AttributeTable(head["groups"], head["attributes"]),
            weights,
            head["manifest"],
        )


def check_types(types: Sequence[str]) -> None:
    if not types:
        raise BadInput("There is no entity type to learn; add one under Types.")
