"""An answer that is kept as a file."""

from __future__ import annotations

from urllib.parse import quote

from fastapi import Response


def file_response(content: bytes, name: str, media_type: str) -> Response:
    """Content to be saved under a name (RFC 6266, RFC 8187)."""
    plain = name.encode("ascii", "replace").decode().replace("?", "_").replace('"', "'")
    disposition = f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name)}"
    return Response(content, media_type=media_type, headers={"content-disposition": disposition})
