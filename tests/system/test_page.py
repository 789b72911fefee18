"""The page: in a real browser it asks nobody for anything, shows hostile names as text, and can be worked with."""

from __future__ import annotations

import itertools
import re
import shutil
import threading
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path

import pytest

from logarithm.logbook.reading import read_logbook
from logarithm.logbook.records import ContenderRecord, Header, StudyRecord, Trial
from logarithm.logbook.writing import write_logbook
from logarithm.report.page.page import page
from logarithm.statistics.analysis import Analysis

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
    return page(Analysis(read_logbook(path)).findings())


def test_the_page_holds_everything_and_escapes_it(tmp_path: Path) -> None:
    written = hostile(tmp_path)
    # The data and the one script of ours, which the page's policy knows by its hash.
    assert re.findall(r"<script[^>]*>", written) == ['<script type="application/json" id="chart-data">', "<script>"]
    assert "script-src 'sha256-" in written
    assert "innerHTML" not in written
    assert len(written) < 1_000_000
    assert "<img" not in written
    assert written.count("<svg") == 3
    assert "</pre><script>" not in written
    addresses = re.findall(r"(?:href|src)=\"([^#][^\"]*)\"", re.sub(r"xmlns[^ >]*", "", written))
    assert not addresses
    assert "prefers-color-scheme: dark" in written
    assert "@media print" in written


def served(written: str) -> tuple[HTTPServer, list[str]]:
    """A server of one page, and all that it is asked for."""
    asked: list[str] = []

    class Pier(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            asked.append(self.path)
            self.send_response(200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.end_headers()
            self.wfile.write(written.encode() if self.path == "/page" else b"")

        def log_message(self, *_: object) -> None:
            pass

    server = HTTPServer(("127.0.0.1", 0), Pier)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server, asked


@pytest.fixture
def opened(tmp_path: Path):
    """Opens a page in a browser; at the end its console must be empty, and nobody else may have been asked."""
    webdriver = pytest.importorskip("selenium.webdriver", reason="Selenium is not installed: pip install selenium")
    driver = shutil.which("chromedriver")
    if BROWSER is None or driver is None:
        pytest.skip("no Chromium with its chromedriver here")
    options = webdriver.ChromeOptions()
    options.binary_location = BROWSER
    for word in (*QUIET, "--window-size=1280,800", f"--user-data-dir={tmp_path / 'profile'}"):
        options.add_argument(word)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    browser = webdriver.Chrome(options=options, service=webdriver.ChromeService(driver))
    servers = []

    def at(written: str):
        servers.append(served(written))
        browser.get(f"http://127.0.0.1:{servers[-1][0].server_port}/page")
        return browser

    try:
        yield at
        assert [entry for entry in browser.get_log("browser") if "favicon" not in entry["message"]] == []
        assert all(set(asked) <= {"/page", "/favicon.ico"} for _, asked in servers)
    finally:
        browser.quit()
        for server, _ in servers:
            server.shutdown()


def test_a_browser_shows_hostile_names_as_text(tmp_path: Path, opened) -> None:
    browser = opened(hostile(tmp_path))
    assert browser.title == "</title><script>1</script>"
    assert "<script>document.title='gone'</script>" in browser.find_element("css selector", ".legend").text


BAY = [("sweep", 40.0, 1.0, 900.0), ("every pair", 2.0, 2.0, 50.0), ("grid", 200.0, 1.0, 4000.0)]


def bay(folder: Path) -> str:
    """The page of a study of two families in which leaders change."""
    trials = [
        Trial(contender=name, family=family, size=n, heat=heat, elapsed=fixed + scale * n**power * (1 + heat / 500))
        for family in ("calm", "rough")
        for heat in range(1, 6)
        for name, scale, power, fixed in BAY
        for n in (8, 16, 32, 64, 128, 256, 512)
    ]
    path = folder / "bay.jsonl"
    contenders = [ContenderRecord(name=name) for name, *_ in BAY]
    write_logbook(path, [Header(), StudyRecord(name="bay", question="Who is quickest?"), *contenders, *trials])
    return page(Analysis(read_logbook(path)).findings())


def test_the_chart_can_be_worked_with(tmp_path: Path, opened) -> None:
    browser = opened(bay(tmp_path))
    one, every = (
        (lambda css: browser.find_element("css selector", css)),
        (lambda css: browser.find_elements("css selector", css)),
    )
    assert not one("figure.still").is_displayed()
    curves = "#plot svg g path[fill=none]"
    assert [tab.text for tab in every("[role=tab]")] == ["calm", "rough"]
    assert len(every(curves)) == 3
    every(".legend button")[0].click()
    assert (len(every(curves)), every(".legend button")[0].get_attribute("aria-pressed")) == (2, "false")
    every(".legend button")[0].click()
    # By keyboard: the first point, the next one, another contender.
    picture = one("#plot svg")
    browser.execute_script("arguments[0].focus()", picture)
    for key, told in (("ArrowRight", "n = 8"), ("ArrowRight", "n = 16"), ("ArrowDown", "every pair\nn = 16")):
        browser.execute_script(
            "arguments[0].dispatchEvent(new KeyboardEvent('keydown', {key: arguments[1], bubbles: true}))", picture, key
        )
        assert told in one(".tip").text
    # By pointer: whatever is nearest.
    mark = one("#plot svg g circle")
    browser.execute_script(
        "const box = arguments[1].getBoundingClientRect(); arguments[0].dispatchEvent(new PointerEvent('pointermove', "
        "{clientX: box.x + 3, clientY: box.y + 3, bubbles: true}))",
        picture,
        mark,
    )
    assert "n = 8" in one(".tip").text
    # The slider says who leads.
    for place, leader in ((0, "every pair"), (1000, "sweep")):
        browser.execute_script(
            "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input'))", one("#at"), place
        )
        assert one("output b").text == leader
    # Zoom, another family, other axes, ratios.
    ticks = [each.text for each in every("#plot svg text")]
    zoom = next(each for each in every(".chart .row button") if "sweep over every pair" in each.text)
    zoom.click()
    assert [each.text for each in every("#plot svg text")] != ticks
    every("[role=tab]")[1].click()
    assert every("[role=tab]")[1].get_attribute("aria-selected") == "true"
    next(each for each in every(".chart button") if each.text == "logarithmic cost").click()
    browser.execute_script(
        "arguments[0].value = 'ratio'; arguments[0].dispatchEvent(new Event('change'))", one("#view")
    )
    assert any("times as fast as" in each.text for each in every("#plot svg text"))
    # Tables are sorted by the column that is pressed.
    table = next(each for each in every("table") if each.find_elements("css selector", "th button"))
    table.find_element("css selector", "th button").click()
    first = [row.text.split()[0] for row in table.find_elements("css selector", "tbody tr")]
    assert first == sorted(first)


def test_whatever_can_be_used_has_a_name(tmp_path: Path, opened) -> None:
    browser = opened(bay(tmp_path))
    nameless = browser.execute_script(
        "return [...document.querySelectorAll('button, select, input, a, [role=img], [role=region]')].filter(each => "
        "!(each.textContent.trim() || each.ariaLabel || each.labels?.length || each.querySelector('title')))"
        ".map(each => each.outerHTML)"
    )
    assert nameless == []
    levels = browser.execute_script("return [...document.querySelectorAll('h1, h2, h3')].map(each => +each.tagName[1])")
    assert levels[0] == 1
    assert all(after - before <= 1 for before, after in itertools.pairwise(levels))


def test_without_scripts_the_page_shows_still_pictures(tmp_path: Path) -> None:
    written = bay(tmp_path)
    assert written.count('<figure class="still"') == 3
    assert "sweep overtakes every pair at n = " in written
