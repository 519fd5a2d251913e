"""A PostgreSQL cluster of our own: made, started and stopped without systemd, as root or not."""

from __future__ import annotations

import contextlib
import hashlib
import os
import pwd
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from pathlib import Path

import psycopg

from urdaten.errors import Unavailable

SERVER_USER = "postgres"
START_LIMIT_S = 60.0
FAST_AND_FRAGILE = (
    "fsync=off",
    "synchronous_commit=off",
    "full_page_writes=off",
    "wal_level=minimal",
    "max_wal_senders=0",
)


def binaries() -> Path:
    """Folder of the newest installed server binaries. Raises Unavailable when there is none."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin"), key=lambda p: int(p.parent.name))
    if not found:
        raise Unavailable("PostgreSQL is not installed; ./start installs it.")
    return found[-1]


def free_port(preferred: int = 0) -> int:
    """The preferred port of 127.0.0.1 if nobody has it, else any free one."""
    for wish in (preferred, 0):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", wish))
            except OSError:
                continue
            return int(probe.getsockname()[1])
    raise Unavailable("There is no free port on 127.0.0.1.")


def reachable_by_server(folder: Path) -> bool:
    """Can the server's user pass through every parent of this folder?"""
    if os.geteuid() != 0:
        return True
    return all(parent.stat().st_mode & 0o001 for parent in folder.resolve().parents if parent.exists())


def data_home(wanted: Path) -> Path:
    """The wanted folder, or one under /var/lib when the server's user could not reach it."""
    if reachable_by_server(wanted):
        return wanted
    mark = hashlib.sha256(str(wanted.resolve()).encode()).hexdigest()[:12]
    return Path("/var/lib") / f"urdaten-{mark}"


class Cluster:
    """A cluster in `folder`, reached over 127.0.0.1 as user `app` without a password."""

    def __init__(self, folder: Path, options: tuple[str, ...] = ()) -> None:
        self.folder = folder
        self.data = folder / "data"
        self.log = folder / "server.log"
        self.port = 0
        self._options = options
        self._process: subprocess.Popen[bytes] | None = None
        self._socket_dir: Path | None = None

    def database_url(self, name: str) -> str:
        return f"postgresql+psycopg://app@127.0.0.1:{self.port}/{name}"

    def dsn(self, name: str) -> str:
        return f"postgresql://app@127.0.0.1:{self.port}/{name}"

    def _as_server(self, command: list[str]) -> list[str]:
        # The server ends when we do, however we end.
        lead = ["setpriv", "--pdeathsig", "INT"]
        if os.geteuid() == 0:
            lead += ["--reuid", SERVER_USER, "--regid", SERVER_USER, "--init-groups", "--reset-env"]
        return [*lead, *command]

    def _own(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        if os.geteuid() == 0:
            user = pwd.getpwnam(SERVER_USER)
            os.chown(folder, user.pw_uid, user.pw_gid)
        folder.chmod(0o700)

    def _run(self, *command: str) -> None:
        done = subprocess.run(
            self._as_server([str(binaries() / command[0]), *command[1:]]),
            cwd="/",
            stdin=subprocess.DEVNULL,
            capture_output=True,
            check=False,
        )
        if done.returncode:
            raise Unavailable(f"{command[0]} failed: {done.stderr.decode(errors='replace').strip()}")

    def ensure(self) -> bool:
        """Make the cluster unless it is there; True when it was made now."""
        version = self.data / "PG_VERSION"
        major = binaries().parent.name
        if version.exists():
            if version.read_text().strip() != major:
                raise Unavailable(
                    f"The data in {self.data} belong to PostgreSQL {version.read_text().strip()}, but {major} "
                    "is installed. Install the older one, or begin anew with ./start --fresh."
                )
            return False
        self._own(self.folder)
        # A cluster that was being made when we were interrupted has no PG_VERSION or is incomplete.
        shutil.rmtree(self.data, ignore_errors=True)
        making = self.folder / "making"
        shutil.rmtree(making, ignore_errors=True)
        self._run(
            "initdb",
            "-D",
            str(making),
            "-U",
            "app",
            "-A",
            "trust",
            "-E",
            "UTF8",
            "--locale=C.UTF-8",
            "--no-instructions",
        )
        making.rename(self.data)
        return True

    def start(self, preferred_port: int = 0) -> None:
        """Start the server and wait until it answers. Raises Unavailable with the end of its log."""
        self._stop_orphan()
        if self._socket_dir is None:
            self._socket_dir = Path(tempfile.mkdtemp(prefix="urdaten-"))
            self._own(self._socket_dir)
        self.port = free_port(preferred_port)
        command = [
            str(binaries() / "postgres"),
            "-D",
            str(self.data),
            "-p",
            str(self.port),
            "-k",
            str(self._socket_dir),
        ]
        for option in ("listen_addresses=127.0.0.1", "logging_collector=off", *self._options):
            command += ["-c", option]
        with self.log.open("ab") as log:
            self._process = subprocess.Popen(
                self._as_server(command),
                cwd="/",
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=log,
                start_new_session=True,
            )
        deadline = time.monotonic() + START_LIMIT_S
        while True:
            if not self.running:
                tail = self.log.read_text(errors="replace")[-1500:]
                raise Unavailable(f"PostgreSQL did not start. The end of {self.log}:\n{tail}")
            try:
                psycopg.connect(self.dsn("postgres"), connect_timeout=5).close()
                return
            except psycopg.OperationalError:
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.05)

    def _stop_orphan(self) -> None:
        # A server that outlived its starter still holds the data folder.
        if (self.data / "postmaster.pid").exists():
            with contextlib.suppress(Unavailable):
                self._run("pg_ctl", "stop", "-D", str(self.data), "-m", "fast", "-w", "-t", "20")

    @property
    def running(self) -> bool:
        return self._process is not None and self._process.poll() is None

    @property
    def pid(self) -> int | None:
        return self._process.pid if self._process else None

    def stop(self) -> None:
        """Stop the server, letting go of everybody who is connected."""
        if self._process and self.running:
            self._process.send_signal(signal.SIGINT)
            try:
                self._process.wait(20)
            except subprocess.TimeoutExpired:
                self._process.send_signal(signal.SIGQUIT)
                self._process.wait(20)
        if self._socket_dir:
            shutil.rmtree(self._socket_dir, ignore_errors=True)
            self._socket_dir = None

    def create_database(self, name: str, template: str = "template0") -> None:
        """Make a database unless it is there."""
        with psycopg.connect(self.dsn("postgres"), autocommit=True) as connection:
            if connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone():
                return
            names = psycopg.sql.Identifier(name), psycopg.sql.Identifier(template)
            connection.execute(psycopg.sql.SQL("CREATE DATABASE {} TEMPLATE {}").format(*names))

    def drop_database(self, name: str) -> None:
        with psycopg.connect(self.dsn("postgres"), autocommit=True) as connection:
            statement = psycopg.sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)")
            connection.execute(statement.format(psycopg.sql.Identifier(name)))
