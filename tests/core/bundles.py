"""A small bundle of invented names, for tests."""

from __future__ import annotations

from functools import cache

from urdaten.core.bundle import Bundle, BundledRule, BundledTagger, gathered_lists
from urdaten.core.formats import Scheme, SchemeType
from urdaten.core.lists import Entry, NameList
from urdaten.core.pipeline import Plan, RepeatsSettings, StagePlan, standard
from urdaten.core.records import Field, Template
from urdaten.core.tagger import to_bytes, train
from urdaten.core.text import Vocabulary

from .invented import QUICK, invented

SHIPS = NameList(name="ships", type="VES", entries=(Entry("Tern of Varnby", ("Tern",)), Entry("Haldis")))
GOODS = NameList(name="goods", type="CGO", entries=(Entry("salt"),))
TEXTS = (
    "The Pellin sailed from Varnby at 0600 with salt. Tern of Varnby lies at berth 3.",
    "",
    "The Haldis sailed from Lindmoor at 0815 with salt.",
)


@cache
def tagger_bytes() -> bytes:
    vocabulary = Vocabulary()
    texts = invented(60, 1, vocabulary)
    return to_bytes(train(texts, texts[:10], vocabulary, ["VES", "PRT"], QUICK))


def small_bundle(plan: Plan | None = None, **more: object) -> Bundle:
    """Lists, a rule with a fragment, a tagger and a template."""
    lists, heads = gathered_lists([SHIPS, GOODS])
    usual = standard()
    repeats = StagePlan(name="again", kind="repeats", settings=RepeatsSettings(types=("VES",)))
    parts: dict[str, object] = {
        "name": "small",
        "plan": plan or Plan(stages=(*usual.stages, repeats)),
        "scheme": Scheme(types=(SchemeType(code="VES", name="vessel", key="v", hue=1),)),
        "lists": lists,
        "heads": heads,
        "rules": (BundledRule(name="berth", type="BTH", pattern="'berth' use(no)", priority="high"),),
        "fragments": {"no": "figure"},
        "taggers": {"": BundledTagger(data=tagger_bytes(), types={"VES": "VES", "PRT": "LOC"})},
        "templates": (
            Template(
                name="call",
                anchor="vessel",
                fields=(
                    Field(name="vessel", types=("VES",)),
                    Field(name="from", types=("LOC",), cues=("from",)),
                ),
            ),
        ),
    }
    return Bundle(**(parts | more))  # type: ignore[arg-type] # of many kinds, by name
