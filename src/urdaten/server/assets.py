"""Scripts, styles and faces of the front end."""

from __future__ import annotations

from collections.abc import MutableMapping
from typing import Any

from fastapi.staticfiles import StaticFiles
from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.responses import Response

# Their names carry a hash of what is in them.
FOR_EVER = "public, max-age=31536000, immutable"


class Assets(StaticFiles):
    """Files that never change, packed for whoever takes them so and where the build has packed them."""

    async def get_response(self, path: str, scope: MutableMapping[str, Any]) -> Response:
        takes = Headers(scope=scope).get("accept-encoding", "")
        response: Response | None = None
        if "gzip" in takes and not path.endswith(".gz"):
            try:
                response = await super().get_response(f"{path}.gz", scope)
            except HTTPException:
                response = None
        if response is not None and response.status_code in (200, 304):
            response.headers["Content-Encoding"] = "gzip"
            response.headers["Content-Type"] = "text/css" if path.endswith(".css") else "text/javascript"
        else:
            response = await super().get_response(path, scope)
        response.headers["Vary"] = "Accept-Encoding"
        response.headers["Cache-Control"] = FOR_EVER
        return response
