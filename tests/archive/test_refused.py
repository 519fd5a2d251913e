"""Archives that nobody should believe are refused whole, with the reason."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from contextlib import suppress
from typing import Any

import pytest
from hypothesis import HealthCheck, given
from hypothesis import settings as hypothesis_settings
from hypothesis import strategies as st

from archiving import Files, exported, imported, packed, projects, unpacked
from conftest import Api
from urdaten.errors import BadFile
from urdaten.platform.settings import Settings
from urdaten.server.archive import container

Change = Callable[[Files], None]


def without(name: str) -> Change:
    def apply(files: Files) -> None:
        del files[name]

    return apply


def lines(name: str, change: Callable[[list[dict[str, Any]]], None]) -> Change:
    """An archive in which some lines of a file are others."""

    def apply(files: Files) -> None:
        rows = [json.loads(line) for line in files[name].splitlines()]
        change(rows)
        files[name] = b"".join(json.dumps(row).encode() + b"\n" for row in rows)

    return apply


def put(name: str, member: str, value: object, at: int = 0) -> Change:
    return lines(name, lambda rows: rows[at].update({member: value}))


def manifest(member: str, value: object) -> Change:
    def apply(files: Files) -> None:
        told = json.loads(files["manifest.json"])
        target = told
        *path, last = member.split(".")
        for part in path:
            target = target[part]
        target[last] = value
        files["manifest.json"] = json.dumps(told).encode()

    return apply


HOSTILE: dict[str, tuple[Change, str]] = {
    "another file": (lambda f: f.update({"../../etc/passwd": b"x"}), "has no place in an archive"),
    "an absolute path": (lambda f: f.update({"/etc/passwd": b"x"}), "has no place in an archive"),
    "a part is missing": (without("spans.jsonl"), "“spans.jsonl” is missing"),
    "no manifest": (without("manifest.json"), "“manifest.json” is missing"),
    "a newer version": (manifest("version", 2), "version 2, and 1 is read here"),
    "another format": (manifest("format", "something"), "no archive of a project"),
    "a language nobody knows": (manifest("project.language", "xx"), "not known here"),
    "no name": (manifest("project.name", " "), "no name"),
    "a name that is too long": (manifest("project.name", "x" * 500), "name cannot be kept"),
    "a line that is no JSON": (
        lambda f: f.update({"texts.jsonl": b"{\n"}),
        "texts.jsonl, line 1: this is no JSON",
    ),
    "deep JSON": (lambda f: f.update({"texts.jsonl": b"[" * 100_000 + b"\n"}), "line 1: this is no JSON"),
    "a line that is a list": (lambda f: f.update({"rules.jsonl": b"[]\n"}), "a line is an object"),
    "a member too many": (put("rules.jsonl", "colour", "red"), "“colour” is unknown"),
    "a member too few": (lines("rules.jsonl", lambda rows: rows[0].pop("name")), "“name” is missing"),
    "a number that is a text": (put("texts.jsonl", "position", "1"), "“position” cannot be"),
    "a number that is too large": (put("texts.jsonl", "position", 2**40), "“position” cannot be"),
    "a truth that is a number": (put("lists.jsonl", "on", 1), "“on” cannot be"),
    "no value": (put("texts.jsonl", "title", None), "“title” is missing"),
    "a time without a zone": (
        put("texts.jsonl", "created_at", "2026-01-01T00:00:00"),
        "“created_at” cannot be",
    ),
    "NUL in a body": (put("texts.jsonl", "body", "a\0b"), "“body” cannot be"),
    "half a surrogate pair": (put("texts.jsonl", "title", "\ud800"), "“title” cannot be"),
    "NUL in JSON": (put("records.jsonl", "missing", ["\0"]), "“missing” cannot be"),
    "a split nobody knows": (put("texts.jsonl", "split", "exam"), "a split is one of"),
    "a sentence beyond its text": (put("sentences.jsonl", "end", 10**6), "does not lie in its text"),
    "sentences that overlap": (put("sentences.jsonl", "start", 0, 1), "does not lie in its text"),
    "a span beyond its sentence": (put("spans.jsonl", "end", 10**6), "does not lie in its sentence"),
    "a text that is not there": (put("sentences.jsonl", "text_id", 4711), "there is no texts 4711"),
    "a later line as reference": (put("annotation.jsonl", "layer_id", 99), "there is no layers 99"),
    "a truth as reference": (put("annotation.jsonl", "layer_id", True), "there is no layers True"),
    "two layers of gold": (put("layers.jsonl", "kind", "gold", 1), "contradict each other"),
    "no layer of gold": (put("layers.jsonl", "kind", "imported"), "one layer of gold, not 0"),
    "two types of one code": (put("types.jsonl", "code", "VES", 1), "contradict each other"),
    "a code that is none": (put("types.jsonl", "code", "no code"), "2 to 4 capital letters"),
    "the same text twice": (lines("texts.jsonl", lambda rows: rows.append(rows[0])), "contradict each other"),
    "a state nobody knows": (put("annotation.jsonl", "state", "perhaps"), "a state is one of"),
    "a log that says nothing": (put("log.jsonl", "before", {}), "a state of the log"),
    "a job that goes on": (put("jobs.jsonl", "state", "running"), "a job has ended as"),
    "a tagger that is elsewhere": (put("trainings.jsonl", "model", "../model"), "is not in the archive"),
    "a tagger that is none": (
        lambda f: f.update({name: b"URDATAGG" + bytes(90) for name in f if name.startswith("taggers/")}),
        "trainings.jsonl, line 1: This is not a tagger",
    ),
    "a pipeline that is none": (put("pipelines.jsonl", "plan", {"stages": 3}), "pipelines.jsonl, line 1"),
    "a policy nobody knows": (
        lines("pipelines.jsonl", lambda rows: rows[0]["plan"].update(policy={})),
        "lacks",
    ),
    "names without numbers": (put("pipelines.jsonl", "refers", {"lists": {"a": "1"}}), "numbers by name"),
    "weights that are none": (put("weights.jsonl", "weigher", {"least": 2}), "not weights"),
    "weights without figures": (put("weights.jsonl", "figures", {"least": 0.5}), "figures of weights"),
    "somebody without a name": (put("people.jsonl", "name", ""), "people.jsonl, line 1"),
    "a type that is its own parent": (
        lines("type_links.jsonl", lambda rows: rows.append({"type": 1, "parent": 1, "into": None})),
        "in a circle",
    ),
    "types in a circle": (
        lines(
            "type_links.jsonl",
            lambda rows: rows.extend(
                [{"type": 1, "parent": 2, "into": None}, {"type": 2, "parent": 1, "into": None}]
            ),
        ),
        "in a circle",
    ),
}


@pytest.fixture(scope="session")
def sample(demo_template: str) -> dict[str, Files]:
    """The files of the full archive; filled by the first test that asks for them."""
    assert demo_template
    return {}


@pytest.fixture
def files(sample: dict[str, Files], request: pytest.FixtureRequest) -> Files:
    if "full" not in sample:
        full: Api = request.getfixturevalue("full")
        sample["full"] = unpacked(exported(full.settings))
    return dict(sample["full"])


@pytest.mark.parametrize("name", HOSTILE)
def test_hostile_archives_are_refused_whole_with_the_reason(
    settings: Settings, files: Files, name: str
) -> None:
    change, words = HOSTILE[name]
    change(files)
    hashes = "manifest.json" in files
    before = projects(settings)
    with pytest.raises(BadFile, match=r".") as caught:
        imported(settings, packed(files, hashes=hashes))
    assert words in caught.value.message
    assert projects(settings) == before


def test_a_wrong_hash_is_noticed(settings: Settings, files: Files) -> None:
    files["rules.jsonl"] += b" \n"
    with pytest.raises(BadFile, match="its hash differs"):
        imported(settings, packed(files, hashes=False))


def test_files_are_bounded(settings: Settings, files: Files, monkeypatch: pytest.MonkeyPatch) -> None:
    bomb = dict(files)
    bomb["rules.jsonl"] = b" " * 20_000_000
    with pytest.raises(BadFile, match="packed closer than any text"):
        imported(settings, packed(bomb))
    monkeypatch.setattr(container, "MOST_BYTES", 1000)
    with pytest.raises(BadFile, match="it may have 1000"):
        imported(settings, packed(files))
    monkeypatch.setattr(container, "MOST_FILES", 5)
    with pytest.raises(BadFile, match="it may have 5"):
        imported(settings, packed(files))


def test_an_entry_that_lies_about_its_length_is_refused(settings: Settings, files: Files) -> None:
    archive = bytearray(packed(files))
    name = b"texts.jsonl"
    # In the central directory: the uncompressed length lies 22 bytes before the name.
    at = archive.rindex(name)
    archive[at - 22 : at - 18] = (10).to_bytes(4, "little")
    with pytest.raises(BadFile):
        imported(settings, bytes(archive))


def test_a_file_twice_is_refused(settings: Settings, files: Files) -> None:
    out = io.BytesIO(packed(files))
    with zipfile.ZipFile(out, "a") as file, pytest.warns(UserWarning, match="Duplicate name"):
        file.writestr("rules.jsonl", b"")
    with pytest.raises(BadFile, match="a file twice"):
        imported(settings, out.getvalue())


@hypothesis_settings(
    max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture]
)
@given(data=st.data())
def test_mutated_archives_never_do_more_than_be_refused(
    settings: Settings, files: Files, data: st.DataObject
) -> None:
    archive = bytearray(packed(files))
    for _ in range(data.draw(st.integers(1, 6))):
        archive[data.draw(st.integers(0, len(archive) - 1))] = data.draw(st.integers(0, 255))
    cut = data.draw(st.one_of(st.none(), st.integers(0, len(archive))))
    # Whatever else is raised fails the test.
    with suppress(BadFile):
        imported(settings, bytes(archive[:cut]))
