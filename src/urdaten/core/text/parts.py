"""Parts of speech: the tags of the Universal Dependencies, which are the same for all languages."""

from __future__ import annotations

# What each stands for, for who meets it.
PARTS = {
    "ADJ": "adjective: heavy, first, wooden",
    "ADP": "preposition or particle of a verb: from, alongside, up in “take up”",
    "ADV": "adverb: slowly, here, twice",
    "AUX": "auxiliary verb: be, have, do before a verb, can, will",
    "CCONJ": "coordinating conjunction: and, or, but",
    "DET": "determiner: the, a, this, every",
    "INTJ": "interjection: please, yes, oh",
    "NOUN": "noun: pilot, cargo, tonnes",
    "NUM": "number, in figures or words: 3,200, four",
    "PART": "particle: to before a verb, not, 's",
    "PRON": "pronoun: she, it, nothing",
    "PROPN": "name: Amber, Varnby, Monday",
    "PUNCT": "punctuation",
    "SCONJ": "subordinating conjunction: when, because, that",
    "SYM": "sign that stands for something: +, @, %",
    "VERB": "verb: sailed, loading, berth",
    "X": "none of these, as of a foreign word",
}
TAGS = tuple(PARTS)
