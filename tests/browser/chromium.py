"""The browser that tests, benches and screenshots drive: Debian's Chromium without windows."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Browser, BrowserType

#: The headless shell is Chromium without what draws windows: a third less work. Where only the whole is, it does too.
PROGRAMS = ("/usr/bin/chromium-headless-shell", "/usr/bin/chromium")
#: Nothing is fetched behind the tests' back; as root, which containers are, it starts without its sandbox only; letters are
#: as wide as in a window (the shell would fit them to whole pixels).
QUIET = (
    "--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update",
    "--font-render-hinting=slight",
)  # fmt: skip
#: What the whole asks nobody for, and the shell denies unasked.
GRANTED = ("screen-wake-lock",)


def launch(kind: BrowserType, *more: str) -> Browser:
    """Chromium, started with our arguments and ``more``; playwright says what is missing where it is not installed."""
    program = next((path for path in PROGRAMS if Path(path).exists()), PROGRAMS[0])
    return kind.launch(executable_path=program, args=[*QUIET, *more])
