"""What a bundle holds, and how a pipeline is made of it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from urdaten.core.bundle.blame import blamed
from urdaten.core.formats import Scheme
from urdaten.core.lexicon import GeneralLexicon
from urdaten.core.lists import CompiledLists, Entry, Gazetteer, ListHead, NameList, Part
from urdaten.core.pipeline import PRIORITIES, Material, Pipeline, Plan, TaggerGiven, Weigher, build
from urdaten.core.records import MOST_NAMES, Assembler, Names, Template, learnt_from
from urdaten.core.rules import Rule
from urdaten.core.tagger import from_bytes as tagger_from
from urdaten.core.tags import Parts, Words
from urdaten.core.text import fold
from urdaten.errors import NotFound

TAGGER_PART = "taggers/{}.bin"
LEARNT_PART = "records/{}.bin"


@dataclass(frozen=True, kw_only=True)
class BundledRule:
    """A rule, and what it says where its finds meet those of others: one of PRIORITIES."""

    name: str
    type: str
    pattern: str
    priority: str = "usual"


@dataclass(frozen=True, kw_only=True)
class BundledTagger:
    """A tagger's file, what the types that it learnt are called now, and the names of lists and rules of now with those under
    which it learnt them, by source; None: as they are called."""

    data: bytes
    types: Mapping[str, str] | None = None
    makers: Mapping[str, Mapping[str, str]] | None = None


@dataclass(frozen=True, kw_only=True, eq=False)
class Bundle:
    """Everything that a pipeline needs."""

    name: str
    plan: Plan
    scheme: Scheme
    language: str = "en"
    # A project's own, folded and without their stop.
    abbreviations: frozenset[str] = frozenset()
    # Compiled lists, None where there are none, and the head of each by its number in them.
    lists: CompiledLists | None = None
    heads: Mapping[int, ListHead] = field(default_factory=dict)
    rules: tuple[BundledRule, ...] = ()
    fragments: Mapping[str, str] = field(default_factory=dict)
    taggers: Mapping[str, BundledTagger] = field(default_factory=dict)
    # The files of parts of speech and of the general lexicon.
    words: bytes | None = None
    lexicon: bytes | None = None
    weigher: Weigher | None = None
    templates: tuple[Template, ...] = ()
    # What was learnt for some of them, by name.
    learnt: Mapping[str, bytes] = field(default_factory=dict)

    @cached_property
    def gazetteer(self) -> Gazetteer:
        """All its lists."""
        return Gazetteer.joined([] if self.lists is None else [Part(self.lists)], self.heads)

    @cached_property
    def material(self) -> Material:
        """What the names in its plan stand for. Raises BadFile that names the part that cannot be read."""
        lexicon = words = None
        if self.lexicon is not None:
            with blamed("lexicon.bin"):
                lexicon = GeneralLexicon.from_bytes(self.lexicon)
        if self.words is not None:
            with blamed("words.bin"):
                words = Words(Parts.from_bytes(self.words), lexicon)
        taggers = {}
        for number, (name, one) in enumerate(sorted(self.taggers.items()), start=1):
            with blamed(TAGGER_PART.format(number)):
                tagger = tagger_from(one.data, lexicon)
            taggers[name] = TaggerGiven(tagger=tagger, types=one.types, makers=_pairs(one.makers))
        with blamed("rules.json"):
            rules = [
                Rule(name=one.name, type=one.type, text=one.pattern).compiled(self.fragments, words)
                for one in self.rules
            ]
        return Material(
            language=self.language,
            abbreviations=self.abbreviations,
            overlap=self.scheme.overlap,
            parts=[] if self.lists is None else [Part(self.lists)],
            heads=self.heads,
            rules=rules,
            ranks={one.name: PRIORITIES[one.priority] for one in self.rules if PRIORITIES[one.priority]},
            fragments=self.fragments,
            words=words,
            taggers=taggers,
            weigher=self.weigher,
        )

    def pipeline(self) -> Pipeline:
        """Ready to run. Raises BadInput where the plan names something that is not here."""
        return build(self.plan, self.material)

    def template(self, name: str) -> Template:
        """Raises NotFound."""
        found = next((one for one in self.templates if one.name == name), None)
        if found is None:
            names = ", ".join(f"“{one.name}”" for one in self.templates) or "none"
            raise NotFound(f"There is no record template “{name}” in this bundle; there is {names}.")
        return found

    def assembler(self, name: str) -> Assembler:
        """Assembles the records of a template, as it was learnt. Raises NotFound."""
        template = self.template(name)
        if name not in self.learnt:
            return Assembler(template=template)
        with blamed(LEARNT_PART.format(self.templates.index(template) + 1)):
            return learnt_from(self.learnt[name], template)

    @cached_property
    def names(self) -> Names:
        """What names stand for, by its lists."""
        return Names(self.gazetteer.preferred, self.gazetteer.preferred_names(MOST_NAMES))


def _pairs(makers: Mapping[str, Mapping[str, str]] | None) -> Mapping[tuple[str, str], str] | None:
    if makers is None:
        return None
    return {(source, now): learnt for source, own in makers.items() for now, learnt in own.items()}


def gathered_lists(
    lists: Iterable[NameList], language: str = "en"
) -> tuple[CompiledLists | None, dict[int, ListHead]]:
    """Lists compiled to one, in an order that hangs on what they hold alone, so that equal lists make equal files."""
    ordered = [_ordered(one) for one in sorted(lists, key=lambda one: one.name)]
    if not ordered:
        return None, {}
    numbered = list(enumerate(ordered))
    heads = {k: ListHead(name=one.name, type=one.type, options=one.options) for k, one in numbered}
    return CompiledLists.of(numbered, language), heads


def _ordered(names: NameList) -> NameList:
    def key(entry: Entry) -> tuple[str, str, Sequence[str]]:
        return fold(entry.preferred), entry.preferred, entry.variants

    entries = [Entry(entry.preferred, tuple(sorted(entry.variants))) for entry in names.entries]
    numbered = (Entry(e.preferred, e.variants, k) for k, e in enumerate(sorted(entries, key=key), start=1))
    return replace(names, entries=tuple(numbered))
