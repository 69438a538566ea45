"""Several windows on one job, lines that break, and pages of other sites."""

from __future__ import annotations

import http.server
import re
import threading
from collections.abc import Iterator

import pytest
from acting import ask_for_card, card, pick, rod, saved, sheet
from browsing import FLAGS
from playwright.sync_api import APIResponse, Browser, Page, Route, expect


def window(page: Page) -> Page:
    """Return another window on the same job."""
    other = page.context.new_page()
    other.goto(page.url)
    expect(sheet(other)).to_be_visible()
    return other


def test_another_window_follows_at_once_and_keeps_what_it_was_looking_at(demo: Page) -> None:
    other = window(demo)
    pick(other, "Skirting, south-east")
    other.get_by_role("button", name="Cutting list", exact=True).click()
    listed = other.get_by_role("main")
    pick(demo, "Skirting, south-east")
    card(demo).get_by_label("Stand-off").fill("25")
    demo.keyboard.press("Enter")
    saved(demo, 1)
    expect(other.get_by_role("banner")).to_contain_text("saved · 1 change")
    ask_for_card(other)
    expect(card(other).get_by_label("Stand-off")).to_have_value("25")
    expect(other.get_by_role("status").filter(has_text="In another window")).to_contain_text("changed stand off of Skirting, south-east")
    # The list follows, and the rod below it; the choice stays.
    expect(rod(other)).to_contain_text("Skirting, south-east")
    expect(listed.get_by_role("row").filter(has=other.get_by_text("SE1", exact=True))).to_contain_text("875")
    # Both ways: what the other one does comes here, and each may undo it.
    card(other).get_by_label("Lift").fill("12")
    other.keyboard.press("Enter")
    saved(demo, 2)
    expect(card(demo).get_by_label("Lift")).to_have_value("12")
    demo.keyboard.press("Escape")
    demo.get_by_role("button", name="Undo").click()
    expect(card(other).get_by_label("Lift")).to_have_value("0")
    other.close()


def test_the_list_of_jobs_follows_too(demo: Page) -> None:
    other = demo.context.new_page()
    other.goto("/")
    demo.get_by_label("Name of the job").fill("Kestrel Slip, north")
    demo.keyboard.press("Enter")
    expect(other.get_by_role("link", name="Kestrel Slip, north")).to_be_visible()
    other.close()


def test_a_list_that_was_on_its_way_when_a_job_changed_is_asked_for_again(demo: Page) -> None:
    other = demo.context.new_page()
    held: list[tuple[Route, APIResponse]] = []

    def slow(route: Route) -> None:
        if held:
            route.continue_()
        else:
            held.append((route, route.fetch()))

    other.route("**/api/jobs", slow)
    # Its stream of events is refused at first, as while the database is away.
    other.route("**/api/events", lambda route: route.fulfill(status=503), times=1)
    with other.expect_response("**/api/events"):
        other.goto("/")
    with other.expect_response("**/api/events"):
        pass
    demo.get_by_label("Name of the job").fill("Kestrel Slip, south")
    demo.keyboard.press("Enter")
    saved(demo, 1)
    other.wait_for_timeout(300)
    route, answer = held[0]
    route.fulfill(response=answer)
    expect(other.get_by_role("link", name="Kestrel Slip, south")).to_be_visible()
    other.close()


def test_a_window_that_was_cut_off_catches_up(demo: Page) -> None:
    other = window(demo)
    demo.context.set_offline(True)
    demo.context.set_offline(False)
    demo.route("**/events", lambda route: route.abort())
    pick(other, "Skirting, south-east")
    for lift in ("5", "6", "7"):
        card(other).get_by_label("Lift").fill(lift)
        other.keyboard.press("Enter")
        saved(other, int(lift) - 4)
    demo.unroute("**/events")
    # As when it is looked at again.
    demo.evaluate("Object.defineProperty(document, 'visibilityState', {value: 'hidden', configurable: true})")
    demo.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
    demo.evaluate("Object.defineProperty(document, 'visibilityState', {value: 'visible', configurable: true})")
    demo.evaluate("document.dispatchEvent(new Event('visibilitychange'))")
    saved(demo, 3)
    other.close()


def test_a_change_waits_while_it_cannot_be_saved_and_is_made_once(demo: Page) -> None:
    answers: list[str] = []

    def broken(route: Route) -> None:
        if len(answers) < 3:
            # It is made, and the answer is lost; then the database is away.
            if not answers:
                route.fetch()
            answers.append("broken")
            if len(answers) == 2:
                detail = "The database does not answer just now."
                title = "The database does not answer"
                problem = {"status": 503, "title": title, "detail": detail, "code": "database", "place": "", "changes": [], "sentence": []}
                route.fulfill(status=503, json=problem, headers={"Retry-After": "3"})
            else:
                route.abort()
        else:
            route.continue_()

    demo.route("**/edits", broken)
    pick(demo, "Skirting, south-east")
    demo.keyboard.press("h")
    received = demo.get_by_role("alert").filter(has_text="not saved yet")
    expect(received).to_contain_text("the database does not answer")
    received.get_by_role("button", name="Send now").click()
    saved(demo, 1)
    expect(received).not_to_be_visible()
    demo.get_by_role("button", name=re.compile("saved")).click()
    expect(demo.get_by_role("dialog").get_by_text("changed facing")).to_have_count(1)


def test_a_change_that_waits_can_be_discarded(demo: Page) -> None:
    demo.route("**/edits", lambda route: route.abort())
    pick(demo, "Skirting, south-east")
    demo.keyboard.press("h")
    demo.get_by_role("button", name="Discard my change").click()
    expect(demo.get_by_role("alert")).to_contain_text("discarded")
    demo.unroute("**/edits")
    demo.keyboard.press("h")
    saved(demo, 1)


PAGE = """<!doctype html><title>Elsewhere</title><script>
const at = location.hash.slice(1), file = JSON.stringify({format: 'slow-ribbon-job', version: 2, name: 'Planted'});
async function tell(name, work) {
  try {
    const got = await work();
    document.title += ` ${name}:${got.type}:${got.status}`;
  } catch (error) {
    document.title += ` ${name}:failed`;
  }
}
(async () => {
  await tell('read', () => fetch(at + '/api/jobs'));
  await tell('file', () => fetch(at + '/api/jobs/file', {method: 'POST', mode: 'no-cors', body: file}));
  const form = new FormData(); form.append('file', new Blob(['0,0\\n1,1\\n']), 'a.csv');
  await tell('import', () => fetch(at + '/api/imports', {method: 'POST', mode: 'no-cors', body: form}));
  await tell('copy', () => fetch(at + '/api/jobs/kestrel-slip/copy', {method: 'POST', mode: 'no-cors'}));
  await tell('edit', () => fetch(at + '/api/jobs/kestrel-slip/edits', {method: 'POST', headers: {'Content-Type': 'application/json'},
    body: JSON.stringify({base: 1, edits: [{kind: 'rename_job', name: 'Planted'}]})}));
  document.title += ' done';
})();
</script>"""


@pytest.fixture
def elsewhere() -> Iterator[int]:
    """The port of another site's page."""

    class Site(http.server.BaseHTTPRequestHandler):
        def do_GET(self) -> None:  # named by the library
            self.send_response(200)
            self.send_header("Content-Type", "text/html")
            self.end_headers()
            self.wfile.write(PAGE.encode())

        def log_message(self, *_: object) -> None:
            """Say nothing."""

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Site)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server.server_port
    server.shutdown()


def test_pages_of_other_sites_read_and_write_nothing(browser: Browser, address: str, elsewhere: int) -> None:
    port = address.rsplit(":", 1)[1]
    rules = "--host-resolver-rules=MAP evil.example 127.0.0.1, MAP rebound.example 127.0.0.1"
    hostile = browser.browser_type.launch(executable_path="/usr/bin/chromium", args=[*FLAGS, rules])
    try:
        page = hostile.new_page()
        for site in (f"http://evil.example:{elsewhere}", f"http://127.0.0.1:{elsewhere}"):
            page.goto("about:blank")
            page.goto(f"{site}/#{address}")
            expect(page).to_have_title(re.compile("done"))
            assert "read:failed" in page.title()
            assert "edit:failed" in page.title()
            assert ":2" not in page.title()
        # The name of another site that is let point here later (DNS rebinding) is the page's own origin, and is not answered.
        answer = page.goto(f"http://rebound.example:{port}/")
        assert answer is not None
        assert answer.status == 421
        status = page.evaluate(
            """fetch('/api/jobs', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: '{"name":"x"}'})
            .then(answer => answer.status)"""
        )
        assert status == 421
        jobs = page.request.get(f"{address}/api/jobs").json()
        assert [(job["id"], job["changes"]) for job in jobs] == [("kestrel-slip", 0), ("kestrel-slip-hall", 0)]
    finally:
        hostile.close()
