"""Prints the OpenAPI schema, from which the page's client is generated: ``python -m fernbrook.api.schema_file``."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

from fernbrook.api.app import create_app
from fernbrook.service.services import Services
from fernbrook.store.folders import Folders


def schema_text() -> str:
    """The schema as JSON, laid out so that differences read well."""
    with tempfile.TemporaryDirectory() as folder:
        return json.dumps(create_app(Services(Folders(Path(folder)))).openapi(), indent=1, sort_keys=True) + "\n"


if __name__ == "__main__":
    print(schema_text(), end="")
