"""The demo's pipeline as a bundle, without any database."""

from __future__ import annotations

from urdaten.core.bundle import Bundle, BundledRule, BundledTagger, gathered_lists
from urdaten.core.formats import Scheme, SchemeType
from urdaten.core.pipeline import Plan, Weigher, standard
from urdaten.core.tagger import Tagger, to_bytes
from urdaten.demo.files import Demo
from urdaten.installed import general_lexicon, words


def demo_bundle(
    demo: Demo, tagger: Tagger | None, plan: Plan | None = None, weigher: Weigher | None = None
) -> Bundle:
    """Lists, rules and templates of the demo with a tagger, which is called "" in the plan."""
    lists, heads = gathered_lists(demo.lists, demo.language)
    known, lexicon = words(demo.language), general_lexicon()
    return Bundle(
        name=demo.name,
        plan=plan or standard(with_tagger=tagger is not None),
        scheme=Scheme(
            types=tuple(
                SchemeType(code=one.code, name=one.name, key=one.key, hue=one.hue) for one in demo.types
            )
        ),
        language=demo.language,
        lists=lists,
        heads=heads,
        rules=tuple(BundledRule(name=one.name, type=one.type, pattern=one.pattern) for one in demo.rules),
        fragments={one.name: one.pattern for one in demo.fragments},
        taggers={} if tagger is None else {"": BundledTagger(data=to_bytes(tagger))},
        words=None if known is None else known.parts.to_bytes(),
        lexicon=None if lexicon is None else lexicon.to_bytes(),
        weigher=weigher,
        templates=demo.templates,
    )
