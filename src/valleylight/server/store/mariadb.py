"""A private MariaDB on loopback, started and stopped by us."""

from __future__ import annotations

import getpass
import hashlib
import os
import shutil
import signal
import socket
import subprocess
import threading
import time
from pathlib import Path
from urllib.parse import quote

from valleylight.core.errors import InputError
from valleylight.server import logs

log = logs.log()
_START_SECONDS = 60.0
#: How often it is looked whether the server still runs.
WATCH_S = 1.0


class PrivateMariaDB:
    """A MariaDB server of our own on 127.0.0.1. `start` returns the database URL."""

    def __init__(self, folder: Path, name: str = "valleylight") -> None:
        self.folder = _reachable(folder)
        self.name = name
        self._process: subprocess.Popen[bytes] | None = None
        self._watching = threading.Event()

    @property
    def url(self) -> str:
        socket_file = quote(str(self._socket), safe="/")
        return f"mysql://{getpass.getuser()}@localhost/{self.name}?unix_socket={socket_file}"

    @property
    def _socket(self) -> Path:
        # A socket path may hold 107 bytes at most.
        near = self.folder / "m.sock"
        if len(str(near)) < 100:
            return near
        return Path("/tmp") / f"valleylight-{hashlib.sha256(str(self.folder).encode()).hexdigest()[:12]}.sock"

    def start(self) -> str:
        """Install the data folder when new, start the server unless ours runs already, create the database."""
        if shutil.which("mariadbd") is None:
            raise InputError(
                "MariaDB is not installed", "mariadbd", "Run ./valleylight demo, or install mariadb-server"
            )
        self.folder.mkdir(parents=True, exist_ok=True)
        if os.geteuid() == 0:
            shutil.chown(self.folder, self._user)
        if not (self.folder / "data" / "mysql").is_dir():
            self._install(self._user)
        if not self._answers():
            self._launch(self._user)
        self._create_database()
        return self.url

    def watch(self) -> None:
        """Start the server again whenever it ends or no longer answers, until `stop`."""
        self._watching.set()
        threading.Thread(target=self._watch, daemon=True).start()

    def _watch(self) -> None:
        while self._watching.is_set():
            time.sleep(WATCH_S)
            ended = self._process.poll() is not None if self._process is not None else not self._answers()
            if not (ended and self._watching.is_set()):
                continue
            log.warning("the database ended; it is started again")
            try:
                self._launch(self._user)
            except InputError as error:  # tried again at the next look
                log.warning("the database does not start", reason=str(error))

    @property
    def _user(self) -> str:
        return "mysql" if os.geteuid() == 0 else getpass.getuser()

    def stop(self, left_over: bool = False) -> None:
        """Stop the server if this object started it, or with `left_over` also one that an earlier run left behind."""
        self._watching.clear()
        if self._process is None:
            if left_over and self._answers():
                command = ["mariadb-admin", "--no-defaults", f"--socket={self._socket}", "shutdown"]
                subprocess.run(command, check=False, capture_output=True)
            return
        self._process.send_signal(signal.SIGTERM)
        try:
            self._process.wait(30)
        except subprocess.TimeoutExpired:
            self._process.kill()
        self._process = None

    def _install(self, user: str) -> None:
        partial = self.folder / "data.new"
        shutil.rmtree(partial, ignore_errors=True)
        subprocess.run(
            [
                "mariadb-install-db", "--no-defaults", f"--user={user}", f"--datadir={partial}", f"--tmpdir={self._temporary(user)}",
                "--auth-root-authentication-method=socket", f"--auth-root-socket-user={getpass.getuser()}",
                "--skip-test-db",
            ],
            check=True, stdout=subprocess.DEVNULL,
        )  # fmt: skip
        partial.rename(self.folder / "data")

    def _launch(self, user: str) -> None:
        temporary = self._temporary(user)
        self._process = subprocess.Popen(
            [
                shutil.which("mariadbd") or "mariadbd", "--no-defaults", f"--user={user}", f"--datadir={self.folder}/data",
                f"--tmpdir={temporary}", f"--socket={self._socket}", f"--pid-file={self.folder}/m.pid",
                "--bind-address=127.0.0.1", f"--port={_free_port()}", f"--log-error={self.folder}/error.log",
                "--character-set-server=utf8mb4", "--collation-server=utf8mb4_unicode_ci", "--skip-name-resolve",
                "--max-allowed-packet=64M", "--default-time-zone=+00:00", "--innodb-buffer-pool-size=64M",
            ],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip
        deadline = time.monotonic() + _START_SECONDS
        while not self._answers():
            if self._process.poll() is not None or time.monotonic() > deadline:
                raise InputError(
                    "MariaDB did not start", str(self.folder / "error.log"), "Read the end of that file for the reason"
                )
            time.sleep(0.1)

    def _temporary(self, user: str) -> Path:
        """A folder of its own for temporary tables: a server that starts clears those of others out of a shared one."""
        temporary = self.folder / "tmp"
        temporary.mkdir(exist_ok=True)
        if os.geteuid() == 0:
            shutil.chown(temporary, user)
        return temporary

    def _answers(self) -> bool:
        if not self._socket.exists():
            return False
        ping = subprocess.run(
            ["mariadb-admin", "--no-defaults", f"--socket={self._socket}", "ping"], capture_output=True, check=False
        )
        return ping.returncode == 0

    def _create_database(self) -> None:
        subprocess.run(
            ["mariadb", "--no-defaults", f"--socket={self._socket}", "-e",
             f"CREATE DATABASE IF NOT EXISTS `{self.name}` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"],
            check=True, capture_output=True,
        )  # fmt: skip


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _reachable(folder: Path) -> Path:
    """The folder, or one under /var/lib when the unprivileged server could not enter it."""
    folder = folder.resolve()
    if os.geteuid() != 0:
        return folder
    closed = any(p.exists() and not p.stat().st_mode & 0o001 for p in folder.parents)
    if not closed:
        return folder
    return Path("/var/lib/valleylight") / hashlib.sha256(str(folder).encode()).hexdigest()[:16]
