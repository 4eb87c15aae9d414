"""The practice room by the clock: from opening to recording, from the end of a take to its report, and the first load over a slow
network against the next one, from the page's own worker. Against a demo that runs: python -m bench.room [address]"""

from __future__ import annotations

import io
import sys
import time
from collections.abc import Callable

import numpy as np
import soundfile
from playwright.sync_api import Page, sync_playwright

from attentive_owl.core.exercises import Recipe, build
from attentive_owl.core.playing import Habits, Room, perform_score, place_in_room, render
from attentive_owl.demo.scenario import CLASS_CODE, PUPILS

_RATE = 44100
_RUNS = 5
_ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream",
    "--autoplay-policy=no-user-gesture-required",
]  # fmt: skip
_SLOW = {"offline": False, "latency": 150, "downloadThroughput": 1.6e6 / 8, "uploadThroughput": 0.75e6 / 8}
"""A slow mobile network: 1.6 Mbit/s down, 0.75 up, 150 ms."""


def _enter(page: Page, address: str) -> None:
    page.goto(address)
    page.get_by_label("Class code").fill(CLASS_CODE)
    page.get_by_label("Your words").fill(PUPILS[0].passphrase)
    page.get_by_role("button", name="Come in").click()
    page.get_by_role("heading", name="Today").wait_for()


def _timed(act: Callable[[], object]) -> float:
    begin = time.perf_counter()
    act()
    return time.perf_counter() - begin


def _half_a_minute() -> bytes:
    """A take of 30 s: D major in eighths at 60 (the demo's first exercise at its rung), with room."""
    score = build(Recipe("D", "eighths", 64), "violin")
    dry, _ = render(
        perform_score(score, Habits(scatter_cents=5, timing_ms=10, lead_s=7.5, tail_s=7.5), 3), "violin", _RATE, 3
    )
    out = io.BytesIO()
    soundfile.write(out, place_in_room(dry, _RATE, Room(38, 0.25), 3), _RATE, format="WAV", subtype="PCM_16")
    return out.getvalue()


def _to_recording(page: Page, address: str) -> tuple[int, float]:
    """Taps, and seconds of the machine, from the page of today to the count."""
    page.goto(f"{address}/today")
    taps = [
        lambda: page.get_by_role("link", name="Play", exact=True).first.click(),
        lambda: page.get_by_role("button", name="Count in and record").click(),
    ]
    seconds = _timed(lambda: [tap() for tap in taps] and page.get_by_role("meter", name="Loudness").wait_for())
    page.goto(f"{address}/today")
    return len(taps), seconds


def _to_report(page: Page, address: str, sound: bytes) -> float:
    page.goto(f"{address}/today")
    page.get_by_role("link", name="Play", exact=True).first.click()
    page.get_by_role("button", name="Count in and record").wait_for()

    def see() -> None:
        page.get_by_text("How did it feel?").wait_for()
        page.locator("[data-nest]").first.wait_for()

    # Until it is sent the file only goes from this program to the browser.
    with page.expect_request(lambda own: own.url.endswith("/api/takes") and own.method == "POST"):
        page.get_by_test_id("file").set_input_files({"name": "take.wav", "mimeType": "audio/wav", "buffer": sound})
    return _timed(see)


def main() -> None:
    address = sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8420"
    sound = _half_a_minute()
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=_ARGUMENTS)
        context = browser.new_context(viewport={"width": 820, "height": 1180}, permissions=["microphone"])
        page = context.new_page()
        loaded: list[float] = []
        for attempt in ("first", "again"):
            own = page if attempt == "first" else context.new_page()
            session = context.new_cdp_session(own)
            session.send("Network.enable")
            session.send("Network.emulateNetworkConditions", _SLOW)
            loaded.append(_timed(lambda own=own: own.goto(address) and own.get_by_label("Class code").wait_for()))
            own.evaluate("navigator.serviceWorker.ready.then(() => true)")
            own.wait_for_timeout(3000)
        print(f"first load over 1.6 Mbit/s and 150 ms: {loaded[0]:.1f} s; again, from this device: {loaded[1]:.1f} s")
        page = context.new_page()
        _enter(page, address)
        page.evaluate("localStorage.setItem('owl-ready-day', new Date().toDateString())")
        taps = [_to_recording(page, address) for _ in range(_RUNS)]
        print(f"from today's page to the count-in: {taps[0][0]} taps, {np.median([own for _, own in taps]):.1f} s")
        waits = [_to_report(page, address, sound) for _ in range(_RUNS)]
        print(
            f"from the end of a 30 s take to its report on the page: {np.median(waits):.2f} s (most {max(waits):.2f})"
        )
        browser.close()


if __name__ == "__main__":
    main()
