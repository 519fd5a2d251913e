"""Acts on rules and fragments."""

from urdaten.places.rules.acts.fragments import add_fragment, change_fragment, remove_fragment
from urdaten.places.rules.acts.looking import Look, look
from urdaten.places.rules.acts.reading import (
    PLACE,
    Fragment,
    FragmentDraft,
    Rule,
    RuleDraft,
    fragment_texts,
    read_fragment,
    read_fragments,
    read_rule,
    read_rules,
)
from urdaten.places.rules.acts.ready import READY_MADE
from urdaten.places.rules.acts.rules import add_rule, change_rule, compile_draft, move_rule, remove_rule
from urdaten.places.rules.acts.trying import (
    compiled_or_none,
    failing,
    read_aloud,
    rules_before,
    try_rule,
    unreadable,
)
from urdaten.places.rules.acts.undoing import RuleAct, latest_act, undo_act
from urdaten.places.rules.acts.words import told_of_words, words_of

__all__ = [
    "PLACE",
    "READY_MADE",
    "Fragment",
    "FragmentDraft",
    "Look",
    "Rule",
    "RuleAct",
    "RuleDraft",
    "add_fragment",
    "add_rule",
    "change_fragment",
    "change_rule",
    "compile_draft",
    "compiled_or_none",
    "failing",
    "fragment_texts",
    "latest_act",
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
    "undo_act",
    "unreadable",
    "words_of",
]
