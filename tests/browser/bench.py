"""What the tests of pages share: a board that `rlx serve` serves, a browser, checks that are counted."""
import os, re, subprocess, sys, tempfile, time
from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service
from selenium.webdriver.common.by import By

os.environ.setdefault("SE_OFFLINE", "true")
counts = {True: 0, False: 0}


def is_so(name, wanted, got):
    """One check; what is wrong is printed."""
    counts[wanted == got] += 1
    if wanted != got:
        print(f"FAIL {name}\n  wanted: {wanted!r}\n  got:    {got!r}")


def wait_for(name, ask, wanted=True, seconds=10):
    """Asks until it is so; the last answer counts."""
    end = time.monotonic() + seconds
    while (got := ask()) != wanted and time.monotonic() < end:
        time.sleep(0.05)
    is_so(name, wanted, got)


def end():
    print(f"{counts[True]} passed, {counts[False]} failed")
    sys.exit(1 if counts[False] else 0)


class Board:
    """A simulated board behind a web server; what it prints can be waited for."""

    def __init__(self, rlx, lexicon, *options):
        self.out = tempfile.NamedTemporaryFile("w+", suffix=".out")
        self.process = subprocess.Popen([rlx, "serve", "--web", "0", *options, lexicon], stdin=subprocess.PIPE,
                                        stdout=self.out, stderr=subprocess.STDOUT, text=True, bufsize=1)
        while not (found := re.search(r"^page: (\S+)$", self.said(), re.M)):
            if self.process.poll() is not None:
                raise SystemExit(f"rlx serve ended: {self.said()}")
            time.sleep(0.02)
        self.where = found[1]
        self.keyed = re.search(r"^for a page in a file: (\S+)$", self.said(), re.M)[1]

    def said(self):
        return open(self.out.name).read()

    def has(self, pattern):
        return re.search(pattern, self.said(), re.M) is not None

    def do(self, line):
        self.process.stdin.write(line + "\n")
        self.process.stdin.flush()

    def __enter__(self):
        return self

    def __exit__(self, *what):
        self.process.terminate()
        if (code := self.process.wait(10)) != 0:
            is_so("the board ends without a fault", 0, (code, self.said()[-2000:]))


def browser(width=1280, height=900):
    options = Options()
    options.binary_location = "/usr/bin/chromium"
    for argument in ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage", "--hide-scrollbars"):
        options.add_argument(argument)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    it = webdriver.Chrome(service=Service("/usr/bin/chromedriver"), options=options)
    it.set_script_timeout(60)
    size(it, width, height)
    return it


def size(it, width, height):
    it.execute_cdp_cmd("Emulation.setDeviceMetricsOverride",
                       {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 600})


def find(it, selector):
    return it.find_element(By.CSS_SELECTOR, selector)


def faults(it):
    """What the page's script did wrong, by the browser; a lost connection is no fault."""
    return [e["message"] for e in it.get_log("browser") if e["level"] == "SEVERE" and "WebSocket" not in e["message"]
            and "favicon" not in e["message"]]
