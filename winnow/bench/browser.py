"""Headless Chromium, for the benchmark and the tests."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from tempfile import TemporaryDirectory

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

CHROMIUM = "/usr/bin/chromium"
CHROMEDRIVER = "/usr/bin/chromedriver"

FLAGS = (
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--hide-scrollbars",
)


@contextmanager
def chromium(
    width: int = 1280, height: int = 800, *, network: bool = False, flags: Sequence[str] = ()
) -> Iterator[webdriver.Chrome]:
    """A fresh browser whose page has the given size in CSS pixels. network: it logs what it asks for. flags: further
    ones of its command line."""
    with TemporaryDirectory(ignore_cleanup_errors=True) as profile:
        options = webdriver.ChromeOptions()
        options.binary_location = os.environ.get("WINNOW_CHROMIUM", CHROMIUM)
        for flag in (*FLAGS, *flags, f"--user-data-dir={profile}", f"--window-size={width},{height}"):
            options.add_argument(flag)
        logged = {"browser": "ALL", **({"performance": "ALL"} if network else {})}
        options.set_capability("goog:loggingPrefs", logged)
        driver = webdriver.Chrome(options=options, service=Service(CHROMEDRIVER))
        set_size(driver, width, height)
        try:
            yield driver
        finally:
            driver.quit()


def set_size(driver: webdriver.Chrome, width: int, height: int) -> None:
    """The page of the current tab gets this size in CSS pixels, which are the display's."""
    driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False},
    )
