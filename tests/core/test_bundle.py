"""Bundles: one file, read back as it was written, refused where anything in it is amiss, and run over many texts."""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

import urdaten
from urdaten.core.bundle import (
    LARGEST_GROUP,
    Incoming,
    Runner,
    from_bytes,
    gathered_lists,
    portions,
    read_file,
    to_bytes,
)
from urdaten.core.lists import Entry, listfile
from urdaten.core.pipeline import Beside, Weigher, build, standard
from urdaten.core.records import Assembler, Field, Template, learnt_bytes
from urdaten.errors import BadFile, BadInput, NotFound

from .bundles import GOODS, SHIPS, TEXTS, small_bundle

DATA = to_bytes(small_bundle())


def told(texts: tuple[str, ...] = TEXTS, data: bytes = DATA) -> list[list[tuple[str, str, str]]]:
    return [
        [(one.text.text[s.start : s.end], s.type, s.source) for s in one.spans]
        for one in Runner(from_bytes(data)).run(texts)
    ]


def test_it_runs_without_anything_else() -> None:
    assert told() == [
        [
            ("Pellin", "VES", "tagger"),
            ("Varnby", "LOC", "tagger"),
            ("berth 3", "BTH", "rules"),
        ],
        [],
        [("Haldis", "VES", "tagger"), ("Lindmoor", "LOC", "tagger")],
    ]


def test_read_and_written_again_it_is_the_same_file(tmp_path: Any) -> None:
    assert to_bytes(from_bytes(DATA)) == DATA
    path = tmp_path / "small.bundle"
    path.write_bytes(DATA)
    runner = urdaten.load(str(path))
    assert [[s.type for s in one.spans] for one in runner.run(TEXTS)] == [
        [kind for _, kind, _ in own] for own in told()
    ]
    with pytest.raises(BadFile, match="There is no file"):
        read_file(tmp_path / "none")
    with pytest.raises(BadFile, match="cannot be read"):
        read_file(tmp_path)


def test_equal_lists_make_equal_files_in_whatever_order_they_come() -> None:
    shuffled = replace(SHIPS, entries=(Entry("Haldis", number=7), Entry("Tern of Varnby", ("Tern",), 3)))
    lists, heads = gathered_lists([shuffled, GOODS])
    assert to_bytes(small_bundle(lists=lists, heads=heads)) == DATA
    ways = [replace(SHIPS, entries=(Entry("Tern", own),)) for own in (("T.", "Tn"), ("Tn", "T."))]
    one, other_way = (gathered_lists([names])[0] for names in ways)
    assert one is not None
    assert other_way is not None
    assert listfile.to_bytes(one, {}) == listfile.to_bytes(other_way, {})
    other, heads = gathered_lists([replace(SHIPS, entries=SHIPS.entries[:1]), GOODS])
    assert to_bytes(small_bundle(lists=other, heads=heads)) != DATA


def test_a_bundle_with_nothing_but_a_plan() -> None:
    plan = replace(standard(), stages=())
    bare = small_bundle(plan, lists=None, heads={}, rules=(), fragments={}, taggers={}, templates=())
    data = to_bytes(bare)
    assert told(data=data) == [[], [], []]
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        assert file.namelist() == ["manifest.json", "scheme.json", "pipeline.json"]


def parts_of(data: bytes) -> dict[str, bytes]:
    with zipfile.ZipFile(io.BytesIO(data)) as file:
        return {name: file.read(name) for name in file.namelist()}


def written(parts: dict[str, bytes], *, signed: bool = True) -> bytes:
    """As a bundle is written, with the sums of what is in it now."""
    if signed:
        manifest = json.loads(parts["manifest.json"])
        manifest["parts"] = {
            name: {"bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()}
            for name, data in parts.items()
            if name != "manifest.json"
        }
        parts = parts | {
            "manifest.json": (
                json.dumps(manifest, ensure_ascii=False, indent=1, sort_keys=True) + "\n"
            ).encode()
        }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as file:
        for name, data in parts.items():
            file.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), data)
    return out.getvalue()


def changed(name: str, change: Callable[[Any], Any]) -> bytes:
    parts = parts_of(DATA)
    values = json.loads(parts[name])
    made = change(values)
    return written(parts | {name: json.dumps(values if made is None else made).encode()})


def swapped(name: str, old: bytes, new: bytes) -> dict[str, bytes]:
    """Parts of which one holds something else of the same size."""
    parts = parts_of(DATA)
    return parts | {name: parts[name].replace(old, new)}


def without(name: str) -> bytes:
    parts = parts_of(DATA)
    del parts[name]
    return written(parts)


def test_a_container_written_anew_is_the_same() -> None:
    assert written(parts_of(DATA)) == DATA


@pytest.mark.parametrize(
    ("data", "part"),
    [
        (b"", "its table of parts"),
        (b"PK nothing", "its table of parts"),
        (DATA[:-30], "its table of parts"),
        (DATA + b"more", "its table of parts"),
        (b"more" + DATA, "its table of parts"),
        (written(parts_of(DATA) | {"more.bin": b""}, signed=False), "its table of parts"),
        (written(parts_of(DATA) | {"more.bin": b""}), "manifest.json"),
        (written({"scheme.json": b"{}"}, signed=False), "manifest.json"),
        (written(parts_of(DATA) | {"rules.json": b"{}"}, signed=False), "rules.json"),
        (written(swapped("rules.json", b"berth", b"bertx"), signed=False), "rules.json"),
        (without("scheme.json"), "scheme.json"),
        (without("pipeline.json"), "pipeline.json"),
        (without("lists.bin"), "lists.bin"),
        (without("taggers/1.bin"), "taggers/1.bin"),
        (without("lists.json"), "lists.json"),
        (without("taggers.json"), "taggers.json"),
        (changed("manifest.json", lambda m: m | {"format": 1}), "manifest.json"),
        (changed("manifest.json", lambda m: m | {"language": "xx"}), "manifest.json"),
        (changed("manifest.json", lambda m: m | {"name": 3}), "manifest.json"),
        (changed("scheme.json", lambda _: []), "scheme.json"),
        (changed("pipeline.json", lambda p: p | {"stages": 3}), "pipeline.json"),
        (changed("pipeline.json", lambda p: p["policy"].update(kind="weighed")), "pipeline.json"),
        (changed("lists.json", lambda heads: heads[0].update(number=-1)), "lists.json"),
        (changed("lists.json", lambda heads: heads[0]["options"].update(within="far")), "lists.json"),
        (changed("lists.json", lambda heads: heads[0].update(name=heads[1]["name"])), "lists.json"),
        (changed("rules.json", lambda r: r["rules"][0].update(priority="first")), "rules.json"),
        (changed("rules.json", lambda r: r["rules"][0].update(pattern="(")), "rules.json"),
        (changed("rules.json", lambda r: r.update(fragments={})), "rules.json"),
        (changed("rules.json", lambda r: r["rules"].append(r["rules"][0])), "rules.json"),
        (changed("taggers.json", lambda t: t[0].update(types=3)), "taggers.json"),
        (changed("templates.json", lambda t: t[0].update(anchor="port")), "templates.json"),
        (written(parts_of(DATA) | {"lists.bin": b"URDALIST"}), "lists.bin"),
        (written(parts_of(DATA) | {"taggers/1.bin": b"URDATAGG"}), "taggers/1.bin"),
        (written(parts_of(DATA) | {"words.bin": b"x"}), "words.bin"),
        (written(parts_of(DATA) | {"lexicon.bin": b"x"}), "lexicon.bin"),
        (written(parts_of(DATA) | {"weights.json": b"{}"}), "weights.json"),
        (written(parts_of(DATA) | {"rules.json": b"\xff"}), "rules.json"),
    ],
)  # fmt: skip
def test_the_part_that_is_amiss_is_named(data: bytes, part: str) -> None:
    with pytest.raises(BadFile) as fault:
        from_bytes(data)
    assert fault.value.detail["part"] == part
    assert part in fault.value.message


def test_what_is_compressed_is_not_opened() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in parts_of(DATA).items():
            file.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), data, zipfile.ZIP_DEFLATED)
    with pytest.raises(BadFile, match="compressed"):
        from_bytes(out.getvalue())


@given(seed=st.integers(0, 10**9))
def test_no_change_of_a_byte_goes_unseen(seed: int) -> None:
    random = np.random.default_rng(seed)
    data = bytearray(DATA)
    for _ in range(int(random.integers(1, 4))):
        data[random.integers(len(data))] ^= int(random.integers(1, 256))
    if bytes(data) != DATA:
        with pytest.raises(BadFile) as fault:
            from_bytes(bytes(data))
        assert fault.value.detail["part"]


def test_streamed_texts_get_what_they_get_at_once() -> None:
    texts = [
        Incoming(text=text * (k % 3 + 1), group="a" if k % 4 else "") for k, text in enumerate(TEXTS * 9)
    ]
    runner = Runner(from_bytes(DATA))
    streamed = [runner.read(portion) for portion in portions(texts, 200)]
    assert len(streamed) > 3
    for portion, found in zip(portions(texts, 200), streamed, strict=True):
        beside = Beside([one.group for one in portion])
        bodies = [one.text for one in portion]
        assert [one.spans for one in found] == build(small_bundle().plan, small_bundle().material).run(
            bodies, beside
        )
    assert sum(map(len, streamed)) == len(texts)


def test_texts_of_one_group_are_not_parted() -> None:
    texts = [Incoming(text="x" * 10, group=group) for group in ("a", "a", "a", "", "", "b", "c", "c")]
    assert [[one.group for one in own] for own in portions(texts, 15)] == [
        ["a", "a", "a"],
        ["", ""],
        ["b", "c", "c"],
    ]
    assert list(portions([], 5)) == []
    long = [Incoming(text="x", group="a")] * (2 * LARGEST_GROUP + 5)
    assert [len(own) for own in portions([Incoming(text="y"), *long], 5)] == [
        LARGEST_GROUP + 1,
        LARGEST_GROUP,
        5,
    ]


def test_records_come_of_a_template_of_the_bundle() -> None:
    runner = Runner(from_bytes(DATA))
    (one,) = runner.run(TEXTS[:1], template="call")
    assert [{name: record.value(name) for name in record.parts} for record in one.records] == [
        {"vessel": "Pellin", "from": "Varnby"}
    ]
    with pytest.raises(NotFound, match="no record template “visit” in this bundle; there is “call”"):
        list(runner.run(TEXTS, template="visit"))


@pytest.mark.parametrize("text", [3, None, {}, {"text": 4}, {"text": "a", "meta": 3}])
def test_what_is_no_text_is_refused(text: Any) -> None:
    with pytest.raises(BadInput):
        list(Runner(from_bytes(DATA)).run([text]))


def test_weights_go_with_it() -> None:
    weigher = Weigher((("any span", -1.0), ("said by tagger", 3.0)), 0.5)
    plan = replace(small_bundle().plan, policy=replace(small_bundle().plan.policy, kind="weighed"))
    data = to_bytes(small_bundle(plan, weigher=weigher))
    assert from_bytes(data).weigher == weigher
    assert {source for own in told(data=data) for *_, source in own} == {"tagger"}
    assert to_bytes(from_bytes(data)) == data


def test_what_was_learnt_for_a_template_comes_along() -> None:
    call = small_bundle().templates[0]
    data = learnt_bytes(Assembler(template=call))
    bundle = small_bundle(learnt={"call": data})
    again = from_bytes(to_bytes(bundle))
    assert again.learnt == {"call": data}
    assert again.assembler("call") == Assembler(template=call)
    assert to_bytes(again) == to_bytes(bundle)
    other = learnt_bytes(Assembler(template=replace(call, fields=call.fields[:1])))
    with pytest.raises(BadFile, match=r"records/1\.bin") as caught:
        from_bytes(to_bytes(small_bundle(learnt={"call": other})))
    assert caught.value.detail["part"] == "records/1.bin"


def test_records_are_reckoned_from_the_day_that_a_text_tells() -> None:
    call = Template(
        name="call",
        anchor="vessel",
        fields=(
            Field(name="vessel", types=("VES",), kind="name"),
            Field(name="desk", types=(), default_from="kind"),
            Field(name="day", types=(), kind="date", default="tomorrow"),
        ),
    )
    runner = Runner(small_bundle(templates=(call,)))
    text = {"text": "The Tern of Varnby sailed.", "meta": {"dated": "2026-12-31", "kind": "log"}}
    ((found,),) = (one.records for one in runner.run([text], "call"))
    assert {name: found.value(name) for name in found.values} == {
        "vessel": "Tern of Varnby",
        "desk": "log",
        "day": "2027-01-01",
    }
    ((bare,),) = (one.records for one in runner.run(["The Tern of Varnby sailed."], "call"))
    assert bare.values["day"][0].fault == "no day to reckon from"
