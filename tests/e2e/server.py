"""A Fernbrook that runs for a test, as a user would start it."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def running(data: Path, *options: str) -> Iterator[str]:
    """Start the application on a data folder; gives its address."""
    port = free_port()
    command = [sys.executable, "-m", "fernbrook", "serve", "--data", str(data), "--port", str(port), *options]
    environment = {**os.environ, "PYTHON_KEYRING_BACKEND": "keyring.backends.fail.Keyring"}  # a test keeps no tokens
    process = subprocess.Popen(command, env=environment)
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(3000):  # the demo is made first, where it is asked for
            try:
                urllib.request.urlopen(f"{address}/api/mixes", timeout=2).close()
                break
            except OSError:
                if process.poll() is not None:
                    raise RuntimeError("the application ended before it answered") from None
                time.sleep(0.2)
        else:
            raise RuntimeError("the application never answered")
        yield address
    finally:
        process.terminate()
        process.wait(20)
