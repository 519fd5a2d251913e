"""What only English knows: its function words, and how its words are inflected."""

from __future__ import annotations

# Words of closed classes with the tags that they may have; nouns, verbs, adjectives and most adverbs are in the lexicon.
FUNCTION_WORDS = {
    "ADP": """aboard about above across after against along alongside amid among around as at atop before behind below
        beneath beside besides between beyond by despite down during except for from in inside into like near next of off
        on onto out outside over past per round since through throughout till to toward towards under underneath until up
        upon via with within without astern abreast abeam than frm thru w/""",
    "AUX": """am is are was were be been being 'm 're 's 've 'd 'll have has had having do does did can could may might
        must shall should will would ca wo cannot ought""",
    "CCONJ": "and or but nor yet both either neither & plus",
    "DET": """the a an this that these those each every some any no all both half either neither another such what which
        whose my your his her its our their enough several many much few""",
    "INTJ": "please yes no oh ah hello hey well ok okay thanks alas amen aye goodbye hurrah pls",
    "NUM": """zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen
        seventeen eighteen nineteen twenty thirty forty fifty sixty seventy eighty ninety hundred thousand million billion
        dozen""",
    "PART": "to not n't 's ' na",
    "PRON": """i you he she it we they me him her us them mine yours hers ours theirs myself yourself himself herself
        itself ourselves yourselves themselves who whom whose which what that this these those someone somebody something
        anyone anybody anything everyone everybody everything nobody nothing none all both each some any many much few
        several such one another other others there either neither whoever whatever whichever my your his its our their""",
    "SCONJ": """after although as because before if lest once since so than that though till unless until when whenever
        where whereas wherever whether while why how whilst like for""",
    "ADV": """not how when where why here there now then too also very so just only even still yet already again once
        twice ever never always often soon later almost about around nearly quite rather more most less least well up down
        in out on off away back over ashore aboard astern ahead inbound outbound abt approx""",
    "PROPN": """monday tuesday wednesday thursday friday saturday sunday mon tue tues wed thu thur thurs fri sat sun january
        february march april may june july august september october november december jan feb mar apr jun jul aug sep sept
        oct nov dec mr mrs ms miss""",
    "NOUN": "t kg g mg km m cm mm nm l ml cbm m3 ft lb lbs oz kn pct hrs hr mins min secs am pm a.m. p.m. eta etd o'clock",
    "SYM": "+ = @ % $ £ € § ° < # ~ ×",
    "PUNCT": ". , : ; ! ? | > \" ' ( ) [ ] - – — … “ ” ‘ ’ / *",
}
# Plain endings taken off, and what stands in their place, by what the word is; the first that leads to a known word counts.
ENDINGS = {
    "noun": (
        ("s", ""), ("ies", "y"), ("ses", "s"), ("xes", "x"), ("zes", "z"), ("ches", "ch"), ("shes", "sh"), ("men", "man"),
        ("ves", "f"), ("ves", "fe"),
    ),
    "verb": (
        ("s", ""), ("ies", "y"), ("es", "e"), ("es", ""), ("ied", "y"), ("ed", "e"), ("ed", ""), ("ing", "e"), ("ing", ""),
    ),
    "adjective": (("ier", "y"), ("iest", "y"), ("er", "e"), ("est", "e"), ("er", ""), ("est", "")),
    "adverb": (("ier", "y"), ("iest", "y"), ("er", "e"), ("est", "e"), ("er", ""), ("est", "")),
}  # fmt: skip
# Of these words of a tag the forms that no ending explains.
FORMS = {
    "AUX": {
        "be": "am is are was were been being 'm 're 's",
        "have": "has had having 've 'd",
        "do": "does did done doing don't doesn't didn't",
        "can": "ca cannot can't",
        "will": "wo 'll won't",
        "might": "might",
    },
    "PRON": {
        "i": "me",
        "he": "him",
        "she": "her",
        "we": "us 's",
        "they": "them",
        "this": "these",
        "that": "those",
    },
    "DET": {"a": "an", "this": "these", "that": "those"},
    "PART": {"not": "n't"},
    "ADV": {"not": "n't", "well": "better best", "far": "further farther"},
    "ADJ": {"good": "better best", "bad": "worse worst", "far": "further farther"},
}
