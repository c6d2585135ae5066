"""A browser without a window, for tests of pages; they are skipped where no browser is installed."""

import os
import shutil

import pytest


def start(width=1280, height=800):
    """Chromium, driven; or skip the test, unless UNDERSTEP_BROWSER says that there must be one."""
    browser, driver = shutil.which("chromium"), shutil.which("chromedriver")
    required = os.environ.get("UNDERSTEP_BROWSER") == "required"
    if not (browser and driver):
        if required:
            raise RuntimeError("no chromium, or no chromedriver")
        pytest.skip("no chromium with its driver")
    from selenium import webdriver
    from selenium.common.exceptions import WebDriverException
    from selenium.webdriver.chrome.options import Options
    from selenium.webdriver.chrome.service import Service

    options = Options()
    options.binary_location = browser
    for word in ("headless=new", "no-sandbox", "disable-gpu", "disable-dev-shm-usage"):
        options.add_argument(f"--{word}")
    options.add_argument(f"--window-size={width},{height}")
    options.set_capability("goog:loggingPrefs", {"browser": "ALL", "performance": "ALL"})
    try:
        return webdriver.Chrome(options=options, service=Service(driver))
    except WebDriverException:
        if required:
            raise
        pytest.skip("chromium does not start here")


def requests(driver):
    """The addresses that were asked for since the last time."""
    import json

    found = []
    for entry in driver.get_log("performance"):
        told = json.loads(entry["message"])["message"]
        if told["method"] == "Network.requestWillBeSent":
            found.append(told["params"]["request"]["url"])
    return found
