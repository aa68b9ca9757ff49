"""An academy of one's own on this machine: the same parts as the demo, with nothing invented in it."""

from __future__ import annotations

import html
import io
import json
import os
import signal
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import segno

from lacertus.local import authority
from lacertus.local.authority import Papers
from lacertus.local.place import LocalPlace, Say
from lacertus.local.postgres import free_port

ROOT_FILE = "/lacertus-root.crt"


class OwnAcademy(LocalPlace):
    """Everything that one academy runs, in its folder."""

    def prepare(self) -> None:
        os.environ.setdefault("LACERTUS_OUTBOX_DIR", f"{self.folder}/outbox")
        super().prepare()

    def setup_link(self, site: str) -> str | None:
        """The address at which an owner sets the academy up; None where that was done."""
        from sqlalchemy import select

        from lacertus.services.people import account_mail, links
        from lacertus.store import database
        from lacertus.store.tables import Academy

        with database.session() as db:
            if db.scalar(select(Academy.id).limit(1)) is not None:
                return None
            return account_mail.page_of(site, links.setup(db))


def as_qr(address: str) -> str:
    """A QR code of block characters."""
    out = io.StringIO()
    segno.make(address, micro=False).terminal(out, compact=True)
    return out.getvalue().rstrip("\n")


@contextmanager
def root_offered(papers: Papers, host: str, site: str) -> Iterator[str]:
    """Serve the authority's root, and what to do with it, over plain HTTP; gives the address of that page.

    A phone cannot fetch it by TLS: it trusts the site only once it has the root. Nothing else is served there.
    """
    root = papers.root.read_bytes()
    page = _PAGE.format(site=html.escape(site), file=ROOT_FILE).encode()

    class Offer(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            if self.path == ROOT_FILE:
                self._answer("application/x-x509-ca-cert", root)
            elif self.path == "/":
                self._answer("text/html; charset=utf-8", page)
            else:
                self.send_error(HTTPStatus.NOT_FOUND)

        def _answer(self, kind: str, content: bytes) -> None:
            self.send_response(HTTPStatus.OK)
            self.send_header("Content-Type", kind)
            self.send_header("Content-Length", str(len(content)))
            self.send_header("Cache-Control", "no-store")
            self.end_headers()
            self.wfile.write(content)

        def log_message(self, format: str, *args: object) -> None:
            return

    server = ThreadingHTTPServer(("0.0.0.0", free_port()), Offer)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield f"http://{host}:{server.server_address[1]}/"
    finally:
        server.shutdown()
        server.server_close()


_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>Lacertus in this hall</title>
<body style="font: 17px/1.5 sans-serif; max-width: 34rem; margin: 2rem auto; padding: 0 1rem">
<h1>Lacertus in this hall</h1>
<ol><li><a href="{file}">Download the certificate</a> and install it: on a phone in the settings, under security or profiles;
it may sign for local networks only.</li>
<li>Trust it for websites where the phone asks for that.</li>
<li>Open <a href="{site}">{site}</a>.</li></ol>
<p>Without it the site works too, after a warning; the microphone, keeping the screen awake and working offline need it.</p>
</body></html>
"""


def run(root: Path, data: Path, port: int | None, lan: bool, say: Say, as_json: bool = False) -> None:
    """Run an academy of one's own until it is interrupted.

    Args:
        data: its folder.
        port: a free one unless given.
        lan: whether phones in the hall reach it, by TLS.
        as_json: put the addresses on standard output as one JSON object.
    """
    academy = OwnAcademy(data, root, say)
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    port = port or free_port()
    host = authority.own_address() if lan else "127.0.0.1"
    site = f"{'https' if lan else 'http'}://{host}:{port}"
    os.environ.setdefault("LACERTUS_PUBLIC_URL", site)
    try:
        academy.prepare()
        link = academy.setup_link(site)
        if not lan:
            academy.start(port)
            _tell(academy, site, link, None, say, as_json)
            academy.wait()
            return
        papers = authority.papers(academy.folder / "tls", [host])
        with root_offered(papers, host, site) as offer:
            os.environ["LACERTUS_ROOT_URL"] = offer
            tls = ["--host", "0.0.0.0", "--ssl-key", str(papers.key), "--ssl-certificate", str(papers.certificate)]
            academy.start(port, tls, "https")
            _tell(academy, site, link, offer, say, as_json)
            academy.wait()
    except KeyboardInterrupt:
        say("stopping")
    finally:
        academy.stop()


def _tell(academy: OwnAcademy, site: str, link: str | None, offer: str | None, say: Say, as_json: bool) -> None:
    if as_json:
        print(json.dumps({"address": site, "setup": link, "root": offer, "data": str(academy.folder)}), flush=True)
    say("")
    if offer is not None:
        say(as_qr(offer))
        say(f"  Phones in the hall: scan this, or open {offer}")
    say(f"  Lacertus is at  {link or site}")
    if link is not None:
        say("  Open this once, within a day, to set up your academy.")
    say(f"  Everything is kept in  {academy.folder}")
    say("")
    say("  Ctrl-C stops it.")
