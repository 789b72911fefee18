"""The page: in a real browser it asks nobody for anything, runs no script, and shows hostile names as text."""

from __future__ import annotations

import re
import shutil
import subprocess
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path

import pytest

from logarithm.analysis.analyse import analyse
from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import ContenderRecord, Header, StudyRecord, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.report.page.page import page

HOSTILE = ("<script>document.title='gone'</script>", "\"quotes' & <b>bold</b>", "\u202eright to left", "$x^2$")
BROWSER = shutil.which("chromium") or shutil.which("google-chrome") or shutil.which("chrome")
QUIET = (
    *("--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-sync"),
    *("--disable-background-networking", "--disable-component-update", "--enable-logging=stderr", "--v=0"),
)


def hostile(folder: Path) -> str:
    """The page of a study whose every text tries to break out."""
    trials = [
        Trial(
            contender=name, family="<img src=x onerror=alert(1)>", size=n, heat=heat, elapsed=(9 + at) * n**1.5 + heat
        )
        for heat in range(1, 6)
        for at, name in enumerate(HOSTILE)
        for n in (8, 16, 32, 64, 128)
    ]
    study = StudyRecord(name="</title><script>1</script>", question="<h1>Who?</h1>", source="</pre><script>2</script>")
    contenders = [ContenderRecord(name=name, baseline=at == 0) for at, name in enumerate(HOSTILE)]
    path = folder / "hostile.jsonl"
    write_logbook(path, [Header(), study, *contenders, *trials])
    return page(analyse(read_logbook(path)))


def test_the_page_holds_everything_and_escapes_it(tmp_path: Path) -> None:
    written = hostile(tmp_path)
    assert "<script" not in written
    assert "<img" not in written
    assert written.count("<svg") == 3
    assert "</pre><script>" not in written
    addresses = re.findall(r"(?:href|src)=\"([^#][^\"]*)\"", re.sub(r"xmlns[^ >]*", "", written))
    assert not addresses
    assert "prefers-color-scheme: dark" in written
    assert "@media print" in written


@pytest.mark.skipif(BROWSER is None, reason="no Chromium here")
def test_a_browser_shows_it_and_asks_nobody_for_anything(tmp_path: Path) -> None:
    written = hostile(tmp_path).encode()
    asked: list[str] = []

    class Pier(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            asked.append(self.path)
            self.send_response(200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.end_headers()
            self.wfile.write(written if self.path == "/page" else b"")

        def log_message(self, *_: object) -> None:
            pass

    server = HTTPServer(("127.0.0.1", 0), Pier)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    address = f"http://127.0.0.1:{server.server_port}/page"
    rules = "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1"
    command = [str(BROWSER), *QUIET, f"--user-data-dir={tmp_path / 'profile'}", rules, "--dump-dom", address]
    done = subprocess.run(command, capture_output=True, timeout=90, encoding="utf-8", errors="replace")
    server.shutdown()
    assert set(asked) <= {"/page", "/favicon.ico"}
    assert "CONSOLE" not in done.stderr
    assert "<title>&lt;/title&gt;&lt;script&gt;1&lt;/script&gt;</title>" in done.stdout
    assert "&lt;script&gt;document.title='gone'&lt;/script&gt; leads" in done.stdout
