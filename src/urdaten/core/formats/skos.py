"""Schemes as SKOS (W3C, 2009), in Turtle or JSON-LD: a concept for each entity type.

Its notation is the code, its preferred label the name, what is broader the type that it is a kind of; definition, examples (what
counts), a scope note (what does not) and editorial notes (rulings) say the rest. A concept that has no notation gets a code made
of its label. What SKOS has no word for stands in one JSON literal, so that a scheme of ours comes back as it was.
"""

from __future__ import annotations

import json
import re
import warnings
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

from urdaten.core.formats.codes import free_code
from urdaten.core.formats.samples import read_json
from urdaten.core.formats.scheme import Scheme, scheme_from, scheme_values
from urdaten.errors import BadFile

if TYPE_CHECKING:
    from rdflib import Graph
    from rdflib.term import Node

SkosFormat = Literal["turtle", "json-ld"]
SCHEME = "urn:urdaten:scheme"
# What SKOS has no word for: of the scheme and of each type its members as core.formats.scheme has them.
MEMBERS = "urn:urdaten:members"
_JSON = "http://www.w3.org/1999/02/22-rdf-syntax-ns#JSON"
MOST_TRIPLES = 50_000
_CODE = re.compile("[A-Z]{2,4}")


def write_skos(scheme: Scheme, form: SkosFormat) -> str:
    """The file that `read_skos` reads back to the same scheme."""
    from rdflib import RDF, SKOS, Graph, Literal, URIRef

    values = scheme_values(scheme)
    graph = Graph()
    graph.bind("skos", SKOS)
    whole = URIRef(SCHEME)

    def members(of: URIRef, told: object) -> None:
        text = json.dumps(told, ensure_ascii=False, sort_keys=True)
        graph.add((of, URIRef(MEMBERS), Literal(text, datatype=URIRef(_JSON), normalize=False)))

    graph.add((whole, RDF.type, SKOS.ConceptScheme))
    members(whole, {"overlap": scheme.overlap})
    for number, one in enumerate(scheme.types):
        concept = URIRef(f"{SCHEME}:{one.code}")
        graph.add((concept, RDF.type, SKOS.Concept))
        graph.add((concept, SKOS.inScheme, whole))
        graph.add((concept, SKOS.notation, Literal(one.code)))
        graph.add((concept, SKOS.prefLabel, Literal(one.name)))
        if one.parent:
            graph.add((concept, SKOS.broader, URIRef(f"{SCHEME}:{one.parent}")))
        else:
            graph.add((concept, SKOS.topConceptOf, whole))
        said: dict[URIRef, tuple[str, ...]] = {
            SKOS.definition: (one.definition,) if one.definition else (),
            SKOS.example: one.counts,
            SKOS.scopeNote: one.counts_not,
            SKOS.editorialNote: one.rulings,
        }
        for property_, words in said.items():
            for word in words:
                graph.add((concept, property_, Literal(word)))
        members(concept, values["type"][number] | {"number": number})
    return graph.serialize(format=form)


def read_skos(source: str, form: SkosFormat) -> Scheme:
    """The scheme that a file says: the concepts of it, or of any scheme in it. Raises BadFile that says what is amiss."""
    from rdflib import RDF, SKOS

    graph = _graph(source, form)
    concepts = sorted(set(graph.subjects(RDF.type, SKOS.Concept)), key=str)
    if not concepts:
        raise BadFile("There is no skos:Concept in this file; a scheme has one for each entity type.")
    told = [(concept, _members(graph, concept)) for concept in concepts]
    told.sort(key=lambda pair: (pair[1].get("number", len(told)), str(pair[0])))
    overlap = [_members(graph, one) for one in graph.subjects(RDF.type, SKOS.ConceptScheme)]
    codes: dict[Node, str] = {}
    rows = []
    for concept, held in told:
        name = _said(graph, concept, SKOS.prefLabel)
        if not name:
            raise BadFile(f"The concept {str(concept)[:80]} has no skos:prefLabel.")
        notation = _said(graph, concept, SKOS.notation)
        is_code = _CODE.fullmatch(notation) and notation not in codes.values()
        code = notation if is_code else free_code(name, codes.values())
        codes[concept] = code
        row: dict[str, Any] = {
            member: value for member, value in held.items() if member not in ("number", "parent")
        }
        row |= {"code": code, "name": name}
        row.setdefault("definition", _said(graph, concept, SKOS.definition))
        for member, property_ in (
            ("counts", SKOS.example),
            ("counts_not", SKOS.scopeNote),
            ("rulings", SKOS.editorialNote),
        ):
            # A graph has no order; the members have it, as long as they say the same.
            words = sorted(map(str, graph.objects(concept, property_)))
            if sorted(_texts(row.get(member))) != words:
                row[member] = words
        rows.append(row)
    for (concept, _), row in zip(told, rows, strict=True):
        broader = [codes[one] for one in graph.objects(concept, SKOS.broader) if one in codes]
        if broader:
            row["parent"] = min(broader)
    values: dict[str, Any] = {"type": rows}
    for held in overlap:
        values |= {name: value for name, value in held.items() if name == "overlap"}
    return scheme_from(values)


MOST_LIST_TRIPLES = 5_000_000


@dataclass(frozen=True, kw_only=True)
class Concept:
    """A concept as a list takes it."""

    address: str
    name: str
    variants: tuple[str, ...] = ()
    notation: str = ""
    # What it says of itself, and what it is a kind of.
    note: str = ""


def read_concepts(source: str, form: SkosFormat) -> list[Concept]:
    """Every concept of a file that has a label, by its address: the preferred label of one language first, then those of others,
    alternative and hidden ones as variants. Raises BadFile."""
    from rdflib import RDF, SKOS

    graph = _graph(source, form, MOST_LIST_TRIPLES)
    concepts = sorted(
        set(graph.subjects(RDF.type, SKOS.Concept)) | set(graph.subjects(SKOS.prefLabel, None)), key=str
    )
    if not concepts:
        raise BadFile("There is no skos:Concept in this file.")
    found = []
    for concept in concepts:
        name = _said(graph, concept, SKOS.prefLabel)
        others = [
            str(label)
            for property_ in (SKOS.prefLabel, SKOS.altLabel, SKOS.hiddenLabel)
            for label in sorted(graph.objects(concept, property_), key=str)
        ]
        kinds = sorted(
            filter(None, (_said(graph, one, SKOS.prefLabel) for one in graph.objects(concept, SKOS.broader)))
        )
        told = [_said(graph, concept, SKOS.definition) or _said(graph, concept, SKOS.note)]
        told += [f"kind of {', '.join(kinds)}"] if kinds else []
        found.append(
            Concept(
                address=str(concept),
                name=name,
                variants=tuple(one for one in dict.fromkeys(others) if one != name),
                notation=_said(graph, concept, SKOS.notation),
                note="; ".join(filter(None, told)),
            )
        )
    return found


def write_concepts(concepts: Iterable[Concept], form: SkosFormat) -> str:
    """A concept for each: what `read_concepts` reads back, but for what each is a kind of."""
    from rdflib import RDF, SKOS, Graph, Literal, URIRef

    graph = Graph()
    graph.bind("skos", SKOS)
    for one in concepts:
        concept = URIRef(one.address)
        graph.add((concept, RDF.type, SKOS.Concept))
        said = ((SKOS.prefLabel, one.name), (SKOS.notation, one.notation), (SKOS.definition, one.note))
        for property_, words in (*said, *((SKOS.altLabel, variant) for variant in one.variants)):
            if words:
                graph.add((concept, property_, Literal(words)))
    return graph.serialize(format=form)


def _texts(listed: object) -> list[str]:
    return [one for one in listed if isinstance(one, str)] if isinstance(listed, list) else []


def _graph(source: str, form: SkosFormat, most: int = MOST_TRIPLES) -> Graph:
    from rdflib import Graph

    if form == "json-ld":
        for context in _contexts(read_json(source)):
            # What stands elsewhere is not fetched.
            if isinstance(context, str):
                raise BadFile(
                    f"The context {context[:80]!r} stands elsewhere; write it into the file, or send Turtle."
                )
    graph = Graph()
    try:
        with warnings.catch_warnings():
            # Its reader of JSON-LD warns of what it uses itself.
            warnings.simplefilter("ignore", DeprecationWarning)
            graph.parse(data=source, format=form)
    # The parsers raise whatever comes to them.
    except Exception as fault:
        line = getattr(fault, "lines", None)
        where = f"Line {line + 1}: this" if isinstance(line, int) else "This"
        name = "Turtle" if form == "turtle" else "JSON-LD"
        raise BadFile(f"{where} is no {name} that can be read.") from fault
    if len(graph) > most:
        raise BadFile(f"The file says {len(graph)} things; the most is {most}.")
    return graph


def _contexts(value: object) -> Iterator[object]:
    """All that stands for a context, at any depth."""
    waiting = [value]
    while waiting:
        one = waiting.pop()
        if isinstance(one, dict):
            for name, held in one.items():
                if name == "@context":
                    yield from held if isinstance(held, list) else [held]
                if name == "@import":
                    yield str(held)
            waiting += one.values()
        elif isinstance(one, list):
            waiting += one


def _said(graph: Graph, of: Node, property_: Node) -> str:
    """The one word, or the first of several: those without a language before English and others."""
    found = [(getattr(one, "language", None) or "", str(one)) for one in graph.objects(of, property_)]
    found.sort(key=lambda pair: (pair[0] != "", not pair[0].startswith("en"), pair))
    return found[0][1] if found else ""


def _members(graph: Graph, of: Node) -> dict[str, Any]:
    from rdflib import URIRef

    for one in graph.objects(of, URIRef(MEMBERS)):
        told = read_json(str(one))
        if not isinstance(told, dict):
            raise BadFile(f"What {MEMBERS} says is no object.")
        number = told.get("number", 0)
        if type(number) is not int:
            raise BadFile("“number” is a whole number.")
        return told
    return {}
