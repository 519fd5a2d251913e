"""Project archives in tests: made, opened, packed again, brought in."""

from __future__ import annotations

import hashlib
import io
import json
import zipfile
from typing import Any

from urdaten.places.team import acts as team
from urdaten.platform.accounts import account_by_login
from urdaten.platform.database import transaction
from urdaten.platform.settings import Settings
from urdaten.server.archive import export_project, import_project

Files = dict[str, bytes]


def exported(settings: Settings, slug: str = "tessmar") -> bytes:
    out = io.BytesIO()
    with transaction(settings.database_url, snapshot=True) as db:
        export_project(db, team.project_by_slug(db, slug), out)
    return out.getvalue()


def unpacked(archive: bytes) -> Files:
    with zipfile.ZipFile(io.BytesIO(archive)) as file:
        return {name: file.read(name) for name in file.namelist()}


def packed(files: Files, *, hashes: bool = True) -> bytes:
    """An archive of these files, with a manifest that fits them."""
    files = dict(files)
    if hashes:
        manifest = json.loads(files["manifest.json"])
        manifest["files"] = {
            name: {"sha256": hashlib.sha256(content).hexdigest(), "bytes": len(content)}
            for name, content in files.items()
            if name != "manifest.json"
        }
        files["manifest.json"] = json.dumps(manifest).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, content in files.items():
            file.writestr(name, content)
    return out.getvalue()


def imported(settings: Settings, archive: bytes, login: str = "ines", **more: Any) -> team.Project:
    with transaction(settings.database_url) as db:
        return import_project(db, io.BytesIO(archive), account_by_login(db, login).id, **more)


def projects(settings: Settings) -> int:
    with transaction(settings.database_url) as db:
        return team.count_projects(db)
