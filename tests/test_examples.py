"""The examples in docstrings are true."""

from __future__ import annotations

import doctest
import importlib
from pathlib import Path

import pytest

PACKAGE = Path(__file__).parents[1] / "fernbrook"
WITH_EXAMPLES = [p for p in sorted(PACKAGE.rglob("*.py")) if ">>>" in p.read_text()]


@pytest.mark.parametrize("path", WITH_EXAMPLES, ids=lambda p: p.stem)
def test_examples(path: Path) -> None:
    module = importlib.import_module(".".join(path.relative_to(PACKAGE.parent).with_suffix("").parts))
    failed, tried = doctest.testmod(module)
    assert tried > 0
    assert failed == 0
