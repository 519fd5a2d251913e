"""Imports, as the API takes them."""

from __future__ import annotations

import json
from typing import Any

from conftest import Api


def begun(api: Api, files: dict[str, bytes], **plan: Any) -> dict[str, Any]:
    """An import with these files and this plan."""
    made: dict[str, Any] = api.post("/imports")
    for name, data in files.items():
        sent = api.request(
            "POST", f"/api/projects/tessmar/imports/{made['id']}/file", params={"name": name}, content=data
        )
        assert sent.status_code == 201, sent.text
    if plan:
        made = api.put(f"/imports/{made['id']}/plan", plan)
    return made


def looked(api: Api, files: dict[str, bytes], **plan: Any) -> dict[str, Any]:
    made = begun(api, files, **plan)
    api.post(f"/imports/{made['id']}/look", expect=202)
    api.run_jobs()
    found: dict[str, Any] = api.get(f"/imports/{made['id']}")
    assert found["work"]["state"] == "done", found["work"]
    return found


def kept(api: Api, files: dict[str, bytes], **plan: Any) -> dict[str, Any]:
    made = begun(api, files, **plan)
    api.post(f"/imports/{made['id']}/keep", expect=202)
    api.run_jobs()
    return dict(api.get(f"/imports/{made['id']}"))


def lines(*rows: dict[str, Any]) -> bytes:
    return "\n".join(json.dumps(row) for row in rows).encode()
