"""Compile the kernels ahead of their first use: `python -m urdaten.core.warm`, run when installing."""

from __future__ import annotations

from urdaten.core.lists import Entry, Gazetteer, ListOptions, NameList
from urdaten.core.pipeline import PolicyStage
from urdaten.core.records import Field, Template, assemble
from urdaten.core.rules import Rule, match_rules
from urdaten.core.spans import Span, SpanTable
from urdaten.core.tagger import compile_ahead
from urdaten.core.text import analyse, batch_of


def warm() -> None:
    """Matching, training and tagging once on a few words: what they need lies in the cache then."""
    rule = Rule(
        name="warm", type="VES", text="'the' [(capital, text(/(?<=The )Pellin/)) optional capital] any"
    )
    match_rules([rule.compiled()], batch_of(["The Pellin sails."]))
    for options in (ListOptions(), ListOptions(slips=True)):
        names = NameList(
            name="warm", type="VES", entries=(Entry(preferred="Amber Lindmoor"),), options=options
        )
        Gazetteer([names]).match(analyse("The Amber Lindmor sails."))
    compile_ahead()
    spans = SpanTable.of_spans([[Span(0, 3, "VES", "lists"), Span(0, 3, "PRT", "lists")]])
    call = Template(
        name="warm", anchor="a", fields=(Field(name="a", types=("VES",)), Field(name="b", types=("PRT",)))
    )
    assemble(analyse("The Pellin sails."), [Span(4, 10, "VES"), Span(11, 16, "PRT")], call)
    PolicyStage().apply(batch_of(["The Pellin sails."]), spans)


if __name__ == "__main__":
    warm()
