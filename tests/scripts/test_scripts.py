"""The script modules that hold logic, run by the Node that comes with the browser driver."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest
from playwright._impl._driver import compute_driver_executable

from dry_gauge.web.render import STATIC
from scripts import texts

HERE = Path(__file__).parent
NODE = compute_driver_executable()[0]


@pytest.mark.parametrize("name", sorted(one.name for one in HERE.glob("*.test.mjs")))
def test_modules_decide_as_they_should(name):
    done = subprocess.run([NODE, "--test", str(HERE / name)], capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stdout[-3000:]


def test_every_text_stands_in_the_catalogue():
    assert texts.CATALOGUE.read_text() == texts.catalogue(), "a text has changed: make texts"


@pytest.mark.parametrize("script", sorted(STATIC.glob("scripts/*.js")), ids=lambda script: script.name)
def test_every_module_parses_and_says_what_it_is_for(script):
    text = script.read_text()
    assert text.startswith("// ")
    done = subprocess.run([NODE, "--check", "--input-type=module"], input=text, capture_output=True, text=True, timeout=60)
    assert done.returncode == 0, done.stderr
    assert "window." not in text.replace("window.matchMedia", "").replace("window.addEventListener", "").replace(
        "window.dispatchEvent", ""
    ).replace("window.devicePixelRatio", ""), "modules import what they use"
