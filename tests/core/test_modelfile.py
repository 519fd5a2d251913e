"""The kept tagger: its size, what is refused, and formats before."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from core.invented import QUICK, TYPES, invented
from urdaten.core.spans import Span
from urdaten.core.tagger import (
    GoldText,
    Tagger,
    TaggerInput,
    from_bytes,
    modelfile,
    read_file,
    to_bytes,
    train,
)
from urdaten.core.text import Vocabulary, analyse
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
    later = bytes(data).replace(b'"format": 4', b'"format": 9')
    later = later[:8] + hashlib.sha256(later[40:]).digest() + later[40:]
    with pytest.raises(BadFile, match="has format 9; this program reads formats 2, 3 and 4"):
        from_bytes(later)


def in_format(number: int, tagger: Tagger, spelt: Callable[[str], str], patch: pytest.MonkeyPatch) -> bytes:
    """The file as it was written in formats before: the names of each token feature stood with it, and in format 2 their
    weights in full."""
    pack, text = modelfile._pack, modelfile._text
    features = tagger.token_table.features

    def as_before(told: dict[str, Any], arrays: dict[str, Any]) -> bytes:
        whole = number == 2
        kept = {
            name: array
            for name, array in arrays.items()
            if not name.startswith(("token_", "layer0.token_") if whole else "token_")
        }
        kept |= {
            "attributes": text([spelt(name) for name in tagger.table.names]),
            "token_kinds": text([feature.kind for feature in features]),
            "token_left": text([spelt(feature.left) for feature in features]),
            "token_right": text([spelt(feature.right) for feature in features]),
        }
        return pack(
            told | {"format": number}, kept | ({"layer0.tokens": tagger.layers[0].tokens} if whole else {})
        )

    with patch.context() as patched:
        patched.setattr(modelfile, "_pack", as_before)
        return to_bytes(tagger)


@pytest.mark.parametrize("number", [2, 3])
def test_the_formats_before_are_read_still(number: int, monkeypatch: pytest.MonkeyPatch) -> None:
    vocabulary = Vocabulary()
    tagger = train(invented(20, 1, vocabulary), [], vocabulary, TYPES, QUICK)
    before = from_bytes(in_format(number, tagger, str, monkeypatch))
    assert before.layers[0].tokens.any()
    assert before.token_table.features == tagger.token_table.features
    assert to_bytes(before) == to_bytes(tagger)


def test_words_of_formats_before_are_compared_as_those_of_now(monkeypatch: pytest.MonkeyPatch) -> None:
    vocabulary = Vocabulary()
    analysis = analyse("The O\u2019Hara pays. The O\u2019Hara pays. Don\u2019t pay.", vocabulary=vocabulary)
    texts = [GoldText(TaggerInput(analysis, ()), [Span(4, 10, "VES"), Span(22, 28, "VES")])] * 3
    tagger = train(texts, [], vocabulary, TYPES, replace(QUICK, features=("words", "affixes", "pairs")))
    assert "word=o'hara" in tagger.table.names
    data = in_format(3, tagger, lambda name: name.replace("'", "\u2019"), monkeypatch)
    assert "o\u2019hara".encode() in data
    before = from_bytes(data)
    assert before.table.names == tagger.table.names
    assert sorted(before.token_table.features) == sorted(tagger.token_table.features)
    items = [text.item for text in texts]
    assert before.tag(items, vocabulary) == tagger.tag(items, vocabulary)


Parts = tuple[dict[str, Any], dict[str, Any]]


@pytest.fixture(scope="module")
def parts() -> Parts:
    """What a tagger's file is packed of."""
    vocabulary = Vocabulary()
    kept: list[Parts] = []

    def keep(told: dict[str, Any], arrays: dict[str, Any]) -> bytes:
        kept.append((told, arrays))
        return b""

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(modelfile, "_pack", keep)
        to_bytes(train(invented(20, 1, vocabulary), [], vocabulary, TYPES, replace(QUICK, coding="BILOU")))
    return kept[0]


def about(**more: Any) -> Callable[[Parts], None]:
    return lambda parts: parts[0].update(more)


def array(name: str, change: Callable[[Any], Any]) -> Callable[[Parts], None]:
    return lambda parts: parts[1].update({name: change(parts[1][name].copy())})


def put(name: str, at: int, value: float) -> Callable[[Parts], None]:
    def change(values: Any) -> Any:
        values.flat[at] = value
        return values

    return array(name, change)


MADE_UP: dict[str, Callable[[Parts], None]] = {
    "no arrays": lambda parts: parts[1].clear(),
    "types that are a number": about(types=3),
    "types that are numbers": about(types=[1, 2]),
    "a type twice": about(types=[TYPES[0], TYPES[0]]),
    "types without end": about(types=[*TYPES, *(f"T{k}" for k in range(1000))]),
    "kinds of evidence without end": about(
        types=[*TYPES, *(f"T{k}" for k in range(400))], sources=[f"s{k}" for k in range(400)]
    ),
    "a coding nobody knows": about(layers=[{"coding": "LOU", "types": TYPES}]),
    "a coding that is a list": about(layers=[{"coding": [], "types": TYPES}]),
    "a layer of other types": about(layers=[{"coding": "BILOU", "types": ["XXX", "YYY"]}]),
    "another coding than the weights": about(layers=[{"coding": "BIO", "types": TYPES}]),
    "layers that are none": about(layers=4),
    "too much calibration": about(calibration=[1, 0, 1]),
    "a calibration of words": about(calibration=["a", "b"]),
    "a calibration that is endless": about(calibration=[float("inf"), 0]),
    "a manifest that is a list": about(manifest=[]),
    "surfaces that are lists": about(manifest={"surfaces": [[]]}),
    "a row that begins before the first": put("layer0.pointer", 0, -1),
    "a row that ends beyond the last": put("layer0.pointer", -1, 2**30),
    "rows that go back": put("layer0.pointer", 1, 2**20),
    "rows too few": array("layer0.pointer", lambda values: values[:-1]),
    "no rows": array("layer0.pointer", lambda values: values[:0]),
    "a column too far": put("layer0.column", 0, 2**16 - 1),
    "a column before the first": array("layer0.column", lambda values: values.astype("i4") - 5),
    "columns in halves": array("layer0.column", lambda values: values.astype("f4")),
    "a weight that is no number": put("layer0.value", 0, float("nan")),
    "weights too few": array("layer0.value", lambda values: values[1:]),
    "a token's column too far": put("layer0.token_column", 0, 2**16 - 1),
    "a token's row that goes back": put("layer0.token_pointer", 1, 2**20),
    "moves of another shape": array("layer0.dense", lambda values: values[:-1]),
    "a first move too few": array("layer0.start", lambda values: values[:-1]),
    "a move that is no number": put("layer0.step", 0, float("inf")),
    "moves in another kind": array("layer0.step", lambda values: values.astype("f2")),
    "names that are no words": put("attributes", 0, 0xFF),
    "features of which a part is missing": array("token_left", lambda values: values[:-1]),
    "a feature of no kind": put("token_kind", 0, 2**20),
    "a feature before the first kind": put("token_kind", 0, -1),
    "a feature without a name": put("token_left", 0, 2**20),
    "a name before the first": put("token_right", 0, -1),
    "kinds in halves": array("token_kind", lambda values: values.astype("f4")),
    "features in two rows": array("token_left", lambda values: values.reshape(1, -1)),
    "names of features that are missing": array("token_names", lambda values: values[:0]),
    "classes that are floats": array("class_numbers", lambda values: values.astype("f4")),
}


@pytest.mark.parametrize("name", MADE_UP)
def test_a_file_that_was_made_up_is_refused_though_its_sum_is_right(parts: Parts, name: str) -> None:
    told, arrays = dict(parts[0]), dict(parts[1])
    from_bytes(modelfile._pack(told, arrays))
    MADE_UP[name]((told, arrays))
    with pytest.raises(BadFile, match="damaged"):
        from_bytes(modelfile._pack(told, arrays))


@pytest.mark.parametrize(
    ("written", "instead"),
    [
        (b'"shape": [', b'"shape": [-1, '),
        (b'"at": 0', b'"at": 10000000000'),
        (b'"kind": "<f4"', b'"kind": "|O"'),
        (b'"kind": "<f4"', b'"kind": "<c8"'),
        (b'"format": 4', b'"format": []'),
        (b'{"format"', b"[" * 100_000),
        (b"URDATAGG", b"URDATAGG"),
    ],
)
def test_a_made_up_place_of_an_array_is_refused(parts: Parts, written: bytes, instead: bytes) -> None:
    made = modelfile._pack(*parts)
    size = int.from_bytes(made[40:48], "little")
    told = made[48 : 48 + size].replace(written, instead)
    rest = (len(told) if written != b"URDATAGG" else 2**63).to_bytes(8, "little") + told + made[48 + size :]
    with pytest.raises(BadFile):
        from_bytes(made[:8] + hashlib.sha256(rest).digest() + rest)
