"""A cluster of MariaDB servers on loopback, each with its own folder, which can be killed and brought back."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import time
from pathlib import Path
from typing import Any

import pymysql

from ohmack.launch.mariadb import free_port
from ohmack.launch.system import find_program
from ohmack.store.database import DatabaseSettings

PASSWORD = "only on loopback"
START_S = 60


class Node:
    """One server of the cluster."""

    def __init__(self, home: Path, cluster: Cluster) -> None:
        self.home, self.cluster = home, cluster
        self.port, self.group, self.transfer, self.increment = (free_port() for _ in range(4))
        self.process: subprocess.Popen[bytes] | None = None

    def make(self) -> None:
        """Its data folder."""
        (self.home / "tmp").mkdir(parents=True)
        made = [
            find_program("mariadb-install-db") or "", "--no-defaults", f"--datadir={self.home / 'data'}",
            "--skip-test-db", "--auth-root-authentication-method=normal", f"--user={self.cluster.user}",
        ]  # fmt: skip
        subprocess.run(made, check=True, capture_output=True)
        if os.geteuid() == 0:
            shutil.chown(self.home, self.cluster.user)
            for path in self.home.rglob("*"):
                shutil.chown(path, self.cluster.user, self.cluster.user)

    def start(self, *more: str) -> None:
        """Start it, and wait until it answers as a member that is in step."""
        group = ",".join(f"127.0.0.1:{node.group}" for node in self.cluster.nodes)
        own = (
            f"base_port={self.group};gmcast.listen_addr=tcp://127.0.0.1:{self.group};"
            f"ist.recv_addr=127.0.0.1:{self.increment}"
        )
        command = [
            find_program("mariadbd") or "", "--no-defaults", f"--datadir={self.home / 'data'}",
            f"--tmpdir={self.home / 'tmp'}", "--socket=s", f"--pid-file={self.home / 'pid'}",
            f"--log-error={self.home / 'log.err'}", f"--port={self.port}", "--bind-address=127.0.0.1",
            "--binlog-format=ROW", "--default-storage-engine=InnoDB", "--innodb-autoinc-lock-mode=2",
            "--innodb-flush-log-at-trx-commit=0", "--innodb-buffer-pool-size=64M", "--skip-name-resolve",
            "--character-set-server=utf8mb4", "--collation-server=utf8mb4_unicode_ci", f"--user={self.cluster.user}",
            "--wsrep-on=ON", f"--wsrep-provider={find_program('libgalera_smm.so')}", "--wsrep-cluster-name=ohmack",
            f"--wsrep-cluster-address=gcomm://{group}", "--wsrep-node-address=127.0.0.1",
            f"--wsrep-node-name={self.home.name}", "--wsrep-sst-method=rsync",
            f"--wsrep-sst-receive-address=127.0.0.1:{self.transfer}", f"--wsrep-provider-options={own}", *more,
        ]  # fmt: skip
        with (self.home / "said").open("wb") as said:
            self.process = subprocess.Popen(command, stdout=said, stderr=said, start_new_session=True)
        deadline = time.monotonic() + START_S
        while time.monotonic() < deadline:
            if self.process.poll() is not None:
                break
            if self.status("wsrep_local_state_comment") == "Synced":
                return
            time.sleep(0.2)
        raise AssertionError("".join(p.read_text()[-3000:] for p in self.home.glob("[ls]*[rd]")))

    def status(self, name: str) -> str:
        """One of its status variables; empty where it does not answer."""
        try:
            rows = self.ask("SHOW STATUS LIKE %s", name)
        except pymysql.MySQLError:
            return ""
        return str(rows[0][1]) if rows else ""

    def ask(self, sql: str, *values: Any) -> list[tuple[Any, ...]]:
        """Rows, as root."""
        connection = pymysql.connect(host="127.0.0.1", port=self.port, user="root", connect_timeout=2, autocommit=True)
        try:
            with connection.cursor() as cursor:
                cursor.execute(sql, values)
                return list(cursor.fetchall())
        finally:
            connection.close()

    def kill(self) -> None:
        """As a power cut does."""
        assert self.process
        os.kill(self.process.pid, signal.SIGKILL)
        self.process.wait()
        with socket.socket() as probe:
            assert probe.connect_ex(("127.0.0.1", self.port)) != 0

    def stop(self) -> None:
        """Stop it, if it runs."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(20)
            except subprocess.TimeoutExpired:
                self.process.kill()


class Cluster:
    """Three servers that hold the same."""

    def __init__(self, folder: Path) -> None:
        self.user = "mysql" if os.geteuid() == 0 else str(os.getuid())
        folder.chmod(0o755)
        self.nodes = [Node(folder / f"n{n}", self) for n in (1, 2, 3)]

    def start(self) -> None:
        """Make and start them all."""
        for node in self.nodes:
            node.make()
        first, *others = self.nodes
        first.start("--wsrep-new-cluster")
        for node in others:
            node.start()
        first.ask("CREATE DATABASE ohmack CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci")
        first.ask("CREATE USER 'ohmack'@'127.0.0.1' IDENTIFIED BY %s", PASSWORD)
        first.ask("GRANT ALL ON ohmack.* TO 'ohmack'@'127.0.0.1'")
        assert self.size() == 3

    def size(self) -> int:
        """How many members the first that answers sees."""
        return next((int(s) for node in self.nodes if (s := node.status("wsrep_cluster_size"))), 0)

    def settings(self, first: int = 0) -> DatabaseSettings:
        """All of them, that one asked first."""
        turned = self.nodes[first:] + self.nodes[:first]
        return DatabaseSettings(",".join(f"127.0.0.1:{n.port}" for n in turned), 1, "ohmack", PASSWORD, "ohmack")

    def stop(self) -> None:
        """Stop them all."""
        for node in self.nodes:
            node.stop()
