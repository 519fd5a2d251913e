"""The kept tagger: its size, what is refused, and formats before."""

from __future__ import annotations

import hashlib
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from core.invented import QUICK, TYPES, invented
from urdaten.core.tagger import (
    GoldText,
    from_bytes,
    modelfile,
    read_file,
    to_bytes,
    train,
)
from urdaten.core.text import Vocabulary
from urdaten.errors import BadFile


def test_a_file_is_kept_to_its_size_and_says_nearly_the_same() -> None:
    vocabulary = Vocabulary()
    types = tuple(f"T{k:02d}" for k in range(30))
    texts = []
    for k, text in enumerate(invented(80, 4, vocabulary)):
        spans = [replace(span, type=types[(k + n) % 2]) for n, span in enumerate(text.gold)]
        texts.append(GoldText(text.item, spans))

    def made(**more: float) -> tuple[int, float]:
        tagger = train(texts, [], vocabulary, types, replace(QUICK, seed=3, **more))  # type: ignore[arg-type]
        found = tagger.tag([text.item for text in texts], vocabulary)
        right = sum(
            [(s.start, s.end, s.type) for s in spans] == [(s.start, s.end, s.type) for s in sorted(text.gold)]
            for spans, text in zip(found, texts, strict=True)
        )
        return len(to_bytes(tagger)), right / len(texts)

    whole, best = made(prune=0, file_megabytes=100)
    for share in (0.8, 0.6):
        size, right = made(file_megabytes=share * whole / 1e6)
        assert size <= share * whole
        assert right >= best - 0.1
    assert made(file_megabytes=100)[0] < whole, "small weights go anyway"


@pytest.mark.parametrize(
    "data", [b"", b"PK\x03\x04 damaged", b"not a tagger at all", b"URDATAGG" + bytes(90)]
)
def test_a_damaged_model_is_refused(data: bytes, tmp_path: Path) -> None:
    with pytest.raises(BadFile, match="damaged"):
        from_bytes(data)
    file = tmp_path / "tagger"
    file.write_bytes(data)
    with pytest.raises(BadFile, match="damaged"):
        read_file(file)


def test_one_changed_byte_is_noticed_and_another_format_named() -> None:
    vocabulary = Vocabulary()
    data = bytearray(to_bytes(train(invented(20, 1, vocabulary), [], vocabulary, TYPES, QUICK)))
    data[-1] ^= 1
    with pytest.raises(BadFile, match="damaged"):
        from_bytes(bytes(data))
    data[-1] ^= 1
    later = bytes(data).replace(b'"format": 3', b'"format": 9')
    later = later[:8] + hashlib.sha256(later[40:]).digest() + later[40:]
    with pytest.raises(BadFile, match="has format 9; this program reads formats 2 and 3"):
        from_bytes(later)


def test_the_format_before_is_read_still(monkeypatch: pytest.MonkeyPatch) -> None:
    vocabulary = Vocabulary()
    texts = invented(20, 1, vocabulary)
    tagger = train(texts, [], vocabulary, TYPES, QUICK)
    pack = modelfile._pack

    def as_before(about: dict[str, Any], arrays: dict[str, Any]) -> bytes:
        """Weights of tokens' features written out in full."""
        kept = {name: array for name, array in arrays.items() if not name.startswith("layer0.token_")}
        return pack(about | {"format": 2}, kept | {"layer0.tokens": tagger.layers[0].tokens})

    monkeypatch.setattr(modelfile, "_pack", as_before)
    before = from_bytes(to_bytes(tagger))
    monkeypatch.undo()
    assert before.layers[0].tokens.any()
    assert to_bytes(before) == to_bytes(tagger)
