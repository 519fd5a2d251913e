"""Reading files: main text of pages against marks made by hand, mutated files of every kind, and how quickly rows are read.

A tenth of the mutated files without --full.
"""

from __future__ import annotations

import random
import tempfile
import time
from pathlib import Path

from urdaten.demo.files import FOLDER
from urdaten.demo.measures.pages import main_text_scores
from urdaten.readers import Document, Ended, How, Limits, Refusal, read_guarded

MUTATED, FULL_MUTATED = 1_000, 10_000
ROWS = 50_000
PATIENCE_S = 20.0
SHAPES = FOLDER / "shapes"
KINDS = ("mail", "text", "pdf", "site", "pages")


def measure(full: bool) -> dict[str, float]:
    """Every figure by name."""
    scores = main_text_scores()
    figures = {
        "main_text_f1": sum(scores.values()) / len(scores),
        "main_text_f1_of_the_worst": min(scores.values()),
    }
    with tempfile.TemporaryDirectory() as folder:
        return figures | _fuzzed(Path(folder), FULL_MUTATED if full else MUTATED) | _rows(Path(folder))


def _fuzzed(folder: Path, count: int) -> dict[str, float]:
    chance = random.Random(16)
    # PDFs take a hundred times as long as the others: one file in twenty is one.
    quick = [path for kind in KINDS if kind != "pdf" for path in sorted((SHAPES / kind).iterdir())]
    slow = sorted((SHAPES / "pdf").iterdir())
    files = []
    for number in range(count):
        source = chance.choice(slow if number % 20 == 0 else [*quick, SHAPES / "remarks.csv"])
        path = folder / f"{number}{source.suffix}"
        path.write_bytes(_mutated(source.read_bytes(), chance))
        files.append((path.name, path))
    limits = Limits(patience_s=PATIENCE_S)
    read = refused = fell = 0
    began, slowest = time.perf_counter(), 0.0
    for _, item in read_guarded(files, How(), limits):
        if isinstance(item, Document):
            read += 1
        elif isinstance(item, Refusal):
            refused += 1
            fell += "fell over" in item.why or "given up" in item.why
        elif isinstance(item, Ended):
            slowest, began = max(slowest, time.perf_counter() - began), time.perf_counter()
    return {
        "mutated_files": float(count),
        "mutated_documents": float(read),
        "mutated_refusals": float(refused),
        "mutated_fell_over": float(fell),
        "mutated_slowest_s": slowest,
    }


def _mutated(data: bytes, chance: random.Random) -> bytes:
    made = bytearray(data)
    for _ in range(chance.randint(1, 12)):
        at, size = chance.randrange(len(made) + 1), chance.choice((1, 2, 8, 64, 512))
        match chance.randrange(4):
            case 0:
                del made[at : at + size]
            case 1:
                made[at:at] = made[max(0, at - size) : at] * chance.choice((1, 1, 50))
            case 2:
                made[at : at + size] = chance.randbytes(size)
            case _:
                made[at:at] = chance.choice(
                    (b"\0", b'"', b"\n\n", b"<table>", b"\xff\xfe", b"--", b"9" * 300, b"(((")
                )
    return bytes(made)


def _rows(folder: Path) -> dict[str, float]:
    path = folder / "rows.csv"
    rows = (
        f'{n},2026-07-06,"The {n}th ship of the year, the Ketta, is in from Thornmouth."\n'
        for n in range(ROWS)
    )
    path.write_text("".join(["id,day,remark\n", *rows]))
    began = time.perf_counter()
    count = sum(isinstance(item, Document) for _, item in read_guarded([(path.name, path)], How()))
    assert count == ROWS
    return {"rows_per_second": ROWS / (time.perf_counter() - began)}
