"""Learn parts of speech from the tagged sentences of a folder, with the words of a lexicon where there is one, and write
them to standard output; run when installing.

    python -m urdaten.core.tags data/tags [/usr/share/wordnet]
"""

import sys
from contextlib import ExitStack
from pathlib import Path
from typing import TextIO

from urdaten.core.tags import FILES, SOURCES, held_out, learn, read_lemmas, read_tagged, read_words

folder, *lexicon = map(Path, sys.argv[1:])
words = None
if lexicon:
    with ExitStack() as stack:

        def opened(name: str) -> TextIO:
            return stack.enter_context((lexicon[0] / name).open(encoding="utf-8"))

        words = read_words(
            {name: opened(f"index.{part}") for name, part in FILES.items()},
            {name: opened(f"{part}.exc") for name, part in FILES.items()},
            opened("cntlist.rev"),
        )
sources = {
    name: list(read_tagged((folder / file).read_text(encoding="utf-8").splitlines()))
    for name, file in SOURCES.items()
}
lemmas = read_lemmas((folder / "lemmas.txt").read_text(encoding="utf-8").splitlines())
figures = held_out(sources, words, lemmas)
parts = learn([one for own in sources.values() for one in own], words, figures)
sys.stdout.buffer.write(parts.to_bytes())
