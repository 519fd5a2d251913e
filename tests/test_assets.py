"""What the server sends of the built front end."""

from __future__ import annotations

import asyncio
import gzip
from dataclasses import dataclass
from pathlib import Path

import httpx
import pytest
from starlette.applications import Starlette

from urdaten.server.assets import FOR_EVER, Assets

SCRIPT = b"export const ship = 'Haldis'\n" * 40


@dataclass
class Client:
    app: Starlette

    def get(self, path: str, headers: dict[str, str]) -> httpx.Response:
        async def send() -> httpx.Response:
            transport = httpx.ASGITransport(app=self.app)
            async with httpx.AsyncClient(transport=transport, base_url="http://here") as client:
                return await client.get(path, headers=headers)

        return asyncio.run(send())


@pytest.fixture
def client(tmp_path: Path) -> Client:
    (tmp_path / "a-1.js").write_bytes(SCRIPT)
    (tmp_path / "a-1.js.gz").write_bytes(gzip.compress(SCRIPT))
    (tmp_path / "b-2.css").write_bytes(b"b {}")
    (tmp_path / "b-2.css.gz").write_bytes(gzip.compress(b"b {}"))
    (tmp_path / "face.woff2").write_bytes(b"face")
    app = Starlette()
    app.mount("/assets", Assets(directory=tmp_path))
    return Client(app)


@pytest.mark.parametrize(("name", "kind"), [("a-1.js", "text/javascript"), ("b-2.css", "text/css")])
def test_what_is_packed_goes_so_to_whoever_takes_it(client: Client, name: str, kind: str) -> None:
    packed = client.get(f"/assets/{name}", headers={"Accept-Encoding": "gzip"})
    plain = client.get(f"/assets/{name}", headers={"Accept-Encoding": "identity"})
    assert (packed.headers["content-encoding"], "content-encoding" in plain.headers) == ("gzip", False)
    assert packed.content == plain.content
    assert packed.headers["content-type"].startswith(kind)
    assert plain.headers["content-type"].startswith(kind)
    for answer in (packed, plain):
        assert answer.headers["vary"] == "Accept-Encoding"
        assert answer.headers["cache-control"] == FOR_EVER


def test_what_is_not_packed_goes_as_it_is(client: Client) -> None:
    face = client.get("/assets/face.woff2", headers={"Accept-Encoding": "gzip"})
    assert (face.content, "content-encoding" in face.headers) == (b"face", False)
    assert client.get("/assets/gone.js", headers={"Accept-Encoding": "gzip"}).status_code == 404


def test_a_browser_that_has_it_is_told_so(client: Client) -> None:
    first = client.get("/assets/a-1.js", headers={"Accept-Encoding": "gzip"})
    again = client.get(
        "/assets/a-1.js", headers={"Accept-Encoding": "gzip", "If-None-Match": first.headers["etag"]}
    )
    assert (again.status_code, again.headers["content-encoding"]) == (304, "gzip")
