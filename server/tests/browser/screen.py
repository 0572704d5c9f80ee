"""The real interface in headless Chromium, worked by keyboard and found by accessible names."""

import re
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, TypeVar

from selenium import webdriver
from selenium.common.exceptions import StaleElementReferenceException, WebDriverException
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

Answer = TypeVar("Answer")
FLAGS = (
    "--headless=new --no-sandbox --disable-gpu --disable-quic --no-first-run --disable-background-networking "
    "--disable-component-update --disable-sync --disable-dev-shm-usage --hide-scrollbars "
    "--force-device-scale-factor=1"
)
PATIENCE_S = 45.0
ROLES = {
    "button",
    "link",
    "textbox",
    "combobox",
    "checkbox",
    "radio",
    "switch",
    "slider",
    "Date",
    "DisclosureTriangle",
}
# How many times Tab (or, where it is below zero, Shift Tab) has to be pressed to come to a control; 0 is there.
# Where it is farther than the given number, the way begins that near to it.
TABS_TO = """
if (document.activeElement === arguments[0]) return 0;
const inside = 'a[href], button, input, select, textarea, summary, [tabindex]';
const tabbable = e => e.tabIndex >= 0 && !e.disabled && e.getClientRects().length && e.checkVisibility();
const all = [...document.querySelectorAll(inside)].filter(tabbable);
const groups = all.filter(e => e.type !== 'radio' || e.checked || e === arguments[0]);
const at = groups.indexOf(arguments[0]);
const steps = at - groups.indexOf(document.activeElement) || 1;
const near = Math.sign(steps) * arguments[1];
if (at < 0 || Math.abs(steps) <= arguments[1] || !groups[at - near]) return steps;
groups[at - near].focus();
return near;
"""
# What is saved is answered late, so that the news of it over the event stream comes first.
SLOW_ANSWERS = """
const soon = window.fetch;
window.fetch = async (...asked) => {
  const answer = await soon(...asked);
  if ((asked[0].method ?? 'GET') !== 'GET') await new Promise(done => setTimeout(done, 700));
  return answer;
};
"""
# Answers as soon as the page has changed and lain still for a moment, or after a while, since what stands in a field
# changes without a trace.
WHEN_IT_CHANGES = """
const answer = arguments[0];
const seen = new MutationObserver(() => {
  seen.disconnect();
  setTimeout(answer, 40);
});
seen.observe(document, {subtree: true, childList: true, characterData: true, attributes: true});
setTimeout(() => { seen.disconnect(); answer(); }, 300);
"""
KEEP = "function() { window.found = this; }"
NO_NEWS = "window.EventSource = class extends EventTarget { close() {} };"
MOST_TRIES = 8
NEAR = 4
FAR = 1000


class Screen:
    """
    One browser window of 1280 x 800.

    Controls are come to by Tab; `walks` says whether every step of a long way is gone, or its last ones alone.
    """

    def __init__(self) -> None:
        self.walks = False
        self.keys_pressed = self.fields_filled = self.taps = 0
        options = webdriver.ChromeOptions()
        options.binary_location = "/usr/bin/chromium"
        for flag in FLAGS.split():
            options.add_argument(flag)
        self.profile = tempfile.TemporaryDirectory(prefix="lynxbill-browser-")
        options.add_argument(f"--user-data-dir={self.profile.name}")
        self.driver = webdriver.Chrome(options=options, service=webdriver.ChromeService("/usr/bin/chromedriver"))
        self.resize(1280, 800)

    def close(self) -> None:
        self.driver.quit()
        self.profile.cleanup()

    def resize(self, width: int, height: int) -> None:
        metrics = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
        self.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)

    def prefer(self, scheme: str) -> None:
        features = {"features": [{"name": "prefers-color-scheme", "value": scheme}]}
        self.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", features)

    @contextmanager
    def answered_late(self, *, has_news: bool = True) -> Iterator[None]:
        """On pages opened within, every save is answered only after a while, and told of before that or never."""
        source = SLOW_ANSWERS if has_news else SLOW_ANSWERS + NO_NEWS
        script = self._ask("Page.addScriptToEvaluateOnNewDocument", source=source)
        yield
        self._ask("Page.removeScriptToEvaluateOnNewDocument", **script)

    @contextmanager
    def far_away(self, milliseconds: int) -> Iterator[None]:
        """Everything that is asked of the server within takes so much longer."""
        network = {"offline": False, "downloadThroughput": -1, "uploadThroughput": -1}
        self._ask("Network.enable")
        self._ask("Network.emulateNetworkConditions", latency=milliseconds, **network)
        yield
        self._ask("Network.emulateNetworkConditions", latency=0, **network)

    def let_pass(self, minutes: float) -> None:
        """Let the page's clock go on by so much, as if nobody had typed meanwhile."""
        ahead = "const [ms] = arguments, now = Date.now; Date.now = () => now.call(Date) + ms;"
        self.driver.execute_script(ahead, 60_000 * minutes)

    def open(self, url: str) -> None:
        self.driver.get(url)

    def until(self, question: Callable[[], Answer | None], what: str) -> Answer:
        """Ask until the answer is true; the page may change while it is asked."""
        deadline = time.monotonic() + PATIENCE_S
        while True:
            try:
                answer = question()
            except StaleElementReferenceException:
                answer = None
            if answer:
                return answer
            assert time.monotonic() < deadline, f"{what}; the page says:\n{self.text()}"
            self._wait()

    def _wait(self) -> None:
        """Wait within the page, which costs it nothing: to ask it again and again takes half of its processor."""
        try:
            self.driver.execute_async_script(WHEN_IT_CHANGES)
        except WebDriverException:
            # Another page was opened meanwhile.
            time.sleep(0.05)

    def text(self) -> str:
        """The page's text as it is rendered; what parts words in a line is one blank."""
        rendered: Any = self.driver.execute_script("return document.body.innerText")
        return re.sub(r"[^\S\n]+", " ", rendered)

    def sees(self, words: str) -> None:
        self.until(lambda: words in self.text(), f"“{words}” did not appear")

    def heading(self) -> str:
        return self.until(lambda: self.driver.find_element(By.TAG_NAME, "h1").text, "no heading")

    def press(self, *keys: str) -> None:
        self.keys_pressed += sum(map(len, keys))
        ActionChains(self.driver).send_keys(*keys).perform()

    def chord(self, modifier: str, key: str) -> None:
        self.keys_pressed += len(key)
        ActionChains(self.driver).key_down(modifier).send_keys(key).key_up(modifier).perform()

    def focused(self) -> WebElement:
        return self.driver.switch_to.active_element

    def tab_to(self, name: str) -> None:
        """Press Tab or Shift Tab until the focus is on the control of that accessible name."""
        for _ in range(MOST_TRIES):
            # From where a control has just gone the browser goes on in its place: then the next count is exact.
            control, steps = self.until(lambda: self._way_to(name), f"no control “{name}”")
            if steps < 0:
                self.chord(Keys.SHIFT, Keys.TAB * -steps)
            elif steps > 0:
                self.press(Keys.TAB * steps)
            if self.focused() == control:
                return
        raise AssertionError(f"Tab never reaches “{name}”; the page says:\n{self.text()}")

    def _way_to(self, name: str) -> tuple[WebElement, int] | None:
        control = self._control(name)
        if control is None:
            return None
        steps: Any = self.driver.execute_script(TABS_TO, control, FAR if self.walks else NEAR)
        return control, steps

    def sees_control(self, name: str) -> WebElement:
        return self.until(lambda: self._control(name), f"no control “{name}”")

    def _control(self, name: str) -> WebElement | None:
        """Ask the accessibility tree for a name, in one call rather than one a control."""
        root = self._ask("DOM.getDocument", depth=0)["root"]["nodeId"]
        nodes = self._ask("Accessibility.queryAXTree", nodeId=root, accessibleName=name)["nodes"]
        for node in nodes:
            if node["ignored"] or node["role"]["value"] not in ROLES:
                continue
            found = self._ask("DOM.resolveNode", backendNodeId=node["backendDOMNodeId"])["object"]["objectId"]
            self._ask("Runtime.callFunctionOn", objectId=found, functionDeclaration=KEEP)
            control: Any = self.driver.execute_script("return window.found")
            return control  # type: ignore[no-any-return]
        return None

    def _ask(self, method: str, **parameters: Any) -> Any:
        try:
            return self.driver.execute_cdp_cmd(method, parameters)
        except WebDriverException as error:
            # The page changed between two questions.
            raise StaleElementReferenceException(str(error)) from error

    def fill(self, name: str, text: str) -> None:
        """Go to a field by Tab and replace what stands in it, all at once as a paste does."""
        self.tab_to(name)
        self.chord(Keys.CONTROL, "a")
        self.write(text)

    def write(self, text: str) -> None:
        """Write into the field where the cursor is, all at once; counted as a field, its letters are its own."""
        self.fields_filled += 1
        self._ask("Input.insertText", text=text)

    def choose(self, name: str, option: str) -> None:
        """Choose in a select by typing the beginning of its text."""
        self.tab_to(name)
        self.press(option)

    def activate(self, name: str) -> None:
        self.tab_to(name)
        self.press(Keys.ENTER)

    def tap(self, name: str) -> None:
        """Touch a control, wherever it stands on the page."""
        self.taps += 1
        control = self.sees_control(name)
        self.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", control)
        ActionChains(self.driver).move_to_element(control).click().perform()

    def upload(self, name: str, path: str) -> None:
        """Give a file to a file field, as the file dialog of its button would."""
        self.driver.find_element(By.CSS_SELECTOR, f"input[type=file][aria-label='{name}']").send_keys(path)

    def paste(self, text: str) -> None:
        """Paste with Ctrl V from the real clipboard."""
        self.driver.execute_cdp_cmd(
            "Browser.grantPermissions", {"permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"]}
        )
        done: Any = self.driver.execute_async_script(
            "const [text, done] = arguments;"
            "navigator.clipboard.writeText(text).then(() => done(true), e => done(String(e)))",
            text,
        )
        assert done is True, done
        self.chord(Keys.CONTROL, "v")

    def value_of(self, name: str) -> str:
        return self.sees_control(name).get_property("value") or ""  # type: ignore[return-value]
