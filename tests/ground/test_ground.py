"""What the one command stands on: ports, processes, stamps, messages."""

import json
import os
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path

import pytest

from ground import command, places, processes, setup, supervisor
from ground.locks import strip_hosts
from ground.postgres import database, ensure_server, free_port

CHECKOUT = Path(__file__).resolve().parents[2]


@pytest.fixture(autouse=True)
def _own_home(monkeypatch, tmp_path):
    monkeypatch.setenv("FAIR_TEXEL_HOME", str(tmp_path / "home"))


def test_the_data_folder_is_outside_the_checkout_and_its_own(monkeypatch):
    monkeypatch.delenv("FAIR_TEXEL_HOME")
    home = places.data_home()
    assert CHECKOUT not in [home, *home.parents]
    assert " " not in home.name
    monkeypatch.setenv("FAIR_TEXEL_HOME", "/somewhere/else")
    assert places.data_home() == Path("/somewhere/else")


def test_a_taken_port_is_passed_over():
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert free_port(port) > port


def test_a_step_that_fails_says_which_and_what_to_do(capsys):
    with pytest.raises(setup.SetupFailed) as failed:
        setup.run_step("weighing the anchor", ["sh", "-c", "echo rope is stuck >&2; exit 3"], "pull harder")
    message = str(failed.value)
    assert all(
        word in message for word in ("weighing the anchor", "exit 3", "rope is stuck", "What to do: pull harder")
    )
    assert "weighing the anchor" in capsys.readouterr().out


def test_set_up_failures_end_with_1_and_bad_usage_with_2(monkeypatch, capsys):
    def fails(words):
        raise setup.SetupFailed("installing x failed. What to do: y")

    monkeypatch.setitem(command.COMMANDS, "demo", fails)
    assert command.main(["demo"]) == 1
    assert "What to do: y" in capsys.readouterr().err
    assert command.main(["nonsense"]) == 2
    assert command.main(["help"]) == 0
    listed = capsys.readouterr().out
    assert all(f"./ft {name}" in listed for name in ("demo", "test", "serve", "worker", "stop", "bench", "texel"))


def test_missing_system_packages_are_asked_for_as_root_or_with_sudo(monkeypatch):
    steps = []
    monkeypatch.setattr(setup, "_postgres_there", lambda: False)
    monkeypatch.setattr(setup.shutil, "which", lambda name: "/usr/bin/sudo" if name == "sudo" else None)
    monkeypatch.setattr(setup, "_CLUSTER_CONFIG", Path("/nowhere/createcluster.conf"))
    monkeypatch.setattr(setup, "run_step", lambda title, line, hint, **more: steps.append(line))
    for user in (0, 1000):
        monkeypatch.setattr(setup.os, "geteuid", lambda user=user: user)
        steps.clear()
        setup.ensure_system(tests=True)
        assert [line[0] == "sudo" for line in steps] == [user != 0] * 3
        assert {"postgresql", "chromium", "xvfb", "libgl1-mesa-dri"} <= set(steps[-1])
        assert "create_main_cluster = false" in steps[1][-1]
    monkeypatch.setattr(setup.shutil, "which", lambda name: None)
    with pytest.raises(setup.SetupFailed, match=r"Run as root: apt-get update"):
        setup.ensure_system()


def test_an_old_node_is_refused(monkeypatch, tmp_path):
    node = tmp_path / "node"
    node.write_text("#!/bin/sh\necho v18.2.0\n")
    node.chmod(0o755)
    monkeypatch.setattr(setup.shutil, "which", lambda name: str(node))
    with pytest.raises(setup.SetupFailed, match="Node 18 is too old"):
        setup.ensure_node_packages()


def test_background_processes_are_known_stopped_and_not_confused(tmp_path):
    env = processes.environment("postgresql://x@127.0.0.1:1/x")
    processes.start_background("sleeper", [sys.executable, "-c", "import time; time.sleep(60)"], env, port=1234)
    record = processes.running("sleeper")
    assert record is not None
    assert record["port"] == 1234
    assert processes.stop_background("sleeper")
    assert processes.running("sleeper") is None
    assert not processes.stop_background("sleeper")
    # A later process with the same number is somebody else's.
    other = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(60)"])
    processes._record("sleeper").write_text(json.dumps({"pid": other.pid, "started": "1"}))
    assert processes.running("sleeper") is None
    assert not processes.stop_background("sleeper")
    assert other.poll() is None
    os.kill(other.pid, signal.SIGKILL)
    other.wait()


def test_a_process_that_ignores_the_request_is_killed():
    script = (
        "import signal, time; signal.signal(signal.SIGTERM, signal.SIG_IGN); print('on', flush=True); time.sleep(60)"
    )
    processes.start_background("stubborn", [sys.executable, "-c", script], dict(os.environ))
    log = places.folder("log") / "stubborn.log"
    while b"on" not in log.read_bytes():
        pass
    assert processes.stop_background("stubborn")


def test_the_server_is_the_projects_own_and_on_loopback_only(monkeypatch):
    monkeypatch.delenv("FAIR_TEXEL_HOME")
    address = ensure_server()
    assert address.startswith("postgresql://texel:")
    assert "@127.0.0.1:" in address
    assert ensure_server() == address
    home = places.data_home() / "postgres"
    assert (home / "password").stat().st_mode & 0o077 == 0
    assert "unix_socket_directories = ''" in (home / "data/postgresql.conf").read_text()


def test_a_database_that_is_named_is_used_and_no_other_is_started(monkeypatch):
    monkeypatch.setenv("FAIR_TEXEL_DATABASE", "postgresql://texel@database.example/studio")
    monkeypatch.setattr("ground.postgres.ensure_server", lambda: pytest.fail("one was started"))
    assert database() == "postgresql://texel@database.example/studio"
    assert processes.environment(database())["FAIR_TEXEL_DATABASE_OWN"] == "0"


def test_the_server_listens_where_it_is_told(monkeypatch):
    monkeypatch.delenv("FAIR_TEXEL_BIND", raising=False)
    assert "127.0.0.1" in processes.server_command(8000)
    monkeypatch.setenv("FAIR_TEXEL_BIND", "10.0.0.4")
    assert "10.0.0.4" in processes.server_command(8000)


def test_lock_files_name_no_host(tmp_path):
    for name in ("requirements.lock", "requirements-dev.lock", "web/package-lock.json"):
        text = (CHECKOUT / name).read_text()
        assert "://" not in text, name
    lock = tmp_path / "lock.json"
    lock.write_text(json.dumps({"packages": {"a": {"version": "1", "resolved": "https://x", "funding": {"url": "y"}}}}))
    strip_hosts(lock)
    assert json.loads(lock.read_text()) == {"packages": {"a": {"version": "1"}}}


def test_every_requirement_is_pinned_with_hashes():
    for name in ("requirements.lock", "requirements-dev.lock"):
        lines = (CHECKOUT / name).read_text().splitlines()
        pins = [line for line in lines if line and not line.startswith(" ")]
        assert all("==" in line and line.endswith("\\") for line in pins)


def test_settings_are_safe_without_any_environment():
    code = (
        "from studio import settings as s;"
        "print(s.DEBUG, s.ALLOWED_HOSTS, len(s.SECRET_KEY) > 40, s.PICTURE_LIMITS.max_side)"
    )
    env = {k: v for k, v in os.environ.items() if not k.startswith("FAIR_TEXEL") or k == "FAIR_TEXEL_HOME"}
    runs = [
        subprocess.run([sys.executable, "-c", code], cwd=CHECKOUT, env=env, capture_output=True, text=True)
        for _ in range(2)
    ]
    assert runs[0].stdout == "False ['127.0.0.1', 'localhost', '[::1]'] True 16384\n"
    secret = Path(os.environ["FAIR_TEXEL_HOME"]) / "secret"
    assert secret.stat().st_mode & 0o077 == 0
    assert runs[1].stdout == runs[0].stdout


def test_a_port_that_was_asked_for_is_not_shared(monkeypatch):
    with socket.socket() as taken:
        taken.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEPORT, 1)
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        monkeypatch.setenv("FAIR_TEXEL_PORT", str(taken.getsockname()[1]))
        with pytest.raises(setup.SetupFailed, match="is taken"):
            processes.choose_port()


def part(tmp_path, script):
    env = {**os.environ, "MARK": str(tmp_path / "mark")}
    return supervisor.Part("it", [sys.executable, "-c", script], env)


def looked_at_until(one, condition):
    for _ in range(3000):
        one.look()
        if condition():
            return
        time.sleep(0.01)
    pytest.fail("it did not come to that")


def test_what_ends_is_started_again_later_each_time(tmp_path, capsys):
    one = part(tmp_path, "import os; open(os.environ['MARK'], 'a').write('x'); raise SystemExit(3)")
    looked_at_until(one, lambda: one.ends == 2)
    assert (tmp_path / "mark").read_text() == "xx"
    said = capsys.readouterr().err
    assert "it ended with 3; it is started again in 0.5 s" in said
    assert "again in 1 s" in said


def test_what_has_run_for_long_is_started_again_soon(tmp_path):
    one = part(tmp_path, "pass")
    one.ends = 7
    one.look()
    one.process.wait()
    one.started -= 100
    one.look()
    assert one.ends == 1


def test_a_supervisor_stops_what_it_started(tmp_path):
    one = part(tmp_path, "import time; time.sleep(600)")
    one.look()
    process = one.process
    one.stop()
    assert process.poll() is not None
