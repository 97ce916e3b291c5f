"""A server as its own process, as people run it."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from tests.conftest import ROOT


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


class Server:
    """`valleylight serve` as its own process."""

    def __init__(self, url: str | None, var: Path, **settings: int) -> None:
        self._settings = {f"VALLEYLIGHT_{name.upper()}": str(value) for name, value in settings.items()}
        self.port, self._url, self.var = free_port(), url, var
        self.address = f"http://127.0.0.1:{self.port}"
        self.process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        environment = {**os.environ, "PYTHONPATH": str(ROOT / "src"), **self._settings}
        if self._url is not None:  # else it has a database of its own
            environment["VALLEYLIGHT_DATABASE_URL"] = self._url
        command = [sys.executable, "-m", "valleylight", "serve", "--port", str(self.port), "--var", str(self.var)]
        self.process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL)
        deadline = time.monotonic() + 300
        while True:
            try:
                urllib.request.urlopen(self.address + "/api/skies", timeout=2).read()
                return
            except OSError:
                assert self.process.poll() is None, "the server ended"
                assert time.monotonic() < deadline, "the server did not answer"
                time.sleep(0.2)

    def stop(self, how: int = signal.SIGINT) -> None:
        assert self.process is not None
        self.process.send_signal(how)
        self.process.wait(40)
