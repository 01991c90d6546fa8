"""Three processes behind the proxy that deploy/ describes, with TLS and HTTP/2: one application to whoever uses it."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import time
import urllib.request
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID
from playwright.sync_api import expect

from dry_gauge.demo.cluster import APPLICATION
from dry_gauge.demo.ports import free_port
from tests.conftest import PASSWORD, start_server

EXAMPLE = Path(__file__).parents[2] / "deploy" / "nginx" / "dry-gauge.conf"


def self_signed(directory: Path) -> tuple[Path, Path]:
    """A certificate for localhost and its key."""
    key, name = ec.generate_private_key(ec.SECP256R1()), x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "localhost")])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=2))
        .add_extension(x509.SubjectAlternativeName([x509.DNSName("localhost")]), critical=False)
        .sign(key, hashes.SHA256())
    )
    pem = serialization.Encoding.PEM
    paths = directory / "certificate.pem", directory / "key.pem"
    paths[0].write_bytes(made.public_bytes(pem))
    paths[1].write_bytes(key.private_bytes(pem, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()))
    return paths


@pytest.fixture(scope="module")
def behind(cluster, tmp_path_factory):
    """The shipped example with this machine's ports: its address, and the processes behind it."""
    directory = tmp_path_factory.mktemp("proxy")
    certificate, key = self_signed(directory)
    plain, secure, *ports = (free_port() for _ in range(5))
    processes = [start_server(cluster.url(APPLICATION), port, TRUSTED_PROXIES="127.0.0.1") for port in ports]
    text = EXAMPLE.read_text().replace("gauge.example;", "localhost;")
    for old, new in (
        ("listen 80;", f"listen 127.0.0.1:{plain};"),
        ("listen 443 ", f"listen 127.0.0.1:{secure} "),
        ("/etc/ssl/gauge.example.pem", certificate),
        ("/etc/ssl/private/gauge.example.key", key),
        ("https://$host$", f"https://$host:{secure}$"),
        ("Host $host;", "Host $http_host;"),
        *((f"127.0.0.1:{8000 + i} ", f"127.0.0.1:{port} ") for i, port in enumerate(ports)),
    ):
        assert old in text
        text = text.replace(old, str(new))
    whole = directory / "nginx.conf"
    temporary = "".join(f"{kind}_temp_path {directory}/{kind};" for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi"))
    whole.write_text(
        f"pid {directory}/pid; error_log {directory}/error.log; events {{}} http {{ access_log off; {temporary}\n{text}\n}}"
    )
    nginx = subprocess.Popen(["/usr/sbin/nginx", "-p", str(directory), "-c", str(whole), "-g", "daemon off;"])
    for _ in range(200):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{plain}/", timeout=1).close()
            break
        except urllib.error.URLError as error:
            if "refused" not in str(error):
                break
            assert nginx.poll() is None, (directory / "error.log").read_text()
            time.sleep(0.05)
    yield f"https://localhost:{secure}", f"http://localhost:{plain}", processes
    for process in (nginx, *processes):
        process.terminate()
        process.wait(15)


def test_three_processes_behind_a_proxy_are_one_application(behind, chromium, shop):
    secure, plain, processes = behind
    context = chromium.new_context(
        ignore_https_errors=True,
        viewport={"width": 1280, "height": 800},
        base_url=secure,
        extra_http_headers={"x-forwarded-for": "203.0.113.9"},
    )
    page = context.new_page()
    page.set_default_timeout(15_000)
    page.goto(f"{plain}/sign-in?to=/pocket")  # led to TLS
    assert page.url == f"{secure}/sign-in?to=/pocket"
    assert page.evaluate("performance.getEntriesByType('navigation')[0].nextHopProtocol") == "h2"
    page.fill("#login", shop.logins["lead"])
    page.fill("#password", PASSWORD)
    page.click("button[type=submit]")
    page.wait_for_url("**/pocket")
    assert {one["name"] for one in context.cookies()} == {"__Host-dry-gauge", "__Host-dry-gauge-form", "__Host-dry-gauge-device"}
    assert all(one["secure"] for one in context.cookies())

    looking_on = context.new_page()
    looking_on.goto(f"/visits/{shop.visit}?at=read")
    page.goto(f"/visits/{shop.visit}?at=read")
    for number in range(6):  # whichever process keeps it, the other page hears of it from its own
        page.fill("#q-suction_pressure", str(110 + number))
        page.press("#q-suction_pressure", "Enter")
        expect(page.locator("#timeline")).to_contain_text(f"{110 + number} psig", timeout=30_000)
        expect(looking_on.locator("#timeline")).to_contain_text(f"{110 + number} psig", timeout=15_000)
    os.kill(processes[0].pid, signal.SIGKILL)
    for number in range(6):  # a process less: the outbox and the proxy see to it
        page.fill("#q-suction_pressure", str(120 + number))
        page.press("#q-suction_pressure", "Enter")
        expect(looking_on.locator("#timeline")).to_contain_text(f"{120 + number} psig", timeout=30_000)
    expect(page.locator("#outbox")).to_be_hidden()
    page.goto("/register/trail")
    # What a client says of its own address is not believed; what the proxy says is.
    assert re.search(r"signed in: Chrome on Linux\s+\d\d:\d\d, from 127\.0\.0\.1", page.inner_text("main"))
    context.close()
