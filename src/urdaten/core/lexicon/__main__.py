"""Compile the noun data on standard input to the general lexicon on standard output; run when installing."""

import sys

from urdaten.core.lexicon import GeneralLexicon, read_nouns

sys.stdout.buffer.write(GeneralLexicon.of(read_nouns(sys.stdin)).to_bytes())
