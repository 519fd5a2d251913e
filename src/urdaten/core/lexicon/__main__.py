"""Compile the noun data on standard input to the general lexicon, or to its meanings, on standard output; run when installing."""

import sys

from urdaten.core.lexicon import GeneralLexicon, Senses, read_nouns, read_senses

if sys.argv[1:] == ["senses"]:
    sys.stdout.buffer.write(Senses.of(read_senses(sys.stdin)).to_bytes())
else:
    sys.stdout.buffer.write(GeneralLexicon.of(read_nouns(sys.stdin)).to_bytes())
