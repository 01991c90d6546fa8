"""A visit in Firefox and in WebKit, the engine of every iPhone: by `make engines`, which installs both.

The file's name keeps it out of the usual run: Debian's two browsers are large, and Playwright drives neither.
"""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
import uuid6
from marionette_driver.marionette import Marionette
from selenium import webdriver
from selenium.webdriver.webkitgtk.options import Options
from selenium.webdriver.webkitgtk.service import Service
from sqlalchemy import insert, select

from dry_gauge.demo.cluster import APPLICATION
from dry_gauge.demo.plates import COOLER, plate
from dry_gauge.demo.ports import free_port
from dry_gauge.probes.rig import Rig
from dry_gauge.service.probes import make_token
from dry_gauge.store.models import Unit, Visit
from tests.browser.conftest import SIZES
from tests.browser.steps import SEVEN, kept_bodies
from tests.conftest import FACTS, PASSWORD, start_server
from tests.probing import weighing

MINI_BROWSER = "/usr/lib/x86_64-linux-gnu/webkit2gtk-4.1/MiniBrowser"
CSS, ENTER, SECONDS = "css selector", "\ue007", 40


class Engine:
    """What both drivers do under the same name; what one is about to touch or see is waited for."""

    def __init__(self, driver: Any, address: str, pictures: Path) -> None:
        self.driver, self.address, self.pictures = driver, address, pictures

    def until(self, holds: Callable[[], Any], what: str) -> Any:
        """Wait until it holds; says what was seen instead."""
        began, last = time.monotonic(), ""
        while time.monotonic() - began < SECONDS:
            try:
                found = holds()
            except Exception as error:
                last = f"{type(error).__name__}: {error}"[:300]
            else:
                if found:
                    return found
            time.sleep(0.1)
        self.picture("late")
        raise AssertionError(f"{what}: not within {SECONDS} s at {self.run('return location.href')} {last}")

    def find(self, css: str) -> Any:
        return self.until(lambda: self.driver.find_element(CSS, css), css)

    def click(self, css: str) -> None:
        def clicked() -> bool:
            one = self.driver.find_element(CSS, css)
            self.run("arguments[0].scrollIntoView({block: 'center'})", one)
            one.click()
            return True

        self.until(clicked, f"click on {css}")

    def fill(self, css: str, text: str) -> None:
        one = self.find(css)
        one.clear()
        one.send_keys(text)

    def type_here(self, text: str) -> None:
        """Into whatever has the focus, as a thumb does."""
        self.run("return document.activeElement").send_keys(text)

    def sees(self, text: str, css: str = "body") -> None:
        self.until(lambda: text in self.words(css), f"'{text}' in {css}")

    def words(self, css: str = "body") -> str:
        return str(self.run(f"return [...document.querySelectorAll({json.dumps(css)})].map((one) => one.innerText).join(' ')"))

    def run(self, script: str, *values: Any) -> Any:
        raise NotImplementedError

    def go(self, path: str) -> None:
        raise NotImplementedError

    def picture(self, name: str) -> None:
        raise NotImplementedError

    def size(self, width: int, height: int) -> None:
        raise NotImplementedError

    def end(self) -> None:
        self.driver.quit()


class WebKit(Engine):
    """Debian's WebKitGTK by its own driver."""

    def __init__(self, address: str, pictures: Path) -> None:
        options = Options()
        options.binary_location = MINI_BROWSER
        options.add_argument("--automation")
        service = Service(shutil.which("WebKitWebDriver"))
        super().__init__(webdriver.WebKitGTK(options=options, service=service), address, pictures)

    def run(self, script: str, *values: Any) -> Any:
        return self.driver.execute_script(script, *values)

    def go(self, path: str) -> None:
        self.driver.get(self.address + path)

    def picture(self, name: str) -> None:
        self.driver.save_screenshot(str(self.pictures / f"webkit-{name}.png"))

    def size(self, width: int, height: int) -> None:
        self.driver.set_window_size(width, height)


class Firefox(Engine):
    """Debian's Firefox by Marionette, which it brings along."""

    def __init__(self, address: str, pictures: Path) -> None:
        driver = Marionette(bin=shutil.which("firefox-esr"), headless=True, gecko_log=str(pictures / "firefox.log"))
        driver.start_session()
        super().__init__(driver, address, pictures)

    def run(self, script: str, *values: Any) -> Any:
        return self.driver.execute_script(script, script_args=values, sandbox=None)

    def go(self, path: str) -> None:
        self.driver.navigate(self.address + path)

    def picture(self, name: str) -> None:
        (self.pictures / f"firefox-{name}.png").write_bytes(self.driver.screenshot(format="binary", full=False))

    def size(self, width: int, height: int) -> None:
        self.driver.set_window_rect(width=width, height=height + 85)  # its own bars, drawn without a screen as well


@pytest.fixture(scope="session")
def pictures(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Where they go: PICTURES, or nowhere to stay."""
    made = Path(os.environ.get("PICTURES") or tmp_path_factory.mktemp("pictures"))
    made.mkdir(parents=True, exist_ok=True)
    return made


@pytest.fixture(scope="session", autouse=True)
def a_screen() -> Iterator[None]:
    """WebKit draws only on a screen: a made one where there is none."""
    if os.environ.get("DISPLAY"):
        yield
        return
    with subprocess.Popen(["Xvfb", "-displayfd", "1", "-screen", "0", "1400x1000x24"], stdout=subprocess.PIPE) as screen:
        assert screen.stdout
        os.environ["DISPLAY"] = f":{screen.stdout.readline().decode().strip()}"
        yield
        del os.environ["DISPLAY"]
        screen.terminate()


class Served:
    """A server that can be gone for a while."""

    def __init__(self, url: str) -> None:
        self.url, self.port = url, free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.come()

    def come(self) -> None:
        self.process = start_server(self.url, self.port)

    def go(self) -> None:
        self.process.terminate()
        self.process.wait(15)


@pytest.fixture
def served(cluster: Any) -> Iterator[Served]:
    one = Served(cluster.url(APPLICATION))
    yield one
    one.go()


@pytest.fixture(params=[Firefox, WebKit], ids=["firefox", "webkit"])
def engine_there(request: pytest.FixtureRequest, served: Served, pictures: Path) -> Iterator[Engine]:
    one = request.param(served.address, pictures)
    yield one
    one.end()


@pytest.fixture(params=["desk", "phone"])
def there(engine_there: Engine, request: pytest.FixtureRequest) -> Engine:
    engine_there.size(*SIZES[request.param])
    return engine_there


def sign_in(one: Engine, login: str) -> None:
    one.go("/sign-in")
    one.fill("#login", login)
    one.fill("#password", PASSWORD)
    one.click("button[type=submit]")
    one.until(lambda: one.run("return location.pathname") == "/", "the board")


def read_seven(one: Engine) -> None:
    """First field, Enter, Enter, Enter."""
    one.click(f"#q-{next(iter(SEVEN))}")
    for name, value in SEVEN.items():
        one.until(lambda name=name: one.run("return document.activeElement.id") == f"q-{name}", f"focus on {name}")
        one.type_here(value + ENTER)
    one.sees("kept", "#said-liquid_pressure")


def test_a_visit_is_read_and_judged(there, shop):
    sign_in(there, shop.logins["technician"])
    there.picture("board")
    there.go(f"/visits/{shop.visit}?at=read")
    read_seven(there)
    there.fill("#q-liquid_line_temp", "100" + ENTER)
    there.until(lambda: "Waits for" in there.run("return document.querySelector('.verdict').textContent"), "a verdict")
    assert there.run("return document.querySelectorAll('svg.ladder .plate[data-gap=subcooling]').length") >= 1
    wide = there.run("return [document.documentElement.scrollWidth, innerWidth]")
    assert wide[0] <= wide[1], f"wider than its window: {wide}"
    there.picture(f"read-{'phone' if wide[1] < 600 else 'desk'}")


def test_what_is_typed_without_a_server_waits_through_a_reload_and_arrives_once(there, served, shop, owner):
    sign_in(there, shop.logins["technician"])
    there.go(f"/visits/{shop.visit}?at=read")
    there.until(lambda: there.run("return !!navigator.serviceWorker?.controller"), "a service worker")
    there.go(f"/visits/{shop.visit}?at=read")
    there.fill("#q-outdoor_air_temp", "90" + ENTER)
    there.sees("kept", "#said-outdoor_air_temp")
    served.go()
    for name in ("suction_pressure", "suction_line_temp"):
        there.fill(f"#q-{name}", SEVEN[name] + ENTER)
        there.sees("waiting to send", f"#said-{name}")
    there.go(f"/visits/{shop.visit}?at=read")  # drawn from what the browser kept
    there.sees("waiting to send", "#said-suction_pressure")
    there.until(lambda: "as it was at" in there.run("return document.querySelector('#outbox ul').textContent"), "of when it is")
    assert there.run("return document.getElementById('q-suction_pressure').value") == "120"
    there.picture("waiting")
    served.come()
    there.until(lambda: there.run("return document.getElementById('outbox').hidden"), "everything sent")
    there.sees("3 entries", "#timeline h2")
    assert [body["quantity"] for body in kept_bodies(owner, shop)] == [
        "outdoor_air_temp",
        "suction_pressure",
        "suction_line_temp",
    ]


def test_a_visit_is_opened_without_a_server_on_the_page_that_was_kept_for_it(engine_there, served, shop, owner):
    with owner.begin() as connection:
        site = connection.execute(select(Unit.site_id).where(Unit.id == shop.unit)).scalar_one()
        beside = uuid6.uuid7()
        connection.execute(insert(Unit).values(shop_id=shop.id, id=beside, site_id=site, tag="U-2", facts=FACTS))
    sign_in(engine_there, shop.logins["technician"])
    kept = f"return window.kept || (caches.match('/units/{beside}').then((there) => {{ window.kept = !!there; }}), false)"
    engine_there.until(lambda: engine_there.run(kept), "the card of the unit beside")
    served.go()
    engine_there.go("/here")
    engine_there.sees("No signal", ".without-signal")
    engine_there.click("form[data-opens] button")
    engine_there.until(lambda: "/visits/" in engine_there.run("return location.pathname"), "its page")
    engine_there.sees("1 waiting to send", "#outbox")
    engine_there.go(engine_there.run("return location.pathname") + "?at=read")
    engine_there.fill("#q-suction_pressure", SEVEN["suction_pressure"] + ENTER)
    engine_there.sees("waiting to send", "#said-suction_pressure")
    served.come()
    engine_there.until(lambda: engine_there.run("return document.getElementById('outbox').hidden"), "everything sent")
    engine_there.sees("1 entry", "#timeline h2")
    with owner.connect() as connection:
        (visit,) = connection.execute(select(Visit.id).where(Visit.unit_id == beside)).scalars()
    assert str(visit) in engine_there.run("return location.pathname")


def test_a_file_goes_with_its_form(engine_there, shop, tmp_path):
    photo = tmp_path / "label.jpg"
    photo.write_bytes(plate(COOLER))
    sign_in(engine_there, shop.logins["lead"])
    engine_there.go(f"/units/{shop.unit}")
    engine_there.find("#label-photo").send_keys(str(photo))
    engine_there.click("form:has(#label-photo) button")
    engine_there.sees("Compare each line", ".lead")


def test_a_live_scale_is_shown_and_taken(engine_there, served, shop, as_shop):
    with as_shop(shop) as connection:
        token = make_token(connection, shop.someone(), shop.visit)
    sign_in(engine_there, shop.logins["technician"])
    engine_there.go(f"/visits/{shop.visit}?at=read")
    with weighing(served.address, shop.visit, token, Rig(15.0, 60.0, 2.4)):
        engine_there.sees("probes live", "#live-state")


def test_signing_out_leaves_nothing_to_come_back_to(engine_there, shop):
    sign_in(engine_there, shop.logins["technician"])
    engine_there.go(f"/visits/{shop.visit}?at=read")
    engine_there.sees("Outdoor air")
    engine_there.click(".menu summary")
    engine_there.click("form[action='/sign-out'] button")
    engine_there.until(lambda: engine_there.run("return location.pathname") == "/sign-in", "the door")
    engine_there.run("history.back()")
    shown = "return document.documentElement.hidden ? '' : document.body.innerText"  # what is hidden has words all the same
    for _ in range(20):
        assert "Outdoor air" not in engine_there.run(shown)
        time.sleep(0.1)
    engine_there.go(f"/visits/{shop.visit}?at=read")
    engine_there.until(lambda: engine_there.run("return location.pathname") == "/sign-in", "the door")
