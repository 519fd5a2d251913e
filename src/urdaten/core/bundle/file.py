"""The file of a bundle: a ZIP container of JSON and of our own binary files, none of them compressed.

manifest.json says what there is, with the size and the SHA-256 of every other part. The parts are scheme.json, pipeline.json,
lists.json with lists.bin, rules.json, taggers.json with taggers/1.bin and so on, words.bin, lexicon.bin, weights.json,
templates.json, and records/1.bin and so on: what was learnt for the first template and the others. A bundle is untrusted: every part is checked before anything is made of it, and nothing in it can be executed.
"""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeVar

from urdaten.core.bundle.blame import bad, blamed
from urdaten.core.bundle.bundle import LEARNT_PART, TAGGER_PART, Bundle, BundledRule, BundledTagger
from urdaten.core.fields import plain, read_fields, read_record, read_text
from urdaten.core.formats import read_json, scheme_from, scheme_values
from urdaten.core.lists import ListHead, listfile
from urdaten.core.pipeline import PRIORITIES, Weigher, plan_values, read_plan
from urdaten.core.records import Template, learnt_from
from urdaten.core.text import LANGUAGES
from urdaten.errors import BadFile

FORMAT = 3
MANIFEST = "manifest.json"
PARTS = (
    "scheme.json",
    "pipeline.json",
    "lists.json",
    "lists.bin",
    "rules.json",
    "taggers.json",
    "words.bin",
    "lexicon.bin",
    "weights.json",
    "templates.json",
)
MOST_TAGGERS = 20
MOST_TEMPLATES = 100
_LARGEST = 2_000_000_000
_LARGEST_JSON = 50_000_000
# All parts have one date, so that equal bundles are equal files.
_DATE = (1980, 1, 1, 0, 0, 0)
_TABLE = "its table of parts"
T = TypeVar("T")


def to_bytes(bundle: Bundle) -> bytes:
    """The whole file; equal for equal bundles."""
    parts = dict(_parts(bundle))
    manifest = {
        "format": FORMAT,
        "name": bundle.name,
        "language": bundle.language,
        "abbreviations": sorted(bundle.abbreviations),
        "parts": {
            name: {"bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()}
            for name, data in parts.items()
        },
    }
    return _container({MANIFEST: _json(manifest), **parts})


def _container(parts: Mapping[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as file:
        for name, data in parts.items():
            file.writestr(zipfile.ZipInfo(name, _DATE), data)
    return out.getvalue()


def _json(value: object) -> bytes:
    return (json.dumps(value, ensure_ascii=False, indent=1, sort_keys=True) + "\n").encode()


def _parts(bundle: Bundle) -> Iterator[tuple[str, bytes]]:
    yield "scheme.json", _json(scheme_values(bundle.scheme))
    yield "pipeline.json", _json(plan_values(bundle.plan))
    if bundle.lists is not None:
        heads = [{"number": number, **plain(head)} for number, head in sorted(bundle.heads.items())]
        yield "lists.json", _json(heads)
        yield "lists.bin", listfile.to_bytes(bundle.lists, {})
    if bundle.rules:
        rules = [plain(one) for one in bundle.rules]
        yield "rules.json", _json({"rules": rules, "fragments": dict(bundle.fragments)})
    if bundle.taggers:
        told = [
            {"name": name, "types": plain(one.types), "makers": plain(one.makers)}
            for name, one in sorted(bundle.taggers.items())
        ]
        yield "taggers.json", _json(told)
        for number, (_, one) in enumerate(sorted(bundle.taggers.items()), start=1):
            yield TAGGER_PART.format(number), one.data
    if bundle.words is not None:
        yield "words.bin", bundle.words
    if bundle.lexicon is not None:
        yield "lexicon.bin", bundle.lexicon
    if bundle.weigher is not None:
        yield "weights.json", _json(bundle.weigher.as_dict())
    if bundle.templates:
        yield "templates.json", _json([plain(one) for one in bundle.templates])
        for number, template in enumerate(bundle.templates, start=1):
            if template.name in bundle.learnt:
                yield LEARNT_PART.format(number), bundle.learnt[template.name]


def read_file(path: Path) -> Bundle:
    """As from_bytes, of a file. Raises BadFile where there is none, too."""
    try:
        return from_bytes(path.read_bytes())
    except FileNotFoundError as fault:
        raise BadFile(f"There is no file {path}.") from fault
    except OSError as fault:
        raise BadFile(f"{path} cannot be read: {fault.strerror}.") from fault


def from_bytes(data: bytes) -> Bundle:
    """Read what to_bytes wrote. Raises BadFile that names the part for anything else, be it damaged or made up."""
    with blamed(_TABLE):
        file = zipfile.ZipFile(io.BytesIO(data))
        names = [info.filename for info in file.infolist()]
    with file:
        head = _head(file, names)
        parts = {name: _part(file, name, told) for name, told in head.parts.items()}
        written = {
            name: parts[name] if name in parts else _bytes(file, name, _LARGEST_JSON) for name in names
        }
    if extra := sorted(set(names) - parts.keys() - {MANIFEST}):
        raise bad(_TABLE, f"it has {extra[0][:60]!r}, which the manifest does not name")
    # Nothing stands between the parts, or behind them, that nobody has looked at.
    if _container(written) != data:
        raise bad(_TABLE, "it is not as a bundle is written")
    return _Reading(head, parts).bundle()


@dataclass(frozen=True)
class _Told:
    """What the manifest says of a part."""

    bytes: int
    sha256: str


@dataclass(frozen=True)
class _Head:
    name: str
    language: str
    abbreviations: frozenset[str]
    parts: Mapping[str, _Told]


def _head(file: zipfile.ZipFile, names: list[str]) -> _Head:
    if len(names) != len(set(names)):
        raise bad(_TABLE, "it names a part twice")
    if MANIFEST not in names:
        raise BadFile("This is no bundle of Urdaten: it has no manifest.json.", part=MANIFEST)
    with blamed(MANIFEST):
        values = read_fields(
            _value(_bytes(file, MANIFEST, _LARGEST_JSON)),
            ("format", "name", "language", "abbreviations", "parts"),
            "manifest",
        )
        if values["format"] != FORMAT:
            raise BadFile(
                f"it has format {str(values['format'])[:20]}, and this program reads format {FORMAT}"
            )
        language = read_text(values["language"], "manifest", "language")
        if language not in LANGUAGES:
            raise BadFile(f"its language is {language[:20]!r}, and there are {', '.join(LANGUAGES)}")
        short = values["abbreviations"]
        parts = values["parts"]
        if not isinstance(short, list) or not isinstance(parts, dict):
            raise BadFile("“abbreviations” is no list, or “parts” no record")
        told = {name: _told(name, one) for name, one in parts.items()}
        return _Head(
            read_text(values["name"], "manifest", "name"),
            language,
            frozenset(read_text(one, "manifest", "abbreviations") for one in short),
            told,
        )


def _told(name: str, values: object) -> _Told:
    taggers = [TAGGER_PART.format(number) for number in range(1, MOST_TAGGERS + 1)]
    learnt = [LEARNT_PART.format(number) for number in range(1, MOST_TEMPLATES + 1)]
    if name not in PARTS and name not in taggers and name not in learnt:
        raise BadFile(f"a bundle has no part {name[:60]!r}")
    held = read_fields(values, ("bytes", "sha256"), f"part {name}")
    size, digest = held["bytes"], held["sha256"]
    if isinstance(size, bool) or not isinstance(size, int) or not 0 <= size <= _LARGEST:
        raise BadFile(f"the size of {name} is no number of bytes")
    return _Told(size, read_text(digest, f"part {name}", "sha256"))


def _part(file: zipfile.ZipFile, name: str, told: _Told) -> bytes:
    data = _bytes(file, name, _LARGEST_JSON if name.endswith(".json") else _LARGEST)
    if len(data) != told.bytes or hashlib.sha256(data).hexdigest() != told.sha256:
        raise bad(name, "it is not what the manifest says")
    return data


def _bytes(file: zipfile.ZipFile, name: str, most: int) -> bytes:
    with blamed(name):
        info = file.getinfo(name)
        # What is stored as it is cannot grow while it is read.
        if info.compress_type != zipfile.ZIP_STORED or info.file_size > most or info.flag_bits & 1:
            raise BadFile("it is compressed, locked or too large")
        return file.read(info)


class _Reading:
    """Makes a bundle of its parts."""

    def __init__(self, head: _Head, parts: Mapping[str, bytes]) -> None:
        self._head, self._parts = head, parts

    def bundle(self) -> Bundle:
        head = self._head
        lists, heads = self._lists()
        rules, fragments = self._rules()
        templates = self._json_or_none("templates.json", _templates) or ()
        bundle = Bundle(
            name=head.name,
            language=head.language,
            abbreviations=head.abbreviations,
            scheme=self._json("scheme.json", scheme_from),
            plan=self._json("pipeline.json", read_plan),
            lists=lists,
            heads=heads,
            rules=rules,
            fragments=fragments,
            taggers=self._taggers(),
            words=self._parts.get("words.bin"),
            lexicon=self._parts.get("lexicon.bin"),
            weigher=self._json_or_none("weights.json", Weigher.from_dict),
            templates=templates,
            learnt=self._learnt(templates),
        )
        with blamed("pipeline.json"):
            bundle.pipeline()
        return bundle

    def _json(self, name: str, read: Callable[[Any], T]) -> T:
        if name not in self._parts:
            raise bad(name, "it is missing")
        with blamed(name):
            return read(_value(self._parts[name]))

    def _json_or_none(self, name: str, read: Callable[[Any], T]) -> T | None:
        return self._json(name, read) if name in self._parts else None

    def _lists(self) -> tuple[Any, dict[int, ListHead]]:
        if not {"lists.json", "lists.bin"} & self._parts.keys():
            return None, {}
        heads = self._json("lists.json", _list_heads)
        if "lists.bin" not in self._parts:
            raise bad("lists.bin", "it is missing")
        with blamed("lists.bin"):
            compiled, _ = listfile.from_bytes(self._parts["lists.bin"])
        return compiled, heads

    def _rules(self) -> tuple[tuple[BundledRule, ...], dict[str, str]]:
        return self._json_or_none("rules.json", _rules) or ((), {})

    def _learnt(self, templates: Sequence[Template]) -> dict[str, bytes]:
        names = {LEARNT_PART.format(number): one for number, one in enumerate(templates, start=1)}
        found = {}
        for name, data in self._parts.items():
            if not name.startswith(LEARNT_PART.partition("/")[0] + "/"):
                continue
            if name not in names:
                raise bad("templates.json", f"it does not name {name}")
            with blamed(name):
                learnt_from(data, names[name])
            found[names[name].name] = data
        return found

    def _taggers(self) -> dict[str, BundledTagger]:
        told = self._json_or_none("taggers.json", _tagger_heads) or []
        names = [TAGGER_PART.format(number) for number in range(1, len(told) + 1)]
        found = {}
        for name, head in zip(names, told, strict=True):
            if name not in self._parts:
                raise bad(name, "it is missing")
            found[head.name] = BundledTagger(data=self._parts[name], types=head.types, makers=head.makers)
        for name in self._parts:
            if name.startswith(TAGGER_PART.partition("/")[0] + "/") and name not in names:
                raise bad("taggers.json", f"it does not name {name}")
        return found


@dataclass(frozen=True)
class _TaggerHead:
    name: str
    types: Mapping[str, str] | None
    makers: Mapping[str, Mapping[str, str]] | None


def _tagger_heads(values: object) -> list[_TaggerHead]:
    heads = [read_record(_TaggerHead, one, "tagger") for one in _listed(values, MOST_TAGGERS)]
    _no_doubles([one.name for one in heads], "tagger")
    return heads


def _list_heads(values: object) -> dict[int, ListHead]:
    heads: dict[int, ListHead] = {}
    for one in _listed(values, 10_000):
        held = dict(one) if isinstance(one, dict) else {}
        number = held.pop("number", None)
        if isinstance(number, bool) or not isinstance(number, int) or not 0 <= number < 2**31:
            raise BadFile("the number of a list is no whole number")
        heads[number] = read_record(ListHead, held, "list")
    _no_doubles([head.name for head in heads.values()], "list")
    return heads


def _rules(values: object) -> tuple[tuple[BundledRule, ...], dict[str, str]]:
    held = read_fields(values, ("rules", "fragments"), "rules")
    rules = tuple(read_record(BundledRule, one, "rule") for one in _listed(held["rules"], 10_000))
    _no_doubles([one.name for one in rules], "rule")
    for one in rules:
        if one.priority not in PRIORITIES:
            raise BadFile(f"the priority of the rule “{one.name[:60]}” is {one.priority[:20]!r}")
    if not isinstance(held["fragments"], dict):
        raise BadFile("“fragments” is no record")
    fragments = {
        read_text(name, "fragment", "name"): read_text(text, "fragment", "pattern")
        for name, text in held["fragments"].items()
    }
    return rules, fragments


def _templates(values: object) -> tuple[Template, ...]:
    templates = tuple(read_record(Template, one, "template") for one in _listed(values, MOST_TEMPLATES))
    _no_doubles([one.name for one in templates], "template")
    return templates


def _listed(values: object, most: int) -> list[Any]:
    if not isinstance(values, list) or len(values) > most:
        raise BadFile(f"it is no list of at most {most}")
    return values


def _no_doubles(names: list[str], what: str) -> None:
    for name in names:
        if names.count(name) > 1:
            raise BadFile(f"there are two {what}s “{name[:60]}”")


def _value(data: bytes) -> object:
    try:
        return read_json(data.decode())
    except UnicodeDecodeError as fault:
        raise BadFile("it is not UTF-8") from fault
