"""The office's small web site on loopback: a stand-in for a site that texts are fetched from."""

from __future__ import annotations

from pathlib import Path

import uvicorn
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, PlainTextResponse, RedirectResponse, Response
from starlette.routing import Route

from urdaten.demo.files import FOLDER

SITE = FOLDER / "shapes" / "site"
LATIN_1 = frozenset({"tariff.html"})
# An address from before the site was rebuilt, and where its page is now.
MOVED = {"depths.html": "berths.html"}
CLOSED = "imprint.html"


def build_site(folder: Path = SITE) -> Starlette:
    """The site as an application: pages, a moved one, robots.txt, and 404 for what is not there."""
    # Only what lies in the folder at the start is served, whatever an address says.
    pages = {path.name: path for path in sorted(folder.glob("*.html"))}

    def show(request: Request) -> Response:
        name = request.path_params["name"] or "index.html"
        if name in MOVED:
            return RedirectResponse(f"/{MOVED[name]}", status_code=301)
        if name not in pages:
            return PlainTextResponse("There is no such page.", status_code=404)
        charset = "iso-8859-1" if name in LATIN_1 else "utf-8"
        return FileResponse(pages[name], headers={"content-type": f"text/html; charset={charset}"})

    def robots(_request: Request) -> Response:
        return PlainTextResponse(f"User-agent: *\nDisallow: /{CLOSED}\n")

    return Starlette(routes=[Route("/robots.txt", robots), Route("/{name:path}", show)])


def serve_site(port: int) -> None:
    """Serve on loopback until stopped."""
    uvicorn.run(build_site(), host="127.0.0.1", port=port, log_level="warning")
