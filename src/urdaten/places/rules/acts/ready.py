"""Fragments that anybody may take over."""

from __future__ import annotations

from urdaten.places.rules.acts.reading import FragmentDraft

READY_MADE = (
    FragmentDraft(
        name="noun phrase",
        about="A noun or name with what stands before it: determiner, adjectives, numbers, participles.",
        pattern="""(
    (tag(DET), lemma('my', 'your', 'his', 'its', 'our', 'their')) up to 4 (tag(ADJ), tag(NUM), tag(VERB))
    or any number of (tag(ADJ), tag(NUM))
) 1 or more (tag(NOUN), tag(PROPN))""",
    ),
    FragmentDraft(
        name="verb group",
        about="A verb with its auxiliaries and what stands between them: has not yet been unloaded.",
        pattern="any number of (tag(AUX), tag(ADV), 'not') tag(VERB)",
    ),
)
