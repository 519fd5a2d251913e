"""Who imports whom, beyond what import-linter can say; and what no committed file may hold."""

from __future__ import annotations

import ast
import json
import re
import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "urdaten"
OFFERED = {"acts", "wire"}
# What one source says asks places after the Desk, and so is none of its acts.
ALSO_OFFERED = {("desk", "lanes")}


def imports(path: Path) -> Iterator[str]:
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module:
            yield node.module
            yield from (f"{node.module}.{alias.name}" for alias in node.names)
        elif isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)


def modules(folder: Path) -> list[Path]:
    found = sorted(folder.rglob("*.py"))
    assert found
    return found


@pytest.mark.parametrize("path", modules(SOURCE / "places"), ids=lambda p: str(p.relative_to(SOURCE)))
def test_a_place_uses_only_what_another_offers(path: Path) -> None:
    own = path.relative_to(SOURCE / "places").parts[0]
    for name in imports(path):
        parts = name.split(".")
        if parts[:2] == ["urdaten", "places"] and len(parts) > 3 and parts[2] != own:
            assert parts[3] in OFFERED or tuple(parts[2:4]) in ALSO_OFFERED, f"{path.name} imports {name}"


@pytest.mark.parametrize("path", modules(SOURCE / "core"), ids=lambda p: str(p.relative_to(SOURCE)))
def test_a_room_of_the_core_uses_only_what_another_exports(path: Path) -> None:
    own = path.relative_to(SOURCE / "core").parts[0]
    for node in ast.walk(ast.parse(path.read_text())):
        parts = (node.module or "").split(".") if isinstance(node, ast.ImportFrom) else []
        if parts[:2] == ["urdaten", "core"] and parts[2:3] != [own]:
            assert len(parts) == 3, f"{path.name} imports from {node.module}"  # type: ignore[attr-defined] # as above


def test_kinds_of_arrays_are_named_in_one_place() -> None:
    alias = re.compile(r"^(Ints|Floats|Bools|Array) =", re.MULTILINE)
    own = [p.name for p in modules(SOURCE / "core") if alias.search(p.read_text())]
    assert own == ["arrays.py"]


def test_acts_alone_touch_tables() -> None:
    for path in modules(SOURCE / "places"):
        touches = any(re.fullmatch(r"urdaten\.places\.\w+\.tables", name) for name in imports(path))
        assert not touches or "acts" in (path.stem, path.parent.name), path


def test_numbers_of_numpy_stay_in_the_core() -> None:
    outside = [p for p in modules(SOURCE) if "core" not in p.relative_to(SOURCE).parts]
    assert [p for p in outside if any(name.split(".")[0] in {"numpy", "scipy"} for name in imports(p))] == []


def committed() -> list[Path]:
    if not shutil.which("git"):
        pytest.skip("git is not installed, so nobody knows what is committed")
    listed = subprocess.run(["git", "ls-files", "-z"], cwd=ROOT, capture_output=True, check=True).stdout
    return [ROOT / name for name in listed.decode().split("\0") if name and (ROOT / name).is_file()]


def test_lock_files_hold_no_download_address() -> None:
    lock = json.loads((ROOT / "web/package-lock.json").read_text())
    assert len(lock["packages"]) > 100
    assert [
        name
        for name, package in lock["packages"].items()
        if "resolved" in package and not package.get("link")
    ] == []
    for path in (ROOT / "requirements").glob("*.txt"):
        text = path.read_text()
        assert "--hash=sha256:" in text
        assert "://" not in text, path
        assert "index-url" not in text, path


HOSTS = re.compile(r"https?://(?:registry|files|pypi|deb|npm)[.\w-]*", re.IGNORECASE)


def test_no_committed_file_names_a_registry() -> None:
    for path in committed():
        if path.suffix in {".png", ".woff2"} or path == Path(__file__):
            continue
        assert not HOSTS.search(path.read_text(errors="replace")), path
