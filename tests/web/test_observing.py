"""What an installation tells of itself: a line a request, numbers for whoever may ask, and no secret in either."""

from __future__ import annotations

import json
import logging
import socket
from time import sleep

import httpx2
import pytest
from sqlalchemy import text
from sqlalchemy.exc import IntegrityError

from dry_gauge.demo.cluster import APPLICATION
from dry_gauge.demo.ports import free_port
from dry_gauge.web.observing import _Line
from tests.conftest import PASSWORD, start_server
from tests.web.calls import Browser, read

TOKEN = "a token for whoever looks at the numbers"


@pytest.fixture(scope="module")
def observed(cluster, tmp_path_factory):
    """A server that writes every line, and where it writes them."""
    log, port = tmp_path_factory.mktemp("log") / "lines", free_port()
    with log.open("wb") as lines:
        process = start_server(cluster.url(APPLICATION), port, log=lines, LOG_LEVEL="INFO", METRICS_TOKEN=TOKEN)
        yield f"http://127.0.0.1:{port}", log
        process.terminate()
        process.wait(10)


def line_of(log, request_id):
    """The line of one request: it is written after the answer went out."""
    for _ in range(100):
        lines = [json.loads(line) for line in log.read_text().splitlines() if line.endswith("}")]
        found = [line for line in lines if line.get("request_id") == request_id]
        if found:
            return found[0]
        sleep(0.1)
    raise AssertionError(f"no line of {request_id}")


def test_each_request_has_a_line_that_says_who_and_not_what(observed, shop):
    server, log = observed
    browser = Browser(server)
    browser.sign_in(shop.logins["technician"])
    browser.get(f"/visits/{shop.visit}?at=read&q=secret-words")
    answer = read(browser, shop, "118.25")
    mine = line_of(log, answer.headers["x-request-id"])
    assert (mine["message"], mine["status"], mine["level"]) == ("POST /visits/{visit_id}/entries", 200, "INFO")
    assert (mine["shop"], mine["person"]) == (str(shop.id), str(shop.people["technician"]))
    said = log.read_text()
    for secret in ("secret-words", "118.25", PASSWORD, browser.token, *browser.cookies.values()):
        assert secret not in said


def test_a_connection_that_breaks_halfway_is_no_error_of_ours(observed, shop):
    server, log = observed
    browser = Browser(server)
    browser.sign_in(shop.logins["technician"])
    browser.get(f"/visits/{shop.visit}")
    cookies = "; ".join(f"{name}={value}" for name, value in browser.cookies.items())
    with socket.create_connection(("127.0.0.1", int(server.rpartition(":")[2]))) as line:
        line.sendall(
            f"POST /visits/{shop.visit}/entries HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: {cookies}\r\n"
            f"X-CSRFToken: {browser.token}\r\nContent-Type: application/x-www-form-urlencoded\r\n"
            "Content-Length: 300\r\n\r\nkind=reading&value=".encode()
        )
    for _ in range(100):
        lines = [json.loads(line) for line in log.read_text().splitlines() if line.endswith("}")]
        if any(line.get("status") == 499 for line in lines):
            break
        sleep(0.1)
    assert any(line.get("status") == 499 for line in lines)
    assert not any(line["level"] == "ERROR" for line in lines)


def test_a_failing_statement_logs_neither_its_values_nor_the_row(owner, shop):
    role = "".join(("cap", "tain"))  # a trace quotes the line, but not what it holds
    with pytest.raises(IntegrityError) as failed, owner.begin() as connection:
        connection.execute(text("UPDATE person SET role = :role WHERE shop_id = :shop"), {"role": role, "shop": shop.id})
    record = logging.LogRecord("x", logging.ERROR, "", 0, "it failed: %s", (failed.value,), failed._excinfo)
    line = _Line(["message"]).format(record)
    assert "argon2" not in line
    assert role not in line
    assert "violates check constraint" in json.loads(line)["exc_info"]


def test_numbers_are_for_whoever_has_the_token(observed, server):
    base, _ = observed
    for url, token in ((base, "guess"), (base, TOKEN[:-1]), (server, TOKEN)):
        assert httpx2.get(f"{url}/metrics", headers={"authorization": f"Bearer {token}"}).status_code == 404
    found = httpx2.get(f"{base}/metrics", headers={"authorization": f"Bearer {TOKEN}"})
    assert found.headers["content-type"].startswith("text/plain")
    for name in (
        'dry_gauge_requests_total{method="GET",route="/sign-in",status="200"}',
        "dry_gauge_streams 0",
        "dry_gauge_request_seconds_bucket",
        "dry_gauge_database_connections",
    ):
        assert name in found.text
