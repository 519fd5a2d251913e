"""Acts on rules and fragments."""

from urdaten.places.rules.acts.fragments import (
    Fragment,
    FragmentDraft,
    add_fragment,
    change_fragment,
    fragment_texts,
    read_fragment,
    read_fragments,
    remove_fragment,
)
from urdaten.places.rules.acts.looking import Look, look
from urdaten.places.rules.acts.ready import READY_MADE
from urdaten.places.rules.acts.rules import (
    PLACE,
    Rule,
    RuleDraft,
    add_rule,
    change_rule,
    compile_draft,
    move_rule,
    read_rule,
    read_rules,
    remove_rule,
)
from urdaten.places.rules.acts.trying import (
    compiled_or_none,
    failing,
    read_aloud,
    rules_before,
    try_rule,
    unreadable,
)
from urdaten.places.rules.acts.words import told_of_words, words_of

__all__ = [
    "PLACE",
    "READY_MADE",
    "Fragment",
    "FragmentDraft",
    "Look",
    "Rule",
    "RuleDraft",
    "add_fragment",
    "add_rule",
    "change_fragment",
    "change_rule",
    "compile_draft",
    "compiled_or_none",
    "failing",
    "fragment_texts",
    "look",
    "move_rule",
    "read_aloud",
    "read_fragment",
    "read_fragments",
    "read_rule",
    "read_rules",
    "remove_fragment",
    "remove_rule",
    "rules_before",
    "told_of_words",
    "try_rule",
    "unreadable",
    "words_of",
]
