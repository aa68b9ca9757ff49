"""An academy of one's own: the authority for TLS, and the one command from nothing to a sheet of students."""

from __future__ import annotations

import json
import os
import signal
import ssl
import stat
import subprocess
import sys
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from lacertus.local import authority
from lacertus.local.own_academy import ROOT_FILE, as_qr, root_offered
from lacertus.local.postgres import LocalPostgres
from tests.place import ROOT

PASSWORD = "ember-sickle-nine"


class TestAuthority:
    def test_its_keys_are_for_its_owner_alone_and_kept(self, tmp_path: Path) -> None:
        papers = authority.papers(tmp_path / "tls", ["192.168.4.7"])
        before = {path: path.read_bytes() for path in (papers.root, papers.certificate, papers.key)}
        for path in (tmp_path / "tls").iterdir():
            assert stat.S_IMODE(path.stat().st_mode) == 0o600
        assert authority.papers(tmp_path / "tls", ["192.168.4.7"]) == papers
        assert {path: path.read_bytes() for path in before} == before

    def test_another_address_gets_another_certificate_from_the_same_root(self, tmp_path: Path) -> None:
        first = authority.papers(tmp_path, ["192.168.4.7"])
        root, certificate = first.root.read_bytes(), first.certificate.read_bytes()
        second = authority.papers(tmp_path, ["10.1.2.3"])
        assert second.root.read_bytes() == root
        assert second.certificate.read_bytes() != certificate

    def test_for_an_address_that_is_not_local_the_root_is_made_for_that_one(self, tmp_path: Path) -> None:
        root = authority.papers(tmp_path, ["192.168.4.7"]).root.read_bytes()
        assert authority.papers(tmp_path, ["203.0.113.9"]).root.read_bytes() != root

    def test_the_offer_gives_the_root_and_nothing_else(self, tmp_path: Path) -> None:
        papers = authority.papers(tmp_path, ["127.0.0.1"])
        with root_offered(papers, "127.0.0.1", "https://127.0.0.1:1") as address:
            assert httpx.get(address + ROOT_FILE.lstrip("/")).content == papers.root.read_bytes()
            assert "https://127.0.0.1:1" in httpx.get(address).text
            for path in ("root.key", "../root.key", "%2e%2e/root.key"):
                assert httpx.get(address + path).status_code == 404

    def test_a_code_is_drawn_in_block_characters(self) -> None:
        lines = as_qr("http://127.0.0.1:8000/").splitlines()
        assert len(lines) > 12
        assert set("".join(lines)) <= set(" █▀▄")


@pytest.fixture(scope="module")
def academy(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[dict[str, str], Path]]:
    """One that runs with TLS, as `script/academy --lan` does."""
    data = tmp_path_factory.mktemp("own") / "academy"
    environment = {key: value for key, value in os.environ.items() if not key.startswith("LACERTUS_")}
    command = [sys.executable, "-m", "lacertus.cli", "academy", "run", "--data", str(data), "--lan", "--json"]
    with subprocess.Popen(
        command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, cwd=ROOT, env=environment, text=True
    ) as process:  # fmt: skip
        try:
            assert process.stdout is not None
            yield json.loads(process.stdout.readline()), data
        finally:
            process.send_signal(signal.SIGTERM)
            process.wait(30)
            LocalPostgres(data / "postgres").destroy()


class TestOneCommand:
    def test_from_an_empty_folder_to_an_academy_with_a_coach(self, academy: tuple[dict[str, str], Path]) -> None:
        told, data = academy
        trusted = ssl.create_default_context(cafile=str(data / "tls" / "root.crt"))
        token = told["setup"].rsplit("/", 1)[1]
        with httpx.Client(base_url=told["address"], verify=trusted) as client:
            wishes = {"name": "River Hall", "time_zone": "UTC"}
            owner = {"name": "An Owner", "email": "owner@example.test", "password": PASSWORD}
            made = client.post("/api/links/set-up", json={"token": token, "academy": wishes} | owner)
            assert made.status_code == 201
            assert "Secure" in made.headers["set-cookie"]
            assert client.get("/api/students").json() == []
            assert len(client.get("/api/techniques").json()) >= 25
            asked = {"name": "A Coach", "email": "coach@example.test", "role": "coach"}
            link = client.post("/api/people/invitations", json=asked).json()["link"]
        assert link.startswith(f"{told['address']}/#/welcome/")
        assert len(list((data / "outbox").glob("*.eml"))) == 1

    def test_a_browser_that_does_not_trust_the_root_gets_nothing(self, academy: tuple[dict[str, str], Path]) -> None:
        with pytest.raises(urllib.error.URLError, match="certificate verify failed"):
            urllib.request.urlopen(academy[0]["address"], timeout=10)
