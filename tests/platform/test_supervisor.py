"""Children that are kept alive, the lock on the data folder, and the files that `up` keeps."""

from __future__ import annotations

import os
import signal
import sys
import time
from pathlib import Path

import pytest

from urdaten.cli import supervisor
from urdaten.cli.supervisor import Child
from urdaten.errors import Clash


def child(tmp_path: Path, program: str) -> Child:
    return Child("helper", [sys.executable, "-c", program], dict(os.environ), tmp_path / "helper.log")


def wait_until_dead(pid: int | None) -> None:
    assert pid
    deadline = time.monotonic() + 10
    while time.monotonic() < deadline:
        if os.waitid(os.P_PID, pid, os.WEXITED | os.WNOHANG | os.WNOWAIT):
            return
        time.sleep(0.01)
    pytest.fail("the child did not die")


def test_a_child_that_dies_is_started_again(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    helper = child(tmp_path, "import time; time.sleep(60)")
    helper.start()
    first = helper.pid
    helper.look()
    assert (helper.pid, helper.deaths) == (first, 0)
    assert first
    os.kill(first, signal.SIGKILL)
    wait_until_dead(first)
    helper.look()
    assert helper.running
    assert helper.pid != first
    assert helper.deaths == 1
    assert "helper had ended and is started again" in capsys.readouterr().out
    helper.stop()
    assert not helper.running


def test_a_child_that_does_not_listen_is_ended_all_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(supervisor, "STOP_LIMIT_S", 0.2)
    helper = child(
        tmp_path,
        "import signal, time; signal.signal(15, signal.SIG_IGN); print('deaf', flush=True); time.sleep(60)",
    )
    helper.start()
    deadline = time.monotonic() + 10
    while "deaf" not in (tmp_path / "helper.log").read_text() and time.monotonic() < deadline:
        time.sleep(0.01)
    helper.stop()
    assert not helper.running


def test_a_data_folder_has_one_master(tmp_path: Path) -> None:
    with supervisor._alone(tmp_path):
        supervisor._say_where(tmp_path, "http://127.0.0.1:1")
        with (
            pytest.raises(Clash, match=r"running already .* http://127.0.0.1:1"),
            supervisor._alone(tmp_path),
        ):
            pass
    with supervisor._alone(tmp_path):
        assert (tmp_path / "lock").read_text() == ""


@pytest.mark.parametrize(
    ("answer", "agreed"), [("yes\n", True), ("YES \n", True), ("y\n", False), ("", False)]
)
def test_beginning_anew_needs_a_whole_yes(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, answer: str, agreed: bool
) -> None:
    (tmp_path / "postgres").mkdir()

    def give(_prompt: str) -> str:
        if not answer:
            raise EOFError
        return answer

    monkeypatch.setattr("builtins.input", give)
    assert supervisor._agreed(tmp_path) is agreed


def test_with_nothing_to_lose_nobody_is_asked(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("builtins.input", lambda _: pytest.fail("asked"))
    assert supervisor._agreed(tmp_path)


def test_the_port_is_remembered(tmp_path: Path) -> None:
    assert supervisor._kept_port(tmp_path, "database-port") == 0
    supervisor._keep_port(tmp_path, "database-port", 5544)
    assert supervisor._kept_port(tmp_path, "database-port") == 5544
    (tmp_path / "database-port").write_text("nonsense")
    assert supervisor._kept_port(tmp_path, "database-port") == 0


def test_home_may_be_named(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("os.geteuid", lambda: 1000)
    monkeypatch.setenv("URDATEN_HOME", str(tmp_path))
    assert supervisor.home() == tmp_path
    monkeypatch.delenv("URDATEN_HOME")
    assert supervisor.home() == supervisor.REPOSITORY / "var"


def test_compiled_kernels_begin_with_those_of_the_install(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = tmp_path / "src" / "urdaten" / "core" / "__pycache__" / "kernels-0123" / "kernels_ab"
    made.mkdir(parents=True)
    (made / "decode.nbi").write_bytes(b"index")
    monkeypatch.setattr(supervisor, "REPOSITORY", tmp_path)
    own = tmp_path / "data" / "kernels"
    own.parent.mkdir()
    owned: dict[str, str] = {}
    monkeypatch.setattr("shutil.chown", lambda path, user: owned.update({Path(path).name: user}))
    assert supervisor._kernels_for(own, "nobody") == own
    (own / "kernels_ab" / "stale.nbi").write_bytes(b"of an earlier source")
    supervisor._kernels_for(own, "nobody")
    assert [path.name for path in own.rglob("*")] == ["kernels_ab", "decode.nbi"]
    assert (own / "kernels_ab" / "decode.nbi").read_bytes() == b"index"
    assert owned == {"kernels": "nobody", "kernels_ab": "nobody", "decode.nbi": "nobody"}
