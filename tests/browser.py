"""A real browser without a screen, spoken to over its pipe (Chrome DevTools Protocol)."""

import base64
import json
import os
import select
import shutil
import subprocess
import time
from pathlib import Path
from typing import Any

NAMES = ("chromium", "chromium-browser", "google-chrome")
FOUND = next((path for name in NAMES if (path := shutil.which(name))), None)
WAIT_S = 60


class Browser:
    """One page. `errors` are its exceptions and console errors."""

    def __init__(self, home: Path, size: tuple[int, int] = (1280, 800)) -> None:
        assert FOUND is not None
        to_read, self._write = os.pipe()
        self._read, to_write = os.pipe()
        os.set_inheritable(to_read, True)
        os.set_inheritable(to_write, True)
        # the browser reads from 3 and writes to 4
        shell = f'exec "$0" "$@" 3<&{to_read} 4>&{to_write}'
        self._process = subprocess.Popen(
            ["bash", "-c", shell, FOUND, "--headless=new", "--no-sandbox", "--disable-gpu",
             "--disable-dev-shm-usage", "--remote-debugging-pipe", f"--user-data-dir={home}",
             f"--window-size={size[0]},{size[1]}", "--no-first-run", "about:blank"],
            pass_fds=(to_read, to_write), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        os.close(to_read)
        os.close(to_write)
        self._number, self._data, self._session = 0, b"", ""
        self.errors: list[str] = []
        self.asked: list[str] = []  # addresses of what was asked of the network
        target = self.call("Target.createTarget", url="about:blank")["targetId"]
        self._session = self.call("Target.attachToTarget", targetId=target, flatten=True)["sessionId"]
        for domain in ("Page", "Runtime", "Log", "Network"):
            self.call(f"{domain}.enable")
        self.call(
            "Emulation.setDeviceMetricsOverride",
            width=size[0],
            height=size[1],
            deviceScaleFactor=1,
            mobile=False,
        )

    def call(self, method: str, **parameters: Any) -> Any:
        self._number += 1
        message: dict[str, Any] = {"id": self._number, "method": method, "params": parameters}
        if self._session:
            message["sessionId"] = self._session
        os.write(self._write, json.dumps(message).encode() + b"\0")
        while True:
            answer = self._next()
            if answer.get("id") == self._number:
                assert "error" not in answer, (method, answer["error"])
                return answer["result"]

    def _next(self) -> dict[str, Any]:
        ends = time.monotonic() + WAIT_S
        while b"\0" not in self._data:
            ready, _, _ = select.select([self._read], [], [], max(ends - time.monotonic(), 0))
            assert ready, "the browser does not answer"
            part = os.read(self._read, 1 << 20)
            assert part, "the browser has ended"
            self._data += part
        text, self._data = self._data.split(b"\0", 1)
        found: dict[str, Any] = json.loads(text)
        self._note(found)
        return found

    def _note(self, event: dict[str, Any]) -> None:
        what, told = event.get("method"), event.get("params", {})
        if what == "Runtime.exceptionThrown":
            self.errors.append(json.dumps(told["exceptionDetails"])[:2000])
        elif what == "Runtime.consoleAPICalled" and told["type"] in ("error", "warning", "assert"):
            self.errors.append(json.dumps(told["args"])[:2000])
        elif what == "Log.entryAdded" and told["entry"]["level"] in ("error", "warning"):
            self.errors.append(told["entry"]["text"])
        elif what == "Network.requestWillBeSent":
            self.asked.append(told["request"]["url"])

    def open(self, page: Path) -> None:
        self.call("Page.navigate", url=page.as_uri())
        self.wait("document.readyState === 'complete' && window.rushweed !== undefined")

    def value(self, script: str) -> Any:
        """What an expression gives; promises are awaited."""
        found = self.call("Runtime.evaluate", expression=script, returnByValue=True, awaitPromise=True)
        assert "exceptionDetails" not in found, json.dumps(found["exceptionDetails"])[:2000]
        return found["result"].get("value")

    def wait(self, script: str, seconds: float = 30) -> None:
        ends = time.monotonic() + seconds
        while not self.value(script):
            assert time.monotonic() < ends, f"never so: {script}; {self.errors}"
            time.sleep(0.02)

    def key(self, code: str, down: bool) -> None:
        key = {"Space": " "}.get(code, code.removeprefix("Key").lower() if code.startswith("Key") else code)
        self.call("Input.dispatchKeyEvent", type="keyDown" if down else "keyUp", code=code, key=key)

    def picture(self) -> bytes:
        """What is seen, a PNG."""
        return base64.b64decode(self.call("Page.captureScreenshot", format="png")["data"])

    def close(self) -> None:
        self._process.kill()
        self._process.wait()
        os.close(self._write)
        os.close(self._read)
