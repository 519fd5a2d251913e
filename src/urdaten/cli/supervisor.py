"""`urdaten up`: database, worker and server under one roof; whoever dies is started again."""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import json
import os
import secrets
import shutil
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from types import FrameType

from urdaten.cli.connection import write_connection
from urdaten.errors import Clash, Unavailable
from urdaten.platform.postgres import Cluster, data_home, free_port
from urdaten.platform.settings import Settings

REPOSITORY = Path(__file__).parents[3]
DATABASE = "urdaten"
READY_LIMIT_S = 60.0
LOOK_S = 0.2
STOP_LIMIT_S = 8.0
# A child that dies sooner than this after its start is given a pause before the next.
QUICK_DEATH_S = 5.0
# Whom server and worker run as when root starts them.
PLAIN_USER = "nobody"


class Child:
    """One process of ours that is started again when it dies."""

    def __init__(
        self,
        name: str,
        command: list[str],
        env: dict[str, str],
        log: Path,
        fd: int | None = None,
        user: str | None = None,
    ) -> None:
        self.name = name
        self._user = user
        self._command, self._env, self._log, self._fd = command, env, log, fd
        self._process: subprocess.Popen[bytes] | None = None
        self._started = 0.0
        self.deaths = 0

    def start(self) -> None:
        self._started = time.monotonic()
        with self._log.open("ab") as log:
            self._process = subprocess.Popen(
                # However we end, the child ends too; it holds nothing that the database does not.
                ["setpriv", "--pdeathsig", "KILL", *_as(self._user), *self._command],
                env=self._env,
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=log,
                start_new_session=True,
                pass_fds=[self._fd] if self._fd is not None else [],
            )

    def look(self) -> None:
        """Start it again if it has died."""
        if self._process is None or self._process.poll() is None:
            return
        self.deaths += 1
        if time.monotonic() - self._started < QUICK_DEATH_S:
            time.sleep(min(0.2 * self.deaths, 3.0))
        print(f"The {self.name} had ended and is started again; {self._log} says why.", flush=True)
        self.start()

    def move(self, env: dict[str, str]) -> None:
        """Start it again in another environment."""
        self.stop()
        self._env = self._env | env
        self.start()

    @property
    def pid(self) -> int | None:
        return self._process.pid if self._process else None

    @property
    def running(self) -> bool:
        return self._process is not None and self._process.poll() is None

    def stop(self) -> None:
        if not self._process or self._process.poll() is not None:
            return
        self._process.terminate()
        try:
            self._process.wait(STOP_LIMIT_S)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()


def _as(user: str | None) -> list[str]:
    return [] if user is None else ["--reuid", user, "--regid", "nogroup", "--clear-groups", "--no-new-privs"]


def unprivileged() -> tuple[str | None, str]:
    """The user that server and worker run as, None for our own; and, where root has to run them, a line that says so."""
    if os.geteuid() != 0:
        return None, ""
    looks = [sys.executable, "-c", "import urdaten.platform.settings"]
    try:
        done = subprocess.run(
            ["setpriv", *_as(PLAIN_USER), *looks], capture_output=True, cwd="/", check=False, timeout=30
        )
    except OSError:
        return None, "setpriv is missing, so server and worker run as root."
    if done.returncode:
        return None, (
            f"Server and worker run as root: the user {PLAIN_USER} cannot read the program's folder or its Python."
        )
    return PLAIN_USER, ""


def home() -> Path:
    """Where this copy of Urdaten keeps its data."""
    return data_home(Path(os.environ.get("URDATEN_HOME") or REPOSITORY / "var"))


@contextlib.contextmanager
def _alone(folder: Path) -> Iterator[None]:
    """Hold the folder's lock. Raises Clash when another `urdaten up` holds it."""
    with (folder / "lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as fault:
            lock.seek(0)
            raise Clash(
                f"Urdaten is running already with the data in {folder}: {lock.read().strip() or 'just starting'}. "
                "Open that address, or stop it there with Ctrl-C."
            ) from fault
        lock.truncate(0)
        yield


def _say_where(folder: Path, address: str) -> None:
    # "a+" writes at the end: the file was emptied when the lock was taken.
    (folder / "lock").write_text(address)


def run(*, fresh: bool, yes: bool, port: int, idle: bool = False) -> int:
    """Run until Ctrl-C; the exit code. With `idle` the demo is not trained, scored and assembled on the first start."""
    folder = home()
    folder.mkdir(parents=True, exist_ok=True)
    # The database user must pass through; what is secret below has its own mode.
    folder.chmod(0o711)
    with _alone(folder):
        if fresh:
            if not yes and not _agreed(folder):
                print("Nothing was removed.")
                return 1
            shutil.rmtree(folder / "postgres", ignore_errors=True)
        return _run(folder, port, idle)


def _agreed(folder: Path) -> bool:
    if not (folder / "postgres").exists():
        return True
    print(f"This removes every text, span, list, rule, tagger and record in {folder}.")
    try:
        return input("Type yes to begin anew: ").strip().casefold() == "yes"
    except EOFError:
        return False


def _end(_signal: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt


def _run(folder: Path, port: int, idle: bool) -> int:
    # Set by hand: a shell that starts us in the background has switched SIGINT off.
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _end)
    cluster = Cluster(folder / "postgres")
    children: list[Child] = []
    try:
        if folder != REPOSITORY / "var":
            print(f"Data: {folder}")
        cluster.ensure()
        cluster.start(_kept_port(folder, "database-port"))
        _keep_port(folder, "database-port", cluster.port)
        cluster.create_database(DATABASE)
        instance = hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:8]
        settings = Settings(database_url=cluster.database_url(DATABASE), instance=instance)
        first = _prepare(folder, settings, idle)
        # The socket is ours from here on, so nobody can take the port while the server is restarted.
        listening = socket.create_server(("127.0.0.1", free_port(port)), backlog=128)
        port = listening.getsockname()[1]
        address = f"http://127.0.0.1:{port}"
        user, remark = unprivileged()
        if remark:
            print(remark)
        children = _children(folder, settings, listening.fileno(), user)
        worker, server = children
        # One after the other: somebody waits for the page, nobody yet for the worker.
        server.start()
        _wait_until_up(address, server, folder / "server.log")
        worker.start()
        _say_where(folder, address)
        write_connection(folder, settings, address)
        _greet(address, settings, first)
        _write_pids(folder, cluster, children)
        while True:
            time.sleep(LOOK_S)
            if not cluster.running:
                settings = _restart_database(folder, cluster, settings, children)
                write_connection(folder, settings, address)
            deaths = [child.deaths for child in children]
            for child in children:
                child.look()
            if deaths != [child.deaths for child in children]:
                _write_pids(folder, cluster, children)
    except KeyboardInterrupt:
        print("\nStopping.", flush=True)
        return 0
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        for child in reversed(children):
            child.stop()
        cluster.stop()
        for name in ("processes.json", "connection.json"):
            (folder / name).unlink(missing_ok=True)


def _environment(settings: Settings) -> dict[str, str]:
    return {
        **os.environ,
        "URDATEN_DATABASE_URL": settings.database_url,
        "URDATEN_INSTANCE": settings.instance,
        "PYTHONUNBUFFERED": "1",
        # The numerics run on few, known threads.
        "OPENBLAS_NUM_THREADS": "1",
        "OMP_NUM_THREADS": "1",
    }


def _children(folder: Path, settings: Settings, fd: int, user: str | None) -> list[Child]:
    env = _environment(settings)
    if user is not None:
        env["NUMBA_CACHE_DIR"] = str(_kernels_for(folder / "kernels", user))
    me = [sys.executable, "-m", "urdaten"]
    return [
        Child("worker", [*me, "work"], env, folder / "worker.log", user=user),
        Child("server", [*me, "serve", "--fd", str(fd)], env, folder / "server.log", fd, user=user),
    ]


def _kernels_for(folder: Path, user: str) -> Path:
    """Kernels where this user may write, beginning with those that were compiled at install.

    Begun anew each time: what was compiled from an earlier source would not be told apart.
    """
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir()
    for made in (REPOSITORY / "src/urdaten/core/__pycache__").glob("kernels-*"):
        shutil.copytree(made, folder, dirs_exist_ok=True)
    for path in (folder, *folder.rglob("*")):
        shutil.chown(path, user)
    return folder


def _restart_database(folder: Path, cluster: Cluster, settings: Settings, children: list[Child]) -> Settings:
    """Start the database again; the settings that lead to it, which the children get too where its port is another."""
    print("The database had ended and is started again.", flush=True)
    cluster.start(cluster.port)
    _keep_port(folder, "database-port", cluster.port)
    there = settings.model_copy(update={"database_url": cluster.database_url(DATABASE)})
    if there != settings:
        for child in children:
            child.move(_environment(there))
    _write_pids(folder, cluster, children)
    return there


def _kept_port(folder: Path, name: str) -> int:
    try:
        return int((folder / name).read_text())
    except (OSError, ValueError):
        return 0


def _keep_port(folder: Path, name: str, port: int) -> None:
    (folder / name).write_text(str(port))


def _write_pids(folder: Path, cluster: Cluster, children: list[Child]) -> None:
    """For people who look after the machine: who is who."""
    pids = {"supervisor": os.getpid(), "database": cluster.pid} | {c.name: c.pid for c in children}
    (folder / "processes.json").write_text(json.dumps(pids))


def _prepare(folder: Path, settings: Settings, idle: bool) -> list[dict[str, str]]:
    """Migrate, and load the demo project on the first run: its accounts then, else none."""
    from urdaten.places.team.acts import count_projects, empty_bin
    from urdaten.platform.database import transaction
    from urdaten.platform.migrate import migrate

    migrate(settings.database_url)
    # An older Urdaten kept the demo's passwords here.
    (folder / "demo-accounts.json").unlink(missing_ok=True)
    with transaction(settings.database_url) as db:
        for name in empty_bin(db):
            print(f"“{name}” has lain in the bin for 30 days and is gone.")
        if count_projects(db):
            return []
    print("Loading the demo project.", flush=True)
    # Later starts do not wait for what only the first one needs.
    from urdaten.demo.load import ACCOUNTS, begin_work, load, sign_records
    from urdaten.platform.passwords import hash_password
    from urdaten.server import work

    assert work.KINDS
    made = [{"login": a.login, "password": secrets.token_urlsafe(9)} for a in ACCOUNTS]
    hashes = {a["login"]: hash_password(settings, a["password"]) for a in made}
    with transaction(settings.database_url) as db:
        project = load(db, hashes)
        sign_records(db, project)
        if not idle:
            begin_work(db, project)
    return made


def _wait_until_up(address: str, server: Child, log: Path) -> None:
    deadline = time.monotonic() + READY_LIMIT_S
    opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
    while True:
        try:
            with opener.open(f"{address}/api/me", timeout=2):
                return
        except urllib.error.HTTPError:
            return  # it answers: nobody is signed in here
        except (urllib.error.URLError, OSError) as fault:
            if not server.running or time.monotonic() > deadline:
                tail = log.read_text(errors="replace")[-1500:]
                raise Unavailable(f"The server did not come up. The end of {log}:\n{tail}") from fault
            time.sleep(0.05)


def _greet(address: str, settings: Settings, first: list[dict[str, str]]) -> None:
    from urdaten.platform.database import transaction
    from urdaten.platform.sessions import make_link

    print(f"\nUrdaten is up at {address}")
    if first:
        with transaction(settings.database_url) as db:
            token = make_link(db, settings, first[0]["login"])
        # Behind the number sign, so that the token never reaches a server's log.
        print(f"Sign in once with   {address}/sign-in#{token}")
        for account in first:
            print(f"or as {account['login']:<6} with password {account['password']}")
        print("These are shown this once; keep them.")
    else:
        print("For a link that signs somebody in:   .venv/bin/urdaten account link LOGIN")
    print("Ctrl-C stops it.", flush=True)
