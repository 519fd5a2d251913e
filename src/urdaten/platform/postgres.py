"""A PostgreSQL cluster of our own: made, started and stopped without systemd, as root or not."""

from __future__ import annotations

import contextlib
import hashlib
import os
import pwd
import secrets
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from pathlib import Path

import psycopg
from psycopg import sql

from urdaten.errors import Unavailable

SERVER_USER = "postgres"
SUPERUSER, ROLE = "app", "urdaten"
START_LIMIT_S = 60.0
FAST_AND_FRAGILE = (
    "fsync=off",
    "synchronous_commit=off",
    "full_page_writes=off",
    "wal_level=minimal",
    "max_wal_senders=0",
)
_OPTIONS = (
    "listen_addresses=127.0.0.1",
    # Queries here are many and short; compiling one takes longer than running it.
    "jit=off",
    "logging_collector=off",
    # Values stand in the details of an error, and texts are values: they belong into no log.
    "log_error_verbosity=terse",
    "log_min_error_statement=panic",
    # For everybody who may be connected at once: server and worker with their pools, and commands beside them.
    "max_connections=120",
    # Counts are read from indexes alone where the database knows that everybody sees their rows. It looks for such pages
    # soon after many rows came, not a minute later.
    "autovacuum_naptime=10s",
    # An import writes much at once; it need not wait for all of that to lie in its last place.
    "max_wal_size=4GB",
    # Pages that are asked for ahead cost more calls than they save waiting: they lie in memory, if not in ours.
    "effective_io_concurrency=0",
)
_MEGABYTE = 1 << 20


def _memory_options() -> tuple[str, ...]:
    """What the database may hold in memory: an eighth of the machine's for everybody, within bounds that suit a laptop."""
    machine = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES") // _MEGABYTE
    shared = min(max(machine // 8, 128), 1024)
    return (
        f"shared_buffers={shared}MB",
        f"effective_cache_size={max(machine // 2, 256)}MB",
        # For each sort and bitmap, and for putting an index in order.
        "work_mem=16MB",
        f"maintenance_work_mem={min(max(machine // 16, 64), 512)}MB",
    )


# What the superuser made in a database, in schemas of ours, becomes the application's.
_HAND_OVER = """
DO $$
DECLARE one record;
BEGIN
  FOR one IN
    SELECT format('ALTER %s %s OWNER TO %I',
                  CASE c.relkind WHEN 'S' THEN 'SEQUENCE' WHEN 'v' THEN 'VIEW' ELSE 'TABLE' END,
                  c.oid::regclass, {1}) AS act
    FROM pg_class c JOIN pg_roles r ON r.oid = c.relowner
    WHERE c.relnamespace = 'public'::regnamespace AND r.rolname = {0} AND c.relkind IN ('r', 'p', 'S', 'v')
      AND NOT EXISTS (SELECT 1 FROM pg_depend d
                      WHERE d.objid = c.oid AND d.deptype IN ('a', 'i') AND c.relkind = 'S')
    UNION ALL
    SELECT format('ALTER ROUTINE %s OWNER TO %I', p.oid::regprocedure, {1})
    FROM pg_proc p JOIN pg_roles r ON r.oid = p.proowner
    WHERE p.pronamespace = 'public'::regnamespace AND r.rolname = {0}
    UNION ALL
    SELECT format('ALTER TYPE %s OWNER TO %I', t.oid::regtype, {1})
    FROM pg_type t JOIN pg_roles r ON r.oid = t.typowner
    WHERE t.typnamespace = 'public'::regnamespace AND r.rolname = {0} AND t.typtype = 'e'
  LOOP
    EXECUTE one.act;
  END LOOP;
END $$
"""


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
    """A cluster in `folder`, reached over 127.0.0.1 with passwords that are kept in it.

    Databases belong to the role `urdaten`, which is no superuser; `app` looks after the cluster itself.
    """

    def __init__(self, folder: Path, options: tuple[str, ...] = ()) -> None:
        self.folder = folder
        self.data = folder / "data"
        self.log = folder / "server.log"
        self.port = 0
        self._options = options
        self._process: subprocess.Popen[bytes] | None = None
        self._socket_dir: Path | None = None
        self._log_began = 0

    def database_url(self, name: str) -> str:
        """For the application's own role, as SQLAlchemy reads it."""
        return f"postgresql+psycopg://{self._as(ROLE)}@127.0.0.1:{self.port}/{name}"

    def dsn(self, name: str) -> str:
        """For whoever looks after the cluster."""
        return f"postgresql://{self._as(SUPERUSER)}@127.0.0.1:{self.port}/{name}"

    def _as(self, role: str) -> str:
        return f"{role}:{(self.folder / f'{role}.password').read_text()}"

    def _make_passwords(self) -> None:
        for role in (SUPERUSER, ROLE):
            path = self.folder / f"{role}.password"
            if not path.exists():
                path.touch(mode=0o600)
                path.write_text(secrets.token_urlsafe(24))
                if os.geteuid() == 0:
                    # The server's user reads it once, when it makes the cluster.
                    os.chown(path, pwd.getpwnam(SERVER_USER).pw_uid, -1)

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
            self._leave_trust()
            return False
        self._own(self.folder)
        # A cluster that was being made when we were interrupted has no PG_VERSION or is incomplete.
        shutil.rmtree(self.data, ignore_errors=True)
        self._make_passwords()
        making = self.folder / "making"
        shutil.rmtree(making, ignore_errors=True)
        self._run(
            "initdb",
            "-D",
            str(making),
            "-U",
            "app",
            "-A",
            "scram-sha-256",
            "--pwfile",
            str(self.folder / f"{SUPERUSER}.password"),
            "-E",
            "UTF8",
            "--locale=C.UTF-8",
            "--no-instructions",
        )
        making.rename(self.data)
        return True

    def _leave_trust(self) -> None:
        """A cluster from before let everybody in who reached its port: it gets passwords, while only we reach it."""
        rules = self.data / "pg_hba.conf"
        if (self.folder / f"{SUPERUSER}.password").exists() and "trust" not in rules.read_text().split():
            return
        self._own(self.folder)
        self._make_passwords()
        password = (self.folder / f"{SUPERUSER}.password").read_text()
        statement = sql.SQL("ALTER ROLE {} PASSWORD {}").format(
            sql.Identifier(SUPERUSER), sql.Literal(password)
        )
        self._stop_orphan()
        # Without any network, in a process that ends with its input.
        done = subprocess.run(
            self._as_server([str(binaries() / "postgres"), "--single", "-D", str(self.data), "postgres"]),
            cwd="/",
            input=statement.as_string(None) + "\n",
            capture_output=True,
            text=True,
            check=False,
        )
        if done.returncode:
            raise Unavailable(f"The database could not be given a password: {done.stderr.strip()}")
        lines = ["# TYPE  DATABASE  USER  ADDRESS  METHOD", "local all all scram-sha-256"]
        lines += [f"host all all {address} scram-sha-256" for address in ("127.0.0.1/32", "::1/128")]
        rules.write_text("\n".join(lines) + "\n")

    def start(self, preferred_port: int = 0) -> None:
        """Start the server and wait until it answers. Raises Unavailable with the end of its log."""
        self._stop_orphan()
        if self._socket_dir is None:
            self._socket_dir = Path(tempfile.mkdtemp(prefix="urdaten-"))
            self._own(self._socket_dir)
        deadline = time.monotonic() + START_LIMIT_S
        while True:
            self.port = free_port(preferred_port)
            self._spawn()
            if self._answers(deadline):
                return
            tail = self._log_tail()
            # Backends of a server that was killed in the middle of a statement go on for a while and hold its memory.
            passing = "pre-existing shared memory block" in tail or "Address already in use" in tail
            if not passing or time.monotonic() > deadline:
                raise Unavailable(f"PostgreSQL did not start. The end of {self.log}:\n{tail}")
            time.sleep(0.5)

    def _log_tail(self) -> str:
        # Of this start alone: what earlier ones said is no reason to try again.
        with self.log.open("rb") as log:
            log.seek(self._log_began)
            return log.read().decode(errors="replace")[-1500:]

    def _spawn(self) -> None:
        self._log_began = self.log.stat().st_size if self.log.exists() else 0
        command = [
            str(binaries() / "postgres"),
            "-D",
            str(self.data),
            "-p",
            str(self.port),
            "-k",
            str(self._socket_dir),
        ]
        for option in (*_OPTIONS, *_memory_options(), *self._options):
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

    def _answers(self, deadline: float) -> bool:
        """Wait until the server takes connections; False when it ends instead."""
        while self.running:
            try:
                psycopg.connect(self.dsn("postgres"), connect_timeout=5).close()
            except psycopg.OperationalError:
                if time.monotonic() > deadline:
                    raise
                time.sleep(0.05)
            else:
                self._make_role()
                return True
        return False

    def _make_role(self) -> None:
        """The application's role, with the password that is kept for it."""
        self._make_passwords()
        password = (self.folder / f"{ROLE}.password").read_text()
        with psycopg.connect(self.dsn("postgres"), autocommit=True) as connection:
            known = connection.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", [ROLE]).fetchone()
            verb = sql.SQL("ALTER" if known else "CREATE")
            connection.execute(
                sql.SQL("{} ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE PASSWORD {}").format(
                    verb, sql.Identifier(ROLE), sql.Literal(password)
                )
            )

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
        """Make a database that belongs to the application's role, unless it is there; one from before is handed over."""
        with psycopg.connect(self.dsn("postgres"), autocommit=True) as connection:
            known = connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", [name]).fetchone()
            if not known:
                names = (sql.Identifier(name), sql.Identifier(template), sql.Identifier(ROLE))
                connection.execute(sql.SQL("CREATE DATABASE {} TEMPLATE {} OWNER {}").format(*names))
            else:
                owner = sql.SQL("ALTER DATABASE {} OWNER TO {}")
                connection.execute(owner.format(sql.Identifier(name), sql.Identifier(ROLE)))
        with psycopg.connect(self.dsn(name), autocommit=True) as connection:
            connection.execute(sql.SQL("ALTER SCHEMA public OWNER TO {}").format(sql.Identifier(ROLE)))
            connection.execute(sql.SQL(_HAND_OVER).format(sql.Literal(SUPERUSER), sql.Literal(ROLE)))

    def drop_database(self, name: str) -> None:
        with psycopg.connect(self.dsn("postgres"), autocommit=True) as connection:
            statement = sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)")
            connection.execute(statement.format(sql.Identifier(name)))
